"""What an experienced builder would object to: one registry, one small module of rules per subject."""

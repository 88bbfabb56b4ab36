"""Jobs as they are stored."""

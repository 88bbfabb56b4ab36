"""What to run next, and when to stop."""

"""A job with its runs in one file."""

"""Parts as files, JSON and CSV."""

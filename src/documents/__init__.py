"""Open documents: read, checked, written, and upgraded from older versions."""

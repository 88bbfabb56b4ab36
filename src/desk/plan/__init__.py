"""A plan from layouts and a protocol, and its sheet."""

"""Fans, what air passes on its way, and the network they make."""

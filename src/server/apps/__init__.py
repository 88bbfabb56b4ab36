"""Applications of the server."""

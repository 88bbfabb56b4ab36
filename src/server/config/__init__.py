"""Settings, the guard, the ASGI application."""

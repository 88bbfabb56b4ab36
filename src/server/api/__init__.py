"""The only HTTP surface: thin routers."""

"""Levels of sources, their sum, what distance and panels take."""

"""Layouts found: the question, the places, the frontier in words."""

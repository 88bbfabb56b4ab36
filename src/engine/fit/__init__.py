"""Clearances: boxes in, lines with millimetres out."""

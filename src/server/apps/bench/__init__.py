"""Runs: imports, live benches, figures, the clipboard."""

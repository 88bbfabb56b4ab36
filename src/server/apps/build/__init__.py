"""Builds: which steps of a sheet are done, and what was done otherwise. They stand beside the document and never change it."""

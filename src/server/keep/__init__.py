"""Keeping what is stored: copies, restoring them, and looking at the database before it is opened. Standard library only."""

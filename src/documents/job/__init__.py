"""The job document: its shapes and its reader."""

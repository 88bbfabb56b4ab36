"""Rules of findings, one module per subject."""

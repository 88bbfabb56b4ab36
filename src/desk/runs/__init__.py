"""A log from reading to analysis."""

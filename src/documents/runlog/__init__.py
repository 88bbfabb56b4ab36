"""Logs of any common form: tables, times, units, the mapping of columns."""

"""Runs compared, the choice and its argument, the record that is frozen."""

"""Layouts from their runs: scatter, confounders, words, drift, effects, the choice."""

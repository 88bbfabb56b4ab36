"""Forecasts, findings with the fixes that are offered, what a change is worth."""

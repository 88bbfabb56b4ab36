"""Verdicts: judged, frozen, printed."""

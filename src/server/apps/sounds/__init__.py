"""Clips of sound: what is recorded of a machine, of its room, of a calibrator."""

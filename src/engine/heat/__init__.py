"""Heat from parts to air, coolant and walls."""

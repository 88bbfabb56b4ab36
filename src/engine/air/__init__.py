"""What air is: density, heat, viscosity."""

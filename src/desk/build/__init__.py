"""How a layout is built: steps with what must come first, a panel for every fan, leads, curves, what is bought."""

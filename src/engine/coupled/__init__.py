"""Where air, heat and sound meet: the case as spaces and links, solved together, forecast and explained."""

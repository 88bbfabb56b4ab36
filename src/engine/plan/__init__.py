"""Protocols, designs, minutes of rebuilding, the coach, limits watched live, acceptance."""

"""Management commands: contracts, the demo, the library."""

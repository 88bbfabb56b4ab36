"""Does it go together: clearances, order of assembly, leads, the machine as found."""

"""Practice: machines with planted faults, and which way a drawn fan blows."""

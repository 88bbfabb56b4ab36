"""The parts and cases library as it is stored."""

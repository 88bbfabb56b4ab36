"""What is asked of a clip of sound."""

"""Sound clips: WAV files as recorders write them."""

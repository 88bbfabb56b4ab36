"""Long work in the background: searches, with progress that is a row, cancelled by a word, taken up again after a restart."""

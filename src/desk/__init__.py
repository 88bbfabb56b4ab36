"""What is asked of a document: use cases without a web framework."""

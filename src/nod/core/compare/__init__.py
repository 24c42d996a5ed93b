"""Two drawings laid over each other."""

"""What is sent, and who holds what."""

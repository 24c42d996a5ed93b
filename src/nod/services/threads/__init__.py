"""What is said about things, whatever they are."""

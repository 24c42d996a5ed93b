"""What is said about things."""

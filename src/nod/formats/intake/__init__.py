"""What is read out of a PDF when it comes in."""

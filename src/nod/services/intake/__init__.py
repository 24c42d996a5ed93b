"""Files on their way in."""

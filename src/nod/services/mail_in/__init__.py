"""Mail that comes in: taken, read, handed to what it belongs to, or held."""

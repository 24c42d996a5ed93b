"""Files added to anything."""

"""Pages as they are looked at, searched and compared."""

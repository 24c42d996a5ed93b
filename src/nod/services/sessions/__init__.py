"""Sessions: making them, being in them, closing them, and their record (handbook §7)."""

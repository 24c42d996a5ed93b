"""Sessions: people who mark up the same sheets at the same time (handbook §7)."""

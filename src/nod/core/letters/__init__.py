"""Letters: kinds, numbers, states, what of a thread somebody sees (handbook §11)."""

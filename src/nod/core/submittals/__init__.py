"""Submittals: their states, their arithmetic, their numbers (handbook §9)."""

"""Transmittals: sent, packed, followed, received."""

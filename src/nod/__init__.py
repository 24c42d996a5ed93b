"""Nod: document control for construction projects."""

__version__ = "0.16.0"

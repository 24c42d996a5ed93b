"""Nod: document control for construction projects."""

__version__ = "0.14.0"

"""Folders, levels and what exists for a person."""

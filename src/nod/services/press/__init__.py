"""Processes that read and draw files."""

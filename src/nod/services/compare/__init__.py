"""Drawings compared, ahead of time or as somebody asks."""

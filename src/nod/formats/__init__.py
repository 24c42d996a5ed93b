"""Bytes to core values and back; one open format a file."""

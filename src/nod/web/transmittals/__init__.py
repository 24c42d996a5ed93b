"""Transmittals over HTTP."""

"""Submittals over HTTP."""

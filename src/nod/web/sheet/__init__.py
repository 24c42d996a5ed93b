"""Sheets over HTTP."""

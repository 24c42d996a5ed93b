"""Intake over HTTP."""

"""Telling people: what they are told of, how, and what they follow (handbook §13)."""

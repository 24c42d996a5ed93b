"""Submittals: what was agreed to be sent in, and the clock that says by when (handbook §9)."""

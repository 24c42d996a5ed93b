"""The Desk over HTTP."""

"""Reviews over HTTP."""

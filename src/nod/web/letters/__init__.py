"""Letters over HTTP."""

"""Set-up over HTTP."""

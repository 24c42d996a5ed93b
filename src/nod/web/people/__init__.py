"""Signing in, accounts, members, over HTTP."""

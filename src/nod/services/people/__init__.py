"""People: signing in, accounts, members of a project."""

"""Links for people without an account: given, opened, withdrawn."""

"""Links for people without an account."""

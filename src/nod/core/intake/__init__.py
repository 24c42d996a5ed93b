"""The door: names, witnesses, title blocks, checks."""

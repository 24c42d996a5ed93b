"""Marks: drawn, said, measured, taken in and away."""

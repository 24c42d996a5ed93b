"""Routes and verdicts."""

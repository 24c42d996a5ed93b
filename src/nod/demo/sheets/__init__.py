"""The drawings of the demo: one building, drawn by each discipline as it would draw it, revision by revision."""

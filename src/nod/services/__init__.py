"""One function a command or a question, one file a feature."""

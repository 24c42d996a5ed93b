"""Set-up of projects and the workspace."""

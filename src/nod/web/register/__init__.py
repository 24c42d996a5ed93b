"""The register over HTTP."""

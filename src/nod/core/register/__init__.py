"""The register: numbers, revisions, columns, filters, what is planned."""

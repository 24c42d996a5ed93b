"""The register: lists, documents, acts on them."""

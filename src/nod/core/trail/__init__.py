"""The audit trail: what an entry says, the tree above it, its seals."""

"""The audit trail: read, verified, sealed, proved."""

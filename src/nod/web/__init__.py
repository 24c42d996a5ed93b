"""HTTP in, HTTP out, nothing else."""

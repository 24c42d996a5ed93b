"""People and companies: their codes, passwords, pasted lists."""

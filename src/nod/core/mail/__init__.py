"""Mail that comes in and goes out: whose it is, what becomes of it, what its refusals say."""

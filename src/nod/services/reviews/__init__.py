"""Reviews: started, handed in, shown."""

"""Small simulated stand-ins for the outside world."""

"""The rules and the arithmetic. No I/O, no clock, no framework."""

"""The Brackwater Ferry Terminal, made through the services."""

"""The only place that knows which database it is. Today there is one."""

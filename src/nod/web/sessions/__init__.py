"""Sessions over HTTP, for members and for guests."""

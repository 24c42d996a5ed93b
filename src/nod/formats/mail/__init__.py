"""Mail as bytes: taken apart with limits, written, cleaned for reading."""

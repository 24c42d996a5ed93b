"""Files on their way in and out, and what they say."""

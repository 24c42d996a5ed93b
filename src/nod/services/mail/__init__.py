"""Mail: written in an act, sent by the worker."""

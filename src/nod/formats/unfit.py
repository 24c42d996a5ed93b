"""What a format says of a file it cannot do something with."""


class Unfit(Exception):
    """Raised to whoever asked the press, as it is; the words say why."""

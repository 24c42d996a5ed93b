"""What a format says of a file it cannot do something with."""


class Unfit(Exception):
    """Raised to whoever asked the press, as it is; the words say why."""


class CannotAnnotate(Unfit):
    """The file is locked or broken; the words say so."""


class NotXfdf(Unfit):
    """The file is no XFDF; the words say so."""

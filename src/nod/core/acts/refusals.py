"""Why an act is refused. One stable `code` a situation; the front end has words for each."""

from __future__ import annotations


class Refusal(Exception):
    """An act that did not happen. `about` names the thing it is about, for the reader."""

    def __init__(self, code: str, words: str, about: str = "") -> None:
        super().__init__(words)
        self.code = code
        self.words = words
        self.about = about


class NotFound(Refusal):
    """It is not there, or the person may not know that it is."""

    def __init__(self, about: str = "") -> None:
        super().__init__("not_found", "There is nothing here under this address.", about)


class NotSignedIn(Refusal):
    """Nobody is signed in."""

    def __init__(self, code: str = "not_signed_in", words: str = "Sign in first.") -> None:
        super().__init__(code, words)


class NotAllowed(Refusal):
    """The person sees the thing and may not do this with it."""


class Stale(Refusal):
    """Somebody else changed the thing since it was seen."""

    def __init__(self, about: str) -> None:
        super().__init__(
            "stale", "Somebody changed this while you were looking at it. See the change, then try again.", about
        )


class RuleBroken(Refusal):
    """A rule of the trade or of the project says no."""


class DiskFull(RuleBroken):
    """There is no room for what the act would keep."""

    def __init__(self) -> None:
        words = "There is no room left on the disk of Nod, and nothing was changed. Tell the steward, then try again."
        super().__init__("no_room", words)


class DoneAlready(Refusal):
    """The same request has been done, and its answer is not known any more."""

    def __init__(self, key: str) -> None:
        super().__init__("done_already", "This has been done already. Load the page again to see what came of it.", key)


class TooMany(Refusal):
    """Asked too often in a short time."""

    def __init__(self, retry_after_seconds: int, code: str = "too_many", words: str = "") -> None:
        super().__init__(code, words or f"Too many tries. Wait {retry_after_seconds} seconds, then try again.")
        self.retry_after_seconds = retry_after_seconds

"""What of a mail's text is quoted from earlier mails, or a signature: it can be folded away, and is never cut."""

from __future__ import annotations

import re
from itertools import pairwise

from mailparser_reply import EmailReplyParser

Fold = tuple[int, int]
"""From one place in the text to another, counted in characters; the end is not in it."""

_LANGUAGES = ["en", "de", "fr", "es", "it", "nl", "pl", "sv", "da", "cs"]
_MOST = 60_000
"""So many characters are looked at: what follows is not what its sender wrote just now."""
_QUOTED = re.compile(r"(?:^[ \t]*>.*\n?)+", re.M)
_SHORTEST = 1


def folds_of(text: str) -> tuple[Fold, ...]:
    """In order, apart from one another. Nothing is folded where nothing else would be left to read."""
    found = _merged([*_after_reply(text), *(match.span() for match in _QUOTED.finditer(text))])
    left = "".join(text[end:begin] for (_, end), (begin, _) in pairwise([(0, 0), *found, (len(text), len(text))]))
    return tuple(found) if left.strip() else ()


def _after_reply(text: str) -> list[Fold]:
    """From where the newest reply ends, by the package's reading: its signature, and all earlier mails."""
    looked_at = text[:_MOST]
    replies = EmailReplyParser(languages=_LANGUAGES).read(looked_at).replies
    if not replies:
        return []
    body = replies[0].body.strip()
    if not body or body.startswith(">"):
        return []
    begin = looked_at.find(body[:200])
    last = body[-200:]
    end = looked_at.find(last, max(begin, 0))
    if begin < 0 or end < 0:
        return []
    end += len(last)
    return [(end, len(text))] if text[end:].strip() else []


def _merged(folds: list[Fold]) -> list[Fold]:
    merged: list[Fold] = []
    for begin, end in sorted(each for each in folds if each[1] - each[0] >= _SHORTEST):
        if merged and begin <= merged[-1][1]:
            merged[-1] = (merged[-1][0], max(end, merged[-1][1]))
        else:
            merged.append((begin, end))
    return merged

"""The verdict in an answer by mail: said in its first line, so that no sentence is taken for one."""

from __future__ import annotations

import re
from collections.abc import Mapping

_BEFORE = re.compile(r"(?:verdict|answer)\s*[:=]?\s+|(?:verdict|answer)\s*[:=]\s*", re.IGNORECASE)
_MARKS = " \t.,:;!*_-–—()[]\u201c\u201d\"'"
_LONGEST_LINE = 200


def verdict_said(text: str, words: Mapping[str, str]) -> tuple[str, str]:
    """The code of the verdict, or empty; and what else is written.

    `words` are the verdicts' words by code. The first line has the code alone, or the code and its own words, as in
    `B`, `Verdict: B` or `B - approved as noted`: "A few things are missing" is none.
    """
    lines = text.strip().splitlines()
    first = lines[0].strip()[:_LONGEST_LINE] if lines else ""
    code = _code_in(first, words)
    return (code, "\n".join(lines[1:]).strip()) if code else ("", text.strip())


def _code_in(line: str, words: Mapping[str, str]) -> str:
    before = _BEFORE.match(line)
    said = _plain(line[before.end() :] if before else line)
    for code, meaning in words.items():
        begin = _plain(code)
        rest = said.removeprefix(begin)
        if said.startswith(begin) and rest[:1] in ("", *_MARKS) and _plain(rest) in ("", _plain(meaning)):
            return code
    return ""


def _plain(text: str) -> str:
    return " ".join(text.strip(_MARKS).casefold().split())

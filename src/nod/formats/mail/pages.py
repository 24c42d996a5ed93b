"""A page as plain words, the way one would type it: paragraphs apart, lists with dashes or numbers, cells with bars."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from lxml import etree, html

_APART = {"p", "h1", "h2", "h3", "h4", "ul", "ol", "table", "blockquote", "pre"}
_LINES = {"div", "tr", "li", "dt", "dd", "caption"}
_UNREAD = {"script", "style", "head", "template", "title"}
_DEEPEST = 100


_LINE, _APART_MARK = "\x01", "\x02"
"""A new line, and a line apart: however many of them meet, they are one."""


def text_of_page(page: str) -> str:
    """Empty for what is no page. A link whose words are not its address has that behind it."""
    try:
        root = html.fragment_fromstring(page, create_parent="div")
    except (etree.LxmlError, ValueError):
        return ""
    return _joined(_words(root, 0))


def _joined(pieces: Iterator[str]) -> str:
    found: list[str] = []
    ends = 0
    for each in pieces:
        if each in (_LINE, _APART_MARK):
            ends = max(ends, 1 if each == _LINE else 2)
        elif each.strip() or each == "\n":
            if ends and found:
                found.append("\n" * ends)
            found.append(each.lstrip(" ") if ends else each)
            ends = 0
        elif each and not ends:
            found.append(each)
    return "\n".join(line.strip() for line in "".join(found).split("\n")).strip()


def _words(element: Any, depth: int) -> Iterator[str]:
    tag = element.tag if isinstance(element.tag, str) else ""
    if not tag or tag in _UNREAD or depth > _DEEPEST:
        return
    if tag == "br":
        yield "\n"
        return
    yield from _before(element, tag)
    yield _plain(element.text)
    for child in element:
        yield from _words(child, depth + 1)
        yield _plain(child.tail)
    yield from _after(element, tag)


def _plain(text: str | None) -> str:
    """White space in a page is one space."""
    if not text:
        return ""
    words = " ".join(text.split())
    begins, ends = text[0].isspace(), text[-1].isspace()
    if not words:
        return " "
    return f"{' ' if begins else ''}{words}{' ' if ends else ''}"


def _before(element: Any, tag: str) -> Iterator[str]:
    yield from _edge(element, tag)
    if tag in ("td", "th") and element.getprevious() is not None:
        yield " | "
    if tag == "li":
        parent = element.getparent()
        numbered = parent is not None and parent.tag == "ol"
        yield f"{sum(1 for _ in element.itersiblings('li', preceding=True)) + 1}. " if numbered else "- "


def _after(element: Any, tag: str) -> Iterator[str]:
    if tag == "a":
        address = element.get("href") or ""
        words = element.text_content().strip()
        if address and address.removeprefix("mailto:") != words:
            yield f" ({address})"
    yield from _edge(element, tag)


def _edge(element: Any, tag: str) -> Iterator[str]:
    if tag == "p" and _is_inside_line(element):
        return
    if tag in _APART:
        yield _APART_MARK
    elif tag in _LINES:
        yield _LINE


def _is_inside_line(element: Any) -> bool:
    parent = element.getparent()
    return parent is not None and parent.tag in ("li", "td", "th")

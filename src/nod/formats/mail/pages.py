"""A page as plain words, the way one would type it: paragraphs apart, lists with dashes or numbers, cells with bars."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from lxml import etree, html

_APART = {"p", "h1", "h2", "h3", "h4", "ul", "ol", "table", "blockquote", "pre"}
_LINES = {"div", "tr", "li", "dt", "dd", "caption"}
_UNREAD = {"script", "style", "head", "template", "title"}
_DEEPEST = 100


def text_of_page(page: str) -> str:
    """Empty for what is no page. A link whose words are not its address has that behind it."""
    try:
        root = html.fragment_fromstring(page, create_parent="div")
    except (etree.LxmlError, ValueError):
        return ""
    text = "".join(_words(root, 0))
    lines = [line.strip() for line in text.split("\n")]
    return "\n".join(_without_gaps(lines)).strip()


def _without_gaps(lines: list[str]) -> Iterator[str]:
    """One empty line at most between others."""
    before = ""
    for line in lines:
        if line or before:
            yield line
        before = line


def _words(element: Any, depth: int) -> Iterator[str]:
    tag = element.tag if isinstance(element.tag, str) else ""
    if not tag or tag in _UNREAD or depth > _DEEPEST:
        return
    if tag == "br":
        yield "\n"
        return
    yield _before(element, tag)
    yield _plain(element.text)
    for child in element:
        yield from _words(child, depth + 1)
        yield _plain(child.tail)
    yield _after(element, tag)


def _plain(text: str | None) -> str:
    """White space in a page is one space."""
    if not text:
        return ""
    words = " ".join(text.split())
    begins, ends = text[0].isspace(), text[-1].isspace()
    if not words:
        return " "
    return f"{' ' if begins else ''}{words}{' ' if ends else ''}"


def _before(element: Any, tag: str) -> str:
    if tag in ("td", "th"):
        return " | " if element.getprevious() is not None else ""
    if tag == "li":
        parent = element.getparent()
        if parent is not None and parent.tag == "ol":
            return f"\n{sum(1 for _ in element.itersiblings('li', preceding=True)) + 1}. "
        return "\n- "
    if tag == "p" and _is_inside_line(element):
        return "" if element.getprevious() is None else "\n"
    return "\n\n" if tag in _APART else "\n" if tag in _LINES else ""


def _after(element: Any, tag: str) -> str:
    if tag == "a":
        address = element.get("href") or ""
        words = element.text_content().strip()
        return f" ({address})" if address and address.removeprefix("mailto:") != words else ""
    if tag == "p" and _is_inside_line(element):
        return ""
    return "\n\n" if tag in _APART else "\n" if tag in _LINES else ""


def _is_inside_line(element: Any) -> bool:
    parent = element.getparent()
    return parent is not None and parent.tag in ("li", "td", "th")

"""A mail's page as it may be shown: words, lists, tables and links; nothing that runs, fetches, covers or asks."""

from __future__ import annotations

import nh3

_TAGS = {
    "a", "b", "blockquote", "br", "caption", "code", "dd", "div", "dl", "dt", "em", "h1", "h2", "h3", "h4", "hr", "i",
    "li", "ol", "p", "pre", "s", "strong", "sub", "sup", "table", "tbody", "td", "tfoot", "th", "thead", "tr", "u",
    "ul",
}  # fmt: skip
_ATTRIBUTES = {"a": {"href"}, "td": {"colspan", "rowspan"}, "th": {"colspan", "rowspan"}}


def clean(page: str) -> str:
    """HTML that can be set into a page as it is (nh3, a port of ammonia: a parser, not a search for bad words)."""
    return nh3.clean(
        page,
        tags=_TAGS,
        attributes=_ATTRIBUTES,
        url_schemes={"http", "https", "mailto"},
        link_rel="noopener noreferrer nofollow",
        clean_content_tags={"script", "style", "title", "head", "template", "noscript", "svg", "math"} - _TAGS,
    )

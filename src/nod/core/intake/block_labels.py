"""The labels printed in title blocks beside their values, and taking them off."""

from __future__ import annotations

import unicodedata
from collections.abc import Mapping
from functools import lru_cache
from typing import NamedTuple


class Placed(NamedTuple):
    """A word of a line: its place among the words of the page, its text and the height of its box."""

    at: int
    text: str
    height: float


# What title blocks print: common practice; the field names of ISO 7200 in English, French, German and Spanish.
LABELS: Mapping[str, tuple[str, ...]] = {
    "number": (
        "number", "no", "nr", "drawing number", "drawing no", "drg no", "dwg no", "dwg number", "document number",
        "document no", "doc no", "sheet number", "sheet no", "identification number", "document n°", "numero", "n°",
        "no du document", "plan n°", "zeichnungsnummer", "zeichnungs nr", "zeichn nr", "plannummer", "plan nr",
    ),
    "revision": (
        "rev", "revision", "rev no", "revision no", "rev index", "revision index", "issue", "indice", "ind", "index",
        "revision actuelle", "aenderung", "änderung", "revisión",
    ),
    "title": (
        "title", "drawing title", "sheet title", "document title", "titre", "designation", "désignation", "titel",
        "benennung", "título", "titulo", "supplementary title",
    ),
    "status": ("status", "suitability", "document status", "state", "statut", "etat", "état", "freigabe"),
    "scale": ("scale", "scales", "scale at size", "echelle", "échelle", "ech", "maßstab", "massstab", "escala"),
    "date": (
        "date", "date of issue", "issue date", "drawn date", "date drawn", "datum", "fecha", "date de creation",
        "date de création",
    ),
    "drawn by": (
        "drawn", "drawn by", "author", "auteur", "dessine", "dessiné", "dessine par", "dessiné par", "creator",
        "gezeichnet", "gez", "dibujado",
    ),
    "folio": (
        "folio", "sheet", "page", "feuille", "blatt", "hoja", "page of", "sheet of", "pages", "sheets", "feuille de",
        "blatt von",
    ),
    "file": ("file", "file name", "filename", "path", "fichier", "datei", "dateiname", "archivo"),
    "checked by": ("checked", "checked by", "approved", "approved by", "vérifié", "geprüft", "gepr", "verificado"),
}  # fmt: skip

_SMALLER = 0.85


def is_label(text: str) -> bool:
    """Whether a text is nothing but a printed label, of whatever field: an empty cell beside its neighbour's."""
    words = tuple(filter(None, _words(text)))
    # A short word may be a value: only what closes like a label, or is a label of several words, is surely one.
    return words in _all_labels() and (text.rstrip().endswith(":") or len(words) > 1)


@lru_cache(maxsize=1)
def _all_labels() -> frozenset[tuple[str, ...]]:
    return frozenset(_words(each) for labels in LABELS.values() for each in labels)


def without_label(lines: list[list[Placed]], field: str, label: str) -> list[list[int]]:
    """Places of the words of each line with the label at its start taken off; lines that are only label go.

    A `label` said by whoever drew the zone is always taken off. A usual one only where it is no part of the value:
    alone on its line, closed by a colon, or printed smaller than what follows.
    """
    said = tuple(_words(each) for each in label.split("|") if each.strip())
    usual = _usual(field)
    several = sum(1 for line in lines if line) > 1 or not said
    kept = []
    for line in lines:
        rest = _cut(line, said, usual, alone=several)
        kept.append([each.at for each in rest])
    return kept


@lru_cache(maxsize=64)
def _usual(field: str) -> tuple[tuple[str, ...], ...]:
    """The usual labels of a field as bare words, the longest first."""
    return tuple(sorted((_words(each) for each in LABELS.get(field, ())), key=len, reverse=True))


def _cut(
    line: list[Placed], said: tuple[tuple[str, ...], ...], usual: tuple[tuple[str, ...], ...], *, alone: bool
) -> list[Placed]:
    bare = tuple(_bare(placed.text) for placed in line)
    for label in said:
        if label and bare[: len(label)] == label:
            return line[len(label) :]
    for label in usual:
        if bare[: len(label)] != label:
            continue
        head, rest = line[: len(label)], line[len(label) :]
        if not rest and alone:
            return []
        if rest and (head[-1].text.endswith(":") or _is_smaller(head, rest)):
            return rest
    return line


def _is_smaller(head: list[Placed], rest: list[Placed]) -> bool:
    return max(each.height for each in head) <= _SMALLER * max(each.height for each in rest)


def _words(text: str) -> tuple[str, ...]:
    return tuple(_bare(word) for word in text.split())


@lru_cache(maxsize=4096)
def _bare(word: str) -> str:
    """Without accents, capitals and the marks that close a label."""
    plain = unicodedata.normalize("NFD", word.casefold()).strip(" :.;")
    return "".join(ch for ch in plain if not unicodedata.combining(ch))

"""The words by which a specification is read: which articles call for submittals, and what names a kind."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True)
class ReadingWords:
    """`articles` call for submittals; `kinds` name one, by its code; what begins with one of `aside` is no item."""

    articles: tuple[str, ...]
    kinds: Mapping[str, tuple[str, ...]]
    aside: tuple[str, ...]


USUAL_WORDS = ReadingWords(
    articles=(
        "submittals", "submittal", "submissions", "to be submitted", "documents to submit", "contractor's documents",
        "deliverables", "information to be provided", "documentation required",
    ),
    kinds={
        "SD": (
            "shop drawing", "workshop drawing", "fabrication drawing", "installation drawing", "setting-out drawing",
            "erection drawing", "coordination drawing", "layout drawing", "working drawing", "detail drawing",
        ),
        "PD": (
            "product data", "product information", "technical data", "data sheet", "datasheet", "catalogue",
            "product literature", "manufacturer's literature", "manufacturer's instructions", "mix design",
            "installation instructions", "technical submittal",
        ),
        "MU": ("mock-up", "mockup", "sample panel", "trial panel", "prototype", "benchmark"),
        "SA": ("sample", "swatch", "colour chart", "color chart"),
        "CA": ("calculation", "design data", "structural analysis", "delegated design"),
        "CE": (
            "certificate", "certification", "declaration of performance", "declaration of conformity",
            "qualification data", "environmental product declaration",
        ),
        "TR": (
            "test report", "test result", "test data", "quality control report", "inspection report", "field report",
            "source quality", "test certificate", "survey report", "commissioning report", "evaluation report",
        ),
        "MA": (
            "manual", "maintenance data", "operating instruction", "operation data", "maintenance instruction",
            "as-built", "record drawing", "spare parts list",
        ),
        "WA": ("warranty", "warranties", "guarantee", "sample warranty", "sample warranties"),
    },
    aside=(
        "general", "do not", "no", "allow", "within", "all submittals", "submittals", "each submittal", "submissions",
        "the submittals", "the engineer", "the architect", "review", "reviews", "refer", "see", "comply", "approval",
        "resubmit", "number of copies", "copies", "format", "make submittals", "where", "if", "work", "this",
        "related", "quantity", "the following",
    ),
)  # fmt: skip
"""The handbook's kinds, and words in which they are asked for: common practice."""

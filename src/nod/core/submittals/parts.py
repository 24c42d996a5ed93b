"""A submittal's items, each with its own verdict, and its lots, each with its own days (handbook §9)."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

from nod.core.acts.refusals import RuleBroken

MOST_PARTS = 100
LONGEST_NAME = 200


def check_names(names: Sequence[str], what: str) -> list[str]:
    """Tidied. Raises RuleBroken for one that is empty, too long or there twice, and for too many."""
    if len(names) > MOST_PARTS:
        raise RuleBroken("parts_unfit", f"A submittal has up to {MOST_PARTS} {what}s.")
    tidy = [" ".join(each.split()) for each in names]
    for each in tidy:
        if not 0 < len(each) <= LONGEST_NAME:
            raise RuleBroken("parts_unfit", f"Each {what} has a name of up to {LONGEST_NAME} characters.", each[:40])
    folded = [each.casefold() for each in tidy]
    for place, each in enumerate(folded):
        if each in folded[:place]:
            raise RuleBroken("parts_unfit", f"Two {what}s have the name {tidy[place]}.", tidy[place])
    return tidy


def open_items(verdicts: Mapping[str, str], again: Collection[str]) -> list[str]:
    """Ids of the items that an answer is about: those without a verdict, or with one of `again`, which wants a new
    revision."""
    return [id for id, verdict in verdicts.items() if not verdict or verdict in again]


def verdict_of_items(
    given: Mapping[str, str], wanted: Sequence[str], order: Sequence[str], overall: str
) -> dict[str, str]:
    """By item, what is answered; without any `given`, `overall` of all that are `wanted`.

    `order`: the verdicts there are, the mildest first. The gravest of the items is the submittal's. Raises RuleBroken
    for an item left out, one that is not asked about, and where `overall` is another than the gravest.
    """
    if not given:
        return dict.fromkeys(wanted, overall)
    if set(given) != set(wanted):
        raise RuleBroken("items_unfit", "Give each of its open items a verdict, and no other.")
    for verdict in given.values():
        if verdict not in order:
            raise RuleBroken("verdict_missing", "An answer needs one of the project's verdicts.", verdict[:20])
    gravest = max(given.values(), key=order.index)
    if overall != gravest:
        words = f"The gravest verdict of its items is {gravest}, which is the submittal's."
        raise RuleBroken("items_unfit", words, overall[:20])
    return dict(given)

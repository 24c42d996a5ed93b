"""Copies of revisions in folders (handbook §8, on the end): which takes whose place, how each stands to the rest."""

from __future__ import annotations


def takes_place(place: int, held: int) -> bool:
    """Whether a revision that was accepted takes the place of the one that lies in the folder.

    Both are places in the order of their document. One that comes late, after a later one, does not; the same does:
    it was accepted once more.
    """
    return place >= held


def release_of_copy(copied_from: str, in_force_id: str) -> str:
    """A key of `RELEASES`: how the revision that was copied stands to what is in force of its document now.

    `in_force_id` is empty where nothing is.
    """
    if not in_force_id:
        return "none"
    return "same" if copied_from == in_force_id else "passed"

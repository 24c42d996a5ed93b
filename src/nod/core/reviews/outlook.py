"""What will follow when somebody hands in: said before the button (handbook §8)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from nod.core.reviews.path import Then
from nod.core.reviews.running import PlaceState, Review, StepRun, StepState, needed


@dataclass(frozen=True)
class Outlook:
    """`wanted`: hands that the step then still needs. `beside`: steps of the stage that still run. `next`: the steps
    that begin; none if the review then closes. `back` and `out`: verdicts with which a document does not go on."""

    wanted: int
    beside: tuple[int, ...]
    next: tuple[int, ...]
    back: tuple[str, ...]
    out: tuple[str, ...]


def outlook(review: Review, at: int) -> Outlook:
    run = review.steps[at]
    handed_in = sum(each.state is PlaceState.HANDED_IN for each in run.places)
    wanted = max(0, needed(run) - handed_in - 1)
    others = [(place, other) for place, other in review.of_stage(run.stage) if place != at]
    beside = tuple(place for place, other in others if other.state is StepState.RUNNING)
    if wanted or beside:
        return Outlook(wanted, beside, (), (), ())
    following = _following(review, run, others)
    then = review.then[run.stage] if not any(other.step.sums_up for _, other in others) else {}
    back = tuple(sorted(code for code, each in then.items() if each is Then.BACK))
    out = tuple(sorted(code for code, each in then.items() if each is Then.END))
    return Outlook(0, (), following, back, out)


def _following(review: Review, run: StepRun, others: Sequence[tuple[int, StepRun]]) -> tuple[int, ...]:
    summing = tuple(place for place, other in others if other.state is StepState.WAITING)
    return summing or tuple(place for place, each in review.of_stage(run.stage + 1) if not each.step.sums_up)


def words_of(review: Review, at: int, names: Sequence[str], starter: str) -> str:
    """`names`: whom each step asks, in words."""
    seen = outlook(review, at)
    if seen.wanted:
        return f"Then {'one more hands' if seen.wanted == 1 else f'{seen.wanted} more hand'} in here."
    if seen.beside:
        beside = _joined([review.steps[place].step.name for place in seen.beside])
        return f"Then it waits for {beside}, which {'run' if len(seen.beside) > 1 else 'runs'} beside it."
    if seen.next:
        begins = _joined([f"{review.steps[place].step.name} ({names[place]})" for place in seen.next])
        follows = f"Then {begins} {'begin' if len(seen.next) > 1 else 'begins'}."
    else:
        follows = f"Then the review closes, and {starter} is told."
    if seen.back:
        follows += f" What has {_joined(seen.back, 'or')} goes back to its author."
    if seen.out:
        follows += f" What has {_joined(seen.out, 'or')} is done with."
    return follows


def _joined(words: Sequence[str], with_word: str = "and") -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} {with_word} {words[-1]}"

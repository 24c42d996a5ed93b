"""To whom the distribution matrix would have chosen documents sent: a proposal for the form (handbook §10)."""

from __future__ import annotations

from collections.abc import Iterable

from pydantic import Field

from nod.core.access.levels import Level
from nod.core.transmittals.distribution import Line, Share, line_words, share_of
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor, take_seat
from nod.services.register.standing import verdicts_of
from nod.services.transmittals.bags import Pair
from nod.services.transmittals.distribution import companies_here, matrix_of, recipients_by
from nod.services.transmittals.drafts import MOST_REVISIONS
from nod.services.transmittals.transmittals import sent_pairs


class AskMatrix(Command):
    project_id: str
    revisions: list[str] = Field(min_length=1, max_length=MOST_REVISIONS)


class MatrixSays(Answered):
    """`people` are to act on one of the documents at least, `copied` to know. `lines` are those that say so, in words.

    `uncovered` counts the documents of which no line says anything.
    """

    people: list[str]
    copied: list[str]
    purpose: str
    lines: list[str]
    uncovered: int


def ask_matrix(context: Context, actor: Actor, command: AskMatrix) -> MatrixSays:
    """Changes nothing. Raises as sending would for what one does not see or may not send."""
    with context.database.read() as session:
        seat = take_seat(session, actor, command.project_id)
        seat.need_tool("transmittals")
        seat.need(Level.FILE)
        pairs = sent_pairs(session, seat, command.revisions)
        verdicts = verdicts_of(session, [revision.id for _, revision in pairs])
        usable = {each["code"] for each in seat.project.rules["verdict_set"] if each["may_be_used"]}
        accepted = {id for id, verdict in verdicts.items() if verdict in usable}
        of = [(line, [pair for pair in pairs if _is_of(line, pair, accepted)]) for line in matrix_of(seat.project)]
        of = [(line, found) for line, found in of if found]
        shares: dict[Share, list[str]] = {Share.ACT: [], Share.KNOW: []}
        for company in companies_here(session, command.project_id):
            for share, people in shares.items():
                theirs = [each for each in of if share_of(each[0], company.id, company.roles) is share]
                ids = [document.id for _, found in theirs for document, _ in found]
                if theirs:
                    people += recipients_by(session, seat, [line for line, _ in theirs], company, share, ids)
        to = list(dict.fromkeys(each for each in shares[Share.ACT] if each != actor.person_id))
        covered = {revision.id for _, found in of for _, revision in found}
        lines = [line for line, _ in of]
        copied = [each for each in dict.fromkeys(shares[Share.KNOW]) if each not in (*to, actor.person_id)]
        return MatrixSays(
            people=to, copied=copied, purpose=_purpose(lines) if to else "information",
            lines=[line_words(each) for each in lines],
            uncovered=len(pairs) - len(covered),
        )  # fmt: skip


def _purpose(lines: Iterable[Line]) -> str:
    """The first line with a cell to act wins."""
    return next((each.purpose for each in lines if Share.ACT in each.shares.values()), "information")


def _is_of(line: Line, pair: Pair, accepted: set[str]) -> bool:
    """Whether a line speaks of this revision as it stands."""
    document, revision = pair
    if line.discipline not in ("", document.discipline) or line.form not in ("", document.form):
        return False
    if line.status not in ("", revision.status):
        return False
    reached = {"filed": True, "accepted": revision.id in accepted, "released": document.in_force_id == revision.id}
    return reached[line.when]

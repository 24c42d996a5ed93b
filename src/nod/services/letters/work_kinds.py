"""What letters want of whom, and how the Desk says it."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from sqlalchemy.orm import Session

from nod.services.letters.kind import SERVE_CODE
from nod.services.open_work.kinds import Opened, Said, Say, WorkKind, work_kind
from nod.store.tables import LetterRow


def _say(detail: Callable[[LetterRow], str], act: str) -> Say:
    def say(session: Session, opened: Sequence[Opened]) -> dict[str, Said]:
        return {work.id: Said(row.subject or "Without a subject", detail(row), act) for work, row in opened}

    return say


ANSWER = work_kind(
    WorkKind(
        "letter_answer", "letter", 8, _say(lambda row: "an answer is wanted", "Answer"),
        _say(lambda row: row.state, "Open"),
    )
)  # fmt: skip
CLOSE = work_kind(WorkKind("letter_close", "letter", 9, _say(lambda row: "it is answered", "Close")))


def _say_draft(act: str, detail: str) -> Say:
    def say(session: Session, opened: Sequence[Opened]) -> dict[str, Said]:
        return {work.id: Said(row.subject or "Without a subject", detail, act) for work, row in opened}

    return say


CHECK = work_kind(
    WorkKind(
        "letter_check", "letter_message", 10, _say_draft("Look at it", "it waits for you before it goes"),
        _say_draft("Open", "somebody looks at it before it goes"),
    )
)  # fmt: skip
RETURNED = work_kind(WorkKind("letter_returned", "letter_message", 11, _say_draft("Go on", "it was given back to you")))
SERVE = work_kind(WorkKind(SERVE_CODE, "letter", 12, _say(lambda row: "a notice, not served yet", "Open")))

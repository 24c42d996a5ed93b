"""What submittals want of whom, and how the Desk says it."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from sqlalchemy.orm import Session

from nod.services.open_work.kinds import Opened, Said, Say, WorkKind, work_kind
from nod.store.tables import SubmittalRow


def _say(detail: Callable[[SubmittalRow], str], act: str) -> Say:
    def say(session: Session, opened: Sequence[Opened]) -> dict[str, Said]:
        return {work.id: Said(row.title, detail(row), act) for work, row in opened}

    return say


def _by(row: SubmittalRow) -> str:
    return f"latest {row.latest_on:%-d %b %Y}" if row.latest_on else ""


TO_ASK = work_kind(WorkKind("submittal_plan", "submittal"))
PREPARE = work_kind(
    WorkKind("submittal_prepare", "submittal", 4, _say(_by, "Send in"), _say(lambda row: row.state, "Open"))
)
GIVE = work_kind(WorkKind("submittal_give", "submittal", 5, _say(lambda row: "it has been sent in", "Give on")))
ANSWER = work_kind(
    WorkKind(
        "submittal_answer", "submittal", 6, _say(lambda row: "an answer is wanted", "Answer"),
        _say(lambda row: row.state, "Open"),
    )
)  # fmt: skip
CLOSE = work_kind(
    WorkKind("submittal_close", "submittal", 7, _say(lambda row: f"answered {row.verdict}".strip(), "Close"))
)

"""Telling a person: in Nod and, as they have set it, at once by mail or in their daily summary (handbook §13)."""

from __future__ import annotations

from collections.abc import Container, Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from nod.core.access.audiences import only_for
from nod.core.notices import KINDS, told_how
from nod.core.trail.entries import Subject
from nod.services.acts.context import Act
from nod.services.acts.projects import address_in
from nod.services.mail.mails import About, Enclosure, write_mail
from nod.services.things.things import may_know
from nod.store import journal
from nod.store.dialects.sqlite import put_unless_there
from nod.store.journal import act_id
from nod.store.tables import MembershipRow, NoticeRow, PersonRow, ProjectRow, SummaryLineRow


@dataclass(frozen=True)
class Notice:
    """`subject` is the mail's, and the line of a summary; `link` is a path of Nod's. `key` tells it once only.

    It is `about` things, and goes only to those who see all of them. `what` names what somebody follows. What is
    `enclosed` goes with the mail. `by_hand`: whoever acts has sent it, and is told if it does not arrive.
    """

    key: str
    subject: str
    lines: list[str]
    link: str
    about: Sequence[Subject]
    what: str = ""
    enclosed: Sequence[Enclosure] = ()
    by_hand: bool = False


def tell_person(
    act: Act, project: ProjectRow, kind: str, person_id: str, notice: Notice, told_of: str = "",
    may: Container[str] | None = None,
) -> None:  # fmt: skip
    """As the person, or the project for their roles, has set it; once for an act, whatever else it tells them.

    Never of one's own act, nor to who has left. `told_of` is the act that it tells of, by default the present one.
    `may`: where many are told of the same things, those who may know of them (`who_may_know`).
    """
    member = act.session.get(MembershipRow, (project.id, person_id))
    if person_id == act.actor.person_id or member is None or member.state not in ("active", "invited"):
        return
    person = act.session.get_one(PersonRow, person_id)
    how = told_how(kind, person.notices, project.rules["notices"], member.roles)
    if how == "never":
        return
    if not (may_know(act.session, project.id, person_id, notice.about) if may is None else person_id in may):
        return
    because = KINDS[kind].because.format(what=notice.what)
    if not _keep(act, project, kind, person_id, notice, because, told_of or act_id(act.session)):
        return
    if how == "now":
        address = address_in(act.context, project, notice.link)
        less = f"You are told because {because}. To be told less: {address_in(act.context, project, '/account')}"
        about = About(project, notice.about[0] if len(notice.about) == 1 else None, notice.by_hand)
        lines = [*notice.lines, "", address, "", less]
        write_mail(act, notice.key, person_id, notice.subject, lines, about=about, enclosed=notice.enclosed)
    elif how == "daily":
        row = {
            "key": notice.key, "person_id": person_id, "project_id": project.id, "at": act.at, "kind": kind,
            "words": notice.subject, "link": notice.link, "about": _listed(notice.about),
        }  # fmt: skip
        put_unless_there(act.session, SummaryLineRow, "key", **row)


def _keep(act: Act, project: ProjectRow, kind: str, person_id: str, notice: Notice, because: str, told_of: str) -> bool:
    """In Nod, live; False if they were told of this act already."""
    words = notice.subject.removeprefix(f"{project.number}: ")
    row = {
        "act_id": told_of, "person_id": person_id, "project_id": project.id, "at": act.at, "kind": kind, "words": words,
        "because": because, "link": notice.link, "about": _listed(notice.about),
    }  # fmt: skip
    if not put_unless_there(act.session, NoticeRow, "act_id", "person_id", **row):
        return False
    act.tell(project.id, "notices", person_id, only=person_id)
    return True


def _listed(about: Sequence[Subject]) -> list[list[str]]:
    return [[each.kind, each.id] for each in about]


def note_read(session: Session, project_id: str, person_id: str, things: set[tuple[str, str]], at: datetime) -> bool:
    """A person has looked at these things, or with none named at all there is: what tells of them is read."""
    query = select(NoticeRow).where(
        NoticeRow.person_id == person_id, NoticeRow.project_id == project_id, NoticeRow.read_at.is_(None),
        NoticeRow.at <= at,
    )  # fmt: skip
    ids = [row.id for row in session.scalars(query) if not things or things & {(kind, of) for kind, of in row.about}]
    if ids:
        session.execute(update(NoticeRow).where(NoticeRow.id.in_(ids)).values(read_at=at))
        journal.tell(session, at, project_id, "notices", person_id, only_for(person_id), by=person_id)
    return bool(ids)


def told_already(session: Session, told_of: str) -> set[str]:
    """Ids of those whom an act has told something."""
    return set(session.scalars(select(NoticeRow.person_id).where(NoticeRow.act_id == told_of)))

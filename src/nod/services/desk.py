"""The Desk: what waits on a person, what they wait for, what will be late (handbook §2)."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime, timedelta
from functools import cached_property
from typing import Any

from sqlalchemy import ColumnElement, func, or_, select, true
from sqlalchemy.orm import Session, load_only

from nod.core.access.levels import Level
from nod.services.acts.answers import Answered, Standing
from nod.services.acts.context import Context, project_clock
from nod.services.acts.late import LateBy
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.mail_in.held_mail import count_held
from nod.services.open_work.kinds import Opened, Said, Work, work_kinds
from nod.services.open_work.open_work import Held, held_by, standing_of
from nod.services.things.kinds import ThingKind, kind_of
from nod.store.tables import ArrivalRow, BatchRow, OpenWorkHolderRow, OpenWorkRow

_SOON = timedelta(days=1)
_BATCHES_AT = 1
"""Where batches stand among the kinds of work, see `WorkKind.order`."""


class DeskLine(Answered):
    """One thing with its one next act; `link` leads to where the act is done. `number` is what it is called in lists,
    or what it is where it has none.
    """

    kind: str
    id: str
    number: str
    name: str
    detail: str
    standing: Standing
    act: str
    link: str


class Desk(Answered):
    yours_now: list[DeskLine]
    coming: list[DeskLine]
    you_wait_for: list[DeskLine]
    late: list[DeskLine]
    arrived_today: int
    counts: dict[str, int]


def read_desk(context: Context, actor: Actor, project_id: str) -> Desk:
    with context.database.read() as session:
        room = _Room(session, actor, take_seat(session, actor, project_id), context.clock.now())
        batches = _batches(room)
        mine = [each for each in room.opened if room.is_mine(each) and not each[0].is_coming]
        first = [each for each in mine if room.order(each) < _BATCHES_AT]
        rest = [each for each in mine if room.order(each) > _BATCHES_AT]
        waited = [each for each in room.opened if each[0].waiter_id == actor.person_id and not each[0].is_coming]
        return Desk(
            yours_now=[*room.lines(first, mine=True), *batches, *room.lines(rest, mine=True)],
            coming=_coming(room),
            you_wait_for=room.lines(waited, mine=False),
            late=room.lines(_late(room), mine=False),
            arrived_today=_arrived_today(room),
            counts={
                "intake": sum(int(line.detail.split()[0]) for line in batches),
                "mail": count_held(session, project_id) if room.seat.runs else 0,
                **_counts(mine),
            },
        )


class _Room:
    """What every tray needs."""

    def __init__(self, session: Session, actor: Actor, seat: Seat, now: datetime) -> None:
        self.session, self.actor, self.seat, self.now = session, actor, seat, now
        self.project_id = seat.project.id
        self.clock = project_clock(session, seat.project)
        self.late = LateBy(session, seat.project, now)
        self.soon = self.late.today + _SOON
        self.kinds = {each.code: each for each in work_kinds() if each.order is not None}

    @cached_property
    def opened(self) -> list[Opened]:
        """All that any tray may show, what is due first on top."""
        found = [each for code in sorted({kind.thing_kind for kind in self.kinds.values()}) for each in self._of(code)]
        return sorted(found, key=self._rank)

    def _rank(self, opened: Opened) -> tuple[int, date, datetime, str]:
        work, row = opened
        return self.order(opened), work.due_on or date.max, work.since_at or self.now, _kind(work).number(row)

    def _of(self, code: str) -> list[Opened]:
        kind = kind_of(code)
        if kind is None or not kind.is_on(self.seat):
            return []
        query = (
            select(kind.row, *OpenWorkRow.__table__.columns)
            .join(OpenWorkRow, kind.columns.id == OpenWorkRow.thing_id)
            .options(load_only(*kind.listed))
            .where(
                OpenWorkRow.project_id == self.project_id, OpenWorkRow.thing_kind == code,
                OpenWorkRow.kind.in_(self.kinds), or_(*self._concerning()), kind.seen(self.seat),
            )
        )  # fmt: skip
        return [(Work._make(rest), row) for row, *rest in self.session.execute(query)]

    def _concerning(self) -> list[ColumnElement[bool]]:
        held = select(OpenWorkHolderRow.work_id).where(OpenWorkHolderRow.holder_id.in_(self.names))
        late = (OpenWorkRow.due_on <= self.soon) & ~OpenWorkRow.is_coming
        anybodys = late & (true() if self.seat.runs else OpenWorkRow.waiter_id == self.actor.person_id)
        return [OpenWorkRow.id.in_(held), OpenWorkRow.waiter_id == self.actor.person_id, anybodys]

    @property
    def names(self) -> tuple[str, str]:
        """By which something can be with them."""
        return self.actor.person_id, self.actor.company_id

    @cached_property
    def holders(self) -> dict[str, Held]:
        return held_by(self.session, [work for work, _ in self.opened])

    def is_mine(self, opened: Opened) -> bool:
        return any(holder.id in self.names for holder in self.holders[opened[0].id].holders)

    def order(self, opened: Opened) -> int:
        return self.kinds[opened[0].kind].order or 0

    def lines(self, opened: Sequence[Opened], *, mine: bool) -> list[DeskLine]:
        """In the order given; each kind says all of its own at once."""
        said: dict[str, Said] = {}
        for code in {work.kind for work, _ in opened}:
            say = self.kinds[code].mine if mine else self.kinds[code].theirs
            if say:
                said |= say(self.session, [each for each in opened if each[0].kind == code])
        return [self._line(each, said[each[0].id]) for each in opened if each[0].id in said]

    def _line(self, opened: Opened, said: Said) -> DeskLine:
        work, _ = opened
        return self.line(opened, said, standing_of(work, self.holders[work.id].words, self.late))

    def line(self, opened: Opened, said: Said, standing: Standing) -> DeskLine:
        work, row = opened
        kind = _kind(work)
        return DeskLine(
            kind=work.thing_kind, id=work.thing_id, number=_which(kind, row), name=said.name, detail=said.detail,
            standing=standing, act=said.act, link=kind.address(row),
        )  # fmt: skip


def _which(kind: ThingKind[Any], row: Any) -> str:
    """Its number; of what has none yet, what it is, or what it is part of."""
    whole = kind_of(kind.part_of) if kind.part_of else None
    return kind.number(row) or (whole or kind).words


def _kind(work: OpenWorkRow) -> ThingKind[Any]:
    found = kind_of(work.thing_kind)
    if found is None:
        raise LookupError(f"no kind of thing is called {work.thing_kind}")
    return found


def _coming(room: _Room) -> list[DeskLine]:
    """What will be mine, with the day on which it is expected to be due."""
    lines = []
    coming = [each for each in room.opened if each[0].is_coming and room.is_mine(each)]
    for code in dict.fromkeys(work.kind for work, _ in coming):
        expect = room.kinds[code].expect
        works = [work for work, _ in coming if work.kind == code]
        expected = expect(room.session, room.clock, room.late, works) if expect else {}
        for opened in coming:
            if opened[0].id in expected:
                detail, standing = expected[opened[0].id]
                name = _kind(opened[0]).title(opened[1])
                lines.append(room.line(opened, Said(name, detail, "Look ahead"), standing))
    return lines


def _late(room: _Room) -> list[Opened]:
    """What is late or due by tomorrow: all of it for leads and controllers, otherwise one's own."""
    return [each for each in room.opened if each[0].due_on and each[0].due_on <= room.soon and not each[0].is_coming]


def _counts(mine: Sequence[Opened]) -> dict[str, int]:
    """How much is with a person in each station but Intake."""
    counts = {_kind(work).topic: 0 for work, _ in mine} | {"reviews": 0, "transmittals": 0}
    for work, _ in mine:
        counts[_kind(work).topic] += 1
    return counts


def _batches(room: _Room) -> list[DeskLine]:
    if not room.seat.runs:
        return []
    query = (
        select(BatchRow, func.count(), func.count().filter(ArrivalRow.state == "held"))
        .join(ArrivalRow, ArrivalRow.batch_id == BatchRow.id)
        .where(BatchRow.project_id == room.project_id, ArrivalRow.state.in_(("waiting", "held")))
        .group_by(BatchRow.id)
        .order_by(BatchRow.arrived_at)
    )
    return [
        DeskLine(
            kind="batch",
            id=batch.id,
            number="",
            name=f"From {batch.came_from}",
            detail=", ".join(_in_words(count - held, held)),
            standing=Standing(with_whom="the controllers", since_at=batch.arrived_at),
            act="Check",
            link=f"/intake/{batch.id}",
        )
        for batch, count, held in room.session.execute(query)
    ]


def _in_words(waiting: int, held: int) -> list[str]:
    return [f"{count} {words}" for count, words in ((waiting, "to check"), (held, "held")) if count]


def _arrived_today(room: _Room) -> int:
    begin = datetime.combine(room.late.today, datetime.min.time(), tzinfo=room.clock.zone)
    query = (
        select(func.count())
        .select_from(ArrivalRow)
        .join(BatchRow, BatchRow.id == ArrivalRow.batch_id)
        .where(BatchRow.project_id == room.project_id, BatchRow.arrived_at >= begin)
        .where(room.seat.sees(BatchRow.folder_id, Level.FILE))
    )
    return room.session.scalar(query) or 0

"""A kind of thing that only the tests have: what holds for it holds for every kind that is registered."""

from contextlib import contextmanager

from sqlalchemy import ForeignKey, select
from sqlalchemy.orm import DeclarativeBase, Mapped, aliased, mapped_column

from nod.services.things.audiences import AudienceOf
from nod.services.things.kinds import ThingKind, forget_kind, thing_kind


class ToyTables(DeclarativeBase):
    """Apart from Nod's own, whose tables are all in its migrations."""


class ToyRow(ToyTables):
    __tablename__ = "toy"
    id: Mapped[str] = mapped_column(primary_key=True)
    project_id: Mapped[str]
    name: Mapped[str]
    is_open: Mapped[bool] = mapped_column(default=True)
    leads: Mapped[bool] = mapped_column(default=True)
    stewards: Mapped[bool] = mapped_column(default=True)


class ToyPartRow(ToyTables):
    """Of what a toy's audience is made: `kind` is folder, person or company."""

    __tablename__ = "toy_part"
    toy_id: Mapped[str] = mapped_column(ForeignKey("toy.id"), primary_key=True)
    kind: Mapped[str] = mapped_column(primary_key=True)
    part_id: Mapped[str] = mapped_column(primary_key=True)


def _parts(kind):
    def query(toy_id):
        part = aliased(ToyPartRow)
        return select(part.part_id).where(part.toy_id == toy_id, part.kind == kind)

    return query


def _flag(name):
    def condition(toy_id):
        row = aliased(ToyRow)
        return select(getattr(row, name)).where(row.id == toy_id).scalar_subquery()

    return condition


AUDIENCE = AudienceOf(
    (_parts("folder"),), (_parts("person"),), (_parts("company"),), _flag("is_open"), _flag("leads"), _flag("stewards")
)
TOY = ThingKind(
    code="toy",
    words="toy",
    plural="toys",
    row=ToyRow,
    audience=AUDIENCE,
    number=lambda row: "",
    title=lambda row: row.name,
    address=lambda row: f"/toys/{row.id}",
    named_by=(ToyRow.name,),
    listed=(ToyRow.id, ToyRow.name),
    newest=ToyRow.id,
    topic="toys",
)


@contextmanager
def toys_are_there():
    thing_kind(TOY)
    try:
        yield TOY
    finally:
        forget_kind(TOY)


def add_toy(session, project_id, toy_id, name, audience):
    flags = {"is_open": audience.is_open, "leads": audience.leads, "stewards": audience.stewards}
    session.add(ToyRow(id=toy_id, project_id=project_id, name=name, **flags))
    session.flush()
    for kind, ids in (("folder", audience.folders), ("person", audience.people), ("company", audience.companies)):
        session.add_all(ToyPartRow(toy_id=toy_id, kind=kind, part_id=each) for each in ids)
    session.flush()


def make_tables(database):
    with database.write() as session:
        ToyTables.metadata.create_all(session.connection())


def add_private_toy(world, name, *people):
    """There for these people alone; returns its id."""
    from nod.core.access.audiences import Audience

    make_tables(world.context.database)
    ids = frozenset(world.cast.people[each] for each in people)
    audience = Audience(people=ids, is_open=False, leads=False, stewards=False)
    with world.context.database.write() as session:
        add_toy(session, world.project_id, "toy0toy0toy0toy0", name, audience)
    return "toy0toy0toy0toy0"

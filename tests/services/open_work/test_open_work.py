"""What is with whom: what the acts write is what the features' own rows say, and everything that shows it reads it."""

from datetime import date, timedelta
from random import Random

import pytest

from nod.core.acts.refusals import Refusal
from nod.core.acts.working_days import Counting
from nod.core.trail.entries import Subject
from nod.services import desk
from nod.services.open_work.kinds import Said, WorkKind, work_kind, work_kinds
from nod.services.open_work.open_work import Wanted, hand_on, set_open_work
from nod.services.register import check_outs
from nod.services.reviews import changing, log, reviews
from nod.services.setup import workspace
from nod.services.transmittals import guests, transmittals
from tests.services.things.toys import add_private_toy, toys_are_there
from tests.store.test_migrations import upgrade
from tests.world import NUMBER, OTHER_NUMBER, name

TABLES = ("open_work_document", "open_work_holder", "open_work")
ALL = (
    "SELECT w.kind, w.thing_kind, w.thing_id, w.part, w.what, w.each, w.waiter_id, w.since_at, w.due_on, w.counting, "
    "w.is_coming, (SELECT group_concat(kind || holder_id || place) FROM (SELECT * FROM open_work_holder h "
    "WHERE h.work_id = w.id ORDER BY place)), (SELECT group_concat(document_id) FROM (SELECT * FROM "
    "open_work_document d WHERE d.work_id = w.id ORDER BY document_id)) FROM open_work w ORDER BY 1, 3, 4"
)


@pytest.fixture
def filed(world):
    return world.file(name(), name(number=OTHER_NUMBER))


def worked_out_anew(world):
    """What the migration makes of the features' own rows, as in a database that never had the table."""
    for table in TABLES:
        world.write(f"DROP TABLE {table}")
    # At that time a step had people, waiting or not.
    world.write(
        "CREATE VIEW step_person AS SELECT step_id, person_id, place FROM step_place WHERE state = 'asked' UNION ALL "
        "SELECT s.id, w.value ->> 'id', w.key FROM review_step s, json_each(s.whom) w WHERE s.state = 'waiting'"
    )
    ((newest,),) = world.sql("SELECT version_num FROM alembic_version")
    world.write("UPDATE alembic_version SET version_num = '0017'")
    upgrade(world.context.settings.data_dir / "nod.db", "0018")
    world.write("DROP VIEW step_person")
    world.write(f"UPDATE alembic_version SET version_num = '{newest}'")
    return [(*row[:11], _in_order(row[11]), row[12]) for row in world.sql(ALL)]


def now(world):
    return [(*row[:11], _in_order(row[11]), row[12]) for row in world.sql(ALL)]


def _in_order(holders):
    """Without places, whose numbers have gaps where somebody has acknowledged."""
    return [each.rstrip("0123456789") for each in (holders or "").split(",")]


def send(world, documents, review_id="", people=("anouk", "yusuf")):
    command = transmittals.SendTransmittal(
        project_id=world.project_id, revisions=[revision for _, revision in documents], purpose="comment", note="",
        people=[world.cast.people[each] for each in people], review_id=review_id, answer_wanted_on=date(2027, 3, 20),
    )  # fmt: skip
    return transmittals.send_transmittal(world.context, world.actor("marit"), command).id


def refused(act, *given):
    try:
        act(*given)
    except Refusal:
        return


def check_out(world, document):
    refused(
        check_outs.check_out, world.context, world.actor("marit"), document,
        check_outs.CheckOut(version=world.sql("SELECT version FROM document WHERE id = ?", document)[0][0]),
    )  # fmt: skip


ACTS = {
    "start one": lambda w, d: refused(w.start, d[0]),
    "start the other": lambda w, d: refused(w.start, d[1]),
    "pick up": lambda w, d: [refused(w.pick_up, each, "leilani") for each in running(w)],
    "put down": lambda w, d: [
        refused(reviews.put_down, w.context, w.actor("leilani"), each, w.step(each, "leilani")) for each in running(w)
    ],
    "hand in": lambda w, d: [refused(w.hand_in, each, "leilani") for each in running(w)],
    "decide": lambda w, d: [refused(w.hand_in, each, "saoirse", "A") for each in running(w)],
    "cancel": lambda w, d: [
        refused(changing.cancel_review, w.context, w.actor("marit"), each,
                changing.CancelReview(version=w.review(each).version, reason="no"))
        for each in running(w)[:1]
    ],
    "send": lambda w, d: send(w, d),
    "send out": lambda w, d: [
        send(w, d, each) for (each,) in w.sql("SELECT id FROM review WHERE state = 'closed'")
    ],
    "acknowledge": lambda w, d: [
        refused(guests.acknowledge_as_member, w.context, w.actor("anouk"), each)
        for (each,) in w.sql("SELECT id FROM transmittal")
    ],
    "check out": lambda w, d: check_out(w, d[1][0]),
    "a day": lambda w, d: w.clock.advance(timedelta(days=1)),
}  # fmt: skip


def running(world):
    return [each for (each,) in world.sql("SELECT id FROM review WHERE state = 'running' ORDER BY number")]


@pytest.mark.parametrize("seed", range(5))
def test_whatever_happens_it_is_what_the_features_rows_say(world, filed, seed):
    for act in Random(seed).choices(sorted(ACTS), k=16):  # noqa: S311 - any order will do
        ACTS[act](world, filed)
    written = now(world)
    assert written == worked_out_anew(world)


IN_TURN = (
    "start one", "start the other", "check out", "pick up", "put down", "pick up", "hand in", "cancel", "decide",
    "send", "a day", "send out", "acknowledge", "start one",
)  # fmt: skip


def test_every_act_at_least_once(world, filed):
    kinds = set()
    for act in IN_TURN:
        ACTS[act](world, filed)
        kinds |= {row[0] for row in now(world)}
    assert kinds == {"step", "send_out", "acknowledge", "check_in"}
    written = now(world)
    assert written == worked_out_anew(world)


def test_of_two_what_is_due_first_is_shown_and_then_the_other(world, filed):
    review_id = world.start(*filed)
    check_out(world, filed[0][0])
    (line, *_) = [each for each in world.list().lines if each.number == NUMBER]
    assert (line.standing.with_whom, line.standing.due_on) == ("any of 3 for Check", date(2027, 3, 12))
    changing.cancel_review(
        world.context,
        world.actor("marit"),
        review_id,
        changing.CancelReview(version=world.review(review_id).version, reason="Wrong sheets"),
    )
    (line, *_) = [each for each in world.list().lines if each.number == NUMBER]
    assert (line.standing.with_whom, line.standing.due_on) == ("Marit Osei", None)


def test_a_new_name_is_shown_everywhere_at_once(world, filed):
    review_id = world.start(*filed)
    world.pick_up(review_id, "leilani")
    send(world, filed)
    change = {"company_id": world.actor("leilani").company_id, "steward": False, "state": "active"}
    for person, new in (("leilani", "Leilani Oduya-Brandt"), ("yusuf", "Yusuf Adler")):
        company = world.sql("SELECT company_id FROM person WHERE id = ?", world.cast.people[person])[0][0]
        command = workspace.ChangePerson(**{**change, "company_id": company}, name=new)
        workspace.change_person(world.context, world.actor("ines"), world.cast.people[person], command)
    assert {each.standing.with_whom for each in world.list().lines} == {"Leilani Oduya-Brandt"}
    (review,) = log.list_log(world.context, world.actor("marit"), log.AskedLog(world.project_id)).lines
    assert review.standing.with_whom == "Leilani Oduya-Brandt"
    waited = desk.read_desk(world.context, world.actor("marit"), world.project_id).you_wait_for
    assert [line.standing.with_whom for line in waited] == ["Leilani Oduya-Brandt", "Anouk Ferreira and Yusuf Adler"]
    assert [row[0] for row in world.sql("SELECT DISTINCT with_whom FROM document")] == ["Leilani Oduya-Brandt"]


def test_what_is_with_a_company_is_with_each_of_its_people_and_follows_it(world, filed):
    (document, _), _ = filed
    hbc, tra = world.actor("marit").company_id, world.actor("leilani").company_id
    assert hbc != tra
    with toy_work() as kind, world.context.database.write() as session:
        wanted = Wanted(kind.code, companies=[tra], due_on=date(2027, 3, 9), documents=[document])
        set_open_work(session, world.project_id, Subject("document", document), [wanted])
    ((shown,),) = world.sql("SELECT with_whom FROM document WHERE id = ?", document)
    assert shown == world.sql("SELECT name FROM company WHERE id = ?", tra)[0][0]
    with world.context.database.write() as session:
        hand_on(session, tra, hbc)
    ((shown,),) = world.sql("SELECT with_whom FROM document WHERE id = ?", document)
    assert shown == world.sql("SELECT name FROM company WHERE id = ?", hbc)[0][0]


class toy_work:
    """Work of a kind that only the tests have."""

    def __init__(self, thing_kind="document"):
        def say(_session, opened):
            return {work.id: Said("Wind it up", work.what, "Wind") for work, _ in opened}

        self.kind = WorkKind("wind", thing_kind, 5, say, say)

    def __enter__(self):
        return work_kind(self.kind)

    def __exit__(self, *_):
        from nod.services.open_work import kinds

        del kinds._KINDS[self.kind.code]
        assert self.kind not in work_kinds()


def test_a_new_kind_is_on_the_desk_and_what_is_private_is_late_for_nobody_else(world):
    with toys_are_there(), toy_work("toy") as kind:
        toy = add_private_toy(world, "Clockwork dredger", "leilani", "paolo")
        with world.context.database.write() as session:
            wanted = Wanted(
                kind.code, [world.cast.people["leilani"]], waiter_id=world.cast.people["paolo"], what="twice",
                due_on=date(2027, 2, 26), counting=Counting.WORKING,
            )  # fmt: skip
            set_open_work(session, world.project_id, Subject("toy", toy), [wanted])

        def lines(who, tray):
            found = getattr(desk.read_desk(world.context, world.actor(who), world.project_id), tray)
            return [(line.name, line.detail, line.act, line.standing.with_whom, line.link) for line in found]

        said = [("Wind it up", "twice", "Wind", "Leilani Brandt", f"/toys/{toy}")]
        assert lines("leilani", "yours_now") == said
        assert lines("leilani", "late") == said
        assert lines("paolo", "you_wait_for") == said
        for other in ("marit", "rafael", "ines"):
            assert lines(other, "late") == lines(other, "yours_now") == []


def test_what_is_wanted_twice_is_gone_when_it_is_not_wanted(world, filed):
    thing = Subject("review", "x" * 16)
    marit, rafael = world.cast.people["marit"], world.cast.people["rafael"]
    with world.context.database.write() as session:
        twice = [Wanted("check_in", [each]) for each in (marit, rafael)]
        set_open_work(session, world.project_id, thing, twice)
        set_open_work(session, world.project_id, thing, twice)
        set_open_work(session, world.project_id, thing, [])
    assert world.sql("SELECT * FROM open_work WHERE thing_id = ?", thing.id) == []
    assert world.sql("SELECT * FROM open_work_holder WHERE work_id NOT IN (SELECT id FROM open_work)") == []

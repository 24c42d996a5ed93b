"""Holders as they come of real acts: sent, released, voided, replaced, handed over, withdrawn; and catching up."""

from datetime import date, timedelta

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken, Stale
from nod.services.acts.work import Job
from nod.services.register import withdrawals
from nod.services.trail import trail
from nod.services.trail.trail import TrailView
from nod.services.transmittals import catching_up, chasing, drafts, guests, holders, log, transmittals, voiding
from nod.services.transmittals import transmittals_view as view
from nod.services.transmittals.catching_up import CatchUp, CellGiven, HandOver
from nod.services.transmittals.drafts import KeepDraft, SeenDraft
from nod.services.transmittals.guests import Acknowledge
from nod.services.transmittals.holders import AskedHolders
from nod.services.transmittals.holding import held_by, refresh_holders
from nod.services.transmittals.recipients import guest_token, note_mailed
from nod.services.transmittals.voiding import VoidTransmittal
from nod.store.tables import HoldingRow
from tests.services.links.visiting import enter
from tests.world import NUMBER, OTHER_NUMBER, made_once, name, pdf

THIRD = "BFT-TRA-Z1-02-D-A-0102"


def send(world, *revisions, to=("yusuf",), who="marit", **more):
    command = transmittals.SendTransmittal(
        project_id=world.project_id, revisions=list(revisions), people=[world.cast.people[each] for each in to],
        purpose="construction", **more,
    )  # fmt: skip
    sent = transmittals.send_transmittal(world.context, world.actor(who), command)
    for key, payload in world.send():
        if key.startswith("mail:recipient:"):
            told = {**payload["then"]["payload"], "sent_at": world.clock.now().isoformat(), "to_email": "x"}
            note_mailed(Job(world.context, world.press, key), told)
    return sent


def company(world, who):
    return world.sql("SELECT company_id FROM person WHERE id = ?", world.cast.people[who])[0][0]


def grid(world, who="marit", **asked):
    """By number and company code, the state and the revision of each cell that is not empty."""
    page = holders.list_holders(world.context, world.actor(who), AskedHolders(world.project_id, **asked))
    codes = [each.code for each in page.companies]
    return {
        line.number: {
            code: (cell.state, cell.revision) for code, cell in zip(codes, line.cells, strict=True) if cell.revision
        }
        for line in page.lines
    }


def ask(world, *numbers):
    return [world.document(each)[0] for each in numbers]


@made_once
def released(world):
    """Two sheets in force at C01."""
    filed = world.file(name(revision="C01"), name(OTHER_NUMBER, revision="C01"))
    for _, revision in filed:
        world.set_status(revision, "A1")
    return [revision for _, revision in filed]


def file_c02(world, *, release):
    ((_, revision),) = world.file(name(revision="C02"), content=pdf("changed"))
    if release:
        world.set_status(revision, "A1")
    return revision


def test_the_handbooks_example(world, released):
    first, _ = released
    send(world, first, to=("yusuf", "anouk"))
    guests.acknowledge_as_member(world.context, world.actor("anouk"), _newest(world))
    assert grid(world)[NUMBER] == {"SGS": ("not_acknowledged", "C01"), "BHT": ("in_step", "C01")}
    assert grid(world)[OTHER_NUMBER] == {}
    c02 = file_c02(world, release=False)
    assert grid(world)[NUMBER]["BHT"] == ("in_step", "C01")
    world.set_status(c02, "A1")
    assert grid(world)[NUMBER] == {"SGS": ("behind", "C01"), "BHT": ("behind", "C01")}
    send(world, c02, to=("anouk",))
    assert grid(world)[NUMBER]["BHT"] == ("not_acknowledged", "C02")
    # An older one by mistake since: it is told, and not taken.
    world.clock.advance(timedelta(hours=1))
    send(world, first, to=("anouk",))
    shown = holders.read_document_holders(world.context, world.actor("marit"), world.document(NUMBER)[0])
    cell = next(c for of, c in zip(shown.companies, shown.cells, strict=True) if of.code == "BHT")
    assert (cell.revision, cell.older_at is not None) == ("C02", True)


def _newest(world):
    return world.sql("SELECT id FROM transmittal ORDER BY sent_at DESC, number DESC LIMIT 1")[0][0]


def test_what_is_not_released_is_ahead_and_what_is_withdrawn_is_held(world, released):
    c02 = file_c02(world, release=False)
    send(world, c02)
    assert grid(world)[NUMBER]["SGS"] == ("ahead", "C02")
    document = world.document(OTHER_NUMBER)[0]
    send(world, released[1])
    (version,) = world.sql("SELECT version FROM document WHERE id = ?", document)[0]
    command = withdrawals.Withdraw(version=version, reason="not built")
    withdrawals.withdraw(world.context, world.actor("marit"), document, command)
    assert OTHER_NUMBER not in grid(world)
    assert grid(world, state="withdrawn") == {OTHER_NUMBER: {"SGS": ("withdrawn", "C01")}}


def test_each_filter_leaves_those_that_stand_so(world, released):
    send(world, *released, to=("yusuf", "anouk"))
    guests.acknowledge_as_member(world.context, world.actor("anouk"), _newest(world))
    file_c02(world, release=True)
    world.file(name(THIRD))
    anouk, yusuf = company(world, "anouk"), company(world, "yusuf")
    assert set(grid(world, state="behind")) == {NUMBER}
    assert set(grid(world, state="in_step", company_id=anouk)) == {OTHER_NUMBER}
    assert set(grid(world, state="in_step", company_id=yusuf)) == set()
    assert set(grid(world, state="not_acknowledged")) == {OTHER_NUMBER}
    assert set(grid(world, state="held")) == {NUMBER, OTHER_NUMBER}
    assert set(grid(world, state="never")) == {THIRD}
    assert set(grid(world, state="never", company_id=company(world, "leilani"))) == {NUMBER, OTHER_NUMBER, THIRD}
    assert set(grid(world, state="ahead")) == set()
    assert set(grid(world, words="0201")) == {OTHER_NUMBER}
    page = holders.list_holders(
        world.context, world.actor("marit"), AskedHolders(world.project_id, state="held", limit=1)
    )
    assert (page.total, len(page.lines)) == (2, 1)
    more = AskedHolders(world.project_id, state="held", limit=1, cursor=page.cursor)
    rest = holders.list_holders(world.context, world.actor("marit"), more)
    assert {page.lines[0].number, rest.lines[0].number} == {NUMBER, OTHER_NUMBER}
    with pytest.raises(RuleBroken):
        holders.list_holders(world.context, world.actor("marit"), AskedHolders(world.project_id, cursor="x"))


def test_companies_see_their_own_column_alone(world, released):
    send(world, released[0], to=("yusuf", "anouk"))
    assert set(grid(world, who="anouk")[NUMBER]) == {"BHT"}
    assert grid(world, who="leilani")[NUMBER] == {}
    with pytest.raises(NotFound):
        grid(world, who="anouk", company_id=company(world, "yusuf"))
    document = world.document(NUMBER)[0]
    sendings = holders.read_document_holders(world.context, world.actor("anouk"), document).sendings
    assert [each.company for each in sendings] == ["BHT"]
    assert holders.read_document_holders(world.context, world.actor("leilani"), document).sendings == []
    shown = view.read_transmittal(world.context, world.actor("anouk"), _newest(world))
    receipts = {
        each.who.company: (each.receipt, each.email != "", each.mailed_at is not None) for each in shown.recipients
    }
    assert receipts == {"SGS": (False, False, False), "BHT": (True, True, True)}
    # Neither in the list nor in the trail.
    assert (shown.line.recipients, shown.line.with_whom) == (1, "Anouk Ferreira")
    recipient = world.sql("SELECT id FROM recipient WHERE person_id = ?", world.cast.people["yusuf"])[0][0]
    guests.acknowledge(world.context, enter(world, guest_token(world.context, recipient)), Acknowledge())
    guests.acknowledge_as_member(world.context, world.actor("anouk"), shown.line.id)
    view_of = TrailView(project_id=world.project_id, subject_id=shown.line.id)

    def acknowledged(who):
        entries = trail.read_log(world.context, world.actor(who), view_of).entries
        return [each.who.split()[0] for each in entries if each.kind == "transmittal_acknowledged"]

    assert acknowledged("anouk") == ["Anouk"]
    assert sorted(acknowledged("marit")) == sorted(acknowledged("tomasz")) == ["Anouk", "Yusuf"]


def test_a_void_one_is_held_by_nobody_and_told(world, released):
    sent = send(world, *released, to=("yusuf", "anouk"))
    with pytest.raises(NotAllowed):
        _void(world, sent.id, who="tomasz")
    with pytest.raises(RuleBroken) as refused:
        _void(world, sent.id, reason="  ")
    assert refused.value.code == "reason_missing"
    made = _void(world, sent.id, replace=True)
    assert grid(world)[NUMBER] == {}
    mails = [payload for _, payload in world.send() if payload.get("subject") == "HBC-T-0001 is void"]
    assert {each["to_email"].split("@")[0] for each in mails} == {"yusuf", "anouk"}
    assert all("The wrong stair" in each["text"] and "Another will come" in each["text"] for each in mails)
    with pytest.raises(RuleBroken):
        _void(world, sent.id)
    with pytest.raises(RuleBroken):
        guests.acknowledge_as_member(world.context, world.actor("anouk"), sent.id)
    recipient = world.sql("SELECT id FROM recipient WHERE person_id = ?", world.cast.people["yusuf"])[0][0]
    secret = enter(world, guest_token(world.context, recipient))
    assert guests.read_as_guest(world.context, secret).void.why == "The wrong stair"
    with pytest.raises(RuleBroken):
        guests.download_as_guest(world.context, secret, "pack")
    # Its draft is sent in its place, and each says so of the other.
    draft = drafts.read_draft(world.context, world.actor("rafael"), made)
    assert draft.line.why == "in place of HBC-T-0001"
    again = send(
        world, *draft.content.revisions, to=("yusuf",), who="rafael", draft_id=made, draft_version=1,
        replaces=draft.content.replaces,
    )  # fmt: skip
    old, new = (view.read_transmittal(world.context, world.actor("marit"), each) for each in (sent.id, again.id))
    assert (old.void.replaced_by, new.replaces) == ("HBC-T-0002", "HBC-T-0001")
    assert guests.read_as_guest(world.context, secret).void.replaced_by == "HBC-T-0002"
    assert grid(world)[NUMBER] == {"SGS": ("not_acknowledged", "C01")}


def _void(world, sent, who="marit", reason="The wrong stair", replace=False):
    command = VoidTransmittal(reason=reason, replace=replace)
    return voiding.void_transmittal(world.context, world.actor(who), sent, command).draft_id


def test_only_what_is_void_is_replaced(world, released):
    sent = send(world, released[0])
    with pytest.raises(RuleBroken) as refused:
        send(world, released[0], replaces=sent.id)
    assert refused.value.code == "not_void"
    with pytest.raises(NotFound):
        send(world, released[0], who="tomasz", replaces=sent.id)


def test_paper_counts_and_can_be_taken_back(world, released):
    command = HandOver(
        revision_id=released[0], company_id=company(world, "yusuf"), to_whom="Otto at the gate", count=3,
        on=date(2027, 3, 8),
    )  # fmt: skip
    made = catching_up.hand_over(world.context, world.actor("marit"), command)
    assert grid(world)[NUMBER] == {"SGS": ("in_step", "C01")}
    (shown,) = holders.read_document_holders(
        world.context, world.actor("marit"), world.document(NUMBER)[0]
    ).sendings  # fmt: skip
    assert (shown.paper, shown.count, shown.on, shown.company) == ("Otto at the gate", 3, date(2027, 3, 8), "SGS")
    for wrong, code in (({"on": date(2027, 3, 10)}, "day_to_come"), ({"to_whom": " "}, "name_missing")):
        with pytest.raises(RuleBroken) as refused:
            catching_up.hand_over(world.context, world.actor("marit"), command.model_copy(update=wrong))
        assert refused.value.code == code
    with pytest.raises(NotAllowed):
        catching_up.hand_over(world.context, world.actor("anouk"), command)
    catching_up.take_hand_over_back(world.context, world.actor("marit"), made.id)
    assert grid(world)[NUMBER] == {}


def test_catching_up_makes_a_draft_for_each_company_of_what_it_has_not(world, released):
    send(world, *released, to=("yusuf", "anouk"))
    file_c02(world, release=True)
    world.file(name(THIRD))
    one, two, three = ask(world, NUMBER, OTHER_NUMBER, THIRD)
    sgs, bht = company(world, "yusuf"), company(world, "anouk")
    cells = [(one, sgs), (one, bht), (three, sgs), (two, sgs)]
    command = CatchUp(project_id=world.project_id, cells=[CellGiven(document_id=d, company_id=c) for d, c in cells])
    made = catching_up.catch_up(world.context, world.actor("marit"), command)
    assert {each.company: each.documents for each in made.drafts} == {"SGS": 2, "BHT": 1}
    assert made.left_out == [THIRD]
    # Another controller of the company sends them; nobody of another company sees them, leads neither.
    assert drafts.list_drafts(world.context, world.actor("tomasz"), world.project_id) == []
    lines = drafts.list_drafts(world.context, world.actor("rafael"), world.project_id)
    assert {(each.why, each.people[0].name) for each in lines} == {
        ("brings SGS up to date", "Yusuf Haldane"), ("brings BHT up to date", "Anouk Ferreira"),
    }  # fmt: skip
    for each in lines:
        draft = drafts.read_draft(world.context, world.actor("rafael"), each.id)
        who = "yusuf" if "SGS" in each.why else "anouk"
        send(world, *draft.content.revisions, to=(who,), who="rafael", draft_id=each.id, draft_version=each.version)
    assert {code: state for code, (state, _) in grid(world)[NUMBER].items()} == {
        "SGS": "not_acknowledged", "BHT": "not_acknowledged",
    }  # fmt: skip
    assert drafts.list_drafts(world.context, world.actor("marit"), world.project_id) == []
    only = CatchUp(project_id=world.project_id, cells=[CellGiven(document_id=three, company_id=sgs)])
    with pytest.raises(RuleBroken) as refused:
        catching_up.catch_up(world.context, world.actor("marit"), only)
    assert refused.value.code == "nothing_in_force"


def test_a_draft_is_changed_by_colleagues_and_sent_once(world, released):
    marit, rafael = world.actor("marit"), world.actor("rafael")
    kept = drafts.make_draft(world.context, marit, KeepDraft(project_id=world.project_id, revisions=released))
    changed = KeepDraft(revisions=released, people=[world.cast.people["yusuf"]], note="Stairs.", version=1)
    assert drafts.change_draft(world.context, rafael, kept.id, changed).version == 2
    with pytest.raises(Stale):
        drafts.change_draft(world.context, marit, kept.id, changed)
    assert drafts.read_draft(world.context, marit, kept.id).content.note == "Stairs."
    for who in ("tomasz", "anouk"):
        with pytest.raises(NotFound):
            drafts.read_draft(world.context, world.actor(who), kept.id)
    with pytest.raises(Stale):
        send(world, *released, draft_id=kept.id, draft_version=1)
    send(world, *released, draft_id=kept.id, draft_version=2)
    with pytest.raises(RuleBroken) as refused:
        send(world, *released, who="rafael", draft_id=kept.id, draft_version=2)
    assert refused.value.code == "draft_gone"
    assert len(world.sql("SELECT 1 FROM transmittal")) == 1
    other = drafts.make_draft(world.context, marit, KeepDraft(project_id=world.project_id))
    drafts.discard_draft(world.context, rafael, other.id, SeenDraft(version=1))
    assert drafts.list_drafts(world.context, marit, world.project_id) == []


def test_the_silent_are_reminded_once_a_day_and_by_their_sender(world, released):
    one, two = send(world, released[0], to=("yusuf", "anouk")), send(world, released[1])
    guests.acknowledge_as_member(world.context, world.actor("anouk"), one.id)
    command = chasing.Chase(transmittals=[one.id, two.id])
    assert chasing.chase(world.context, world.actor("rafael"), command).people == 2
    mails = [payload for _, payload in world.send() if "is not acknowledged" in payload.get("subject", "")]
    assert {(each["to_email"].split("@")[0], each["subject"].split()[0]) for each in mails} == {
        ("yusuf", "HBC-T-0001"), ("yusuf", "HBC-T-0002"),
    }  # fmt: skip
    assert chasing.chase(world.context, world.actor("marit"), command).people == 0
    world.clock.advance(timedelta(days=1))
    assert chasing.chase(world.context, world.actor("marit"), command).people == 2
    with pytest.raises(NotAllowed):
        chasing.chase(world.context, world.actor("tomasz"), command)
    _void(world, two.id)
    with pytest.raises(RuleBroken):
        chasing.chase(world.context, world.actor("marit"), command)


def test_the_log_is_filtered(world, released):
    one = send(world, released[0], to=("anouk",), note="Quinceblossom")
    two = send(world, released[1], who="tomasz", answer_wanted_on=date(2027, 3, 1))
    guests.acknowledge_as_member(world.context, world.actor("anouk"), one.id)

    def numbers(who="marit", **asked):
        found = log.list_log(world.context, world.actor(who), log.AskedLog(world.project_id, **asked))
        assert found.total == len(found.lines)
        return [each.number for each in found.lines]

    assert sorted(numbers()) == ["HBC-T-0001", "TRA-T-0001"]
    assert numbers(words="quince") == numbers(words="HBC") == numbers(way="out") == numbers(document="0101")
    assert numbers(way="in", who="anouk") == numbers(company="BHT") == numbers(state="acknowledged") == ["HBC-T-0001"]
    assert numbers(state="waiting") == numbers(state="overdue") == numbers(company="TRA") == ["TRA-T-0001"]
    assert numbers(state="back") == numbers(state="void") == numbers(purpose="record") == []
    assert numbers(who="leilani") == []
    _void(world, two.id, who="tomasz")
    assert numbers(state="void") == ["TRA-T-0001"]
    assert numbers(state="waiting") == []


def test_what_is_kept_is_what_was_sent(world, released):
    """The mirror, against the same reckoned anew; a company that was merged holds what the other held."""
    send(world, *released, to=("yusuf", "anouk"))
    file_c02(world, release=True)
    with world.context.database.write() as session:
        ids = ask(world, NUMBER, OTHER_NUMBER)
        before = _kept(session)
        assert {key: revision for key, (revision, _) in held_by(session, ids).items()} == before
        refresh_holders(session, ids)
        assert _kept(session) == before
        assert len(before) == 4


def _kept(session):
    return {(row.document_id, row.company_id): row.revision_id for row in session.query(HoldingRow)}


def _told(world):
    """By whom they went to, the texts of mails that say what is not in force any more."""
    sent = (payload for _, payload in world.send())
    return {each["to_email"].split("@")[0]: each["text"] for each in sent if "not in force any more" in each["subject"]}


def test_holders_are_told_once_for_all_that_one_act_took_out_of_force(world, released):
    send(world, *released, to=("yusuf", "anouk"))
    c02 = file_c02(world, release=False)
    assert _told(world) == {}
    world.set_status(c02, "A1")
    told = _told(world)
    assert set(told) == {"yusuf", "anouk"}
    assert f"{NUMBER} Quay hall plan: your company has C01; C02 is in force now" in told["yusuf"]
    assert OTHER_NUMBER not in told["yusuf"]
    document = world.document(OTHER_NUMBER)[0]
    (version,) = world.sql("SELECT version FROM document WHERE id = ?", document)[0]
    withdrawals.withdraw(
        world.context, world.actor("marit"), document, withdrawals.Withdraw(version=version, reason="x")
    )
    told = _told(world)
    assert "the document is withdrawn" in told["anouk"]
    assert NUMBER not in told["anouk"]


def test_who_holds_nothing_or_a_void_one_is_told_nothing(world, released):
    sent = send(world, *released, to=("yusuf",))
    _void(world, sent.id)
    world.send()
    file_c02(world, release=True)
    assert _told(world) == {}


def test_what_is_in_step_is_told_nothing(world, released):
    """A later one that is sent to them before it is released is what they have then."""
    c02 = file_c02(world, release=False)
    send(world, released[0], to=("yusuf",))
    send(world, c02, to=("yusuf",))
    world.set_status(c02, "A1")
    assert _told(world) == {}

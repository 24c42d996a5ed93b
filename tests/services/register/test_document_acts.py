"""Check out and in, withdraw, rename, an earlier revision back, what one changed."""

import io

import pytest
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.services.compare import revision_changes
from nod.services.intake import new_revisions
from nod.services.intake.new_revisions import BringBackRevision, RevisionSaid
from nod.services.register import check_outs, documents, withdrawals
from nod.services.register.check_outs import CheckOut, EndCheckOut
from nod.services.register.withdrawals import RenameDocument, SeenDocument, Withdraw
from tests.world import NUMBER, OTHER_NUMBER, in_cloud, name, pdf

NEW_NUMBER = "BFT-TRA-Z1-02-D-A-0155"


@pytest.fixture
def plan(world):
    """A document filed by the controller: its id."""
    return world.file(name())[0][0]


def _dossier(world, document, who="marit"):
    return documents.read_document(world.context, world.actor(who), document)


def _version(world, document):
    return world.sql("SELECT version FROM document WHERE id = ?", document)[0][0]


def _act(world, function, document, command, who="marit"):
    return function(world.context, world.actor(who), document, command)


def _check_out(world, document, who="paolo"):
    command = CheckOut(version=_version(world, document), note="Stair moved")
    _act(world, check_outs.check_out, document, command, who)


def _findings(world, revision="P02", who="marit"):
    """Of a next revision that arrives by Intake."""
    file = name(revision=revision)
    batch = world.arrive({file: pdf(file)}, who)
    (arrival,) = world.batch(batch, who).arrivals
    return batch, {each.code: each for each in arrival.findings}


def test_checked_out_by_one_it_takes_no_revision_of_another(world, plan):
    _check_out(world, plan)
    batch, found = _findings(world)
    assert "Paolo Marchetti" in found["checked_out"].words
    assert world.register(batch)[0].result == "held"
    (line,) = check_outs.list_check_outs(world.context, world.actor("marit"), world.project_id)
    assert (line.by.name, line.note, line.mine, line.may_end) == ("Paolo Marchetti", "Stair moved", False, True)
    dossier = _dossier(world, plan)
    assert "revise" not in dossier.may
    assert "break_check_out" in dossier.may
    assert "put_back" in _dossier(world, plan, "paolo").may


def test_the_holder_checks_in_with_a_comment(world, plan):
    _check_out(world, plan)
    said = RevisionSaid(file_name="my plan.pdf", revision="P02", status="S3", purpose="comment", note="Stair as agreed")
    begun = new_revisions.begin_revision(world.context, world.actor("paolo"), plan, said, [pdf("moved")])
    world.look()
    (arrival,) = world.batch(begun.batch_id, "paolo").arrivals
    assert (arrival.number, arrival.revision, arrival.title) == (NUMBER, "P02", "Quay hall plan")
    assert world.register(begun.batch_id, "paolo")[0].result == "registered"
    dossier = _dossier(world, plan)
    assert (dossier.line.revision, dossier.checked_out_by) == ("P02", None)
    assert (dossier.revisions[0].note, dossier.revisions[0].purpose) == ("Stair as agreed", "comment")
    assert "document_checked_in" in world.kinds()


def test_a_revision_too_large_or_without_room_leaves_nothing(world, plan):
    said = RevisionSaid(file_name="x.pdf", revision="P02", status="S3")
    small = world.with_settings(largest_file_bytes=10)
    with pytest.raises(RuleBroken) as refused:
        new_revisions.begin_revision(small, world.actor("marit"), plan, said, [b"%PDF-1.7", b"x" * 40])
    assert refused.value.code == "file_too_large"
    with pytest.raises(NotAllowed):
        new_revisions.begin_revision(world.context, world.actor("leilani"), plan, said, [pdf("x")])
    assert world.sql("SELECT count(*) FROM batch WHERE source = 'new revision'") == [(0,)]


def test_what_is_checked_out_is_not_checked_out_again_nor_revised_or_withdrawn(world, plan):
    _check_out(world, plan)
    said = RevisionSaid(file_name="x.pdf", revision="P02", status="S3")
    for attempt in (
        lambda: _check_out(world, plan, "marit"),
        lambda: new_revisions.begin_revision(world.context, world.actor("marit"), plan, said, [pdf("x")]),
        lambda: _act(world, withdrawals.withdraw, plan, Withdraw(version=_version(world, plan), reason="r")),
    ):
        with pytest.raises(RuleBroken) as refused:
            attempt()
        assert refused.value.code == "checked_out"


def test_a_broken_check_out_tells_its_holder_why(world, plan):
    _check_out(world, plan)
    with pytest.raises(RuleBroken, match="Say why"):
        _act(world, check_outs.end_check_out, plan, EndCheckOut(version=_version(world, plan)))
    command = EndCheckOut(version=_version(world, plan), reason="Paolo is on leave")
    with pytest.raises(NotAllowed):
        _act(world, check_outs.end_check_out, plan, command, "ottilie")
    _act(world, check_outs.end_check_out, plan, command)
    (mail,) = [payload for key, payload in world.send() if "check_out" in key]
    assert "Paolo is on leave" in str(mail)
    assert "checked_out" not in _findings(world)[1]


def test_one_puts_back_ones_own_without_a_word(world, plan):
    _check_out(world, plan)
    _act(world, check_outs.end_check_out, plan, EndCheckOut(version=_version(world, plan)), "paolo")
    assert _dossier(world, plan).checked_out_by is None
    with pytest.raises(RuleBroken) as refused:
        _act(world, check_outs.end_check_out, plan, EndCheckOut(version=_version(world, plan)))
    assert refused.value.code == "not_checked_out"


def test_withdrawn_it_leaves_the_list_stays_readable_and_comes_back(world, plan):
    with pytest.raises(RuleBroken):
        _act(world, withdrawals.withdraw, plan, Withdraw(version=_version(world, plan), reason=" "))
    _act(world, withdrawals.withdraw, plan, Withdraw(version=_version(world, plan), reason="Replaced by the model"))
    assert world.list().total == 0
    assert [line.withdrawn for line in world.list(filters=[["withdrawn", "yes"]]).lines] == [True]
    dossier = _dossier(world, plan)
    assert (dossier.withdrawn_why, dossier.may) == ("Replaced by the model", ["bring_back", "rename", "move", "change"])
    found = _findings(world)[1]
    assert "Replaced by the model" in found["withdrawn"].words
    _act(world, withdrawals.bring_back, plan, SeenDocument(version=_version(world, plan)))
    assert world.list().total == 1
    with pytest.raises(RuleBroken):
        _act(world, withdrawals.bring_back, plan, SeenDocument(version=_version(world, plan)))


def test_a_withdrawn_document_is_not_sent_round(world):
    document = world.file(name())[0]
    _act(world, withdrawals.withdraw, document[0], Withdraw(version=_version(world, document[0]), reason="r"))
    with pytest.raises(RuleBroken) as refused:
        world.start(document)
    assert refused.value.code == "withdrawn"


def test_a_document_in_a_running_review_is_not_withdrawn(world):
    document = world.file(name())[0]
    world.start(document)
    with pytest.raises(RuleBroken) as refused:
        _act(world, withdrawals.withdraw, document[0], Withdraw(version=_version(world, document[0]), reason="r"))
    assert refused.value.code == "in_review"


def _rename(world, document, number, who="marit"):
    command = RenameDocument(version=_version(world, document), number=number, reason="Level 2 by the new tree")
    _act(world, withdrawals.rename_document, document, command, who)


def test_a_renamed_document_is_found_by_its_old_number_and_keeps_it(world, plan):
    _rename(world, plan, NEW_NUMBER)
    (line,) = world.list(words="0101").lines
    assert (line.number, line.level) == (NEW_NUMBER, "02")
    assert world.list(words="A0155").total == 1
    assert [each.number for each in _dossier(world, plan).former_numbers] == [NUMBER]
    _, found = _findings(world)
    assert (found["renamed"].mend, found["renamed"].weight) == (NEW_NUMBER, "stop")
    (other,) = world.file(name(number=OTHER_NUMBER))
    with pytest.raises(RuleBroken) as refused:
        _rename(world, other[0], NUMBER)
    assert refused.value.code == "number_in_use"
    _rename(world, plan, NUMBER)
    assert [each.number for each in _dossier(world, plan).former_numbers] == [NEW_NUMBER]
    assert world.kinds().count("document_renamed") == 2


@pytest.mark.parametrize(
    ("number", "code"),
    [
        ("BFT-XXX-Z1-02-D-A-0155", "number_breaks_convention"),
        (NUMBER, "number_same"),
        (OTHER_NUMBER, "number_in_use"),
        ("", "number_breaks_convention"),
    ],
)
def test_a_number_that_cannot_be_is_refused(world, plan, number, code):
    world.file(name(number=OTHER_NUMBER))
    with pytest.raises(RuleBroken) as refused:
        _rename(world, plan, number)
    assert refused.value.code == code


def test_an_earlier_revision_comes_back_as_a_new_one_with_a_note(world):
    (first,) = world.file(name())
    world.file(name(revision="P02"))
    document, old = first
    back = BringBackRevision(version=_version(world, document), code="P03", status="S3", reason="P02 was a mistake.")
    _act(world, new_revisions.bring_back_revision, old, back)
    dossier = _dossier(world, document)
    assert [each.code for each in dossier.revisions] == ["P03", "P02", "P01"]
    assert dossier.revisions[0].sha256 == dossier.revisions[2].sha256
    assert dossier.revisions[0].note == "The content of P01 again. P02 was a mistake."
    assert [bool(each.superseded_at) for each in dossier.revisions] == [False, True, True]


@pytest.mark.parametrize(
    ("code", "status", "refusal"),
    [("P02", "S3", "revision_order"), ("P01", "S3", "revision_order"), ("XX", "S3", "revision_order"),
     ("P03", "Z9", "status_unknown")],
)  # fmt: skip
def test_an_earlier_revision_comes_back_only_as_what_follows(world, code, status, refusal):
    (first,) = world.file(name())
    world.file(name(revision="P02"))
    back = BringBackRevision(version=_version(world, first[0]), code=code, status=status, reason="")
    with pytest.raises(RuleBroken) as refused:
        _act(world, new_revisions.bring_back_revision, first[1], back)
    assert refused.value.code == refusal


def test_the_dossier_tells_what_a_revision_changed(world):
    drawn = {"P01": _sheet(), "P02": _sheet(changed=True), "P03": _sheet(changed=True)}
    for code, content in drawn.items():
        world.file(name(revision=code, title="Hall" if code == "P01" else "Quay hall"), content=content)
    world.look()
    document = world.document(NUMBER)[0]
    first, second, third = reversed(_dossier(world, document).revisions)
    read = [
        revision_changes.read_changes(world.context, world.actor("leilani"), each.id) for each in (first, second, third)
    ]
    assert (read[0].against, read[0].drawing) == ("", "")
    assert (read[1].against, read[1].drawing, len(read[1].changes)) == ("P01", "changed", 1)
    assert [(each.name, each.before, each.after) for each in read[1].fields] == [("title", "Hall", "Quay hall")]
    assert (read[2].against, read[2].drawing) == ("P02", "same_file")
    picture = revision_changes.draw_revision_change(world.context, world.press, world.actor("leilani"), second.id, 0)
    assert picture.startswith(b"\x89PNG")
    with pytest.raises(NotFound):
        revision_changes.draw_revision_change(world.context, world.press, world.actor("leilani"), second.id, 1)


def _sheet(*, changed=False):
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(420 * mm, 297 * mm), invariant=1)
    canvas.rect(50 * mm, 50 * mm, 200 * mm, 150 * mm)
    if changed:
        canvas.line(100 * mm, 100 * mm, 140 * mm, 100 * mm)
        in_cloud(canvas, 92, 92, 56, 16)
    canvas.showPage()
    canvas.save()
    return out.getvalue()

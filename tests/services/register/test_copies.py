"""Copies in folders (handbook §8): who sees the folder alone sees that revision there, and nothing that came later."""

import json

import pypdfium2 as pdfium
import pytest

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.services.access import folders
from nod.services.acts.replays import table_faults
from nod.services.marks import marks_view, prints, scales
from nod.services.register import (
    changes,
    documents,
    folder_packs,
    search,
    withdrawals,
)
from nod.services.reviews.endings import EndGiven
from nod.services.sheet import sheets
from nod.services.trail import trail
from nod.services.trail.trail import TrailView
from tests.services.access.test_access import _change as change_access
from tests.services.reviews.test_ends import _route as route_with
from tests.services.reviews.test_route_editing import start_on
from tests.world import NUMBER, OTHER_NUMBER, name, pdf

SITE = "Temporary works"
RENAMED = "BFT-TRA-Z1-00-D-A-0199"


@pytest.fixture
def site(world):
    """Leilani sees one folder and nothing else; a route copies there what is accepted."""
    change_access(world, "person", world.cast.people["leilani"], "", "none")
    change_access(world, "person", world.cast.people["leilani"], SITE, "mark")
    world.copying = route_with(world, {code: _copying(world, status=to) for code, to in (("A", "A1"), ("B", "B1"))})
    return world


def _copying(world, **more):
    return EndGiven(copy_to=world.cast.folders[SITE], **more)


def _accept(world, *documents, verdict="A", route=""):
    review = start_on(world, route or world.copying, *documents)
    world.hand_in(review, "rafael", verdict)
    return review


def _lines(world, who="leilani", **view):
    return [(each.number, each.revision, each.release) for each in world.list(who, **view).lines]


def _copy(world, number=NUMBER):
    """Its document and the revision that lies there."""
    return world.sql("SELECT id, revision_id FROM document WHERE copy_of != '' AND number = ?", number)[0]


def _version(world, document_id):
    return world.sql("SELECT version FROM document WHERE id = ?", document_id)[0][0]


def test_who_sees_the_folder_alone_sees_the_accepted_revision_and_nothing_that_comes_later(site):
    filed = site.file(name(revision="C01"), name(OTHER_NUMBER))
    assert _lines(site) == []
    review = start_on(site, site.copying, *filed)
    site.hand_in(review, "rafael", "A", **{f"n{OTHER_NUMBER[-4:]}": "C"})
    assert _lines(site) == [(NUMBER, "C01", "same")]
    site.file(name(revision="C02", title="Quay hall plan, wider"))
    assert _lines(site) == [(NUMBER, "C01", "same")]
    document, revision = _copy(site)
    dossier = documents.read_document(site.context, site.actor("leilani"), document)
    assert (dossier.line.title, dossier.line.is_copy, dossier.line.verdict) == ("Quay hall plan", True, "A")
    assert (dossier.copy_here.why, dossier.copy_here.revision) == ("RV-0001, verdict A", "C01")
    assert [(each.code, each.verdict, each.standing.kind) for each in dossier.revisions] == [("C01", "A", "in_force")]
    assert dossier.reviews == []
    sheet = sheets.read_sheet(site.context, site.actor("leilani"), revision)
    assert (sheet.revision, sheet.latest_revision, sheet.copy_why) == ("C01", "C01", "RV-0001, verdict A")
    for hidden in filed:
        with pytest.raises(NotFound):
            documents.read_document(site.context, site.actor("leilani"), hidden[0])
        with pytest.raises(NotFound):
            sheets.read_sheet(site.context, site.actor("leilani"), hidden[1])
    assert list(table_faults(site.context.database)) == []


def test_who_sees_both_sees_one_document_and_where_it_is_besides(site):
    (filed,) = site.file(name(revision="C01"))
    _accept(site, filed)
    for who in ("marit", "rafael"):
        (line,) = site.list(who).lines
        assert (line.id, line.is_copy) == (filed[0], False)
        assert [(each.folder.split(" / ")[-1], each.revision, each.why) for each in line.also_in] == [
            (SITE, "C01", "RV-0001, verdict A")
        ]
        in_folder = site.list(who, filters=[["folder", "is", site.cast.folders[SITE]]])
        assert ([each.id for each in in_folder.lines], in_folder.total) == ([filed[0]], 1)
        found = search.search(site.context, site.actor(who), site.project_id, "quay hall", 10)
        assert [each.document_id for each in found.documents] == [filed[0]]
        assert {each.document_id for each in found.sheets} <= {filed[0]}
    # Anouk sees the drawings and not the folder: to her there is no copy.
    assert site.list("anouk").lines[0].also_in == []
    (shown,) = [each for each in folders.list_folders(*_as(site, "marit")) if each.name == SITE]
    assert shown.documents == 1


def _as(world, who):
    return world.context, world.actor(who), world.project_id


def test_the_copy_is_found_and_taken_away_like_a_document(site):
    _accept(site, *site.file(name(revision="C01")))
    document, revision = _copy(site)
    found = search.search(site.context, site.actor("leilani"), site.project_id, "quay hall", 10)
    assert [each.document_id for each in found.documents] == [document]
    sent = documents.download_revision(site.context, site.actor("leilani"), revision)
    assert sent.name == f"{NUMBER}_C01_A1.pdf"
    size = folder_packs.read_size(site.context, site.actor("leilani"), site.cast.folders[SITE], "latest")
    assert size.files == 1


def test_the_next_accepted_revision_takes_its_place_and_one_that_comes_late_does_not(site):
    (first,) = site.file(name(revision="C01"))
    late = start_on(site, site.copying, first)
    (second,) = site.file(name(revision="C02", title="Second"))
    _accept(site, second, verdict="B")
    assert _lines(site) == [(NUMBER, "C02", "same")]
    site.hand_in(late, "rafael", "A")
    assert _lines(site) == [(NUMBER, "C02", "passed" if _in_force(site) == "C01" else "same")]
    (third,) = site.file(name(revision="C03", title="Third"))
    _accept(site, third)
    dossier = documents.read_document(site.context, site.actor("leilani"), _copy(site)[0])
    assert [(each.code, each.standing.kind) for each in dossier.revisions] == [
        ("C03", "in_force"), ("C02", "superseded"),
    ]  # fmt: skip
    assert list(table_faults(site.context.database)) == []


def _in_force(world, number=NUMBER):
    return world.sql("SELECT in_force FROM document WHERE number = ? AND copy_of = ''", number)[0][0]


def test_what_is_in_force_of_it_follows_whatever_lies_there(site):
    """A later one that takes its place while another is in force is superseded, too, and says so since then."""
    (first,) = site.file(name(revision="C01"))
    late = start_on(site, site.copying, first)
    site.hand_in(late, "rafael", "A")
    (second,) = site.file(name(revision="C02", title="Second"))
    plain = route_with(site, {"A": _copying(site)}, named="Without a status")
    review = start_on(site, plain, second)
    (third,) = site.file(name(revision="C03", title="Third"))
    site.set_status(third[1], "A1")
    site.hand_in(review, "rafael", "A")
    lying, in_force, since = site.sql(
        "SELECT r.code, d.in_force_id, r.superseded_at FROM document d JOIN revision r ON r.id = d.revision_id"
        " WHERE d.copy_of != ''"
    )[0]
    assert (lying, in_force, bool(since), _lines(site)[0][2]) == ("C02", "", True, "passed")


def test_accepted_once_more_it_says_so_and_is_there_once(site):
    (filed,) = site.file(name(revision="C01"))
    _accept(site, filed, verdict="B")
    _accept(site, filed, verdict="A")
    (line,) = site.list("leilani").lines
    assert (line.verdict, line.status) == ("A", "A1")
    assert site.sql("SELECT count(*) FROM revision WHERE copied_from != ''") == [(1,)]
    # A later verdict on it elsewhere is not known here.
    other = route_with(site, {}, named="Elsewhere")
    _accept(site, filed, verdict="C", route=other)
    assert site.list("leilani").lines[0].verdict == "A"


def test_what_is_put_in_force_elsewhere_is_told_of_the_copy_and_not_which_it_is(site):
    (first,) = site.file(name(revision="C01"))
    _accept(site, first)
    (second,) = site.file(name(revision="C02", title="Second"))
    site.set_status(second[1], "A1")
    assert _lines(site) == [(NUMBER, "C01", "passed")]
    sheet = sheets.read_sheet(site.context, site.actor("leilani"), _copy(site)[1])
    assert (sheet.standing.kind, "C02" in sheet.standing.words) == ("superseded", False)
    site.set_status(second[1], "S3")
    assert _lines(site) == [(NUMBER, "C01", "same")]
    said = trail.read_log(site.context, site.actor("leilani"), TrailView(project_id=site.project_id))
    assert [each.kind for each in said.entries][:3] == ["in_force_changed", "in_force_changed", "in_force_changed"]
    assert all("C02" not in json.dumps(each.model_dump(mode="json")) for each in said.entries)


def test_the_trail_says_it_to_who_sees_the_folder_and_to_who_sees_both(site):
    (filed,) = site.file(name(revision="C01"))
    _accept(site, filed)

    def kinds(who, subject):
        page = trail.read_log(site.context, site.actor(who), TrailView(project_id=site.project_id, subject_id=subject))
        return {each.kind for each in page.entries}

    assert kinds("leilani", _copy(site)[0]) == {"copy_put", "in_force_changed"}
    assert "copied" in kinds("marit", filed[0])
    assert "copied" not in kinds("anouk", filed[0])


def test_a_print_of_it_has_its_verdict_and_tells_whether_another_is_in_force(site):
    (filed,) = site.file(name(revision="C01"))
    _accept(site, filed)
    # A later verdict on the same revision is not known here.
    _accept(site, filed, verdict="C", route=route_with(site, {}, named="Elsewhere"))
    copied = _copy(site)[1]
    made = prints.print_sheet(site.context, site.press, site.actor("leilani"), copied, "own", with_marks=True)
    words = pdfium.PdfDocument(made.content)[0].get_textpage().get_text_bounded()
    assert "A proceed" in " ".join(words.split())
    assert "RV-0001, 09 Mar 2027" in words
    (code,) = site.sql("SELECT code FROM print_code")[0]
    assert prints.is_still_in_force(site.context, code).kind == "in_force"
    (second,) = site.file(name(revision="C02", title="Second"))
    site.set_status(second[1], "A1")
    told = prints.is_still_in_force(site.context, code)
    assert (told.kind, told.revision, told.in_force) == ("passed", "C01", "")


def test_its_ink_comes_along_if_asked_for_and_no_more_of_it_later(site):
    route = route_with(site, {"A": _copying(site, with_marks=True)}, named="With marks")
    (filed,) = site.file(name(revision="C01"))
    cloud, pencil = site.draw(filed[1], who="saoirse", text="Move the door"), site.draw(filed[1], who="saoirse")
    site.ink(filed[1], cloud, who="saoirse")
    site.reply(cloud, "Moved.")
    _accept(site, filed, route=route)
    copied = _copy(site)[1]

    def seen():
        return [
            (each.text, each.author.name, [reply.text for reply in each.replies])
            for each in marks_view.list_marks(site.context, site.actor("leilani"), copied)
        ]

    assert seen() == [("Move the door", "Saoirse Tanaka", ["Moved."])]
    site.reply(cloud, "Not where I meant.")
    site.ink(filed[1], pencil, who="saoirse")
    assert seen() == [("Move the door", "Saoirse Tanaka", ["Moved."])]
    hits = search.search(site.context, site.actor("marit"), site.project_id, "door", 10).marks
    assert [each.revision_id for each in hits] == [filed[1]]
    # Those of the site mark on what lies there.
    site.ink(copied, site.draw(copied, text="Two doors here"), who="leilani")
    assert len(seen()) == 2
    hits = search.search(site.context, site.actor("marit"), site.project_id, "two doors", 10).marks
    assert [each.revision_id for each in hits] == [copied]
    assert list(table_faults(site.context.database)) == []


def test_a_copy_measures_as_its_document_did(site):
    (filed,) = site.file(name(revision="C01"))
    scales.set_scale(site.context, site.actor("saoirse"), filed[1], scales.SetScale(page=0, ratio="1:50"))
    _accept(site, filed)
    copied = _copy(site)[1]
    assert site.sql("SELECT said FROM scale WHERE revision_id = ?", copied) == [("1:50",)]
    entry = site.sql("SELECT body FROM audit_entry WHERE kind = 'scale_set' ORDER BY seq DESC")[0][0]
    assert copied.encode() in entry
    scales.set_scale(site.context, site.actor("leilani"), copied, scales.SetScale(page=0, ratio="1:20"))
    _accept(site, filed, verdict="B")
    standing = "SELECT said FROM scale WHERE revision_id = ? AND removed_at IS NULL"
    assert site.sql(standing, copied) == [("1:20",)]


def test_without_being_asked_for_no_ink_comes_along(site):
    (filed,) = site.file(name(revision="C01"))
    site.ink(filed[1], site.draw(filed[1], who="saoirse"), who="saoirse")
    _accept(site, filed)
    assert marks_view.list_marks(site.context, site.actor("leilani"), _copy(site)[1]) == []


def test_a_copy_is_called_and_withdrawn_and_brought_back_as_its_document_is(site):
    (filed,) = site.file(name(revision="C01"))
    _accept(site, filed)
    marit = site.actor("marit")
    command = withdrawals.RenameDocument(version=_version(site, filed[0]), number=RENAMED, reason="a wrong zone")
    withdrawals.rename_document(site.context, marit, filed[0], command)
    assert _lines(site) == [(RENAMED, "C01", "same")]
    assert [each.number for each in site.list("leilani", words=NUMBER).lines] == [RENAMED]
    command = withdrawals.Withdraw(version=_version(site, filed[0]), reason="not built")
    withdrawals.withdraw(site.context, marit, filed[0], command)
    assert _lines(site) == []
    seen = withdrawals.SeenDocument(version=_version(site, filed[0]))
    withdrawals.bring_back(site.context, marit, filed[0], seen)
    assert _lines(site) == [(RENAMED, "C01", "same")]
    assert list(table_faults(site.context.database)) == []


def test_a_copy_is_taken_out_of_its_folder_alone_and_stays_out_until_the_next(site):
    (filed,) = site.file(name(revision="C01"))
    _accept(site, filed)
    document, _ = _copy(site)
    marit = site.actor("marit")
    assert documents.read_document(site.context, marit, document).may == ["withdraw"]
    command = withdrawals.Withdraw(version=_version(site, document), reason="the wrong folder")
    withdrawals.withdraw(site.context, marit, document, command)
    assert _lines(site) == []
    # It is found again from its document.
    assert [(each.document_id, each.taken_out) for each in site.list("marit").lines[0].also_in] == [(document, True)]
    assert _in_force(site) == "C01"
    # It is no matter of its document's being withdrawn and brought back.
    command = withdrawals.Withdraw(version=_version(site, filed[0]), reason="not built")
    withdrawals.withdraw(site.context, marit, filed[0], command)
    with pytest.raises(RuleBroken):
        seen = withdrawals.SeenDocument(version=_version(site, document))
        withdrawals.bring_back(site.context, marit, document, seen)
    seen = withdrawals.SeenDocument(version=_version(site, filed[0]))
    withdrawals.bring_back(site.context, marit, filed[0], seen)
    assert _lines(site) == []
    (second,) = site.file(name(revision="C02", title="Second"))
    _accept(site, second)
    assert _lines(site) == [(NUMBER, "C02", "same")]
    assert list(table_faults(site.context.database)) == []


def test_who_comes_to_see_where_it_lies_sees_the_document_instead(site):
    (filed,) = site.file(name(revision="C01"))
    _accept(site, filed)
    change = changes.DocumentChange(
        id=filed[0], version=_version(site, filed[0]), values={"folder": site.cast.folders["Marine"]}
    )
    command = changes.ChangeDocuments(project_id=site.project_id, changes=[change])
    changes.change_documents(site.context, site.actor("marit"), command)
    assert [each.id for each in site.list("leilani").lines] == [_copy(site)[0]]
    change_access(site, "person", site.cast.people["leilani"], "Marine", "read")
    assert [each.id for each in site.list("leilani").lines] == [filed[0]]


def test_the_number_is_the_documents_for_whoever_files(site):
    """A copy in a folder that one sees is no place to file to, and stands in nobody's way."""
    (filed,) = site.file(name(revision="C01"))
    _accept(site, filed)
    site.file(name(revision="C02", title="Second"))
    assert site.sql("SELECT count(*) FROM document WHERE number = ?", NUMBER) == [(2,)]
    assert site.sql("SELECT revision FROM document WHERE id = ?", filed[0]) == [("C02",)]
    outcomes = site.register(site.arrive({name(revision="C02", title="Second"): pdf("again")}))
    assert [each.result for each in outcomes] == ["held"]

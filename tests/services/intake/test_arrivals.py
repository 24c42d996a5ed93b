"""What Intake finds out by itself, and what people do about it: title blocks, sets, archives, silent changes."""

import io
import stat
import zipfile

import pikepdf
import pytest
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from nod.core.acts.refusals import NotFound, RuleBroken, Stale
from nod.services.intake import arrival_look, block_readers, held_files, intake, split_sets
from nod.services.intake.block_readers import KeepReader, TryReader, ZoneShown
from nod.services.register import documents
from tests.world import NUMBER, bytes_of, name, pdf

A3 = (420.0, 297.0)
CELLS = ("number", "revision", "title", "status")


def sheet(number=NUMBER, revision="P01", title="Quay hall plan", status="S3", extra=(), size=A3, pages=None):
    """A sheet with a title block in the lower right corner, a cell of 14 mm a field; `extra` are lines (mm)."""
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(size[0] * mm, size[1] * mm), invariant=1)
    for each in pages or [(number, revision, title, status)]:
        for place, value in enumerate(each):
            x, y = (size[0] - 100) * mm, (10 + place * 14) * mm
            canvas.rect(x, y, 90 * mm, 14 * mm)
            canvas.setFont("Helvetica", 11)
            canvas.drawString(x + 2 * mm, y + 3 * mm, value)
        canvas.rect(40 * mm, 60 * mm, 150 * mm, 150 * mm)
        for x0, y0, x1, y1 in extra:
            canvas.line(x0 * mm, y0 * mm, x1 * mm, y1 * mm)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


ZONES = [
    ZoneShown(field=field, corner="lower right", across_mm=10, down_mm=10 + 14 * place, width_mm=90, height_mm=14)
    for place, field in enumerate(CELLS)
]


@pytest.fixture
def reader(world):
    """The project's reader for A3 sheets, drawn over a batch of its own."""

    def draw(batch_id, zones=ZONES, reader_id="", version=0):
        command = KeepReader(
            batch_id=batch_id, reader_id=reader_id, version=version, name="Tallow Reed, A3", company="Tallow Reed",
            width_mm=A3[0], height_mm=A3[1], zones=zones,
        )  # fmt: skip
        kept = block_readers.keep_reader(world.context, world.actor("marit"), command)
        world.look()
        return kept

    return draw


def _codes(arrival):
    return {each.code for each in arrival.findings}


def test_a_reader_that_is_drawn_reads_every_file_of_the_batch(world, reader):
    numbers = [f"BFT-TRA-Z1-01-D-A-010{place}" for place in range(4)]
    batch_id = world.arrive({f"scan{place}.pdf": sheet(number) for place, number in enumerate(numbers)})
    tried = block_readers.try_reader(
        world.context, world.actor("marit"), batch_id, TryReader(width_mm=A3[0], height_mm=A3[1], zones=ZONES)
    )
    assert (tried.read_well, tried.other_sizes, len(tried.pages)) == (4, 0, 4)
    reader(batch_id)
    arrivals = world.batch(batch_id).arrivals
    assert [each.number for each in arrivals] == numbers
    assert {(each.revision, each.title, each.status) for each in arrivals} == {("P01", "Quay hall plan", "S3")}
    assert {each.result for each in world.register(batch_id)} == {"registered"}


def test_failures_come_first_when_zones_are_tried(world):
    batch_id = world.arrive(
        {"a.pdf": sheet(), "b.pdf": sheet(number="", title="n/a"), "c.pdf": pdf(size_mm=(210, 297))}
    )
    command = TryReader(width_mm=A3[0], height_mm=A3[1], zones=ZONES)
    tried = block_readers.try_reader(world.context, world.actor("marit"), batch_id, command)
    assert [(each.file_name, each.failed) for each in tried.pages] == [("b.pdf", 2), ("a.pdf", 0)]
    assert tried.pages[0].fields["title"].why == "It says “n/a”, which is no value."
    assert tried.other_sizes == 1


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"width_mm": 0.0}, "zone_size"),
        ({"across_mm": 1e9}, "zone_size"),
        ({"field": "colour"}, "zone_field"),
        ({"pattern": "((A))"}, "pattern_unknown"),
        ({"pattern": ")A("}, "pattern_unknown"),
    ],
)
def test_zones_that_make_no_sense_are_refused(world, reader, change, code):
    batch_id = world.arrive({"a.pdf": sheet()})
    with pytest.raises(RuleBroken) as refused:
        reader(batch_id, [ZONES[0].model_copy(update=change)])
    assert refused.value.code == code
    with pytest.raises(RuleBroken):
        reader(batch_id, [])


def test_the_witnesses_disagree_until_somebody_chooses(world, reader):
    batch_id = world.arrive({name(revision="P02", title="Quay_hall PLAN"): sheet(revision="P01")})
    reader(batch_id)
    (arrival,) = world.batch(batch_id).arrivals
    (finding,) = [each for each in arrival.findings if each.code == "witnesses_disagree"]
    assert (finding.weight, finding.field, finding.mend) == ("stop", "revision", "P01")
    assert finding.words == "The file name says revision “P02”, the title block “P01”."
    assert arrival.title == "Quay hall plan"
    undo = world.correct(arrival, taken={"revision": "title block"}, revision="P01")
    (arrival,) = world.batch(batch_id).arrivals
    assert ("witnesses_disagree" in _codes(arrival), arrival.revision) == (False, "P01")
    assert '"taken":{"revision":"title block"}' in _last_body(world, "reading_corrected")
    world.undo(batch_id, undo)
    (arrival,) = world.batch(batch_id).arrivals
    assert ("witnesses_disagree" in _codes(arrival), arrival.revision) == (True, "P02")


def _last_body(world, kind):
    return world.sql("SELECT body FROM audit_entry WHERE kind = ? ORDER BY seq DESC LIMIT 1", kind)[0][0].decode()


def test_what_was_typed_over_a_reading_is_learned_and_taken_back(world, reader):
    batch_id = world.arrive({"a.pdf": sheet(status="SX3")})
    reader(batch_id)
    (arrival,) = world.batch(batch_id).arrivals
    undo = world.correct(arrival, status="S3")
    assert '"learned by the reader":"status"' in _last_body(world, "reading_corrected")
    again = world.arrive({"b.pdf": sheet("BFT-TRA-Z1-01-D-A-0102", status="SX3")})
    (second,) = world.batch(again).arrivals
    status = next(each for each in second.witnesses if each.field == "status")
    assert (second.status, status.learned) == ("S3", True)
    world.undo(batch_id, undo)
    third = world.arrive({"c.pdf": sheet("BFT-TRA-Z1-01-D-A-0103", status="SX3")})
    assert world.batch(third).arrivals[0].status == "SX3"


def test_many_files_are_corrected_in_one_act_or_not_at_all(world):
    batch_id = world.arrive({f"{place}.pdf": pdf(str(place)) for place in range(3)})
    arrivals = world.batch(batch_id).arrivals
    undo = world.correct(*arrivals, title="Plan", status="S2")
    assert {each.title for each in world.batch(batch_id).arrivals} == {"Plan"}
    stale = [*world.batch(batch_id).arrivals[:2], arrivals[2]]
    with pytest.raises(Stale):
        world.correct(*stale, title="Other")
    assert {each.title for each in world.batch(batch_id).arrivals} == {"Plan"}
    world.undo(batch_id, undo)
    assert [each.title for each in world.batch(batch_id).arrivals] == [each.title for each in arrivals]
    with pytest.raises(RuleBroken):
        world.correct(world.batch(batch_id).arrivals[0], colour="red")


PAGES = [(f"BFT-TRA-Z1-01-D-A-010{place}", "P01", f"Plan {place}", "S3") for place in range(5)]


def test_a_set_is_taken_apart_by_itself_and_can_be_put_back(world, reader):
    batch_id = world.arrive({"issue.pdf": sheet(pages=PAGES)})
    arrivals = world.arrivals(batch_id)
    whole = arrivals.pop("issue.pdf")
    assert (whole.state, whole.reason) == ("split", "Taken apart into 5 sheets.")
    assert [each.number for each in arrivals.values()] == [each[0] for each in PAGES]
    assert next(iter(arrivals)) == "issue, page 1.pdf"
    assert {each.sheet_size for each in arrivals.values()} == {"A3"}
    assert all(each.id in _last_body(world, "set_split") for each in arrivals.values())
    reader(batch_id)
    assert [each.title for each in world.batch(batch_id).arrivals if each.split_from] == [each[2] for each in PAGES]
    together = split_sets.SeenArrival(version=whole.version)
    split_sets.put_together(world.context, world.actor("marit"), whole.id, together)
    world.look()
    (again,) = world.batch(batch_id).arrivals
    assert (again.state, again.page_count, again.sheets_inside) == ("waiting", 5, 0)
    split_sets.ask_split(world.context, world.actor("marit"), again.id, split_sets.SeenArrival(version=again.version))
    world.look()
    assert {each.result for each in world.register(batch_id)} == {"registered"}
    with pytest.raises(RuleBroken) as refused:
        current = world.arrivals(batch_id)["issue.pdf"]
        split_sets.put_together(
            world.context, world.actor("marit"), current.id, split_sets.SeenArrival(version=current.version)
        )
    assert refused.value.code == "set_in_use"


def test_a_report_that_names_many_drawings_stays_whole(world):
    """Every page names other drawings here and there; none carries a number in the same place."""
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(210 * mm, 297 * mm), invariant=1)
    for place in range(6):
        canvas.drawString((20 + place * 17) * mm, (250 - place * 31) * mm, f"see BFT-TRA-Z1-01-D-A-010{place}")
        canvas.showPage()
    canvas.save()
    batch_id = world.arrive({"report.pdf": out.getvalue()})
    (arrival,) = world.batch(batch_id).arrivals
    assert (arrival.state, arrival.page_count, arrival.sheets_inside) == ("waiting", 6, 0)


def _resaved(content):
    out = io.BytesIO()
    with pikepdf.open(io.BytesIO(content)) as made:
        made.docinfo["/Producer"] = "Saved again"
        made.save(out)
    return out.getvalue()


def test_the_same_drawing_saved_again_is_told_as_such(world):
    content = sheet()
    world.file(name(), content=content)
    batch_id = world.arrive({name(): _resaved(content)})
    (arrival,) = world.batch(batch_id).arrivals
    assert [(each.weight, each.code) for each in arrival.findings] == [("same", "only_saved_again")]
    assert [each.result for each in world.register(batch_id)] == ["already_there"]


def test_a_silent_change_is_counted_and_shown(world):
    world.file(name(), content=sheet())
    batch_id = world.arrive({name(): sheet(extra=[(80, 100, 110, 100)])})
    (arrival,) = world.batch(batch_id).arrivals
    (finding,) = arrival.findings
    assert finding.code == "silent_change"
    assert "It differs at 1 place." in finding.words
    assert (arrival.compared.strict, arrival.compared.places) == (True, 1)
    look = arrival_look.look_at_arrival(world.context, world.actor("marit"), arrival.id)
    (change,) = look.changes
    assert change.box == pytest.approx((80, A3[1] - 100, 110, A3[1] - 100), abs=0.6)
    picture = arrival_look.draw_change(world.context, world.press, world.actor("marit"), arrival.id, 0)
    assert picture.startswith(b"\x89PNG")
    with pytest.raises(NotFound):
        arrival_look.draw_change(world.context, world.press, world.actor("marit"), arrival.id, 1)
    with pytest.raises(NotFound):
        arrival_look.look_at_arrival(world.context, world.actor("yusuf"), arrival.id)


def test_a_new_revision_is_compared_with_the_current_one(world, reader):
    world.file(name(), content=sheet())
    batch_id = world.arrive(
        {name(revision="P02"): sheet(revision="P02", extra=[(80, 100, 110, 100), (60, 150, 60, 170)])}
    )
    reader(batch_id)
    (arrival,) = world.batch(batch_id).arrivals
    words = [each.words for each in arrival.findings if each.code == "changed_outside_clouds"]
    assert words == ["Changed at 2 places, 2 of them without a revision cloud."]
    same = world.arrive({name(revision="P03"): sheet(revision="P03")})
    assert "nothing_changed" in _codes(world.batch(same).arrivals[0])


def _zip(**files):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as pack:
        for path, content in files.items():
            pack.writestr(path, content)
    return out.getvalue()


def test_an_archive_becomes_its_files_with_their_folders(world):
    packed = _zip(
        **{f"Issue 3/Plans/{name()}": pdf("a"), "Issue 3/list.xlsx": b"PK\x03\x04 no sheet", "../../x.pdf": b"x"}
    )
    batch_id = world.arrive({"issue.zip": packed})
    arrivals = world.arrivals(batch_id)
    archive = arrivals.pop("issue.zip")
    assert archive.state == "unpacked"
    assert archive.reason == "2 files taken out. Refused: “../../x.pdf” (its path leads out of the archive)."
    assert {each.file_name: each.folder_path for each in arrivals.values()} == {
        name(): "Issue 3/Plans",
        "list.xlsx": "Issue 3",
    }
    folder = world.cast.folders["Drawings"]
    change = intake.ChangeBatch(folder_id=folder, keep_tree=True)
    intake.change_batch(world.context, world.actor("marit"), batch_id, change)
    assert world.batch(batch_id).line.has_tree
    world.register(batch_id)
    dossier = documents.read_document(world.context, world.actor("marit"), world.document(NUMBER)[0])
    assert dossier.folder == "Drawings / Issue 3 / Plans"
    assert world.sql("SELECT count(*) FROM folder WHERE name = 'Plans'") == [(1,)]


def _link(path, to):
    info = zipfile.ZipInfo(path)
    info.external_attr = (stat.S_IFLNK | 0o777) << 16
    return info, to


def _bomb():
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as pack:
        pack.writestr("big.pdf", b"\0" * 200_000_000)
    return out.getvalue()


def _crowd(count):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as pack:
        for place in range(count):
            pack.writestr(f"{place}", b"")
    return out.getvalue()


@pytest.mark.parametrize(
    ("packed", "words"),
    [
        (_bomb, "swells to many times its size"),
        (lambda: _crowd(100_000), "holds 100,000 files; at most 5,000"),
        (lambda: _zip(a=b"x")[:-10], "is broken and cannot be unpacked"),
    ],
)
def test_an_archive_built_to_do_harm_is_refused_in_words_and_the_next_one_works(world, packed, words):
    batch_id = world.arrive({"bad.zip": packed()})
    (arrival,) = world.batch(batch_id).arrivals
    assert arrival.weight == "stop"
    assert words in arrival.findings[0].words
    assert [each.state for each in world.arrivals(world.arrive({"good.zip": _zip(**{name(): pdf()})})).values()] == [
        "unpacked",
        "waiting",
    ]


def test_links_and_odd_names_in_an_archive_are_refused_one_by_one(world):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as pack:
        pack.writestr(*_link("plan.pdf", "/etc/passwd"))
        pack.writestr("C:/windows/x.pdf", b"x")
        pack.writestr("..\\..\\y.pdf", b"x")
        pack.writestr("bell\x07.pdf", b"x")
        pack.writestr(name(), pdf())
    arrivals = world.arrivals(world.arrive({"odd.zip": out.getvalue()}))
    assert set(arrivals) == {"odd.zip", name()}
    reason = arrivals["odd.zip"].reason
    for words in ("it is a link, not a file", "its path leads out", "cannot be shown"):
        assert words in reason


def test_files_that_are_no_sheets_are_filed_as_they_are(world):
    model = b"ISO-10303-21;\nHEADER;"
    batch_id = world.arrive({name().replace(".pdf", ".ifc"): model})
    (arrival,) = world.batch(batch_id).arrivals
    assert _codes(arrival) == {"not_a_sheet", "new_number"}
    assert [each.result for each in world.register(batch_id)] == ["registered"]
    assert world.sql("SELECT kind FROM document") == [("model",)]
    sent = documents.download_revision(world.context, world.actor("marit"), world.document(NUMBER)[1])
    assert (bytes_of(sent), sent.name.rpartition(".")[2]) == (model, "ifc")


def test_files_are_sent_back_with_what_was_found(world):
    batch_id = world.arrive({"nonsense.pdf": pdf("a"), name(): pdf("b")})
    world.register(batch_id)
    (held,) = held_files.list_held(world.context, world.actor("marit"), world.project_id)
    assert (held.file_name, held.days) == ("nonsense.pdf", 0)
    senders = held_files.list_senders(world.context, world.actor("marit"), batch_id).people
    # Its author's company first, by the number; never oneself before others.
    assert senders[0].company == "TRA"
    assert senders[-1].id == world.cast.people["marit"]
    command = held_files.SendBack(
        seen={held.id: held.version}, person_id=world.cast.people["saoirse"], note="Two sheets are missing."
    )
    held_files.send_back(world.context, world.actor("marit"), batch_id, command)
    ((_, mail),) = world.send()
    assert mail["to_email"] == "saoirse@tallowreed.example"
    assert "nonsense.pdf" in mail["text"]
    assert "No number was found" in mail["text"]
    assert "Two sheets are missing." in mail["text"]
    state = world.arrivals(batch_id)["nonsense.pdf"]
    assert (state.state, state.reason.startswith("Sent back to Saoirse Tanaka.")) == ("sent_back", True)
    assert held_files.list_held(world.context, world.actor("marit"), world.project_id) == []
    assert world.kinds()[-1] == "file_sent_back"
    with pytest.raises(RuleBroken):
        held_files.send_back(world.context, world.actor("marit"), batch_id, command)

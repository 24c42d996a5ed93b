"""Registering a batch: several files of one revision, history, from whom, into a set, and whom to tell."""

import io
import json
import zipfile
from datetime import date, timedelta

import pytest

from nod.core.acts.refusals import NotFound, RuleBroken, Stale
from nod.services.intake import intake, registering
from nod.services.intake.from_whom import CameFrom
from nod.services.intake.telling import Tell
from nod.services.notices import unread
from nod.services.register import chosen, documents, drawing_sets, folder_packs
from tests.world import NUMBER, OTHER_NUMBER, name, pdf

DWG = b"AC1032 the drawing itself"


def native(file_name):
    return file_name.replace(".pdf", ".dwg")


def register(world, batch_id, who="marit", **more):
    seen = {each.id: each.version for each in world.batch(batch_id, who).arrivals if each.state in ("waiting", "held")}
    command = registering.RegisterBatch(seen=seen, **more)
    return registering.register_batch(world.context, world.actor(who), batch_id, command)


def dossier(world, number=NUMBER):
    return documents.read_document(world.context, world.actor("marit"), world.document(number)[0])


def test_a_pdf_and_its_native_are_one_revision(world):
    batch = world.arrive({native(name()): DWG, name(): pdf()})
    there = world.arrivals(batch)
    assert there[name()].findings[0].code == "new_number"
    assert [(each.code, each.weight) for each in there[native(name())].findings] == [("goes_with", "fine")]
    assert (there[native(name())].kind, there[native(name())].goes_with) == ("DWG", name())
    assert {each.result for each in register(world, batch).outcomes} == {"registered"}
    (revision,) = dossier(world).revisions
    assert (revision.kind, revision.file_name, [each.kind for each in revision.renditions]) == ("PDF", name(), ["DWG"])
    (line,) = world.list().lines
    assert line.file_kinds == "PDF, DWG"
    # And it can be had back as it came, which the trail keeps.
    rendition = revision.renditions[0]
    sent = documents.download_rendition(world.context, world.actor("leilani"), rendition.id)
    with sent.content as path:
        assert path.read_bytes() == DWG
    assert sent.name == f"{NUMBER}_P01_S3.dwg"
    assert world.sql("SELECT count(*) FROM audit_entry WHERE kind = 'rendition_downloaded'") == [(1,)]


def test_a_folder_as_a_zip_holds_every_file_of_a_revision(world):
    register(world, world.arrive({name(): pdf(), native(name()): DWG}))
    actor, folder = world.actor("marit"), world.cast.folders[""]
    size = folder_packs.read_size(world.context, actor, folder, revisions="latest")
    assert (size.files, size.size_bytes) == (2, len(pdf()) + len(DWG))
    ask = folder_packs.AskPack(folder_id=folder, revisions="latest", names_as_came=False)
    pack = folder_packs.ask_pack(world.context, actor, ask)
    world.send()
    with folder_packs.download_pack(world.context, actor, pack.id).content as path, zipfile.ZipFile(path) as made:
        assert sorted(made.namelist()) == [f"{NUMBER}_P01_S3.dwg", f"{NUMBER}_P01_S3.pdf"]


def test_two_natives_with_one_pdf_are_held_and_the_pdf_is_filed(world):
    names = (name(), native(name()), native(name(title="Another")))
    batch = world.arrive(dict(zip(names, (pdf(), DWG, DWG + b"2"), strict=True)))
    done = {each.file_name: each.result for each in register(world, batch).outcomes}
    assert done == dict(zip(names, ("registered", "held", "held"), strict=True))
    assert [each.renditions for each in dossier(world).revisions] == [[]]


def test_a_native_that_comes_later_joins_its_revision(world):
    world.file(name())
    batch = world.arrive({native(name()): DWG})
    assert world.arrivals(batch)[native(name())].findings[0].code == "adds_rendition"
    register(world, batch)
    (revision,) = dossier(world).revisions
    assert [each.kind for each in revision.renditions] == ["DWG"]
    # The same again is there already; another is a silent change.
    again = world.arrive({native(name()): DWG})
    assert world.arrivals(again)[native(name())].weight == "same"
    other = world.arrive({native(name()): DWG + b"!"})
    assert world.arrivals(other)[native(name())].findings[0].code == "silent_change"


def test_what_goes_with_a_stopped_file_is_held_with_it(world):
    wrong = name(revision="P1")
    batch = world.arrive({wrong: pdf(), native(wrong): DWG})
    assert {each.result for each in register(world, batch).outcomes} == {"held"}
    assert world.list().total == 0
    world.correct(*world.arrivals(batch).values(), revision="P01")
    assert {each.result for each in register(world, batch).outcomes} == {"registered"}


def test_an_older_revision_is_filed_as_history_and_tells_nobody(world):
    document, current = world.file(name(revision="P03"))[0]
    old = name(revision="P01", title="Quay hall, early")
    batch = world.arrive({old: pdf("early")})
    assert {each.result for each in register(world, batch).outcomes} == {"held"}
    world.correct(world.arrivals(batch)[old], history="yes")
    came = CameFrom(company="Tallow Reed Architects", person="Leilani", by="drive", on=date(2027, 1, 11))
    folder = world.cast.folders[""]
    change = intake.ChangeBatch(folder_id=folder, keep_tree=False, came=came)
    intake.change_batch(world.context, world.actor("marit"), batch, change)
    register(world, batch)
    latest, history = dossier(world).revisions
    assert (latest.code, latest.id, latest.superseded_at) == ("P03", current, None)
    assert (history.code, history.as_history, history.superseded_at) == ("P01", True, world.clock.now())
    assert history.arrived_at.date() == date(2027, 1, 11)
    line = dossier(world).line
    assert (line.revision, line.title) == ("P03", "Quay hall plan")
    # Between the two, whenever it is filed.
    between = world.arrive({name(revision="P02"): pdf("between")})
    world.correct(*world.arrivals(between).values(), history="yes")
    register(world, between)
    assert [each.code for each in dossier(world).revisions] == ["P03", "P02", "P01"]
    kinds = [kind for (kind,) in world.sql("SELECT kind FROM audit_entry WHERE kind LIKE '%_filed' ORDER BY seq")]
    assert kinds == ["revision_filed", "history_filed", "history_filed"]
    assert document == dossier(world).line.id


def test_history_can_be_taken_back_before_it_is_filed(world):
    world.file(name(revision="P03"))
    batch = world.arrive({name(): pdf("early")})
    undo = world.correct(*world.arrivals(batch).values(), history="yes")
    assert world.arrivals(batch)[name()].weight == "look"
    world.undo(batch, undo)
    assert world.arrivals(batch)[name()].weight == "stop"


def test_revisions_that_come_together_are_filed_in_their_order(world):
    batch = world.arrive({name(revision="P02"): pdf("two"), name(revision="P01"): pdf("one")})
    register(world, batch)
    assert [each.code for each in dossier(world).revisions] == ["P02", "P01"]
    assert dossier(world).line.revision == "P02"


def test_from_whom_is_proposed_by_the_numbers_and_stands_in_the_register(world):
    batch = world.arrive({name(): pdf(), name(OTHER_NUMBER): pdf("b"), name(NUMBER[:-1] + "2"): pdf("c")})
    came = world.batch(batch).came
    assert (came.company, came.said, came.why) == ("Tallow Reed Architects", False, "2 of 3 numbers are TRA’s")
    register(world, batch)
    assert world.batch(batch).came.said
    assert {line.came_from for line in world.list().lines} == {"Tallow Reed Architects"}


def test_from_whom_is_said(world):
    batch = world.arrive({name(): pdf()})
    folder = world.cast.folders[""]

    def say(**came):
        change = intake.ChangeBatch(folder_id=folder, keep_tree=False, came=CameFrom(**came))
        intake.change_batch(world.context, world.actor("marit"), batch, change)

    today = world.clock.now().date()
    for wrong in (
        {"company": " "},
        {"company": "X", "by": "pigeon"},
        {"company": "X", "on": today + timedelta(days=2)},
    ):
        with pytest.raises(RuleBroken):
            say(**wrong)
    say(company="  Gannet   Marine ", person="Tomasz", by="mail", on=today - timedelta(days=3))
    came = world.batch(batch).came
    assert (came.company, came.person, came.by, came.said) == ("Gannet Marine", "Tomasz", "mail", True)
    register(world, batch)
    (line,) = world.list().lines
    assert (line.came_from, line.came_person, line.came_by) == ("Gannet Marine", "Tomasz", "by mail")
    assert line.arrived_at.date() == today - timedelta(days=3)
    # What is said once of a company is proposed the next time.
    later = world.arrive({name(OTHER_NUMBER): pdf("b")})
    say_of = world.batch(later).came
    assert (say_of.person, say_of.company) == ("", "Plinthwork Structures")


def test_files_go_into_a_set_as_they_are_registered(world):
    batch = world.arrive({name(): pdf(), name(OTHER_NUMBER): pdf("b")})
    done = register(world, batch, new_set="Stage 3", set_on=date(2027, 3, 12))
    assert done.put_into == "Stage 3"
    (row,) = drawing_sets.list_sets(world.context, world.actor("marit"), world.project_id)
    assert (row.name, row.on, row.sheets) == ("Stage 3", date(2027, 3, 12), 2)
    third = world.arrive({name(NUMBER[:-1] + "2"): pdf("c")})
    register(world, third, set_id=row.id)
    numbers = [each.number for each in drawing_sets.read_set(world.context, world.actor("marit"), row.id).sheets]
    assert numbers == [OTHER_NUMBER, NUMBER, NUMBER[:-1] + "2"]


def test_a_name_that_is_taken_files_nothing(world):
    register(world, world.arrive({name(): pdf()}), new_set="Stage 3")
    batch = world.arrive({name(OTHER_NUMBER): pdf("b")})
    with pytest.raises(RuleBroken, match="already"):
        register(world, batch, new_set="Stage 3")
    with pytest.raises(NotFound):
        register(world, batch, set_id="x" * 16)
    assert world.list().total == 1


def test_who_is_to_be_told_is_told_at_once_of_what_they_see(world):
    world.send()
    batch = world.arrive({name(): pdf(), name(OTHER_NUMBER): pdf("b")})
    people = world.cast.people
    done = register(
        world, batch, note="Please build from these.", tell=Tell(people=[people["leilani"], people["marit"]])
    )
    assert done.told == 1
    bell = unread.read_bell(world.context, world.actor("leilani"), world.project_id)
    assert next(each.words for each in bell.notices) == "registered, 2 documents"
    (mail,) = [payload for key, payload in world.send() if key.startswith("mail:filed:")]
    assert mail["to_email"].startswith("leilani@")
    assert mail["subject"].endswith("registered, 2 documents")
    assert {"Please build from these.", f"{NUMBER} P01 S3 Quay hall plan"} <= set(mail["text"].splitlines())
    assert "Please build from these." in dossier(world).revisions[0].note


def test_roles_and_companies_are_told_each_person_once(world):
    leilani = world.actor("leilani")
    batch = world.arrive({name(): pdf()})
    ((roles,),) = world.sql("SELECT roles FROM membership WHERE person_id = ?", leilani.person_id)
    by_role = register(world, world.arrive({name(OTHER_NUMBER): pdf("b")}), tell=Tell(roles=json.loads(roles)))
    assert by_role.told > 0
    assert world.sql("SELECT count(*) FROM notice WHERE person_id = ? AND kind = 'filed'", leilani.person_id) == [(1,)]
    tell = Tell(companies=[leilani.company_id], people=[leilani.person_id], roles=json.loads(roles))
    register(world, batch, tell=tell)
    assert world.sql("SELECT count(*) FROM notice WHERE person_id = ? AND kind = 'filed'", leilani.person_id) == [(2,)]


def test_nobody_is_told_of_what_they_do_not_see(world):
    command = intake.OpenBatch(project_id=world.project_id, folder_id=world.cast.folders["Temporary works"])
    hidden = intake.open_batch(world.context, world.actor("marit"), command).id
    intake.add_file(world.context, world.actor("marit"), hidden, name(), [pdf()])
    world.look()
    done = register(world, hidden, note="Secret", tell=Tell(people=[world.cast.people["anouk"]]))
    assert done.told == 0
    assert world.sql("SELECT count(*) FROM notice WHERE kind = 'filed'") == [(0,)]
    assert not [key for key, _ in world.send() if key.startswith("mail:filed:")]
    # Nor does anybody choose, or fetch a file of, what is hidden from them.
    found = chosen.choose(
        world.context, world.actor("anouk"),
        chosen.Choose(project_id=world.project_id, documents=[world.document(NUMBER)[0]]),
    )  # fmt: skip
    assert (found.lines, found.missing) == ([], 1)
    register(world, world.arrive({native(name()): DWG}))
    ((rendition,),) = world.sql("SELECT id FROM rendition")
    with pytest.raises(NotFound):
        documents.download_rendition(world.context, world.actor("anouk"), rendition)


def test_nobody_strange_is_told(world):
    batch = world.arrive({name(): pdf()})
    for tell in (Tell(people=["x" * 16]), Tell(roles=["emperor"]), Tell(companies=["x" * 16])):
        with pytest.raises(NotFound):
            register(world, batch, tell=tell)
    assert world.list().total == 0


def test_what_systems_leave_behind_is_left_out_of_an_archive_and_counted(world):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as pack:
        pack.writestr("Issue/" + name(), pdf())
        for left in ("Issue/.DS_Store", "__MACOSX/Issue/._x.pdf", "Issue/Thumbs.db"):
            pack.writestr(left, b"system")
    batch = world.arrive({"issue.zip": out.getvalue()})
    world.look()
    shown = world.batch(batch)
    assert shown.line.left_out == 3
    assert {each.file_name for each in shown.arrivals} == {"issue.zip", name()}
    (archive,) = [each for each in shown.arrivals if each.file_name == "issue.zip"]
    assert archive.reason == "1 file taken out. 3 of the system’s own left out."


def test_two_controllers_with_one_native_file_it_once(world):
    world.file(name())
    batch = world.arrive({native(name()): DWG})
    seen = {each.id: each.version for each in world.batch(batch).arrivals}
    command = registering.RegisterBatch(seen=seen)
    registering.register_batch(world.context, world.actor("marit"), batch, command)
    done = registering.register_batch(world.context, world.actor("marit"), batch, command)
    assert done.outcomes == []
    assert world.sql("SELECT count(*) FROM rendition") == [(1,)]
    with pytest.raises(Stale):
        late = world.arrive({native(name(OTHER_NUMBER)): DWG})
        registering.register_batch(world.context, world.actor("marit"), late, command)

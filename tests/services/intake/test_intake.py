import threading

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken, Stale
from nod.services.intake import held_files, intake, registering
from nod.services.register import documents
from tests.world import NUMBER, OTHER_NUMBER, bytes_of, name, pdf


def _one(world, batch_id):
    (arrival,) = world.batch(batch_id).arrivals
    return arrival


def _weights(arrival):
    return [(each.weight, each.code) for each in arrival.findings]


def test_a_file_is_read_checked_and_registered(world):
    batch_id = world.arrive({name(): pdf()})
    arrival = _one(world, batch_id)
    assert (arrival.number, arrival.revision, arrival.status, arrival.title) == (NUMBER, "P01", "S3", "Quay hall plan")
    assert (arrival.sheet_size, arrival.page_count) == ("A3", 1)
    assert _weights(arrival) == [("look", "new_number")]
    assert [each.result for each in world.register(batch_id)] == ["registered"]
    dossier = documents.read_document(world.context, world.actor("anouk"), world.document(NUMBER)[0])
    assert (dossier.line.number, dossier.line.revision, dossier.sheet_size) == (NUMBER, "P01", "A3")
    assert dossier.revisions[0].filed_by.name == "Marit Osei"
    assert dossier.next_revisions == ["P02", "C01"]


def test_the_next_revision_supersedes_and_nothing_is_lost(world):
    (document, first), *_ = world.file(name())
    world.file(name(revision="P02"))
    revisions = documents.read_document(world.context, world.actor("marit"), document).revisions
    assert {(each.code, each.superseded_at is None) for each in revisions} == {("P01", False), ("P02", True)}
    file = documents.download_revision(world.context, world.actor("anouk"), first)
    assert bytes_of(file) == pdf(name())
    assert file.name == f"{NUMBER}_P01_S3.pdf"


def test_the_same_content_is_told_as_already_there(world):
    world.file(name())
    batch_id = world.arrive({name(): pdf(name())})
    assert _weights(_one(world, batch_id)) == [("same", "already_there")]
    assert [each.result for each in world.register(batch_id)] == ["already_there"]
    assert world.kinds()[-1] == "file_already_there"


def test_other_content_under_the_same_revision_is_stopped_as_a_silent_change(world):
    (_, revision_id), *_ = world.file(name())
    batch_id = world.arrive({name(): pdf("another drawing")})
    assert _weights(_one(world, batch_id)) == [("stop", "silent_change")]
    (outcome,) = world.register(batch_id)
    assert outcome.result == "held"
    assert "Silent change" in outcome.reason
    assert world.document(NUMBER)[1] == revision_id


def test_a_held_file_is_corrected_in_place_and_registered(world):
    batch_id = world.arrive({name(number="BFT-TRA-Z1-01-D-X-0101"): pdf()})
    (outcome,) = world.register(batch_id)
    assert outcome.result == "held"
    assert "discipline" in outcome.reason
    assert "Nearest: A" in outcome.reason
    arrival = _one(world, batch_id)
    mended = next(each.mend for each in arrival.findings if each.mend)
    world.correct(arrival, number=mended)
    assert _one(world, batch_id).number == NUMBER
    assert [each.result for each in world.register(batch_id)] == ["registered"]


def test_registering_is_one_transaction(world):
    batch_id = world.arrive({name(): pdf("a"), name(number=OTHER_NUMBER): pdf("b"), "nonsense.pdf": pdf("c")})
    results = sorted(each.result for each in world.register(batch_id))
    assert results == ["held", "registered", "registered"]
    moments = world.sql("SELECT DISTINCT at FROM audit_entry WHERE kind IN ('revision_filed', 'file_held')")
    assert len(moments) == 1


def test_the_same_sheet_twice_in_a_batch_is_stopped(world):
    batch_id = world.arrive({name(): pdf("a"), name(title="Other"): pdf("b")})
    codes = [_weights(each)[0] for each in world.batch(batch_id).arrivals]
    assert codes == [("stop", "twice_in_batch")] * 2


def test_what_changed_since_it_was_seen_is_not_registered(world):
    batch_id = world.arrive({name(): pdf()})
    arrival = _one(world, batch_id)
    world.correct(arrival, who="tomasz", title="Another title")
    with pytest.raises(Stale):
        world.correct(arrival, title="Another title")
    with pytest.raises(Stale):
        seen = registering.RegisterBatch(seen={arrival.id: arrival.version})
        registering.register_batch(world.context, world.actor("marit"), batch_id, seen)
    assert world.sql("SELECT count(*) FROM document") == [(0,)]


def test_nothing_is_registered_before_it_was_looked_into(world):
    batch = intake.open_batch(world.context, world.actor("marit"), intake.OpenBatch(project_id=world.project_id))
    intake.add_file(world.context, world.actor("marit"), batch.id, name(), [pdf()])
    with pytest.raises(RuleBroken) as refused:
        world.register(batch.id)
    assert refused.value.code == "still_looking"


def test_two_controllers_registering_in_the_same_second_file_it_once(world):
    batches = [world.arrive({name(): pdf("one")}), world.arrive({name(): pdf("two")}, "tomasz")]
    results = []

    def register(batch_id, who):
        results.extend(each.result for each in world.register(batch_id, who))

    threads = [threading.Thread(target=register, args=pair) for pair in zip(batches, ("marit", "tomasz"), strict=True)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(results) == ["held", "registered"]
    assert world.sql("SELECT count(*) FROM revision") == [(1,)]


def test_a_discarded_file_leaves_with_its_reason(world):
    batch_id = world.arrive({"nonsense.pdf": pdf()})
    arrival = _one(world, batch_id)

    def discard(reason):
        command = held_files.DiscardFiles(seen={arrival.id: arrival.version}, reason=reason)
        held_files.discard_files(world.context, world.actor("marit"), batch_id, command)

    with pytest.raises(RuleBroken):
        discard(" ")
    discard("sent by mistake")
    assert _one(world, batch_id).state == "discarded"
    with pytest.raises(RuleBroken) as refused:
        discard("again")
    assert refused.value.code == "arrival_gone"


def test_a_reviewer_may_not_take_in_files(world):
    with pytest.raises(NotAllowed):
        intake.open_batch(world.context, world.actor("leilani"), intake.OpenBatch(project_id=world.project_id))
    batch_id = world.arrive({})
    with pytest.raises(NotAllowed):
        intake.add_file(world.context, world.actor("leilani"), batch_id, name(), [pdf()])
    with pytest.raises(NotFound):
        intake.add_file(world.context, world.actor("yusuf"), batch_id, name(), [pdf()])


def test_a_file_that_is_too_large_leaves_nothing(world):
    small = world.with_settings(largest_file_bytes=1000)
    batch_id = world.arrive({})
    with pytest.raises(RuleBroken) as refused:
        intake.add_file(small, world.actor("marit"), batch_id, name(), iter([b"x" * 600] * 2))
    assert refused.value.code == "file_too_large"
    assert world.batch(batch_id).arrivals == []
    assert not list((world.context.settings.data_dir / "blobs" / "aside").iterdir())


def test_a_line_that_breaks_leaves_nothing(world):
    def broken():
        yield b"%PDF-1.7 half"
        raise ConnectionResetError

    batch_id = world.arrive({})
    with pytest.raises(ConnectionResetError):
        intake.add_file(world.context, world.actor("marit"), batch_id, name(), broken())
    assert world.batch(batch_id).arrivals == []
    assert not list((world.context.settings.data_dir / "blobs" / "aside").iterdir())


@pytest.mark.parametrize("odd", ["../../x", "..\\..\\x.pdf", "\x00\x1b[31m.pdf", "", "a" * 5000 + ".pdf", "<b>.pdf"])
def test_odd_names_do_no_harm(world, odd):
    arrival = _one(world, world.arrive({odd: pdf()}))
    assert "/" not in arrival.file_name
    assert "\\" not in arrival.file_name
    assert arrival.weight == "stop"


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"", "The file is empty."),
        (b"\x89PNG\r\n\x1a\n" + b"\0" * 40, "This is not a PDF but PNG"),
        (b"just text", "This is not a PDF, whatever its name says."),
        (b"%PDF-1.7 and then nothing", "The file is broken"),
    ],
)
def test_what_is_no_sheet_is_told_in_words(world, content, words):
    (outcome,) = world.register(world.arrive({name(): content}))
    assert outcome.result == "held"
    assert outcome.reason.startswith(words)

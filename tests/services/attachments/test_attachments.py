"""Files added to what is said: stored once, there for whoever sees the thing, filed by rule, nothing of them hidden."""

import hashlib
from datetime import timedelta

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.services.attachments import attachments
from nod.services.marks import mark_threads
from nod.services.setup import setup, setup_view
from nod.services.threads import talk
from nod.services.threads.talk import Say
from nod.services.trail import trail
from nod.services.trail.trail import TrailView
from tests.services.things.toys import add_private_toy, toys_are_there
from tests.world import NUMBER, bytes_of, name, pdf


@pytest.fixture
def document(world):
    return world.file(name())[0][0]


def add(world, target, file_name="Photo of the joint.pdf", content=None, who="anouk", kind="document"):
    chunks = [content if content is not None else pdf("joint", pages=2)]
    return attachments.add_attachment(world.context, world.actor(who), kind, target, file_name, chunks)


def say(world, target, *files, text="See the file", who="anouk", kind="document"):
    command = Say(text=text, attachments=[each.id for each in files])
    return talk.say(world.context, world.actor(who), kind, target, command)


def listed(world, who, words="", folders=()):
    found = attachments.list_attachments(world.context, world.actor(who), world.project_id, words, folders).attachments
    return [(each.name, each.folder, each.on_words) for each in found]


def download(world, attachment, who):
    return attachments.download_attachment(world.context, world.actor(who), attachment.id)


def test_a_file_goes_with_what_is_said(world, document):
    content = pdf("joint", pages=2)
    added = add(world, document, "../../Photo of the joint.pdf", content)
    assert (added.name, added.waiting, added.sha256) == (
        "Photo of the joint.pdf", True, hashlib.sha256(content).hexdigest()
    )  # fmt: skip
    (said,) = say(world, document, added, text="").said
    assert [each.id for each in said.attachments] == [added.id]
    world.look()
    (shown,) = talk.read_talk(world.context, world.actor("leilani"), "document", document).said[0].attachments
    assert (shown.pages, shown.waiting, shown.trouble, shown.size_bytes) == (2, False, "", len(content))
    sent = download(world, added, "leilani")
    assert (bytes_of(sent), sent.name, sent.media_type) == (
        content,
        "Photo of the joint.pdf",
        "application/pdf",
    )
    picture = attachments.read_page_picture(world.context, world.actor("leilani"), added.id, 1)
    assert picture.is_file()
    for place in (2, -1):
        with pytest.raises(NotFound):
            attachments.read_page_picture(world.context, world.actor("leilani"), added.id, place)
    assert world.kinds()[-2:] == ["talked", "attachment_downloaded"]


def test_until_it_is_said_it_is_its_adders_alone(world, document):
    added = add(world, document)
    for act in (
        lambda who: download(world, added, who),
        lambda who: attachments.remove_attachment(world.context, world.actor(who), added.id),
        lambda who: say(world, document, added, who=who),
        lambda who: attachments.read_page_picture(world.context, world.actor(who), added.id, 0),
        lambda who: attachments.read_attachment_preview(world.context, world.press, world.actor(who), added.id),
    ):
        for person in ("leilani", "marit", "rafael", "ines"):
            with pytest.raises(NotFound):
                act(person)
    assert listed(world, "anouk") == listed(world, "marit") == []
    log = trail.read_log(world.context, world.actor("marit"), TrailView(project_id=world.project_id))
    assert "Photo of the joint" not in log.model_dump_json()
    assert download(world, added, "anouk").name == "Photo of the joint.pdf"
    attachments.remove_attachment(world.context, world.actor("anouk"), added.id)
    with pytest.raises(NotFound):
        say(world, document, added)
    assert world.sql("SELECT count(*) FROM reply") == [(0,)]


def test_what_is_said_cannot_be_taken_back_or_said_twice(world, document):
    added = add(world, document)
    say(world, document, added)
    with pytest.raises(NotFound):
        attachments.remove_attachment(world.context, world.actor("anouk"), added.id)
    with pytest.raises(NotFound):
        say(world, document, added)
    assert world.sql("SELECT count(*) FROM reply") == [(1,)]


def test_a_file_added_to_one_thing_is_not_said_of_another(world, document):
    other = world.file(name("BFT-PLS-Z1-01-D-S-0201"))[0][0]
    with pytest.raises(NotFound):
        say(world, other, add(world, document))


def test_readers_and_strangers_add_nothing(world, document):
    with pytest.raises(NotAllowed):
        add(world, document, who="junpei")
    with pytest.raises(NotFound):
        add(world, document, who="yusuf")
    for kind, target in (("document", "no-such"), ("thread", document), ("nothing", document)):
        with pytest.raises(NotFound):
            add(world, target, kind=kind)
    assert world.sql("SELECT count(*) FROM attachment") == [(0,)]


def test_too_large_and_too_many_are_refused(world, document):
    small = world.with_settings(largest_file_bytes=10)
    with pytest.raises(RuleBroken) as refused:
        attachments.add_attachment(small, world.actor("anouk"), "document", document, "Big.bin", [b"x" * 11])
    assert (refused.value.code, refused.value.about) == ("file_too_large", "Big.bin")
    files = [add(world, document, f"{place}.txt", b"%d" % place) for place in range(attachments.MOST + 1)]
    with pytest.raises(RuleBroken):
        say(world, document, *files)
    say(world, document, *files[:-1])


def test_a_broken_file_is_told_of_and_kept(world, document):
    added = add(world, document, "Broken.pdf", b"%PDF-1.7\nnothing of it")
    say(world, document, added)
    world.look()
    (shown,) = talk.read_talk(world.context, world.actor("leilani"), "document", document).said[0].attachments
    assert not shown.waiting
    assert shown.trouble
    assert bytes_of(download(world, added, "leilani")) == b"%PDF-1.7\nnothing of it"


def test_a_text_is_previewed(world, document):
    added = add(world, document, "Levels.csv", b"grid,level\nA,2.20\n")
    say(world, document, added)
    shown = attachments.read_attachment_preview(world.context, world.press, world.actor("leilani"), added.id)
    assert shown.parts[0].rows == [["grid", "level"], ["A", "2.20"]]


def test_an_answer_to_a_mark_brings_files(world, document):
    revision = world.document(NUMBER)[1]
    (mark,) = world.ink(revision, world.draw(revision))
    added = add(world, document)
    command = mark_threads.WriteReply(text="", attachments=[added.id])
    mark_threads.write_reply(world.context, world.actor("anouk"), mark.id, command)
    ((shown,),) = [each.attachments for each in world.marks(revision, "leilani")[0].replies]
    assert shown.name == "Photo of the joint.pdf"
    assert [each[0] for each in listed(world, "leilani")] == ["Photo of the joint.pdf"]


def test_files_are_filed_by_the_rule_of_their_kind(world, document):
    say(world, document, add(world, document, "Beside it.txt", b"1"))
    drawings = world.cast.folders["Temporary works"]
    version = setup_view.read_setup(world.context, world.actor("rafael"), world.project_id).version
    command = setup.SetAttachmentFolders(version=version, folders={"document": drawings})
    setup.set_attachment_folders(world.context, world.actor("rafael"), world.project_id, command)
    say(world, document, add(world, document, "By rule.txt", b"2"))
    folders = {file: folder for file, folder, _ in listed(world, "marit")}
    assert folders["By rule.txt"].endswith("Temporary works")
    assert not folders["Beside it.txt"].endswith("Temporary works")
    # Whoever sees the document has its file, and does not learn the name of a folder that is hidden from them.
    assert {file: folder for file, folder, _ in listed(world, "leilani")}["By rule.txt"] == ""
    # The folder has it, and the one above, for those who see them.
    above = world.sql("SELECT parent_id FROM folder WHERE id = ?", drawings)[0][0]
    assert [file for file, *_ in listed(world, "marit", folders=[drawings])] == ["By rule.txt"]
    assert "By rule.txt" in [file for file, *_ in listed(world, "marit", folders=[above])]
    assert listed(world, "leilani", folders=[drawings]) == []
    assert listed(world, "marit", folders=["nowhere"]) == []
    for wrong in ({"document": "no-such"}, {"thread": drawings}, {"odd": drawings}):
        with pytest.raises(RuleBroken):
            setup.set_attachment_folders(
                world.context, world.actor("rafael"), world.project_id,
                setup.SetAttachmentFolders(version=version + 1, folders=wrong),
            )  # fmt: skip


def test_the_list_is_found_in_by_name_and_shows_nothing_hidden(world, document):
    say(world, document, add(world, document, "Joint 100%.txt", b"1"))
    say(world, document, add(world, document, "Other.txt", b"2"))
    assert [each[0] for each in listed(world, "leilani")] == ["Other.txt", "Joint 100%.txt"]
    assert [each[0] for each in listed(world, "leilani", "100% joint")] == ["Joint 100%.txt"]
    with pytest.raises(NotFound):
        listed(world, "yusuf")
    with toys_are_there():
        toy = add_private_toy(world, "Clockwork dredger", "leilani", "paolo")
        secret = add(world, toy, "Secret spring.txt", b"3", who="paolo", kind="toy")
        say(world, toy, secret, who="paolo", kind="toy")
        assert [each[0] for each in listed(world, "leilani", "secret")] == ["Secret spring.txt"]
        for person in ("marit", "rafael", "ines", "anouk"):
            assert listed(world, person, "secret") == []
            with pytest.raises(NotFound):
                download(world, secret, person)


def test_the_same_bytes_are_kept_once(world, document):
    content = pdf("joint")
    first, second = add(world, document, "A.pdf", content), add(world, document, "B.pdf", content)
    say(world, document, first, second)
    assert world.sql("SELECT count(*) FROM blob WHERE sha256 = ?", first.sha256) == [(1,)]
    assert first.sha256 == second.sha256


def test_what_was_never_said_is_put_away_after_a_month(world, document):
    never, said = add(world, document, "Never.txt", b"1"), add(world, document, "Said.txt", b"2")
    say(world, document, said)
    attachments.forget_unsaid(world.context)
    assert world.sql("SELECT count(*) FROM attachment") == [(2,)]
    world.clock.advance(timedelta(days=31))
    attachments.forget_unsaid(world.context)
    assert world.sql("SELECT name FROM attachment") == [("Said.txt",)]
    assert world.kinds()[-1] == "attachment_removed"
    # It was somebody's own: the entry is, too.
    assert world.sql("SELECT private_to FROM audit_entry ORDER BY seq DESC LIMIT 1") == [(world.cast.people["anouk"],)]
    with pytest.raises(NotFound):
        say(world, document, never)

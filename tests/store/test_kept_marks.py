"""Marks of 0.8.2, carried, answered, linked, reworded and taken in there: threads now, and everything as it was.

`kept/marks-0.8.2.tar.gz` has a database with its files, what that version showed three people of two revisions, and
the files that it wrote of them. What is different on purpose is said where it is compared.
"""

import io
import json
import re
import tarfile
from pathlib import Path

import pikepdf
import pytest

from nod.clock import SetClock
from nod.services import features
from nod.services.acts.context import open_context
from nod.services.acts.replays import table_faults
from nod.services.acts.seats import actor_of
from nod.services.marks.mark_files import export_marks
from nod.services.marks.marks_view import list_marks
from nod.settings import Settings
from nod.store.dialects.sqlite import WordIndex
from tests.conftest import NOW

KEPT = Path(__file__).parent / "kept" / "marks-0.8.2.tar.gz"
REWORDED = ("said on P01", "said anew on P02")


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    folder = tmp_path_factory.mktemp("kept_marks")
    with tarfile.open(KEPT) as kept:
        kept.extractall(folder, filter="data")
    return folder


@pytest.fixture(scope="module")
def context(folder):
    features.load()
    found = open_context(Settings(data_dir=folder), SetClock(NOW))
    found.database.migrate()
    yield found
    found.database.close()


@pytest.fixture(scope="module")
def kept(folder):
    return json.loads((folder / "shown.json").read_text())


def _person(context, name):
    with context.database.read() as session:
        raw = session.connection().connection
        ((person_id,),) = raw.execute("SELECT id FROM person WHERE name LIKE ?", (f"{name}%",)).fetchall()
        return actor_of(session, person_id)


def _author(said):
    """As it is answered today, of what 0.8.2 answered."""
    who, other = said["author"], said["other_author"]
    if not other:
        return who | {"way": "person", "taken_in_by": ""}
    return {"id": who["id"], "name": other, "company": "", "job": "", "way": "file", "taken_in_by": who["name"]}


def _as_now(mark):
    """A thread has one wording, the one that was written last."""
    replies = [{**reply, "author": _author(reply)} for reply in mark["replies"]]
    for reply in replies:
        reply.pop("other_author", None)
    links = [{key: link[key] for key in ("id", "kind", "target", "words", "mine")} for link in mark["links"]]
    author = _author(mark)
    now = {"author": author, "text": mark["text"].replace(*REWORDED), "replies": replies, "links": links}
    return {key: value for key, value in (mark | now).items() if key != "other_author"}


def _shown(mark):
    """Without what 0.8.2 did not say: on which revision something was answered, and where a link opens."""
    found = json.loads(mark.model_dump_json(exclude={"thread_id"}))
    for reply in found["replies"]:
        assert reply.pop("said_on") in ("P01", "P02")
        assert reply.pop("attachments") == []
        assert (reply.pop("folds"), reply.pop("mail")) == ([], "")
    assert (found.pop("readers"), found.pop("may_open")) == ([], False)
    assert (found.pop("session"), found.pop("session_id")) == ("", "")
    for link in found["links"]:
        for key in ("number", "kind_words", "address"):
            del link[key]
    return found


@pytest.mark.parametrize("sheet", ["P01", "P02"])
@pytest.mark.parametrize("who", ["leilani", "anouk", "saoirse"])
def test_everybody_sees_what_they_saw(context, kept, sheet, who):
    shown = [_shown(each) for each in list_marks(context, _person(context, who), kept["sheets"][sheet])]
    assert shown == [_as_now(each) for each in kept["shown"][f"{sheet} {who}"]]


def test_answers_and_states_say_on_which_revision(context, kept):
    marks = list_marks(context, _person(context, "leilani"), kept["sheets"]["P02"])
    (pin,) = (each for each in marks if each.text == "which door?" and each.first_place)
    assert {reply.text: reply.said_on for reply in pin.replies if reply.author.way == "person"} == {
        "The left one, @Leilani Brandt.": "P01", "Answered on P02": "P02",
    }  # fmt: skip
    with context.database.read() as session:
        raw = session.connection().connection
        states = raw.execute("SELECT state, state_on FROM thread WHERE state <> 'open'").fetchall()
    assert states == [("done", kept["sheets"]["P02"])]


def _without_new_id(content):
    """The second identifier of a PDF is another one each time that it is written (ISO 32000-1, 14.4)."""
    return re.sub(rb"(/ID \[<\w+>)<\w+>", rb"\1", content)


@pytest.mark.parametrize(
    ("sheet", "form"), [("P01", "xfdf"), ("P01", "csv"), ("P02", "xfdf"), ("P02", "csv"), ("P02", "pdf")]
)
def test_files_of_marks_are_the_same_byte_for_byte(context, press, folder, kept, sheet, form):
    """But for these: a mark reworded on P02 reads so on P01, too; a table names the author whom the file named.

    A pin is drawn as a tag now, so of a PDF all that its annotations say is compared, not how they look.
    """
    made = export_marks(context, press, _person(context, "anouk"), kept["sheets"][sheet], form).content
    was = (folder / "exports" / f"{sheet}.{form}").read_bytes()
    if sheet == "P01":
        was = was.replace(*(each.encode() for each in REWORDED))
    if form == "csv":
        taken = b"drawn elsewhere,,doors,,open,"
        was = was.replace(taken + b"Anouk Ferreira,BHT", taken + b"Leilani Brandt (PLS),")
    if form == "pdf":
        assert _annotations(made) == _annotations(was)
        assert _annotations(made)
        return
    assert _without_new_id(made) == _without_new_id(was)


_LOOKS = ("/AP", "/P", "/Popup", "/Parent", "/IRT")


def _annotations(content):
    with pikepdf.open(io.BytesIO(content)) as made:
        return [
            {key: str(value) if not isinstance(value, pikepdf.Array) else [str(each) for each in value]
             for key, value in each.items() if key not in _LOOKS}
            for page in made.pages
            for each in page.get("/Annots", [])
        ]  # fmt: skip


def test_words_find_threads(context):
    query = (
        f"SELECT t.text FROM {WordIndex.THREADS} w JOIN thread t ON t.seq = w.rowid"
        " WHERE thread_words MATCH ? ORDER BY 1"
    )
    with context.database.read() as session:
        raw = session.connection().connection
        found = {words: raw.execute(query, [words]).fetchall() for words in ("answered", "anew", "slab")}
    assert found == {"answered": [("drawn elsewhere",), ("which door?",)], "anew": [("said anew on P02",)], "slab": []}


def test_the_entries_make_what_the_tables_say(context):
    assert list(table_faults(context.database)) == []

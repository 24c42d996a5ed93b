"""A folder of any files, put through a project of its own."""

import io

import pikepdf
from pikepdf import Array, Dictionary, Name, String

from nod.demo.try_folder import lines_of, summary, try_folder
from tests.world import name, pdf


def _marked():
    out = io.BytesIO()
    with pikepdf.open(io.BytesIO(pdf("Another sheet"))) as made:
        box = Dictionary(
            Type=Name.Annot, Subtype=Name.Square, Rect=Array([20, 20, 90, 90]), NM=String("own"), T=String("Ida"),
            Contents=String("Wider"),
        )  # fmt: skip
        made.pages[0].Annots = Array([made.make_indirect(box)])
        made.save(out)
    return out.getvalue()


def test_what_became_of_each_is_told(tmp_path):
    folder = tmp_path / "any"
    (folder / "below").mkdir(parents=True)
    (folder / name()).write_bytes(pdf("A sheet"))
    (folder / "below/marked.pdf").write_bytes(_marked())
    (folder / "broken.pdf").write_bytes(b"%PDF-1.7 and nothing more")
    (folder / "notes.txt").write_bytes(b"Dear all")
    before = {path: path.read_bytes() for path in folder.rglob("*") if path.is_file()}
    found = {each.name: each for each in try_folder(folder)}
    assert {path: path.read_bytes() for path in before} == before
    assert {key: each.result for key, each in found.items()} == {
        name(): "1 registered", "below/marked.pdf": "1 registered", "broken.pdf": "1 held", "notes.txt": "1 registered",
    }  # fmt: skip
    marked = found["below/marked.pdf"]
    assert (dict(marked.marks_in), dict(marked.marks_out)) == ({"rectangle": 1}, {"Square": 1})
    assert any("broken" in words for words in found["broken.pdf"].words)
    assert found[name()].sure >= 3
    assert any("marks in: 1 rectangle; out: 1 Square" in line for line in lines_of(marked))
    assert summary(list(found.values())).startswith("4 files: 3 × 1 registered, 1 × 1 held.")

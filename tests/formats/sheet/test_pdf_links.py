"""Links inside a PDF, checked against what was put in and against pypdf as another reader."""

import pikepdf
import pypdf
import pytest
from pikepdf import Array, Dictionary, Name, String

from nod.formats.sheet.pdf_links import FileLink, links_of
from nod.formats.sheet.pdf_look import CannotDraw, Looker
from tests.outside import shared_data


def linking(tmp_path, *links, pages=3):
    """A file whose first page, with an offset CropBox and turned, has links with these entries."""
    pdf = pikepdf.new()
    for _ in range(pages):
        pdf.add_blank_page(page_size=(600, 400))
    page = pdf.pages[0]
    page.obj.CropBox, page.obj.Rotate = Array([50, 50, 550, 350]), 90
    pdf.Root.Names = Dictionary(
        Dests=Dictionary(Names=Array([String("detail"), Array([pdf.pages[2].obj, Name.XYZ, 0, 0, 0])]))
    )
    page.obj.Annots = Array(
        [
            pdf.make_indirect(
                Dictionary(Type=Name.Annot, Subtype=Name.Link, Rect=Array([100, 120, 200, 100]), **each(pdf))
            )
            for each in links
        ]
    )
    path = tmp_path / "links.pdf"
    pdf.save(path)
    return path


BOX = (100.0, 100.0, 200.0, 120.0)


def acts(**action):
    return lambda _: {"A": Dictionary(**action)}


@pytest.mark.parametrize(
    ("link", "told"),
    [
        (lambda pdf: {"Dest": Array([pdf.pages[1].obj, Name.Fit])}, FileLink(BOX, page=1)),
        (lambda pdf: {"A": Dictionary(S=Name.GoTo, D=Array([pdf.pages[2].obj, Name.Fit]))}, FileLink(BOX, page=2)),
        (acts(S=Name.GoTo, D=String("detail")), FileLink(BOX, page=2)),
        (acts(S=Name.URI, URI=String("https://example.org/a?b=1")), FileLink(BOX, address="https://example.org/a?b=1")),
        (acts(S=Name.GoToR, F=String("../x/Détail 4.pdf"), D=Array([0, Name.Fit])), FileLink(BOX, file="Détail 4.pdf")),
        (
            acts(S=Name.GoToR, F=Dictionary(Type=Name.Filespec, F=String("a.pdf"), UF=String("Straße.pdf"))),
            FileLink(BOX, file="Straße.pdf"),
        ),
        (acts(S=Name.Launch, F=String("C:\\x\\calc.exe")), FileLink(BOX, file="calc.exe")),
    ],
    ids=["own place", "jump", "by name", "web", "file", "file specification", "program"],
)
def test_each_kind_of_link_is_read_with_its_place_in_user_space(tmp_path, link, told):
    """Corners of the rectangle in any order; neither the CropBox nor the turn moves it."""
    assert links_of(Looker(), linking(tmp_path, link), 0) == [told]


@pytest.mark.parametrize(
    "link",
    [
        lambda _: {},
        acts(S=Name.JavaScript, JS=String("app.alert(1)")),
        acts(S=Name.GoTo, D=String("nowhere")),
        acts(S=Name.GoTo, D=Array([99, Name.Fit])),
        acts(S=Name.URI),
        acts(S=Name.SubmitForm, F=String("https://example.org")),
        lambda _: {"Dest": Array([])},
        lambda _: {"A": String("odd")},
    ],
    ids=["nothing", "script", "unknown name", "page not there", "no address", "form", "empty", "odd"],
)
def test_what_leads_nowhere_or_runs_something_is_no_link(tmp_path, link):
    assert links_of(Looker(), linking(tmp_path, link, acts(S=Name.URI, URI=String("http://a.example"))), 0) == [
        FileLink(BOX, address="http://a.example")
    ]


def test_a_page_that_is_not_there(tmp_path):
    with pytest.raises(CannotDraw):
        links_of(Looker(), linking(tmp_path), 3)


def _counted_by_pypdf(path):
    """Links with an action or a destination, page by page."""
    counts = []
    for page in pypdf.PdfReader(path).pages:
        annotations = [each.get_object() for each in page.get("/Annots") or ()]
        links = [each for each in annotations if each.get("/Subtype") == "/Link"]
        counts.append([str(each["/A"]["/URI"]) for each in links if "/A" in each and each["/A"].get("/S") == "/URI"])
    return counts


def test_web_links_of_real_files_are_those_that_another_reader_finds():
    looker, seen = Looker(), 0
    for path in sorted(shared_data("pdf").rglob("*.pdf")):
        try:
            expected = _counted_by_pypdf(path)
        except Exception:  # noqa: BLE001, S112 - files that pypdf cannot read tell nothing
            continue
        for place, addresses in enumerate(expected):
            if not addresses:
                continue
            found = [each.address for each in links_of(looker, path, place) if each.address]
            assert sorted(found) == sorted(addresses), f"{path.name} page {place + 1}"
            seen += len(found)
    assert seen > 10

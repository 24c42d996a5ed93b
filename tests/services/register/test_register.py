"""The register's list, held against the same list made by Python's own sorting over plain dicts."""

import itertools
import random
import sqlite3
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest

from nod.core.acts.refusals import RuleBroken
from nod.core.trail.entries import instant_text
from nod.store.ids import new_id
from tests.world import name

LONDON = ZoneInfo("Europe/London")
EMPTY = {"due_on": None, "since_at": None}


@pytest.fixture
def lines(world):
    """120 lines straight into the table, many of them alike, with empty values among them."""
    world.written_by_hand = True
    dice = random.Random(4)  # noqa: S311 - the same lines on every run
    now = datetime(2027, 3, 9, 0, 30, tzinfo=UTC)
    raw = sqlite3.connect(world.context.settings.data_dir / "nod.db")
    folders = [world.cast.folders[each] for each in ("", "Drawings", "Structure")]
    made = []
    for place in range(120):
        line = {
            "id": new_id(), "project_id": world.project_id, "number": f"BFT-TRA-Z1-0{place % 3}-D-A-{place:04d}",
            "title": dice.choice(["Hall", "hall", "Roof, 50 %", "Roof_plan", "Élan"]),
            "discipline": dice.choice("AS"), "originator": dice.choice(["TRA", "PLS"]), "form": "D",
            "version": 1, "sheet_size": "A1", "revision_id": new_id(), "revision": "P01",
            "status": dice.choice(["S3", "S4"]),
            "verdict": dice.choice(["", "A", "B"]), "with_whom": dice.choice(["", "Leilani Brandt"]),
            "due_on": dice.choice([None, "2027-03-09", "2027-03-12"]), "size_bytes": dice.choice([5, 10, 200]),
            "filed_at": instant_text(now + timedelta(hours=place % 48)), "folder_id": dice.choice(folders),
            "withdrawn": place % 17 == 0,
        }  # fmt: skip
        made.append(line)
        marks = ", ".join("?" * len(line))
        raw.execute(f"INSERT INTO document ({', '.join(line)}) VALUES ({marks})", tuple(line.values()))
    raw.commit()
    raw.close()
    return made


def _walk(world, limit=7, **view):
    """Every page of a list."""
    found, cursor = [], ""
    while True:
        page = world.list("marit", cursor=cursor, limit=limit, **view)
        found += page.lines
        cursor = page.cursor
        if not cursor:
            return found


def _key(line, column):
    value = line[column]
    return (value is not None, value if value is not None else "")


def _sorted(lines, sorts):
    """Python sorts stably: the last column first. Ties stand in the order of filing, down where the list goes down."""
    down = sorts[-1][1] == "down" if sorts else False
    found = list(reversed(lines)) if down else list(lines)
    for column, order in reversed(sorts):
        found.sort(key=lambda line: _key(line, column), reverse=order == "down")
    return found


SORTS = [
    [], [["title", "up"]], [["title", "down"]], [["due_on", "up"], ["number", "down"]],
    [["discipline", "down"], ["due_on", "down"], ["status", "up"]], [["size_bytes", "down"]],
    [["verdict", "up"], ["due_on", "up"], ["title", "down"]],
]  # fmt: skip


@pytest.mark.parametrize("sorts", SORTS, ids=str)
def test_pages_follow_one_another_in_the_order_asked_for_and_no_line_is_lost(world, lines, sorts):
    shown = [line for line in lines if not line["withdrawn"]]
    walked = [line.id for line in _walk(world, sorts=sorts)]
    assert len(walked) == len(set(walked)) == len(shown)
    by_id = {line["id"]: line for line in lines}
    order = [tuple(_key(by_id[each], column) for column, _ in sorts) for each in walked]
    wanted = [tuple(_key(line, column) for column, _ in sorts) for line in _sorted(shown, sorts or [["number", "up"]])]
    assert order == wanted


FILTERS = [
    ([["discipline", "is", "A"], ["status", "is", "S3", "S4"]], lambda line: line["discipline"] == "A"),
    ([["status", "not", "S3"]], lambda line: line["status"] != "S3"),
    ([["title", "has", "oof"]], lambda line: "oof" in line["title"]),
    ([["title", "has", "50 %"]], lambda line: "50 %" in line["title"]),
    ([["title", "has", "f_p"]], lambda line: "f_p" in line["title"]),
    ([["verdict", "none"]], lambda line: not line["verdict"]),
    ([["verdict", "is", "", "A"]], lambda line: line["verdict"] in ("", "A")),
    ([["due_on", "some"], ["due_on", "to", "2027-03-11"]], lambda line: line["due_on"] == "2027-03-09"),
    ([["due_on", "none"]], lambda line: line["due_on"] is None),
    ([["size_bytes", "from", "10"], ["size_bytes", "to", "10"]], lambda line: line["size_bytes"] == 10),
    ([["with_whom", "has", "brandt"]], lambda line: bool(line["with_whom"])),
    (
        [["filed_at", "from", "2027-03-10"], ["filed_at", "to", "2027-03-10"]],
        lambda line: datetime.fromisoformat(line["filed_at"]).astimezone(LONDON).date().isoformat() == "2027-03-10",
    ),
]


@pytest.mark.parametrize(("filters", "fits"), FILTERS, ids=[str(each[0]) for each in FILTERS])
def test_filters_leave_what_fits_them(world, lines, filters, fits):
    found = {line.id for line in _walk(world, limit=50, filters=filters)}
    assert found == {line["id"] for line in lines if fits(line) and not line["withdrawn"]}
    assert world.list(filters=filters).total == len(found)


def test_withdrawn_lines_are_there_only_when_asked_for(world, lines):
    gone = {line["id"] for line in lines if line["withdrawn"]}
    assert {line.id for line in _walk(world, filters=[["withdrawn", "yes"]])} == gone
    assert world.list(filters=[["withdrawn", "any"]]).total == 120
    assert world.list().total == 120 - len(gone)


@pytest.mark.parametrize("group", ["discipline", "folder", "verdict", "status"])
def test_groups_count_their_lines_and_lead_the_order(world, lines, group):
    page = world.list(group=group, sorts=[["number", "down"]], limit=500)
    counted = {each.key: each.count for each in page.groups}
    runs = [(key, len(list(run))) for key, run in itertools.groupby(line.group for line in page.lines)]
    assert dict(runs) == counted
    assert [key for key, _ in runs] == [each.key for each in page.groups]
    walked = _walk(world, group=group, sorts=[["number", "down"]])
    assert [line.id for line in walked] == [line.id for line in page.lines]
    shut = page.groups[0].key
    open_lines = _walk(world, group=group, shut=[shut])
    assert {line.group for line in open_lines} == set(counted) - {shut}


def test_a_folder_stands_for_all_below_and_says_its_path(world, lines):
    below = world.list(filters=[["folder", "is", world.cast.folders["Drawings"]]])
    inside = {world.cast.folders["Drawings"], world.cast.folders["Structure"]}
    assert below.total == len([1 for line in lines if line["folder_id"] in inside and not line["withdrawn"]])
    assert below.filter_words == ["Folder is Drawings"]


def test_filters_say_themselves_in_words(world, lines):
    filters = [
        ["discipline", "is", "A", "S"],
        ["due_on", "to", "2027-03-11"],
        ["title", "has", "x"],
        ["verdict", "none"],
    ]
    assert world.list(filters=filters).filter_words == [
        "Discipline is A Architecture or S Structure", "Due up to 2027-03-11", "Title has “x”", "Verdict is empty",
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("view", "code"),
    [
        ({"sorts": [["password_hash", "up"]]}, "view_unknown"),
        ({"cursor": "nonsense"}, "view_unknown"),
        ({"cursor": '["x"]'}, "view_unknown"),
        ({"cursor": '[{"a": 1}, 3]'}, "view_unknown"),
        ({"filters": [["password_hash", "is", "x"]]}, "filter_unknown"),
        ({"filters": [["title", "like", "x"]]}, "filter_unknown"),
        ({"filters": [["due_on", "from", "tomorrow"]]}, "filter_unknown"),
        ({"filters": [["size_bytes", "from", "many"]]}, "filter_unknown"),
        ({"filters": [["title", "has"]]}, "filter_unknown"),
        ({"filters": ["title"]}, "view_unknown"),
        ({"group": "sha256"}, "view_unknown"),
    ],
)
def test_a_view_that_is_none_is_refused_by_name(world, view, code):
    with pytest.raises(RuleBroken) as refused:
        world.list(**view)
    assert refused.value.code == code


@pytest.mark.parametrize(
    "words", ["0101", "TRA-Z1", "traz101da0101", "BFTTRAZ1O1", "DA0I0I", "hall pl", "A-0101", "quay 0101", "bft_tra"]
)
def test_a_number_is_found_from_any_part_without_separators_and_with_look_alikes(world, words):
    world.file(name(title="Quay hall plan"), name("BFT-PLS-Z2-02-D-S-0999", title="Other"))
    assert [line.number for line in world.list(words=words).lines] == ["BFT-TRA-Z1-01-D-A-0101"]


def test_many_hits_are_counted_exactly_and_walked_whole(world, lines):
    """Above a thousand hits the index counts, and what does not belong is taken off: withdrawn, another project's."""
    raw = sqlite3.connect(world.context.settings.data_dir / "nod.db")
    columns = "project_id, title, discipline, originator, form, version, sheet_size, revision_id, revision, status,"
    columns += " verdict, with_whom, filed_at, folder_id, withdrawn"
    for place in range(1300):
        copied = f"SELECT ?, ?, {columns} FROM document WHERE seq = (SELECT min(seq) FROM document) + ?"
        values = (new_id(), f"X-{place:05d}", place % 120)
        raw.execute(f"INSERT INTO document (id, number, {columns}) {copied}", values)
    raw.execute("INSERT INTO project SELECT 'zzz', 'ZZZ', name, time_zone, rules, profile, 1, 1 FROM project")
    raw.execute("UPDATE document SET project_id = 'zzz' WHERE seq % 50 = 0")
    raw.commit()
    here = raw.execute("SELECT count(*) FROM document WHERE project_id != 'zzz' AND NOT withdrawn").fetchone()[0]
    raw.execute("UPDATE document SET title = 'Hall ' || title")
    raw.commit()
    raw.close()
    page = world.list(words="hal", limit=500)
    assert 1000 < here == page.total
    walked = _walk(world, limit=500, words="hal", sorts=[["title", "down"], ["number", "up"]])
    assert len({line.id for line in walked}) == here
    assert world.list("leilani", words="hal").total == world.list("leilani").total


@pytest.mark.parametrize("words", ['hall" OR * NEAR(', "9101", "TRAZ2", "quay other"])
def test_what_is_not_there_is_not_found(world, words):
    world.file(name(title="Quay hall plan"), name("BFT-PLS-Z2-02-D-S-0999", title="Other"))
    assert world.list(words=words).total == 0

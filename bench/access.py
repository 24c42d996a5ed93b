"""What access costs: 60 people × 200 folders, and the register of somebody with mixed grants against a controller's."""

import random
import sqlite3
from itertools import cycle

from tests.browser.client import Person

from bench.measure import tell, timed, timed_pair
from nod.core.access.levels import Grant, Grantee, Holder, Level, To, effective
from nod.services.acts import projects
from nod.services.acts.context import acting

LEILANI = "leilani@plinthwork.example"
_PEOPLE, _FOLDERS = 60, 200


def upward(tree, by_folder, holder, folder):
    """The plainest way: from one cell upward, each time anew."""
    place, touching = folder, holder.grantees()
    while place is not None:
        mine = [grant for grant in by_folder.get(place, ()) if grant.to in touching]
        if mine:
            own = [grant.level for grant in mine if grant.to.kind is To.PERSON]
            return own[0] if own else max(grant.level for grant in mine)
        place = tree[place]
    return Level.NONE


def bench_grid():
    """Effective access of every cell, with where it comes from, against walking upward from each cell."""
    dice = random.Random(7)  # noqa: S311 - for the data of the measurement
    tree = {f"f{at}": f"f{dice.randrange(at)}" if at else None for at in range(_FOLDERS)}
    people = [Holder(f"p{at}", f"c{at % 9}", frozenset((f"r{at % 4}",))) for at in range(_PEOPLE)]
    grantees = [
        *(Grantee(To.PERSON, each.person_id) for each in people),
        *(Grantee(To.ROLE, f"r{at}") for at in range(4)),
    ]
    chosen = {(f"f{dice.randrange(_FOLDERS)}", dice.choice(grantees)) for _ in range(600)}
    grants = [Grant(folder, to, Level(dice.randrange(5))) for folder, to in chosen]
    by_folder = {}
    for grant in grants:
        by_folder.setdefault(grant.folder_id, []).append(grant)

    def ours():
        return [effective(tree, grants, holder) for holder in people]

    def bare():
        return [[upward(tree, by_folder, holder, folder) for folder in tree] for holder in people]

    assert [[found[folder].level for folder in tree] for found in ours()] == bare()
    tell(f"effective access, {_PEOPLE} × {_FOLDERS} cells (bare: walks)", timed(ours, 20), timed(bare, 20))


def spread(context, cast):
    """The register over 200 folders, of which Leilani sees about half; every third grant is to her company."""
    with acting(context, cast.actor("rafael")) as act:
        folders = [
            projects.add_folder(act, cast.project_id, cast.folders[""], f"Package {at:03d}") for at in range(_FOLDERS)
        ]
        company = cast.actor("leilani").company_id
        givers = cycle(
            [Grantee(To.PERSON, cast.people["leilani"]), Grantee(To.ROLE, "reviewer"), Grantee(To.COMPANY, company)]
        )
        for at, folder in enumerate(folders):
            if at % 3:
                level = Level.NONE if at % 2 else Level.MARK
                projects.give(act, cast.project_id, folder, next(givers), level)
    raw = sqlite3.connect(context.settings.data_dir / "nod.db")
    raw.execute("CREATE TEMP TABLE place (at INTEGER PRIMARY KEY, id)")
    raw.executemany("INSERT INTO place VALUES (?, ?)", enumerate(folders))
    raw.execute("UPDATE document SET folder_id = (SELECT id FROM place WHERE at = (document.seq * 7919) % 200)")
    raw.commit()
    raw.close()


def bench_mixed(url, marit, project_id, two_filters):
    """The same pages as a controller, who sees all without a question, and as somebody who sees about half."""
    leilani = Person(url, LEILANI)
    for what, query in (
        ("by number", ""),
        ("two filters and a sort", two_filters),
        ("as one types", "words=sheet%204242"),
    ):
        path = f"/api/documents?project_id={project_id}&limit=50&{query}"
        totals = [each("GET", path)["total"] for each in (leilani, marit)]
        assert 0 < totals[0] < totals[1], totals
        mixed, whole = timed_pair(lambda path=path: leilani("GET", path), lambda path=path: marit("GET", path), 80)
        tell(f"mixed grants, {what} (bare: sees all)", mixed, whole)

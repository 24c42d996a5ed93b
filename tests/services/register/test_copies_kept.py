"""Copies in folders: what is not done on them, and random histories of them against a second reading."""

import random
import re
from pathlib import Path

import pytest

import nod
from nod.core.acts.refusals import NotAllowed, RuleBroken, Stale
from nod.services.access import folders
from nod.services.acts.replays import table_faults
from nod.services.intake import new_revisions
from nod.services.register import (
    changes,
    check_outs,
    drawing_sets,
    register_list,
    withdrawals,
)
from nod.services.reviews import before_start
from nod.services.reviews.endings import EndGiven
from tests.services.register.test_copies import SITE, _accept, _as, _copy, _lines, _version, site
from tests.services.reviews.test_ends import _route as route_with
from tests.services.reviews.test_ends import _tried as tried
from tests.world import NUMBER, OTHER_NUMBER, name, pdf

RENAMED = "BFT-TRA-Z1-00-D-A-0199"
__all__ = ["site"]


REFUSED = {
    "check out": lambda w, id: check_outs.check_out(
        w.context, w.actor("marit"), id, check_outs.CheckOut(version=_version(w, id), note="")
    ),
    "revise": lambda w, id: new_revisions.begin_revision(
        w.context, w.actor("marit"), id,
        new_revisions.RevisionSaid(revision="C02", status="S3", file_name="x.pdf"), [pdf("x")],
    ),
    "rename": lambda w, id: withdrawals.rename_document(
        w.context, w.actor("marit"), id,
        withdrawals.RenameDocument(version=_version(w, id), number=RENAMED, reason="why not"),
    ),
    "change": lambda w, id: changes.change_documents(
        w.context, w.actor("marit"),
        changes.ChangeDocuments(
            project_id=w.project_id,
            changes=[changes.DocumentChange(id=id, version=_version(w, id), values={"title": "Mine"})],
        ),
    ),
    "status": lambda w, id: w.set_status(_copy(w)[1], "S3"),
    "review": lambda w, id: w.start(_copy(w)),
    "set": lambda w, id: drawing_sets.set_sheets(
        w.context, w.actor("marit"), _set(w), drawing_sets.SetSheets(version=1, documents=[id])
    ),
}  # fmt: skip


def _set(world):
    command = drawing_sets.MakeSet(project_id=world.project_id, name="For the site")
    return drawing_sets.make_set(world.context, world.actor("marit"), command).id


@pytest.mark.parametrize("act", REFUSED)
def test_what_is_kept_of_a_document_is_not_changed_on_its_copy(site, act):
    _accept(site, *site.file(name(revision="C01")))
    with pytest.raises(NotAllowed) as refused:
        REFUSED[act](site, _copy(site)[0])
    assert refused.value.code == "a_copy"


def test_a_copy_that_was_chosen_is_said_before_a_review_is_started(site):
    _accept(site, *site.file(name(revision="C01")))
    document, revision = _copy(site)
    command = before_start.CheckStart(project_id=site.project_id, route_id=site.copying, documents={document: revision})
    checked = before_start.check_start(site.context, site.actor("marit"), command)
    assert [each.words for each in checked.obstacles] == ["It is a copy in a folder."]


def test_only_what_may_be_used_is_copied_and_only_into_a_folder_that_is_there(site):
    folder = site.cast.folders[SITE]
    assert tried(site, {"C": EndGiven(copy_to=folder)}).end_trouble.startswith("Only what may be used is copied")
    assert "not there" in tried(site, {"A": EndGiven(copy_to="../../x")}).end_trouble
    (said,) = tried(site, {"A": EndGiven(copy_to=folder, with_marks=True)}).ends
    assert said.words.endswith("Temporary works, with its ink.")
    with pytest.raises(RuleBroken):
        route_with(site, {"D": EndGiven(copy_to=folder)}, named="Bad")


def test_a_folder_that_a_route_copies_into_is_not_removed(site):
    made = folders.make_folder(
        site.context, site.actor("marit"),
        folders.MakeFolder(parent_id=site.cast.folders["Reports"], name="Released"),
    ).id  # fmt: skip
    route_with(site, {"A": EndGiven(copy_to=made)}, named="Into it")
    with pytest.raises(RuleBroken) as refused:
        folders.remove_folder(site.context, site.actor("marit"), made)
    assert (refused.value.code, "Into it" in refused.value.words) == ("folder_named", True)


def test_a_document_that_lies_there_itself_is_not_copied(site):
    (filed,) = site.file(name(revision="C01"))
    route = route_with(site, {"A": EndGiven(copy_to=site.sql("SELECT folder_id FROM document")[0][0])}, named="Home")
    _accept(site, filed, route=route)
    assert site.sql("SELECT count(*) FROM document") == [(1,)]


def test_a_copy_that_changed_meanwhile_is_not_taken_out_unseen(site):
    _accept(site, *site.file(name(revision="C01")))
    document, _ = _copy(site)
    with pytest.raises(Stale):
        withdrawals.withdraw(site.context, site.actor("marit"), document, withdrawals.Withdraw(version=0, reason="x"))


def test_groups_and_values_count_each_document_once(site):
    _accept(site, *site.file(name(revision="C01"), name(OTHER_NUMBER)))
    page = site.list("marit", group="status")
    assert sum(each.count for each in page.groups) == page.total == 2
    values = register_list.list_values(*_as(site, "leilani"), "folder")
    assert [each.count for each in values] == [2]


@pytest.mark.parametrize("seed", range(6))
def test_random_histories_end_as_a_second_reading_of_the_handbook_says(site, seed):
    """Filing, accepting, releasing, withdrawing and taking out at random; the reading knows nothing of rows."""
    dice = random.Random(seed)  # noqa: S311 - the same history every time
    site.file(name(revision="C01"))
    document = site.document(NUMBER)[0]
    statuses, lying, out, withdrawn = ["S3"], None, False, False
    for _ in range(9):
        latest = len(statuses) - 1
        act = dice.choice(("file", "accept", "accept", "status", "withdraw", "out"))
        if act == "withdraw":
            _turn(site, document, withdrawn)
            withdrawn = not withdrawn
        elif withdrawn:
            continue
        elif act == "file":
            statuses.append("S3")
            site.file(name(revision=f"C0{len(statuses)}", title=f"Plan {len(statuses)}"))
        elif act == "accept":
            _accept(site, _latest(site, document))
            statuses[latest] = "A1"
            lying, out = latest, False
        elif act == "out" and lying is not None:
            _turn(site, _copy(site)[0], out)
            out = not out
        elif act == "status":
            which = dice.randrange(len(statuses))
            to = "S3" if statuses[which] == "A1" else "A1"
            ids = site.sql("SELECT id FROM revision WHERE document_id = ? ORDER BY place", document)
            site.set_status(ids[which][0], to)
            statuses[which] = to
        built = [place for place, status in enumerate(statuses) if status == "A1"]
        stands = "none" if not built else "same" if built[-1] == lying else "passed"
        seen = [] if lying is None or out or withdrawn else [(NUMBER, f"C0{lying + 1}", stands)]
        assert _lines(site) == seen, (seed, act)
    assert list(table_faults(site.context.database)) == []


def _latest(world, document):
    return document, world.sql("SELECT revision_id FROM document WHERE id = ?", document)[0][0]


def _turn(world, document, withdrawn):
    marit, version = world.actor("marit"), _version(world, document)
    if withdrawn:
        withdrawals.bring_back(world.context, marit, document, withdrawals.SeenDocument(version=version))
    else:
        command = withdrawals.Withdraw(version=version, reason="not wanted")
        withdrawals.withdraw(world.context, marit, document, command)


BY_NUMBER = re.compile(r"DocumentRow\.number\s*(==|\.in_\()|== DocumentRow\.number")
ASKED_OTHERWISE = {
    "services/sheet/sheet_words.py": "is_line",
    "services/register/planned.py": "DocumentRow.copy_of == NO_COPY",
    "store/tables/register.py": "DocumentRow.copy_of == NO_COPY",
}


def test_a_number_is_looked_up_among_documents_and_not_their_copies():
    """All go through `held_under`, or say for themselves what they do with copies."""
    source = Path(nod.__file__).parent
    found = {}
    for path in source.rglob("*.py"):
        text = path.read_text()
        if BY_NUMBER.search(text):
            found[path.relative_to(source).as_posix()] = text
    assert found.keys() == ASKED_OTHERWISE.keys()
    assert all(ASKED_OTHERWISE[path] in text for path, text in found.items())

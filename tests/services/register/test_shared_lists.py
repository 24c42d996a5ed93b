"""Folders, drawing sets and kept views by a link: what its giver may send out, asked anew each time."""

import pytest

from nod.core.access.levels import Grantee, Level, To
from nod.core.acts.refusals import NotAllowed, NotFound
from nod.services.acts import projects
from nod.services.acts.context import acting
from nod.services.links import links, visits
from nod.services.links.visits import LookAtLink
from nod.services.register import drawing_sets, saved_views, shared_lists
from tests.services.links.test_links import give
from tests.services.links.visiting import enter
from tests.world import NUMBER, OTHER_NUMBER, bytes_of, name, pdf

THIRD = "BFT-TRA-Z1-02-D-A-0103"


@pytest.fixture
def filed(world):
    """Documents by number, each with its revision."""
    numbers = (NUMBER, OTHER_NUMBER, THIRD)
    return dict(zip(numbers, world.file(*(name(each) for each in numbers)), strict=True))


def kept(world, who="marit", *, shared=False, **content):
    command = saved_views.KeepView(project_id=world.project_id, name="Ours", shared=shared, content=content)
    return saved_views.keep_view(world.context, world.actor(who), command).id


def made_set(world, *documents):
    marit = (world.context, world.actor("marit"))
    made = drawing_sets.make_set(*marit, drawing_sets.MakeSet(project_id=world.project_id, name="Stage 3"))
    drawing_sets.set_sheets(*marit, made.id, drawing_sets.SetSheets(version=1, documents=list(documents)))
    return made.id


def visit(world, kind, target, who="marit", **more):
    (token,) = give(world, target, who, kind=kind, **more)
    return enter(world, token, "Otto Brenner")


def shown(world, guest, start=0, limit=100):
    return shared_lists.read_shared(world.context, guest, start, limit)


def numbers(found):
    return [each.number for each in found.lines]


def test_a_folder_shows_what_is_in_it_and_below(world, filed):
    guest = visit(world, "shared_folder", world.cast.folders[""])
    found = shown(world, guest)
    assert (found.total, found.capped, found.guest) == (3, False, "Otto Brenner")
    assert numbers(found) == sorted(filed)
    assert [(each.code, each.latest, each.in_force) for each in found.lines[0].revisions] == [("P01", True, False)]
    assert numbers(shown(world, guest, 1, 1)) == sorted(filed)[1:2]
    world.file(name("BFT-TRA-Z1-02-D-A-0104"), content=pdf("new"))
    assert shown(world, guest).total == 4


def test_a_set_shows_its_sheets_in_their_order_until_it_is_taken_away(world, filed):
    set_id = made_set(world, filed[THIRD][0], filed[NUMBER][0])
    guest = visit(world, "shared_set", set_id)
    assert numbers(shown(world, guest)) == [THIRD, NUMBER]
    drawing_sets.remove_set(world.context, world.actor("marit"), set_id, drawing_sets.SeenSet(version=2))
    with pytest.raises(NotFound):
        shown(world, guest)


def test_a_view_shows_what_fits_it_now(world, filed):
    guest = visit(world, "shared_view", kept(world, filters=[["discipline", "is", "S"]]))
    assert numbers(shown(world, guest)) == [OTHER_NUMBER]
    guest = visit(world, "shared_view", kept(world, who="rafael", words="0103"), who="rafael")
    assert numbers(shown(world, guest)) == [THIRD]


def test_a_view_of_ones_own_is_given_by_nobody_else_and_a_shared_one_by_whoever_may_send(world, filed):
    own, shared = kept(world), kept(world, "rafael", shared=True)
    with pytest.raises(NotFound):
        give(world, own, "rafael", kind="shared_view")
    assert give(world, shared, kind="shared_view")
    with pytest.raises((NotAllowed, NotFound)):
        give(world, shared, "anouk", kind="shared_view")


def test_the_view_of_another_list_and_what_is_no_list_are_not_shared(world, filed):
    command = saved_views.KeepView(project_id=world.project_id, of="reviews", name="Late", shared=True, content={})
    of_reviews = saved_views.keep_view(world.context, world.actor("marit"), command).id
    with pytest.raises(NotAllowed):
        give(world, of_reviews, kind="shared_view")
    with pytest.raises(NotFound):
        give(world, "a" * 16, kind="shared_folder")
    with pytest.raises(NotFound):
        shown(world, visit(world, "document", filed[NUMBER][0]))


def test_what_is_in_force_stands_beside_the_latest(world, filed):
    document, _ = world.file(name("BFT-TRA-Z1-02-D-A-0105", revision="C01", status="A1"), content=pdf("c"))[0]
    world.file(name("BFT-TRA-Z1-02-D-A-0105", revision="C02", status="S4"), content=pdf("d"))
    guest = visit(world, "shared_set", made_set(world, document))
    (line,) = shown(world, guest).lines
    assert [(each.code, each.latest, each.in_force) for each in line.revisions] == [
        ("C02", True, False), ("C01", False, True),
    ]  # fmt: skip
    for each in line.revisions:
        assert shared_lists.read_file(world.context, guest, each.id).revision == each.code


def test_a_file_is_looked_at_and_taken_only_if_it_is_in_the_list(world, filed):
    set_id = made_set(world, filed[NUMBER][0])
    guest = visit(world, "shared_set", set_id, allows=["download"])
    revision = filed[NUMBER][1]
    file = shared_lists.read_file(world.context, guest, revision)
    assert (file.number, len(file.pages)) == (NUMBER, 1)
    assert shared_lists.read_page(world.context, world.press, guest, revision, (0, file.whole_level)).exists()
    tile = (0, file.first_level, 0, 0)
    assert shared_lists.read_tile(world.context, world.press, guest, revision, tile).exists()
    assert bytes_of(shared_lists.download_file(world.context, guest, revision)).startswith(b"%PDF")
    assert world.kinds()[-1] == "revision_downloaded"
    for act in (
        lambda: shared_lists.read_file(world.context, guest, filed[THIRD][1]),
        lambda: shared_lists.read_page(world.context, world.press, guest, filed[THIRD][1], (0, file.whole_level)),
        lambda: shared_lists.read_tile(world.context, world.press, guest, filed[THIRD][1], tile),
        lambda: shared_lists.download_file(world.context, guest, filed[THIRD][1]),
    ):
        with pytest.raises(NotFound):
            act()
    looking = visit(world, "shared_set", set_id)
    with pytest.raises(NotAllowed):
        shared_lists.download_file(world.context, looking, revision)


def test_what_its_giver_may_not_send_out_is_not_in_it(world, filed):
    """An author who may file into one folder and read another."""
    world.written_by_hand = True
    paolo = world.cast.people["paolo"]
    world.write(f"DELETE FROM access_grant WHERE to_id = '{paolo}'")
    ((home,),) = world.sql("SELECT folder_id FROM document WHERE number = ?", NUMBER)
    elsewhere = next(each for each in world.cast.folders.values() if each not in (home, world.cast.folders[""]))
    world.write(f"UPDATE document SET folder_id = '{elsewhere}' WHERE number = '{OTHER_NUMBER}'")
    with acting(world.context, world.actor("rafael")) as act:
        for folder, level in ((home, Level.FILE), (elsewhere, Level.READ)):
            projects.give(act, world.project_id, folder, Grantee(To.PERSON, paolo), level)
    guest = visit(world, "shared_set", made_set(world, *(filed[each][0] for each in filed)), "paolo")
    seen = numbers(shown(world, guest))
    assert NUMBER in seen
    assert OTHER_NUMBER not in seen
    view = kept(world, "paolo")
    told = shared_lists.preview(world.context, world.actor("paolo"), "shared_view", view)
    assert told.total == shown(world, visit(world, "shared_view", view, "paolo")).total
    with pytest.raises(NotFound):
        shared_lists.read_file(world.context, guest, filed[OTHER_NUMBER][1])


def test_a_withdrawn_document_is_in_no_list(world, filed):
    guest = visit(world, "shared_folder", world.cast.folders[""])
    world.written_by_hand = True
    world.write(f"UPDATE document SET withdrawn = 1 WHERE number = '{NUMBER}'")
    assert NUMBER not in numbers(shown(world, guest))


def test_what_would_be_seen_is_told_before_it_is_given(world, filed):
    seen = shared_lists.preview(world.context, world.actor("marit"), "shared_folder", world.cast.folders[""])
    assert (seen.total, seen.first) == (3, [f"{each} P01" for each in sorted(filed)])
    with pytest.raises((NotAllowed, NotFound)):
        shared_lists.preview(world.context, world.actor("anouk"), "shared_folder", world.cast.folders[""])
    with pytest.raises(NotFound):
        shared_lists.preview(world.context, world.actor("marit"), "document", filed[NUMBER][0])


def test_a_link_to_a_view_that_was_removed_opens_nothing_and_can_be_withdrawn(world, filed):
    view = kept(world)
    (token,) = give(world, view, kind="shared_view")
    assert visits.look_at_link(world.context, LookAtLink(token=token), "here").kind_words == "list"
    saved_views.remove_view(world.context, world.actor("marit"), view, saved_views.SeenView(version=1))
    assert visits.look_at_link(world.context, LookAtLink(token=token), "here").closed
    ((link_id,),) = world.sql("SELECT id FROM link")
    links.withdraw_link(world.context, world.actor("marit"), link_id)
    assert world.kinds()[-1] == "link_withdrawn"


def test_links_to_lists_stand_in_the_list_of_links(world, filed):
    give(world, made_set(world, filed[NUMBER][0]), kind="shared_set")
    give(world, world.cast.folders[""], kind="shared_folder")
    give(world, kept(world, words="plan", filters=[["kind", "is", "sheet"]]), kind="shared_view")
    listed = links.list_links(world.context, world.actor("marit"), world.project_id, own=True).links
    assert {each.thing.kind_words for each in listed} == {"drawing set", "folder", "list"}
    assert all(each.thing.address.startswith("/register") for each in listed)

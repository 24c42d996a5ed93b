"""Whose reader reads a batch: of the company that it is said to come from (handbook §5.3)."""

from nod.services.intake import intake
from nod.services.intake.from_whom import CameFrom
from tests.services.intake.test_arrivals import _codes, reader, sheet  # noqa: F401 - a fixture


def say_from(world, batch_id, company):
    line = world.batch(batch_id).line
    came = CameFrom(company=company, by="mail")
    command = intake.ChangeBatch(folder_id=line.folder_id, keep_tree=line.keep_tree, came=came)
    intake.change_batch(world.context, world.actor("marit"), batch_id, command)
    world.look()


def test_what_another_companys_reader_read_is_not_sure_until_its_own_reads_it(world, reader):  # noqa: F811
    """Saying from whom a batch came has it read anew."""
    drawn_over = world.arrive({"drawn.pdf": sheet()})
    reader(drawn_over)
    batch_id = world.arrive(
        {"scan1.pdf": sheet("BFT-TRA-Z1-01-D-A-0101"), "scan2.pdf": sheet("BFT-TRA-Z1-01-D-A-0102")}
    )
    assert all(not _codes(each) & {"other_reader"} for each in world.batch(batch_id).arrivals)
    say_from(world, batch_id, "Plinthwork Structures")
    shown = world.batch(batch_id)
    assert all("other_reader" in _codes(each) for each in shown.arrivals)
    assert all(each.block_unsure for arrival in shown.arrivals for each in arrival.witnesses if each.by_block)
    assert shown.unsure_readers == ["The title block reader Tallow Reed, A3 is unsure on 2 of 2 sheets."]
    say_from(world, batch_id, "Tallow Reed")
    shown = world.batch(batch_id)
    assert all("other_reader" not in _codes(each) for each in shown.arrivals)
    assert shown.unsure_readers == []

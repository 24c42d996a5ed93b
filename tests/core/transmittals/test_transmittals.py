from datetime import UTC, datetime, timedelta, timezone

import pytest

from nod.core.register.in_force import Around
from nod.core.trail import entries
from nod.core.transmittals.purposes import purposes_read
from nod.core.transmittals.transmittals import SendableDocument, review_number, stops_of, transmittal_number

RELEASED, WAITING = Around("C02", "C02"), Around("C02", "C01")
FINE = SendableDocument("BFT-1", "C02", "A1", RELEASED, "A", True)


def test_numbers_read_as_in_the_handbook():
    assert transmittal_number("HBC", 31) == "HBC-T-0031"
    assert review_number(1) == "RV-0001"


@pytest.mark.parametrize(
    ("document", "purpose", "count"),
    [
        (FINE, "construction", 0),
        (SendableDocument("BFT-1", "C02", "A1", RELEASED, "", None), "construction", 0),
        (SendableDocument("BFT-1", "C01", "A1", RELEASED, "A", True), "information", 1),
        (SendableDocument("BFT-1", "C01", "A1", RELEASED, "C", False), "information", 2),
        (SendableDocument("BFT-1", "C02", "A1", WAITING, "", None), "information", 1),
        (SendableDocument("BFT-1", "C01", "A1", WAITING, "A", True), "construction", 0),
        (SendableDocument("BFT-1", "C02", "A1", Around("C02", ""), "", None), "construction", 1),
        (SendableDocument("BFT-1", "C02", "A1", Around("C02", ""), "", None), "information", 0),
        (SendableDocument("BFT-1", "C02", "A1", Around("C02", "", withdrawn=True), "", None), "information", 1),
    ],
)
def test_superseded_and_unapproved_sheets_are_warned_of(document, purpose, count):
    assert len(stops_of(document, purposes_read(None)[purpose])) == count


def test_instants_are_written_so_that_text_order_is_time_order():
    summer = timezone(timedelta(hours=1))
    assert entries.instant_text(datetime(2027, 6, 1, 9, tzinfo=summer)) == "2027-06-01T08:00:00.000000Z"
    early, late = datetime(2027, 1, 1, tzinfo=UTC), datetime(2027, 1, 1, microsecond=1, tzinfo=UTC)
    assert entries.instant_text(early) < entries.instant_text(late)


def test_only_what_changed_is_told():
    assert entries.changed({"a": 1, "b": 2}, {"a": 1, "b": 3, "c": 4}) == ({"b": 2, "c": None}, {"b": 3, "c": 4})

"""What attack and accident found: each as it happened, and how it is answered now."""

import io
import random
import stat
import struct
import zipfile
from datetime import timedelta

import pytest
from reportlab.pdfgen.canvas import Canvas

from nod.core.acts.refusals import NotFound, RuleBroken, TooMany
from nod.services.acts.context import KEY_BYTES, read_key
from nod.services.intake import intake
from nod.services.intake.archives import MOST_DEEP
from nod.services.people import account, members, second_factor
from nod.services.people.sign_in import Browser, SignIn, sign_in, who_is
from nod.services.press.press import Press
from nod.services.register import folder_packs
from nod.services.sheet import page_pictures
from nod.services.transmittals import guests, transmittals
from nod.services.transmittals.guests import Acknowledge
from nod.services.transmittals.recipients import guest_token
from nod.store.tiles import Tiles, forget_oldest
from tests.services.links.visiting import enter
from tests.world import bytes_of, name, pdf


def _zip(files, method=zipfile.ZIP_DEFLATED):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", method) as pack:
        for path, content in files.items():
            pack.writestr(path, content)
    return out.getvalue()


# Archives


def _nested(levels, wide):
    content = pdf("innermost")
    for level in range(levels):
        content = _zip({f"{level}-{place}.{'zip' if level else 'pdf'}": content for place in range(wide)})
    return content


def test_archives_inside_archives_are_opened_so_deep_and_no_deeper(world):
    """2 kB, seven levels of three, became 3,279 files with entries."""
    batch = world.arrive({"nested.zip": _nested(7, 3)})
    arrivals = world.batch(batch).arrivals
    # The first, then three times three times three; what lies deeper is told, and stays as it came.
    assert len(arrivals) == 1 + 3 + 9 + 27
    left = [each for each in arrivals if each.state == "waiting"]
    assert len(left) == 27
    words = f"The archive lies inside {MOST_DEEP} others, and at most {MOST_DEEP} are opened. Send it by itself."
    assert {each.findings[0].words for each in left} == {words}
    assert {each.result for each in world.register(batch)} == {"held"}


def test_the_same_archive_by_itself_is_opened(world):
    """Refused is where it lay, and not its content."""
    deepest = _nested(2, 2)
    outer = deepest
    for place in range(3):
        outer = _zip({f"{place}.zip": outer})
    world.arrive({"outer.zip": outer})
    batch = world.arrive({"alone.zip": deepest})
    assert len(world.batch(batch).arrivals) == 1 + 2 + 4


def test_all_archives_of_one_upload_count_together(world, monkeypatch):
    from nod.formats.files import zip_unpack

    monkeypatch.setattr(zip_unpack, "MOST_FILES", 12)
    inner = [_zip({f"{place}{each}.txt": f"{place}{each}" for each in range(5)}) for place in range(4)]
    batch = world.arrive({"many.zip": _zip({f"{place}.zip": each for place, each in enumerate(inner)})})
    arrivals = world.batch(batch).arrivals
    assert len([each for each in arrivals if each.file_name.endswith(".txt")]) == 5
    refused = [each for each in arrivals if each.file_name.endswith(".zip") and each.state == "waiting"]
    assert len(refused) == 3
    assert "more than 12 would come out of one upload" in refused[0].findings[0].words


def _corrupt(packed, path):
    """The same archive with the bytes of one member spoiled: the directory still says that it is sound."""
    with zipfile.ZipFile(io.BytesIO(packed)) as pack:
        info = pack.getinfo(path)
        start = info.header_offset
        names, extra = struct.unpack("<HH", packed[start + 26 : start + 30])
        begin = start + 30 + names + extra
    spoiled = bytearray(packed)
    lots = random.Random(3)  # noqa: S311 - the same bytes every time
    for place in range(begin, begin + max(4, info.compress_size // 2)):
        spoiled[place] = lots.randrange(256)
    return bytes(spoiled)


@pytest.mark.parametrize("method", [zipfile.ZIP_DEFLATED, zipfile.ZIP_LZMA, zipfile.ZIP_BZIP2, zipfile.ZIP_STORED])
def test_one_corrupt_member_is_named_and_the_rest_comes_in(world, method):
    """zlib.error, LZMAError and OSError left the whole archive waiting for ever."""
    packed = _zip({"bad.pdf": pdf("bad") * 3, name(): pdf("good")}, method)
    arrivals = world.arrivals(world.arrive({"issue.zip": _corrupt(packed, "bad.pdf")}))
    assert set(arrivals) == {"issue.zip", name()}
    assert arrivals["issue.zip"].reason == "1 file taken out. Refused: “bad.pdf” (it is broken)."


def test_a_disk_that_is_full_while_unpacking_is_not_the_archives_fault(world, monkeypatch):
    from nod.services.acts import outbox
    from nod.store.blobs import Blobs, NoRoom

    batch = intake.open_batch(world.context, world.actor("marit"), intake.OpenBatch(project_id=world.project_id))
    intake.add_file(world.context, world.actor("marit"), batch.id, "issue.zip", [_zip({name(): pdf()})])

    def put(*_):
        raise NoRoom(28, "full")

    with monkeypatch.context() as full:
        full.setattr(Blobs, "put", put)
        world.look()
    assert outbox.counts(world.context)["open"] == 1
    world.clock.advance(timedelta(minutes=1))
    world.look()
    assert world.arrivals(batch.id)["issue.zip"].state == "unpacked"


# Files that are slow, disks that are full, keys that are empty


def test_a_pdf_that_takes_too_long_to_read_is_told_as_such(world):
    batch = intake.open_batch(world.context, world.actor("marit"), intake.OpenBatch(project_id=world.project_id))
    # Many pages, which no machine goes through in so short a time.
    intake.add_file(world.context, world.actor("marit"), batch.id, name(), [pdf("slow", pages=3000)])
    hasty = Press(1, 0.01)
    quick, world.press = world.press, hasty
    try:
        world.look()
    finally:
        world.press = quick
        hasty.close()
    (arrival,) = world.batch(batch.id).arrivals
    assert arrival.findings[0].words == "The file could not be read: it took too long, or is built to do harm."


@pytest.mark.parametrize("broken", [b"", b"short", None])
def test_an_empty_key_is_made_anew(tmp_path, broken):
    """A crash left it empty, and every link was signed with nothing from then on."""
    path = tmp_path / "secret.key"
    if broken is not None:
        path.write_bytes(broken)
    made = read_key(path)
    assert (len(made), read_key(path)) == (KEY_BYTES, made)
    assert stat.S_IMODE(path.stat().st_mode) == 0o600
    assert list(tmp_path.iterdir()) == [path]


# Caches


def _layered():
    out = io.BytesIO()
    canvas = Canvas(out, invariant=1)
    canvas.drawString(72, 72, "plain")
    canvas.save()
    import pikepdf
    from pikepdf import Array, Dictionary, Name, String

    with pikepdf.open(io.BytesIO(out.getvalue())) as made:
        groups = [made.make_indirect(Dictionary(Type=Name.OCG, Name=String(f"Layer {each}"))) for each in range(3)]
        made.Root.OCProperties = Dictionary(OCGs=Array(groups), D=Dictionary(ON=Array(groups)))
        done = io.BytesIO()
        made.save(done)
    return done.getvalue()


def test_layers_that_do_not_exist_are_not_found_and_write_nothing(world):
    plain, layered = (
        world.file(name(), name("BFT-TRA-Z1-01-D-A-0102"), content=None)[0][1],
        world.file(name("BFT-TRA-Z1-01-D-A-0103"), content=_layered())[0][1],
    )
    root = world.context.settings.data_dir / "tiles" / "layered"
    asked = (world.context, world.press, world.actor("marit"))
    for revision, off in ((plain, ()), (plain, (0,)), (layered, (3,)), (layered, (0, 1, 2, 9999))):
        with pytest.raises(NotFound):
            page_pictures.read_tile(*asked, revision, (0, 9, 0, 0), frozenset(off))
    assert not root.exists()
    for off in ((), (0,), (0, 2)):
        assert page_pictures.read_tile(*asked, layered, (0, 9, 0, 0), frozenset(off)).is_file()
    copies = list(root.rglob("*.pdf"))
    assert len(copies) == 3


def test_a_cache_forgets_what_was_used_longest_ago(tmp_path):
    import os

    tiles = Tiles(tmp_path)
    for place in range(10):
        path = tiles.tile_path("a" * 64, 0, 9, place, 0)
        tiles.keep(path, b"x" * 100)
        os.utime(path, (1_000_000 + place, 1_000_000 + place))
    thumbnail = tiles.thumbnail_path("a" * 64, 0)
    tiles.keep(thumbnail, b"x" * 1000)
    assert tiles.forget(1000) == 0
    assert tiles.forget(500) == 6
    left = sorted(path.name for path in tmp_path.rglob("*_0"))
    assert left == ["6_0", "7_0", "8_0", "9_0"]
    assert thumbnail.is_file()
    assert forget_oldest(tmp_path / "nowhere", 0) == 0


# Links and packs after something was taken away


@pytest.fixture
def sent(world):
    (_, revision), *_ = world.file(name())
    command = transmittals.SendTransmittal(
        project_id=world.project_id, revisions=[revision], people=[world.cast.people["yusuf"]], purpose="record"
    )
    transmittals.send_transmittal(world.context, world.actor("marit"), command)
    world.send()
    return enter(world, guest_token(world.context, world.sql("SELECT id FROM recipient")[0][0]))


def _guest_acts(world, token):
    return (
        lambda: guests.read_as_guest(world.context, token),
        lambda: guests.download_as_guest(world.context, token, "pack"),
        lambda: guests.download_as_guest(world.context, token, "cover"),
        lambda: guests.acknowledge(world.context, token, Acknowledge()),
    )  # fmt: skip


def test_the_link_of_somebody_removed_opens_nothing_any_more(world, sent):
    for act in _guest_acts(world, sent):
        act()
    yusuf = world.cast.people["yusuf"]
    remove = members.RemoveMember(version=world.sql("SELECT version FROM membership WHERE person_id = ?", yusuf)[0][0])
    members.remove_member(world.context, world.actor("rafael"), world.project_id, yusuf, remove)
    before = world.kinds()
    for act in _guest_acts(world, sent):
        with pytest.raises(NotFound):
            act()
    assert world.kinds() == before


def test_one_visit_is_one_entry_and_downloads_have_a_limit(world, sent):
    token = guest_token(world.context, world.sql("SELECT id FROM recipient")[0][0])
    for _ in range(50):
        enter(world, token)
    assert world.kinds().count("transmittal_opened") == 1
    world.clock.advance(timedelta(hours=2))
    enter(world, token)
    assert world.kinds().count("transmittal_opened") == 2
    with pytest.raises(TooMany):
        for _ in range(100):
            guests.download_as_guest(world.context, sent, "cover")
    assert world.kinds().count("transmittal_downloaded") == 30


def test_a_zip_made_before_access_was_taken_away_is_not_given_out_after(world):
    (document, _), *_ = world.file(name())
    asked = folder_packs.AskPack(folder_id=world.cast.folders[""], revisions="latest", names_as_came=False)
    actor = world.actor("leilani")
    pack = folder_packs.ask_pack(world.context, actor, asked)
    world.send()
    assert bytes_of(folder_packs.download_pack(world.context, actor, pack.id))
    with world.context.database.write() as session:
        from nod.store.tables import DocumentRow

        row = session.query(DocumentRow).filter(DocumentRow.id == document).one()
        row.folder_id = world.cast.folders["Temporary works"]
    with pytest.raises(RuleBroken) as refused:
        folder_packs.download_pack(world.context, actor, pack.id)
    assert refused.value.code == "pack_outdated"
    # Whoever sees that folder as well still gets theirs.
    theirs = folder_packs.ask_pack(world.context, world.actor("marit"), asked)
    world.send()
    assert bytes_of(folder_packs.download_pack(world.context, world.actor("marit"), theirs.id))


# Guessing


def test_codes_and_the_present_password_are_not_guessed_in_the_account(world):
    email = "marit@hollinbrook.example"
    from nod.services.people.sign_in import DEMO_PASSWORD

    token, _ = sign_in(world.context, SignIn(email=email, password=DEMO_PASSWORD), Browser("here"))
    signed_in = who_is(world.context, token)
    change = account.ChangePassword(present="guess", password="a quiet estuary at night")
    codes = []
    for _ in range(8):
        with pytest.raises((RuleBroken, TooMany)) as refused:
            account.change_password(world.context, signed_in, token, change)
        codes.append(refused.value.code)
    assert codes == ["wrong_present_password"] * 5 + ["too_many"] * 3
    second_factor.begin(world.context, signed_in.own)
    codes = []
    for _ in range(8):
        with pytest.raises((RuleBroken, TooMany)) as refused:
            second_factor.confirm(world.context, signed_in.own, second_factor.ConfirmSecondFactor(code="123456"))
        codes.append(refused.value.code)
    assert codes == ["wrong_code"] * 5 + ["too_many"] * 3

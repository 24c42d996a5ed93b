"""Files in pieces, against the tus protocol 1.0.0 (tus.io/protocols/resumable-upload): the rules are cited below."""

import base64
import resource
import threading
from datetime import timedelta

import pytest

from nod.demo import scenario
from nod.services.intake.uploads import forget_old_uploads
from tests.world import name, pdf

EMAIL = {each.key: each.email for each in scenario.PEOPLE}
TUS = {"Tus-Resumable": "1.0.0"}
PIECE = "application/offset+octet-stream"


@pytest.fixture
def marit(visit):
    return visit(EMAIL["marit"])


@pytest.fixture
def batch(world):
    return world.arrive({})


def _b64(text):
    return base64.b64encode(text.encode()).decode()


def _begin(who, batch, size, file_name=None, folder=""):
    said = f"batch {_b64(batch)},filename {_b64(file_name or name())},folder {_b64(folder)}"
    return who("POST", "/api/intake/uploads", headers={**TUS, "Upload-Length": str(size), "Upload-Metadata": said})


def _piece(who, address, offset, content, **more):
    headers = {**TUS, "Upload-Offset": str(offset), **more}
    return who("PATCH", address, headers=headers, data=content, content_type=PIECE)


def test_a_file_comes_in_pieces_and_arrives_with_the_last(world, marit, batch):
    content = pdf("in pieces")
    begun = _begin(marit, batch, len(content), folder="Issue 3/Plans")
    address = begun.headers["Location"]
    assert (begun.status_code, begun.headers["Tus-Resumable"], begun.headers["Upload-Offset"]) == (201, "1.0.0", "0")
    assert _piece(marit, address, 0, content[:500]).headers["Upload-Offset"] == "500"
    # HEAD: the server MUST include Upload-Offset and MUST prevent caching.
    asked = marit("HEAD", address)
    assert (asked.headers["Upload-Offset"], asked.headers["Cache-Control"]) == ("500", "no-store")
    assert asked.headers["Upload-Length"] == str(len(content))
    assert world.batch(batch).arrivals == []
    # PATCH: all offsets MUST match, otherwise 409.
    assert _piece(marit, address, 400, content[400:]).status_code == 409
    done = _piece(marit, address, 500, content[500:])
    assert (done.status_code, done.headers["Upload-Offset"]) == (204, str(len(content)))
    (arrival,) = world.batch(batch).arrivals
    assert (arrival.file_name, arrival.size_bytes, arrival.folder_path) == (name(), len(content), "Issue 3/Plans")
    # Whoever did not hear the answer asks, and is told that all has come; sending the end again changes nothing.
    assert marit("HEAD", address).headers["Upload-Offset"] == str(len(content))
    assert _piece(marit, address, len(content), b"").status_code == 204
    assert marit("DELETE", address, headers=TUS).json["code"] == "arrival_gone"
    assert len(world.batch(batch).arrivals) == 1
    assert list((world.context.settings.data_dir / "uploads").iterdir()) == []
    world.look()
    assert world.batch(batch).arrivals[0].page_count == 1


@pytest.mark.parametrize("size", [0, 3000])
def test_a_file_that_had_come_whole_when_nod_was_stopped_arrives_when_it_is_asked_for(world, marit, batch, size):
    """All bytes were there and no act had been committed: HEAD says that all is there only once that is so."""
    content = pdf("stopped", pages=4)[:size]
    address = _begin(marit, batch, 3000).headers["Location"]
    upload_id = address.rpartition("/")[2]
    aside = world.context.settings.data_dir / "uploads" / upload_id
    if size:
        aside.write_bytes(content)
    else:
        aside.unlink()
    asked = marit("HEAD", address)
    assert (asked.status_code, asked.headers["Upload-Offset"]) == (200, str(len(content)))
    arrived = [each.size_bytes for each in world.batch(batch).arrivals]
    assert arrived == ([3000] if len(content) == 3000 else [])


def test_what_came_before_the_line_broke_is_kept(world, marit, batch):
    content = pdf("broken line")
    address = _begin(marit, batch, len(content)).headers["Location"]
    short = _piece(marit, address, 0, content[:700])
    assert short.headers["Upload-Offset"] == "700"
    assert _piece(marit, address, 700, content[700:]).status_code == 204
    sha256 = world.batch(batch).arrivals[0].sha256
    with world.context.blobs.local(sha256) as path:
        assert path.read_bytes() == content


def test_an_upload_is_one_persons_and_can_be_stopped(world, marit, visit, batch):
    address = _begin(marit, batch, 1000).headers["Location"]
    for other in ("tomasz", "leilani"):
        assert visit(EMAIL[other])("HEAD", address).status_code in (403, 404)
        assert _piece(visit(EMAIL[other]), address, 0, b"x").status_code in (403, 404)
    assert marit("DELETE", address, headers=TUS).status_code == 204
    assert [kind for kind in world.kinds() if kind.startswith("upload_")] == ["upload_begun", "upload_stopped"]
    assert marit("HEAD", address).status_code == 404
    assert list((world.context.settings.data_dir / "uploads").iterdir()) == []


@pytest.mark.parametrize(
    ("headers", "code"),
    [
        ({"Upload-Length": "9"}, "tus_version"),
        ({**TUS, "Upload-Length": "-9"}, "length_missing"),
        ({**TUS, "Upload-Length": "\u0663"}, "length_missing"),
        ({**TUS, "Upload-Length": "9" * 15}, "file_too_large"),
        ({**TUS}, "length_missing"),
    ],
)
def test_what_a_browser_says_wrongly_is_refused(marit, batch, headers, code):
    said = {**headers, "Upload-Metadata": f"batch {_b64(batch)},filename !!!,,x"}
    answer = marit(
        "POST", "/api/intake/uploads", headers={k: v.encode("utf-8").decode("latin-1") for k, v in said.items()}
    )
    assert (answer.status_code, answer.json["code"]) == (422, code)


def test_more_bytes_than_announced_are_refused(marit, batch):
    address = _begin(marit, batch, 5).headers["Location"]
    answer = _piece(marit, address, 0, b"x" * 50)
    assert answer.json["code"] == "upload_too_long"


def test_a_path_in_the_name_leads_nowhere(world, marit, batch):
    content = pdf("odd")
    address = _begin(marit, batch, len(content), "../../etc/passwd.pdf", "../../up/C:\\x").headers["Location"]
    _piece(marit, address, 0, content)
    (arrival,) = world.batch(batch).arrivals
    assert (arrival.file_name, arrival.folder_path) == ("passwd.pdf", "up/C-/x")


def test_an_empty_file_arrives_at_once(world, marit, batch):
    assert _begin(marit, batch, 0).status_code == 201
    world.look()
    assert world.batch(batch).arrivals[0].findings[0].words == "The file is empty. Ask for it again."


def test_two_pieces_at_the_same_moment_do_not_mix(world, marit, batch):
    content = pdf("together") * 40
    address = _begin(marit, batch, len(content)).headers["Location"]
    answers = []
    threads = [
        threading.Thread(target=lambda: answers.append(_piece(marit, address, 0, content).status_code))
        for _ in range(4)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert answers.count(204) == 1
    assert set(answers) <= {204, 404, 409}
    assert len(world.batch(batch).arrivals) == 1


@pytest.fixture
def full_disk():
    """Files can grow no further than 1 MB: what a write into a full disk looks like from here."""
    before = resource.getrlimit(resource.RLIMIT_FSIZE)
    yield lambda: resource.setrlimit(resource.RLIMIT_FSIZE, (1_500_000, before[1]))
    resource.setrlimit(resource.RLIMIT_FSIZE, before)


def test_a_full_disk_is_told_in_words_and_the_next_file_works(world, marit, batch, full_disk, request):
    content = b"%PDF-1.7 " + b"\0" * 3_000_000
    address = _begin(marit, batch, len(content)).headers["Location"]
    full_disk()
    answer = _piece(marit, address, 0, content)
    assert (answer.status_code, answer.json["code"]) == (422, "no_room")
    whole = marit("PUT", f"/api/intake/batches/{batch}/files", query_string={"name": name()}, data=content)
    assert whole.json["code"] == "no_room"
    assert world.batch(batch).arrivals == []
    assert list((world.context.settings.data_dir / "blobs" / "aside").iterdir()) == []
    small = marit("PUT", f"/api/intake/batches/{batch}/files", query_string={"name": name()}, data=pdf())
    assert small.status_code == 200
    request.getfixturevalue("full_disk")
    came = int(marit("HEAD", address).headers["Upload-Offset"])
    assert 0 < came < len(content)


def test_uploads_that_nobody_goes_on_with_are_forgotten(world, marit, batch):
    _begin(marit, batch, 1000)
    assert forget_old_uploads(world.context) == 0
    world.clock.set(world.clock.now() + timedelta(days=3))
    assert forget_old_uploads(world.context) == 1
    assert list((world.context.settings.data_dir / "uploads").iterdir()) == []

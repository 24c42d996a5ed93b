"""How much memory the web processes take while a file of 1 GB arrives in pieces: at most 300 MB."""

import base64
import threading
from http.client import HTTPConnection
from pathlib import Path
from urllib.parse import urlsplit

from tests.browser.client import Person

SIZE_BYTES = 10**9
_PIECE_BYTES = 64 * 1024**2
_BLOCK = b"\x25PDF-1.7 " + bytes(range(256)) * 256


def bench_upload(url, server_pid, email):
    """Prints the greatest resident memory of any process of the server while the pieces came."""
    marit = Person(url, email)
    batch = marit("POST", "/api/intake/batches", {"project_id": marit.project_id})["id"]
    most, done = [0], threading.Event()
    watching = threading.Thread(target=_watch, args=(server_pid, most, done))
    watching.start()
    try:
        _send(marit, url, batch)
    finally:
        done.set()
        watching.join()
    print(f"web process while 1 GB arrives               {most[0] / 1e6:9.0f} MB   limit 300 MB", flush=True)


def _send(marit, url, batch):
    line = HTTPConnection(urlsplit(url).netloc, timeout=120)
    own = {"X-Nod-Csrf": marit.csrf, "Cookie": marit.cookie(), "Tus-Resumable": "1.0.0"}
    said = {"batch": batch, "filename": "large.bin"}
    metadata = ",".join(f"{key} {base64.b64encode(value.encode()).decode()}" for key, value in said.items())
    line.request(
        "POST", "/api/intake/uploads", headers={**own, "Upload-Length": str(SIZE_BYTES), "Upload-Metadata": metadata}
    )
    answer = line.getresponse()
    answer.read()
    address, offset = answer.headers["Location"], 0
    while offset < SIZE_BYTES:
        size = min(_PIECE_BYTES, SIZE_BYTES - offset)
        head = {"Upload-Offset": str(offset), "Content-Length": str(size)}
        kind = {"Content-Type": "application/offset+octet-stream"}
        line.request("PATCH", address, body=_bytes(size), headers={**own, **head, **kind})
        answer = line.getresponse()
        answer.read()
        assert answer.status == 204, answer.status
        offset += size


def _bytes(size):
    while size > 0:
        yield _BLOCK[: min(size, len(_BLOCK))]
        size -= len(_BLOCK)


def _watch(pid, most, done):
    while not done.wait(0.05):
        most[0] = max(most[0], *(_resident(each) for each in (pid, *_below(pid))))


def _below(pid):
    try:
        children = Path(f"/proc/{pid}/task/{pid}/children").read_text().split()
    except OSError:
        return []
    return [found for child in children for found in (int(child), *_below(child))]


def _resident(pid):
    """Bytes; worker and live process are watched too, as all of them belong to the server."""
    try:
        for line in Path(f"/proc/{pid}/status").read_text().splitlines():
            if line.startswith("VmRSS:"):
                return int(line.split()[1]) * 1024
    except OSError:
        pass
    return 0

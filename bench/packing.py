"""Packing a transmittal of 300 sheets of 1 GB: the bag, hashed and stored, against a bare ZIP of the same, hashed."""

import hashlib
import os
import resource
import subprocess
import sys
import tempfile
import zipfile
from pathlib import Path

from bench.measure import tell, timed_pair
from nod.formats.files.bag import Packed, write_bag
from nod.store.blobs import Blobs

SHEETS, SHEET_BYTES = 300, 3_500_000
_INFO = [("Source-Organization", "Hollinbrook Contracting")]


def bench_packing(aside):
    folder = Path(tempfile.mkdtemp(dir=aside))
    blobs = Blobs(folder / "blobs")
    stored = [blobs.put([os.urandom(SHEET_BYTES)]) for _ in range(SHEETS)]
    hashes = [each.sha256 for each in stored]

    def bare():
        target = folder / "bare.zip"
        with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as pack:
            for each in hashes:
                with blobs.local(each) as path:
                    pack.write(path, f"{each}.pdf")
        with target.open("rb") as file:
            hashlib.file_digest(file, "sha256")
            os.fsync(file.fileno())
        target.unlink()

    tell("packing 300 sheets of 1 GB", *timed_pair(lambda: _pack(blobs, hashes), bare, 3))
    script = "import sys; from bench.packing import memory; memory(sys.argv[1])"
    said = subprocess.run([sys.executable, "-c", script, folder / "blobs"], capture_output=True, text=True, check=True)
    print(f"{'its memory, a process of its own':44} {said.stdout.strip()}", flush=True)


def _pack(blobs, hashes):
    with blobs.made() as (target, keep):
        write_bag(target, "HBC-T-0001", _INFO, [], _lent(blobs, hashes))
        made = keep()
    with blobs.local(made.sha256) as path:
        path.unlink()


def _lent(blobs, hashes):
    for each in hashes:
        with blobs.local(each) as path:
            yield Packed(f"{each}.pdf", each, path)


def memory(root):
    blobs = Blobs(Path(root))
    _pack(blobs, sorted(path.name for path in Path(root).rglob("?" * 64)))
    print(f"{resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB at most")

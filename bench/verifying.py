"""Checking a trail of 100,000 entries, against reading the same rows and building the same tree and nothing else."""

import hashlib
import sqlite3

from bench.measure import tell, timed
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.context import acting
from nod.services.trail.seals import file_path, make_seal
from nod.services.trail.verification import verify_trail

ENTRIES = 100_000
MOST_TIMES = 3.0


def _fill(context, cast, entries):
    actor = cast.actor("marit")
    for start in range(0, entries, 500):
        with acting(context, actor) as act:
            for place in range(start, min(start + 500, entries)):
                others = (Subject("revision", f"revision{place % 97:08d}"), Subject("mark", f"mark{place:012d}"))
                after = {"text": f"the {place}th remark on the quay hall", "page": place % 7, "state": "open"}
                subject = Subject("document", f"document{place % 89:08d}")
                act.record(cast.project_id, Fact(FactKind.MARK_DRAWN, subject, f"pin on {place}", others, after=after))
    make_seal(context)


def bench_verify(context, cast, entries=ENTRIES):
    _fill(context, cast, entries)
    path = context.settings.data_dir / "nod.db"
    found = []

    def ours():
        found[:] = [verify_trail(context.database, seals_file=file_path(context.settings.data_dir))]

    def bare():
        heads, size = [], 0
        with sqlite3.connect(path) as raw:
            raw.execute("SELECT seq, kind, subject_id FROM audit_subject ORDER BY seq").fetchall()
            for row in raw.execute("SELECT * FROM audit_entry ORDER BY seq"):
                heads.append(hashlib.sha256(b"\x00" + row[1]).digest())
                size += 1
                full = size
                while not full & 1:
                    right = heads.pop()
                    heads[-1] = hashlib.sha256(b"\x01" + heads[-1] + right).digest()
                    full >>= 1
        raw.close()

    bare_seconds, our_seconds = timed(bare, 3), timed(ours, 3)
    if found[0].fault:
        raise AssertionError(found[0].fault)
    ratio = our_seconds / bare_seconds
    tell(f"verifying {found[0].entries:,} entries (limit {MOST_TIMES:g})", our_seconds, bare_seconds)
    if ratio > MOST_TIMES:
        raise AssertionError(f"verifying takes {ratio:.2f} times as long")

"""The evidence of a transmittal: what the viewer may know of it, with its files' hashes and a seal over all of it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from datetime import datetime
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.trail.entries import Fact, FactKind, Subject
from nod.core.transmittals.evidence import Evidence, EvidenceDocument, EvidenceEntry, EvidenceRecipient
from nod.services.acts.answers import named
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor
from nod.services.files.tables_out import MEDIA, Exported
from nod.services.things.things import see_thing
from nod.services.trail import seals, trail
from nod.services.trail.trail import Entry, TrailView
from nod.services.transmittals import transmittals_view
from nod.services.transmittals.kind import TRANSMITTAL
from nod.services.transmittals.receipts import RecipientShown
from nod.services.transmittals.transmittals_view import Transmittal
from nod.store.tables import RevisionRow, TransmittalDocumentRow, TransmittalRow

MOST_ENTRIES = 5000
When = Callable[[datetime | None], str]


def take_evidence(context: Context, actor: Actor, transmittal_id: str) -> Exported:
    """As a PDF. Each taking is an entry of the trail, and the seal in it is made after that."""
    from nod.formats.files.evidence import write_evidence

    with acting(context, actor) as act:
        row, seat = see_thing(act.session, actor, TRANSMITTAL, transmittal_id)
        fact = Fact(FactKind.TRANSMITTAL_EVIDENCE_TAKEN, Subject("transmittal", row.id), row.number)
        act.record(row.project_id, fact)
        project, at, zone = f"{seat.project.number}  {seat.project.name}", act.at, seat.project.time_zone
    seal = seals.make_seal(context)
    shown = transmittals_view.read_transmittal(context, actor, transmittal_id)

    def when(instant: datetime | None) -> str:
        return instant.astimezone(ZoneInfo(zone)).strftime("%-d %b %Y, %H:%M:%S %Z") if instant else ""

    with context.database.read() as session:
        files = _files(session, session.get_one(TransmittalRow, transmittal_id))
        hashes = _hashes(session.get_one(TransmittalRow, transmittal_id))
    evidence = Evidence(
        project=project, number=shown.line.number, facts=(*_facts(shown, when), *hashes), note=shown.note,
        recipients=tuple(_recipient(each, shown, when) for each in shown.recipients),
        documents=_documents(shown, files),
        entries=tuple(_said(each, when) for each in _entries(context, actor, shown)),
        seal=seal.note, taken=f"Taken by {actor.name} on {when(at)}",
    )  # fmt: skip
    return Exported(write_evidence(evidence), f"{shown.line.number}_evidence.pdf", MEDIA["pdf"])


def _files(session: Session, row: TransmittalRow) -> dict[str, tuple[str, str]]:
    """By revision, what its file is called in the bag, and its SHA-256."""
    query = (
        select(TransmittalDocumentRow.revision_id, TransmittalDocumentRow.file, RevisionRow.file_name, RevisionRow)
        .join(RevisionRow, RevisionRow.id == TransmittalDocumentRow.revision_id)
        .where(TransmittalDocumentRow.transmittal_id == row.id)
    )
    return {id: (file or name, revision.sha256) for id, file, name, revision in session.execute(query)}


def _hashes(row: TransmittalRow) -> Iterator[tuple[str, str]]:
    """Of what was made for it."""
    for name, sha256 in (("ZIP", row.pack_sha256), ("Cover sheet", row.cover_sha256)):
        if sha256:
            yield f"{name}, SHA-256", sha256


def _facts(shown: Transmittal, when: When) -> Iterator[tuple[str, str]]:
    line = shown.line
    yield "From", f"{line.sent_by.name}, {shown.company}"
    yield "Purpose", line.purpose
    yield "Sent", when(line.sent_at)
    yield "Answer wanted by", f"{line.answer_wanted_on:%-d %b %Y}" if line.answer_wanted_on else "no answer asked for"
    if shown.view_only:
        yield "Given", "to be looked at, not downloaded"
    if shown.expires_on:
        yield "Links work until", f"the end of {shown.expires_on:%-d %b %Y}"
    if shown.replaces:
        yield "In place of", shown.replaces
    if void := shown.void:
        yield "Void", f"since {when(void.at)}, by {named(void.by)}: {void.why}"


def _recipient(each: RecipientShown, shown: Transmittal, when: When) -> EvidenceRecipient:
    name = named(each.who) + (", copied" if each.copied else "")
    if not each.receipt:
        return EvidenceRecipient(name, (("Times", "for them and the sender"),), "")
    how = " by mail" if each.acknowledged_how == "mail" else ""
    steps = [
        ("Address", each.email),
        ("Mailed", when(each.mailed_at) or "not yet"),
        ("Opened", when(each.opened_at) or "not yet"),
        ("ZIP downloaded", when(each.downloaded_at) or "not yet"),
        ("Acknowledged", f"{when(each.acknowledged_at)}{how}" if each.acknowledged_at else "not yet"),
    ]
    if each.files_taken:
        steps.append(("One by one", f"{len(each.files_taken)} of {len(shown.documents)} documents"))
    if each.bounced_at:
        steps.append(("Mail came back", f"{when(each.bounced_at)}: {each.bounced_why}"))
    if each.link_closed:
        steps.append(("Link", each.link_closed.removeprefix("link ")))
    return EvidenceRecipient(name, tuple(steps), each.acknowledged_note)


def _documents(shown: Transmittal, files: dict[str, tuple[str, str]]) -> tuple[EvidenceDocument, ...]:
    def taken_by(revision_id: str) -> str:
        return ", ".join(named(each.who) for each in shown.recipients if revision_id in each.files_taken)

    return tuple(
        EvidenceDocument(
            each.number, each.revision, each.title, *files[each.revision_id], taken_by(each.revision_id)
        )
        for each in shown.documents
    )  # fmt: skip


def _entries(context: Context, actor: Actor, shown: Transmittal) -> Sequence[Entry]:
    """What the viewer may see of its trail, oldest first."""
    found: list[Entry] = []
    view = TrailView(project_id=shown.project_id, subject_id=shown.line.id)
    while len(found) < MOST_ENTRIES:
        page = trail.read_log(context, actor, view)
        found += page.entries
        if not page.more:
            break
        view = view.model_copy(update={"before": found[-1].leaf})
    return found[::-1]


_PARTS = {"pack": "the ZIP", "cover": "the cover sheet"}


def _said(entry: Entry, when: When) -> EvidenceEntry:
    who = f"{entry.who} ({entry.company})" if entry.company else entry.who
    what = entry.after.get("file") or _PARTS.get(str(entry.after.get("part")), "") or entry.after.get("to", "")
    more = f": {what}" if isinstance(what, str) and what else ""
    why = f" ({entry.why})" if entry.why else ""
    return EvidenceEntry(when(entry.at), who, f"{entry.words}{more}{why}", entry.leaf)

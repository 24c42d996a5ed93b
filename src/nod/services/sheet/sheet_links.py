"""Links inside a file as ways from its sheet: to a page of it, a web address, a document whose file it names."""

from __future__ import annotations

from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.acts.web_addresses import is_web_address
from nod.core.intake.file_names import alike
from nod.formats.sheet.pdf_links import FileLink
from nod.formats.sheet.pdf_look import CannotDraw
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor
from nod.services.press.press import Press, PressStopped
from nod.services.sheet.files_named import documents_with_files
from nod.store.tables import DocumentRow, PageRow


class SheetLink(Answered):
    """`box` in PDF points. `words` say where it leads: a page (from 0), a web address, a document and its revision."""

    kind: Literal["page", "web", "document"]
    box: tuple[float, float, float, float]
    words: str
    page: int = -1
    address: str = ""
    document_id: str = ""
    revision_id: str = ""
    is_sheet: bool = False


class SheetLinks(Answered):
    """`nowhere` is how many lead to files that are not there for this person, or to addresses not to be followed."""

    links: list[SheetLink]
    nowhere: int


def list_links(context: Context, press: Press, actor: Actor, revision_id: str, page: int) -> SheetLinks:
    """Of one page. Raises NotFound for a page that is not there."""
    with context.database.read() as session:
        sha256 = see_revision(session, actor, revision_id, let_in=True)[0].sha256
        row = session.get(PageRow, (sha256, page))
        if row is None:
            raise NotFound(revision_id)
        some = row.contents.get("links", 0)
    found = _read(context, press, sha256, page, revision_id) if some else []
    with context.database.read() as session:
        seat = see_revision(session, actor, revision_id, let_in=True)[2]
        named = documents_with_files(session, seat, {each.file for each in found if each.file})
        ways = [_way(session, each, named.get(alike(each.file), "")) for each in found]
    led = [each for each in ways if each is not None]
    return SheetLinks(links=led, nowhere=len(ways) - len(led))


def _read(context: Context, press: Press, sha256: str, page: int, about: str) -> list[FileLink]:
    try:
        with context.blobs.local_sheet(sha256) as path:
            return press.links(path, page)
    except CannotDraw as error:
        raise NotFound(about) from error
    except PressStopped as error:
        raise RuleBroken("page_too_slow", "The links of this page take too long to read.", about) from error


def _way(session: Session, link: FileLink, document_id: str) -> SheetLink | None:
    """`document_id` is whose file the link names, empty for none."""
    if link.page >= 0:
        return SheetLink(kind="page", box=link.box, words=f"Page {link.page + 1}", page=link.page)
    if is_web_address(link.address):
        return SheetLink(kind="web", box=link.box, words=link.address, address=link.address)
    if not document_id:
        return None
    row = session.execute(select(DocumentRow).where(DocumentRow.id == document_id)).scalar_one()
    return SheetLink(
        kind="document", box=link.box, words=f"{row.number} {row.title}", document_id=row.id,
        revision_id=row.revision_id, is_sheet=row.kind == "sheet",
    )  # fmt: skip

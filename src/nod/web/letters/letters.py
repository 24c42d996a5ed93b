"""Letters over HTTP."""

from __future__ import annotations

from flask import Response
from pydantic import Field

from nod.services.acts.answers import FromOutside
from nod.services.letters import checks, choices, deeds, drafts, letter_list, out, sending, thread
from nod.services.letters.checks import GiveBack
from nod.services.letters.choices import LetterChoices
from nod.services.letters.deeds import (
    CloseLetter,
    LettersReminded,
    MarkAnswer,
    RemindOfLetters,
    SeenLetter,
    SetPrivate,
)
from nod.services.letters.drafts import (
    BeginLetter,
    KeepLetterDraft,
    LetterBegun,
    LetterDraft,
    LetterDraftKept,
    LetterDraftVersion,
)
from nod.services.letters.letter_list import AskedLetters, LetterList, Sort, StateWord, View
from nod.services.letters.sending import LetterSent
from nod.services.letters.thread import LettersAbout, LetterShown, SeenUpTo
from nod.web.answers import answers, feature, file_answers, send
from nod.web.guard import actor, context, permission

api = feature("letters")


class LettersQuery(FromOutside):
    project_id: str
    words: str = ""
    view: View = ""
    kind: str = ""
    state: StateWord = ""
    company: str = ""
    late: bool = False
    unread: bool = False
    sort: Sort = "last"
    down: bool = True
    start: int = Field(default=0, ge=0)
    limit: int = Field(default=100, ge=1, le=200)


class LetterPath(FromOutside):
    letter_id: str


class LetterDraftPath(FromOutside):
    message_id: str


class LetterMessagePath(FromOutside):
    letter_message_id: str


class OfProjectQuery(FromOutside):
    project_id: str


class AboutQuery(FromOutside):
    project_id: str
    kind: str
    target: str


@api.get("/api/letters", responses=answers(LetterList))
@permission("member")
def list_letters(query: LettersQuery) -> LetterList:
    """The threads that are there for one, the latest first, and one's own drafts."""
    return letter_list.list_letters(context(), actor(), AskedLetters(**query.model_dump()))


@api.get("/api/letters/choices", responses=answers(LetterChoices))
@permission("member")
def read_letter_choices(query: OfProjectQuery) -> LetterChoices:
    """The project's kinds of letters, and to whom one may write."""
    return choices.read_choices(context(), actor(), query.project_id)


@api.get("/api/letters/about", responses=answers(LettersAbout))
@permission("member")
def list_letters_about(query: AboutQuery) -> LettersAbout:
    """The threads that speak of a thing."""
    return thread.letters_about(context(), actor(), query.project_id, query.kind, query.target)


@api.post("/api/letters", responses=answers(LetterBegun))
@permission("member")
def begin_letter(body: BeginLetter) -> LetterBegun:
    """Begin a letter: a draft, for oneself alone."""
    return drafts.begin_letter(context(), actor(), body)


@api.post("/api/letters/remind", responses=answers(LettersReminded))
@permission("member")
def remind_of_letters(body: RemindOfLetters) -> LettersReminded:
    """Remind whoever is asked, of several at once."""
    return deeds.remind(context(), actor(), body)


@api.get("/api/letters/drafts/<message_id>", responses=answers(LetterDraft))
@permission("member")
def read_letter_draft(path: LetterDraftPath) -> LetterDraft:
    """A draft of one's own."""
    return drafts.read_draft(context(), actor(), path.message_id)


@api.put("/api/letters/drafts/<message_id>", responses=answers(LetterDraftKept))
@permission("member")
def keep_letter_draft(path: LetterDraftPath, body: KeepLetterDraft) -> LetterDraftKept:
    """Keep it as it is now."""
    return drafts.keep_draft(context(), actor(), path.message_id, body)


@api.post("/api/letters/drafts/<message_id>/send", responses=answers(LetterSent))
@permission("member")
def send_letter(path: LetterDraftPath, body: LetterDraftVersion) -> LetterSent:
    """Send it to those it names."""
    return sending.send_draft(context(), actor(), path.message_id, body)


@api.post("/api/letters/drafts/<message_id>/check", responses=answers())
@permission("member")
def ask_letter_check(path: LetterDraftPath, body: LetterDraftVersion) -> None:
    """Give it to whoever looks at it, or signs it, before it goes."""
    checks.ask_check(context(), actor(), path.message_id, body)


@api.post("/api/letters/drafts/<message_id>/take-back", responses=answers())
@permission("member")
def take_letter_back(path: LetterDraftPath, body: LetterDraftVersion) -> None:
    """Take it back, to go on writing."""
    checks.take_back(context(), actor(), path.message_id, body)


@api.post("/api/letters/drafts/<message_id>/give-back", responses=answers())
@permission("member")
def give_letter_back(path: LetterDraftPath, body: GiveBack) -> None:
    """Give it back to whoever wrote it, with what is to change."""
    checks.give_back(context(), actor(), path.message_id, body)


@api.post("/api/letters/drafts/<message_id>/let-go", responses=answers(LetterSent))
@permission("member")
def let_letter_go(path: LetterDraftPath, body: LetterDraftVersion) -> LetterSent:
    """Let it go: it is sent as it is."""
    return checks.let_go(context(), actor(), path.message_id, body)


@api.post("/api/letters/drafts/<message_id>/drop", responses=answers())
@permission("member")
def drop_letter_draft(path: LetterDraftPath, body: LetterDraftVersion) -> None:
    """Throw it away."""
    drafts.drop_draft(context(), actor(), path.message_id, body)


@api.get("/api/letters/<letter_id>", responses=answers(LetterShown))
@permission("member")
def read_letter(path: LetterPath) -> LetterShown:
    """A thread with what was written in it."""
    return thread.read_letter(context(), actor(), path.letter_id)


@api.post("/api/letters/<letter_id>/pdf", responses=file_answers("application/pdf"))
@permission("member")
def take_letter_pdf(path: LetterPath) -> Response:
    """A thread as a PDF. A POST, because each taking is recorded."""
    return send(out.take_pdf(context(), actor(), path.letter_id))


@api.post("/api/letters/<letter_id>/mbox", responses=file_answers("application/mbox"))
@permission("member")
def take_letter_mbox(path: LetterPath) -> Response:
    """A thread with its files for a mail program. A POST, because each taking is recorded."""
    return send(out.take_mbox(context(), actor(), path.letter_id))


@api.post("/api/letters/messages/<letter_message_id>/eml", responses=file_answers("message/rfc822"))
@permission("member")
def take_letter_eml(path: LetterMessagePath) -> Response:
    """One message with its files for a mail program. A POST, because each taking is recorded."""
    return send(out.take_eml(context(), actor(), path.letter_message_id))


@api.post("/api/letters/<letter_id>/reply", responses=answers(LetterBegun))
@permission("member")
def begin_letter_reply(path: LetterPath) -> LetterBegun:
    """Begin to write in a thread, or find what one has begun."""
    return drafts.begin_reply(context(), actor(), path.letter_id)


@api.post("/api/letters/<letter_id>/seen", responses=answers())
@permission("member")
def note_letter_seen(path: LetterPath, body: SeenUpTo) -> None:
    """One has read it up to a message."""
    thread.note_seen(context(), actor(), path.letter_id, body)


@api.post("/api/letters/<letter_id>/close", responses=answers())
@permission("member")
def close_letter(path: LetterPath, body: CloseLetter) -> None:
    """Close a thread."""
    deeds.close(context(), actor(), path.letter_id, body)


@api.post("/api/letters/<letter_id>/reopen", responses=answers())
@permission("member")
def reopen_letter(path: LetterPath, body: SeenLetter) -> None:
    """Open it again."""
    deeds.reopen(context(), actor(), path.letter_id, body)


@api.post("/api/letters/<letter_id>/answer", responses=answers())
@permission("member")
def mark_letter_answer(path: LetterPath, body: MarkAnswer) -> None:
    """Say which message is the answer that was asked for."""
    deeds.mark_answer(context(), actor(), path.letter_id, body)


@api.post("/api/letters/<letter_id>/private", responses=answers())
@permission("member")
def set_letter_private(path: LetterPath, body: SetPrivate) -> None:
    """Keep it for its people alone, or not."""
    deeds.set_private(context(), actor(), path.letter_id, body)

"""What the tests do with letters again and again."""

from nod.services.attachments import attachments
from nod.services.letters import checks, deeds, drafts, letter_list, sending, thread, written
from nod.services.letters.letter_list import AskedLetters
from nod.services.letters.written import LetterWritten, PartyGiven
from tests.world import pdf


def person(world, who):
    return PartyGiven(kind="person", id=world.cast.people[who])


def company(world, who):
    return PartyGiven(kind="company", id=world.actor(who).company_id)


def begin(world, who="marit", kind="", about=()):
    command = drafts.BeginLetter(
        project_id=world.project_id, kind=kind, about=[written.ReferenceGiven(kind=k, target=t) for k, t in about]
    )
    return drafts.begin_letter(world.context, world.actor(who), command).message_id


def draft(world, message_id, who="marit"):
    return drafts.read_draft(world.context, world.actor(who), message_id)


def keep(world, message_id, who="marit", **written):
    """What is not said stays as it is in the draft."""
    there = draft(world, message_id, who)
    given = LetterWritten(**{**there.written.model_dump(), **written})
    command = drafts.KeepLetterDraft(version=there.version, written=given)
    return drafts.keep_draft(world.context, world.actor(who), message_id, command)


def add(world, message_id, who="marit", name="clip.pdf", content=None):
    chunks = [content or pdf(name)]
    return attachments.add_attachment(world.context, world.actor(who), "letter_message", message_id, name, chunks).id


def send(world, message_id, who="marit"):
    """The id of its thread."""
    command = drafts.LetterDraftVersion(version=draft(world, message_id, who).version)
    return sending.send_draft(world.context, world.actor(who), message_id, command).letter_id


def write(world, who="marit", to=("ottilie",), copied=(), kind="L", subject="Bollards on the quay", **more):
    """A letter that was sent; the id of its thread. `to` and `copied` are people by name, or parties."""
    begun = begin(world, who, kind)
    keep(
        world, begun, who, kind=kind, subject=subject, to=_parties(world, to), copied=_parties(world, copied),
        **{"page": "<p>Please see below.</p>", **more},
    )  # fmt: skip
    return send(world, begun, who)


def _parties(world, given):
    return [person(world, each) if isinstance(each, str) else each for each in given]


def ask(world, who="marit", whom="ottilie", to=None, due_on=None, **more):
    """An RFI."""
    asked = {"asked_id": world.cast.people[whom], "due_on": due_on}
    return write(world, who, to or (whom,), kind="RFI", **{"subject": "Which grade of bolt?", **asked, **more})


def reply(world, letter, who="ottilie", page="<p>As drawn.</p>", **more):
    """The id of the message."""
    begun = drafts.begin_reply(world.context, world.actor(who), letter).message_id
    keep(world, begun, who, page=page, **more)
    send(world, begun, who)
    return begun


def read(world, letter, who="marit"):
    return thread.read_letter(world.context, world.actor(who), letter)


def texts(world, letter, who="marit"):
    return [each.text for each in read(world, letter, who).messages]


def listed(world, who="marit", **asked):
    return letter_list.list_letters(world.context, world.actor(who), AskedLetters(world.project_id, **asked))


def subjects(world, who="marit", **asked):
    return [line.subject for line in listed(world, who, **asked).lines]


def version(world, letter):
    return world.sql("SELECT version FROM letter WHERE id = ?", letter)[0][0]


def close(world, letter, who="marit", why=""):
    deeds.close(world.context, world.actor(who), letter, deeds.CloseLetter(version=version(world, letter), why=why))


def reopen(world, letter, who="marit"):
    deeds.reopen(world.context, world.actor(who), letter, deeds.SeenLetter(version=version(world, letter)))


def set_private(world, letter, who="marit", *, private=True):
    command = deeds.SetPrivate(version=version(world, letter), private=private)
    deeds.set_private(world.context, world.actor(who), letter, command)


def mark_answer(world, letter, message, who="ottilie"):
    command = deeds.MarkAnswer(version=version(world, letter), message_id=message)
    deeds.mark_answer(world.context, world.actor(who), letter, command)


def state(world, letter):
    return world.sql("SELECT state FROM letter WHERE id = ?", letter)[0][0]


def check(world, message_id, checker="rafael", who="marit", *, signs=False):
    """Given to somebody to look at."""
    keep(world, message_id, who, checker_id=world.cast.people[checker], signs=signs)
    checks.ask_check(world.context, world.actor(who), message_id, _seen(world, message_id, who))


def give_back(world, message_id, note, who="rafael"):
    command = checks.GiveBack(version=draft(world, message_id, who).version, note=note)
    checks.give_back(world.context, world.actor(who), message_id, command)


def let_go(world, message_id, who="rafael"):
    return checks.let_go(world.context, world.actor(who), message_id, _seen(world, message_id, who)).letter_id


def take_back(world, message_id, who="marit"):
    checks.take_back(world.context, world.actor(who), message_id, _seen(world, message_id, who))


def _seen(world, message_id, who):
    return drafts.LetterDraftVersion(version=draft(world, message_id, who).version)


def half(world, who="marit", to=("ottilie",), kind="L", **more):
    """A draft that could be sent."""
    begun = begin(world, who, kind)
    written = {"subject": "Bollards on the quay", "page": "<p>Please see below.</p>", "to": _parties(world, to), **more}
    keep(world, begun, who, kind=kind, **written)
    return begun

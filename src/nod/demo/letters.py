"""Letters, questions and notices of three weeks: answered and late, private, written from mailboxes, and held."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from email.message import EmailMessage
from email.utils import format_datetime
from functools import partial

from sqlalchemy import select

from nod.demo.story import Stage, at
from nod.services.letters import checks, deeds, drafts, sending
from nod.services.letters.written import LetterWritten, PartyGiven, ReferenceGiven
from nod.services.mail.mails import address_for_answers
from nod.services.mail_in import door
from nod.store.tables import DocumentRow, LetterRow, ProjectRow, held_under


@dataclass(frozen=True)
class _Thread:
    """`days` before today it was sent, by `who` to `to`. `asked` is of whom an answer is wanted, `within` so many
    calendar days. `replies` are who wrote what, each a working day after the one before; `answer`: the last of them is
    the answer. `about`: the number of a document that it speaks of.
    """

    days: int
    kind: str
    who: str
    to: tuple[str, ...]
    subject: str
    text: str
    replies: Sequence[tuple[str, str]] = ()
    asked: str = ""
    within: int = 7
    answer: bool = False
    closed: bool = False
    private: bool = False
    about: str = ""
    proposed: str = ""
    copied: tuple[str, ...] = field(default=())


def _rfi(
    days: int, who: str, asked: str, subject: str, text: str, *replies: tuple[str, str], **more: object
) -> _Thread:
    return _Thread(days, "RFI", who, (asked,), subject, text, replies, asked, **more)  # type: ignore[arg-type]


_HALL, _HINGE, _PILES = "BFT-TRA-Z1-01-D-A-0101", "BFT-GME-Z3-XX-D-N-0314", "BFT-GME-Z3-XX-S-N-0331"

RFIS = (
    _rfi(14, "marit", "saoirse", "Door D-014, swing and lining",
         "The plan shows door D-014 opening into the escape route, the schedule the other way. Which one holds?",
         ("saoirse", "The plan holds. The schedule will be corrected with P03."), answer=True, closed=True,
         about=_HALL),
    _rfi(13, "rafael", "leilani", "Base plates, grout under columns C4 to C9",
         "The drawing asks for 30 mm of grout. With the levels as surveyed there are 18 mm left.",
         ("leilani", "Is 18 mm the least, or everywhere?"), ("rafael", "The least, at C7."),
         ("leilani", "20 mm of flowing grout will do at C7; the others as drawn."), answer=True, closed=True,
         proposed="Flowing grout, 18 mm, at C7 alone."),
    _rfi(8, "marit", "ottilie", "Hinge bearing, direction of the keeper plate",
         "On the south linkspan the keeper plate is drawn seaward, on the north one landward.",
         ("ottilie", "Seaward on both. The north linkspan will be revised."), answer=True, about=_HINGE),
    _rfi(11, "rafael", "paolo", "Cable tray through beam B12",
         "The tray crosses B12 where the structure allows no opening.", proposed="Below the beam, 150 mm lower."),
    _rfi(9, "marit", "anouk", "Bollard colour on the quay",
         "The specification says black and yellow, the harbour office asks for white.",
         ("anouk", "I shall ask the harbour master.")),
    _rfi(8, "rafael", "dede", "Fire stopping at the lift pit", "No detail is drawn where the sump pipe leaves the pit.",
         ("dede", "Detail 7 applies there as well: collar and mortar."), answer=True),
    _rfi(7, "marit", "ottilie", "Tolerance of pile heads",
         "Which tolerance applies where a pile head carries a bearing?", about=_PILES,
         proposed="Plus or minus 5 mm in level, 75 mm in plan."),
    _rfi(6, "rafael", "leilani", "Bolts M24, grade", "The list says 8.8, the detail 10.9.", about=_HALL),
    _rfi(5, "marit", "saoirse", "Height of the ticket counter", "Is 850 mm meant from the floor or from the plinth?"),
    _rfi(4, "rafael", "paolo", "Emergency lighting on the boarding bridge",
         "Which of the two circuits feeds the gangway?"),
    _rfi(3, "marit", "dede", "Smoke curtain at the stairs", "Is it released by the hall alone?", within=5),
    _rfi(2, "rafael", "ottilie", "Paint of the ladder rungs", "The rungs are listed without a system."),
)  # fmt: skip

LETTERS = (
    _Thread(15, "L", "anouk", ("marit",), "Access to the quay from 1 April",
            "From 1 April the north gate is shut between 6 and 9 in the morning, for the ferry.",
            [("marit", "Noted. We shall bring deliveries to the south gate.")], closed=True, copied=("rafael",)),
    _Thread(15, "MIN", "marit", ("rafael", "saoirse", "leilani", "ottilie"), "Minutes, design meeting 11",
            "1. The hall goes to authorisation this week. 2. Hinge details follow on Friday."),
    _Thread(14, "I", "saoirse", ("marit",), "Instruction 4: screens in the wash rooms",
            "Please build the screens in the wash rooms as on P02 of the plan.", [("marit", "It will be done so.")],
            closed=True),
    _Thread(13, "N", "rafael", ("anouk",), "Notice: obstruction found at pile 17",
            "On driving pile 17 an obstruction was met at -9.4 m. We reserve time and cost.",
            [("anouk", "Received. Please send the records of the driving.")]),
    _Thread(12, "M", "marit", ("kwabena", "rafael"), "Sheets on the board in the site office",
            "From today only sheets with the round stamp hang there."),
    _Thread(12, "L", "marit", ("paolo",), "Programme of building services",
            "Please say by when the switchboard room must be closed.", [("paolo", "By the end of May.")],
            asked="paolo", answer=True),
    _Thread(11, "L", "leilani", ("saoirse",), "Loads of the roof lights", "The loads have grown by 0.4 kN/m.",
            [("saoirse", "Agreed, the frame follows.")], copied=("marit",)),
    _Thread(11, "NOTE", "marit", ("rafael",), "Call with the harbour office",
            "They want a week's notice of each closure."),
    _Thread(10, "L", "dede", ("saoirse", "marit"), "Fire strategy, changes in section 5",
            "Section 5 now counts the café with the hall.", copied=("anouk",)),
    _Thread(10, "M", "rafael", ("marit",), "Who signs for deliveries", "Kwabena, or the crane driver in his stead."),
    _Thread(9, "I", "anouk", ("rafael",), "Instruction 5: tide gauge", "The tide gauge is left out.",
            [("rafael", "Noted, the submittal is void.")], closed=True),
    _Thread(9, "L", "ottilie", ("marit",), "Dredging, records of the first week", "The records come every Friday."),
    _Thread(8, "MIN", "saoirse", ("marit", "leilani", "paolo", "dede"), "Minutes, coordination 7",
            "1. Tray and beam B12: by RFI. 2. Smoke curtain: with the fire adviser. 3. Ceiling heights are agreed."),
    _Thread(8, "N", "rafael", ("anouk",), "Notice: late release of level 1",
            "The drawings of level 1 were to be released on Monday. We are waiting for them."),
    _Thread(7, "L", "anouk", ("rafael", "marit"), "Visit of the port authority", "They come on Thursday at ten.",
            [("marit", "The hall is free from ten to eleven.")]),
    _Thread(7, "L", "saoirse", ("anouk",), "Tiles in the hall", "Two samples are on their way.", asked="anouk",
            within=14),
    _Thread(6, "M", "marit", ("saoirse", "leilani", "ottilie", "paolo", "dede"), "How to name files from April",
            "The spatial field has two figures from now on."),
    _Thread(6, "L", "paolo", ("marit",), "Emergency generator, place of the tank", "The tank moves by two metres."),
    _Thread(5, "L", "leilani", ("marit",), "Crane loads on the slab",
            "The slab carries the small crane, not the large one.",
            [("marit", "Thank you. The lifting plan will say so.")], closed=True),
    _Thread(5, "NOTE", "rafael", ("marit",), "Scaffolding at the west front", "It stays until the glazing is in."),
    _Thread(4, "I", "saoirse", ("rafael",), "Instruction 6: handrail of the gangway", "Stainless, as on detail 12."),
    _Thread(3, "L", "ottilie", ("anouk",), "Fenders, delivery", "The maker offers week 22.", copied=("marit",)),
    _Thread(2, "MIN", "marit", ("rafael", "kwabena"), "Minutes, site meeting 23", "1. Piles 17 to 20. 2. Deliveries."),
    _Thread(1, "L", "marit", ("yusuf",), "Steel of the canopy, delivery",
            "Please say in which order the frames come.", asked="yusuf"),
    _Thread(6, "L", "rafael", ("anouk",), "Settlement of the piling claim",
            "What we spoke of: time without cost, if pile 17 stays where it is.",
            [("anouk", "I shall take it to the board, and come back to you.")], private=True),
)  # fmt: skip


def _page(text: str) -> str:
    return f"<p>{text}</p>"


def _party(stage: Stage, who: str) -> PartyGiven:
    return PartyGiven(kind="person", id=stage.cast.people[who])


def _send(stage: Stage, each: _Thread) -> None:
    actor = stage.cast.actor(each.who)
    begun = drafts.begin_letter(
        stage.context, actor, drafts.BeginLetter(project_id=stage.cast.project_id, kind=each.kind)
    )
    due = _today(stage) + timedelta(days=each.within) if each.asked else None
    written = LetterWritten(
        kind=each.kind, subject=each.subject, page=_page(each.text), to=[_party(stage, who) for who in each.to],
        copied=[_party(stage, who) for who in each.copied], private=each.private, proposed=each.proposed,
        asked_id=stage.cast.people[each.asked] if each.asked else "", due_on=due, references=_about(stage, each.about),
        aware_on=_today(stage) - timedelta(days=3) if each.kind == "N" else None,
    )  # fmt: skip
    _keep_and_send(stage, each.who, begun.message_id, written)
    stage.made[f"letter {each.subject}"] = begun.letter_id


def _today(stage: Stage) -> date:
    return stage.context.clock.now().date()


def _about(stage: Stage, number: str) -> list[ReferenceGiven]:
    if not number:
        return []
    with stage.context.database.read() as session:
        query = select(DocumentRow.id).where(held_under(stage.cast.project_id, number))
        return [ReferenceGiven(kind="document", target=session.scalars(query).one())]


def _keep_and_send(stage: Stage, who: str, message_id: str, written: LetterWritten) -> None:
    actor = stage.cast.actor(who)
    version = drafts.read_draft(stage.context, actor, message_id).version
    kept = drafts.keep_draft(stage.context, actor, message_id, drafts.KeepLetterDraft(version=version, written=written))
    sending.send_draft(stage.context, actor, message_id, drafts.LetterDraftVersion(version=kept.version))


def _reply(stage: Stage, each: _Thread, place: int) -> None:
    who, text = each.replies[place]
    actor, letter_id = stage.cast.actor(who), stage.made[f"letter {each.subject}"]
    begun = drafts.begin_reply(stage.context, actor, letter_id)
    there = drafts.read_draft(stage.context, actor, begun.message_id).written
    last = place == len(each.replies) - 1
    written = there.model_copy(update={"page": _page(text), "is_answer": each.answer and last})
    _keep_and_send(stage, who, begun.message_id, written)
    if each.closed and last:
        with stage.context.database.read() as session:
            version = session.get_one(LetterRow, letter_id).version
        command = deeds.CloseLetter(version=version)
        deeds.close(stage.context, stage.cast.actor(each.who), letter_id, command)


def _plan() -> None:
    for minute, each in enumerate((*LETTERS, *RFIS)):
        at(-each.days, 9, minute)(partial(_send, each=each))
        for place in range(len(each.replies)):
            day = min(-each.days + place + 1, -1)
            at(day, 15, minute)(partial(_reply, each=each, place=place))


_plan()


def _begin(stage: Stage, who: str, written: LetterWritten) -> str:
    """A draft that somebody has left."""
    actor = stage.cast.actor(who)
    begin = drafts.BeginLetter(project_id=stage.cast.project_id, kind=written.kind)
    message_id = drafts.begin_letter(stage.context, actor, begin).message_id
    drafts.keep_draft(stage.context, actor, message_id, drafts.KeepLetterDraft(version=1, written=written))
    return message_id


@at(-2, 16, 10)
def begin_a_notice(stage: Stage) -> None:
    _begin(stage, "rafael", LetterWritten(
        kind="N", subject="Notice: tide gate out of service", to=[_party(stage, "anouk")],
        page=_page("Since the storm the tide gate cannot be closed. We work around it, and reserve time."),
        aware_on=_today(stage) - timedelta(days=21),
    ))  # fmt: skip


@at(-1, 16, 20)
def give_a_letter_to_be_looked_at(stage: Stage) -> None:
    message_id = _begin(stage, "marit", LetterWritten(
        kind="L", subject="Programme of the linkspans, our answer", to=[_party(stage, "anouk")],
        copied=[_party(stage, "ottilie")], own_ref="HBC/0417", checker_id=stage.cast.people["rafael"], signs=True,
        page="<p>We have looked at the dates of 2 March. Both linkspans can be lifted in week 19, if</p>"
        "<ul><li>the barge is there from week 18, and</li><li>the hinge details are released by 2 April.</li></ul>",
    ))  # fmt: skip
    actor = stage.cast.actor("marit")
    version = drafts.read_draft(stage.context, actor, message_id).version
    checks.ask_check(stage.context, actor, message_id, drafts.LetterDraftVersion(version=version))


def _mail(stage: Stage, sender: str, subject: str, text: str, to: str = "", cc: str = "") -> None:
    """Comes in at the project's address."""
    with stage.context.database.read() as session:
        project = session.get_one(ProjectRow, stage.cast.project_id)
        own = address_for_answers(stage.context, project)
    message = EmailMessage()
    message["From"], message["To"], message["Subject"] = sender, to or own, subject
    if cc or to:
        message["Cc"] = cc or own
    now = stage.context.clock.now()
    message["Date"] = format_datetime(now)
    message["Message-ID"] = f"<{now:%Y%m%d%H%M}@{sender.rpartition('@')[2].rstrip('>')}>"
    message.set_content(text)
    door.take_in(stage.context, sender.rpartition("<")[2].rstrip(">"), [own], message.as_bytes())
    stage.settle()


YUSUF = "Yusuf Haldane <yusuf@sparrowgate.example>"


@at(-4, 11, 20)
def write_from_a_mailbox(stage: Stage) -> None:
    _mail(
        stage, YUSUF, "Canopy, galvanising",
        "The bath takes frames up to 14 m. Two are longer. May we splice them?\n\n-- \nYusuf Haldane\nSparrowgate",
        to="marit@hollinbrook.example",
    )  # fmt: skip


@at(-3, 10, 40)
def write_about_the_crane(stage: Stage) -> None:
    _mail(stage, YUSUF, "Crane on the canopy frames", "We need the crane on two mornings in week 14.")


@at(-2, 13, 5)
def send_an_old_mail_on(stage: Stage) -> None:
    written = stage.context.clock.now() - timedelta(days=40)
    text = (
        "For the file: what the maker told us then.\n\n---------- Forwarded message ---------\n"
        "From: Ilse Brandvold <ilse@kestrelpiling.example>\n"
        f"Date: {format_datetime(written)}\nSubject: Driving criteria, north linkspan\n"
        "To: Rafael Nwosu <rafael@hollinbrook.example>\n\n"
        "Ten blows of less than 25 mm each, with the large hammer."
    )
    _mail(stage, "Rafael Nwosu <rafael@hollinbrook.example>", "Fwd: Driving criteria, north linkspan", text)


@at(-1, 8, 50)
def strangers_write(stage: Stage) -> None:
    _mail(stage, "Otto Brenner <otto@kestrelpiling.example>", "Pile test results", "The results of piles 1 to 16.")


@at(-1, 8, 55)
def another_stranger_writes(stage: Stage) -> None:
    _mail(stage, "Mia Tern <mia@quayside.example>", "Noise in the evening", "Until when do you work tonight?")

"""Mails as people outside write them, and the way they come in."""

from email.message import EmailMessage
from email.utils import format_datetime

from nod.services.mail.mails import address_for_answers
from nod.services.mail_in import door
from nod.services.threads import talk
from nod.services.transmittals import transmittals_view
from nod.store.tables import ProjectRow


def letter(sender, text="Received, thank you.", *, subject="Re: HBC-T-0001", files=(), headers=(), page=""):
    """A mail as bytes. `sender` is `Name <address>`; `files` are names and bytes."""
    message = EmailMessage()
    message["From"] = sender
    message["Subject"] = subject
    for name, value in dict(headers).items():
        message[name] = value
    message.set_content(text)
    if page:
        message.add_alternative(page, subtype="html")
    for name, content in files:
        message.add_attachment(content, maintype="application", subtype="octet-stream", filename=name)
    return message.as_bytes()


def dated(world, **headers):
    """Headers that make a mail one of its own."""
    return {"Date": format_datetime(world.clock.now()), "Message-ID": "<one@plinthworks.example>", **headers}


def answer_address(world, person_email, *, thing_kind="transmittal"):
    """Where somebody would answer the mail that they had about a thing."""
    query = "SELECT id FROM mail_out WHERE email = ? AND thing_kind = ? ORDER BY written_at DESC, rowid DESC"
    return address(world, world.sql(query, person_email, thing_kind)[0][0])


def address(world, mail_id=""):
    with world.context.database.read() as session:
        project = session.get_one(ProjectRow, world.project_id)
        return address_for_answers(world.context, project, mail_id)


def came_in(world, raw, to="", sender="someone@example.com"):
    """Through the door, and read; returns what became of it: state, why, kind of the thing, subject."""
    (mail_id,) = door.take_in(world.context, sender, [to or address(world)], raw)
    world.look()
    return became(world, mail_id)


def became(world, mail_id):
    ((state, why, kind),) = world.sql("SELECT state, why, thing_kind FROM mail_in WHERE id = ?", mail_id)
    return state, why, kind


def last_id(world):
    return world.sql("SELECT id FROM mail_in ORDER BY seq DESC LIMIT 1")[0][0]


def email_of(world, who):
    return world.sql("SELECT email FROM person WHERE id = ?", world.cast.people[who])[0][0]


def line_of(world, sent, who):
    shown = transmittals_view.read_transmittal(world.context, world.actor("marit"), sent.id)
    return next(each for each in shown.recipients if each.who.id == world.cast.people[who])


def said(world, kind, target, who="marit"):
    return talk.read_talk(world.context, world.actor(who), kind, target).said


def without_letters(world):
    """A project that takes in answers alone: what belongs to nothing is held."""
    world.write("UPDATE project SET rules = json_set(rules, '$.tools', json('[\"reviews\", \"transmittals\"]'))")

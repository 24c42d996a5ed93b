"""One thing of every kind, for those tests that walk over all routes."""

from datetime import date, timedelta

from nod.services.attachments import attachments
from nod.services.files.lists_in import ListAsked
from nod.services.letters import by_link as letters_by_link
from nod.services.links import links
from nod.services.links.part_links import part_link
from nod.services.marks import prints
from nod.services.marks.marks import NewMark
from nod.services.people import key_links
from nod.services.people.key_links import link_token
from nod.services.register import drawing_sets, planned_list, saved_views
from nod.services.reviews.marks_by_link import DrawInPart, draw_by_link
from nod.services.sessions import making, marking
from nod.services.sessions.invitations import Party
from nod.services.sessions.making import MakeSession
from nod.services.sessions.marking import DrawInSession
from nod.services.submittals import calendar_feed
from nod.services.submittals import making as submittals
from nod.services.threads import talk
from nod.services.transmittals import catching_up, drafts, received, transmittals
from nod.services.transmittals.recipients import guest_token
from tests.services.letters import acts as letter_acts
from tests.services.links.visiting import enter
from tests.services.mail_in.letters import answer_address, came_in, last_id, letter
from tests.services.reviews.test_route_editing import make, start_on, step
from tests.services.submittals import acts as submittal_acts
from tests.world import NUMBER, OTHER_NUMBER, name, pdf


def make_things(world):
    """Their ids, by kind."""
    document, revision = world.file(name())[0]
    (mark,) = world.ink(revision, world.draw(revision))
    marit = (world.context, world.actor("marit"))
    review = world.closed_review((document, revision), comment="Door 4 is too narrow.")
    prints.print_sheet(world.context, world.press, world.actor("marit"), revision, "own", with_marks=False)
    sent = transmittals.send_transmittal(
        world.context,
        world.actor("marit"),
        transmittals.SendTransmittal(
            project_id=world.project_id,
            revisions=[revision],
            people=[world.cast.people["yusuf"]],
            purpose="record",
            stamped=True,
        ),
    )
    world.send()
    email = world.sql("SELECT email FROM person WHERE id = ?", world.cast.people["yusuf"])[0][0]
    came_in(world, letter(f"Yusuf <{email}>", files=[("note.pdf", pdf("note"))]), answer_address(world, email))
    given = links.give_links(
        *marit, links.GiveLink(kind="document", target=document, for_kind="anyone", allows=["download", "comment"])
    )
    to_withdraw = links.give_links(*marit, links.GiveLink(kind="document", target=document, for_kind="anyone"))
    of_document = given.links[0].address.rpartition("/")[2]
    batch = world.arrive({"odd.pdf": pdf("odd")})
    listed = received.KeepReceived(number="TRA-44", text=f"{NUMBER} P09", keep=True)
    came = received.keep_received(*marit, batch, listed).id
    key_links.ask_for_password(world.context, key_links.AskForPassword(email="ines@hollinbrook.example"), "here")
    key_link = world.sql("SELECT id FROM key_link")[0][0]
    recipient = world.sql("SELECT id FROM recipient")[0][0]
    view = saved_views.KeepView(project_id=world.project_id, name="Ours", shared=True, content={})
    planned_list.read_list(
        *marit,
        ListAsked(world.project_id, None, True, True),
        [f"Number,Planned\n{NUMBER},2027-04-01".encode()],
    )
    drawing_set = drawing_sets.make_set(*marit, drawing_sets.MakeSet(project_id=world.project_id, name="Stage 3"))
    drawing_sets.set_sheets(*marit, drawing_set.id, drawing_sets.SetSheets(version=1, documents=[document]))
    of_set = links.give_links(
        *marit, links.GiveLink(kind="shared_set", target=drawing_set.id, for_kind="anyone", allows=["download"])
    )
    attachment = say_with_file(world, "document", document, "What is this?", "leilani")
    world.look()
    world.register(world.arrive({name().replace(".pdf", ".dwg"): b"AC1032 a drawing of its own"}))
    asked = _ask_outside(world)
    session, met = _meet(world, asked["guest_revision"])
    by = links.give_links(*marit, links.GiveLink(kind="session", target=session, for_kind="anyone", allows=["mark"]))
    draft = drafts.make_draft(*marit, drafts.KeepDraft(project_id=world.project_id, revisions=[revision]))
    handed = catching_up.HandOver(
        revision_id=revision, company_id=world.actor("anouk").company_id, to_whom="Otto", on=date(2027, 3, 8)
    )
    handed = catching_up.hand_over(*marit, handed)
    return {
        "project": world.project_id, "route": world.cast.route_id, "document": document, "revision": revision,
        "mark": mark.id, "review": review,
        "step": world.review(review).slip[0].id, "comment": world.sql("SELECT id FROM review_comment")[0][0],
        "transmittal": sent.id, "batch": batch, "person": world.cast.people["yusuf"],
        "arrival": world.batch(batch).arrivals[0].id, "token": guest_token(world.context, recipient), "number": NUMBER,
        "guest": enter(world, guest_token(world.context, recipient)), "link": to_withdraw.links[0].id,
        "guest_of_set": enter(world, of_set.links[0].address.rpartition("/")[2], "Otto Brenner"),
        "guest_of_document": enter(world, of_document, "Otto Brenner"),
        "folder": world.cast.folders[""], "company": world.actor("rafael").company_id,
        "print": world.sql("SELECT code FROM print_code")[0][0],
        "cover": world.sql("SELECT code FROM transmittal")[0][0], "sign_in": "aaaaaaaaaaaaaaaa",
        "starter": "aaaaaaaaaaaaaaaa", "pack": "aaaaaaaaaaaaaaaa", "set": drawing_set.id,
        "rendition": world.sql("SELECT id FROM rendition")[0][0],
        "attachment": attachment, "thing": document, "mail": last_id(world),
        "view": saved_views.keep_view(*marit, view).id, "key_link": link_token(world.context, key_link),
        "draft": draft.id, "hand_over": handed.id, "session": session, "session_mark": met,
        "received": came, **asked, **_answer_outside(world), **_write_letters(world), "submittal": _want(world),
        "feed": _feed(world),
        "guest_of_session": enter(world, by.links[0].address.rpartition("/")[2], "Otto Brenner"),
    }  # fmt: skip


def _meet(world, revision):
    """A session that is open, with somebody for each of what one may do there."""
    parties = [
        Party(kind="person", id=world.cast.people[who], may=may)
        for who, may in (("junpei", "look"), ("leilani", "comment"), ("paolo", "mark"))
    ]
    command = MakeSession(
        project_id=world.project_id, name="Level 1", closes_at=world.clock.now() + timedelta(hours=2),
        revisions=[revision], parties=parties,
    )  # fmt: skip
    made = making.make_session(world.context, world.actor("marit"), command).id
    new = DrawInSession(marks=[NewMark(page=0, kind="pin", points=[(9, 9)], text="Here")])
    (mark,) = marking.draw_in_session(world.context, world.actor("paolo"), made, revision, new)
    return made, mark.id


def _feed(world):
    """The end of the address that a calendar reads."""
    made = calendar_feed.make_feed(
        world.context, world.actor("ottilie"), calendar_feed.MakeFeed(project_id=world.project_id)
    )  # fmt: skip
    return made.address.rsplit("/", 1)[1]


def _want(world):
    """A submittal that the marine engineer is to send in."""
    details = submittals.Details(title="Bollards", kind="SD", company_id=world.actor("ottilie").company_id)
    command = submittals.MakeSubmittal(project_id=world.project_id, details=details)
    return submittals.make_submittal(world.context, world.actor("marit"), command).id


def _first_message(world, letter):
    return world.sql("SELECT id FROM letter_message WHERE letter_id = ? AND place = 1", letter)[0][0]


def _write_letters(world):
    """A thread with an outside contact who has written in it with a file, their visit by its link, and a draft."""
    sent = letter_acts.write(world, to=("ottilie", "yusuf"))
    world.send()
    link = world.sql("SELECT id FROM link WHERE thing_id = ?", sent)[0][0]
    guest = enter(world, part_link("letter", link).token(world.context))
    added = letters_by_link.add_file(world.context, guest, "bolt.pdf", [pdf("bolt")])
    said = letters_by_link.GuestWrites(version=0, text="As agreed.", files=[added.id])
    letters_by_link.write(world.context, guest, said)
    return {
        "letter": sent, "message": letter_acts.begin(world), "letter_message": _first_message(world, sent),
        "guest_of_letter": guest, "guest_letter_file": added.id,
    }  # fmt: skip


def _answer_outside(world):
    """A submittal that an outside contact is to answer, their visit by its link, and a file that was sent in."""
    wanted = submittal_acts.make(world, paragraph="2.02.B")
    submittal_acts.ask(world, wanted)
    submittal_acts.send_in(world, wanted)
    submittal_acts.give(world, wanted, "yusuf")
    link = world.sql("SELECT id FROM link WHERE thing_id = ?", wanted)[0][0]
    sent = world.sql("SELECT id FROM attachment WHERE on_id = ?", wanted)[0][0]
    return {
        "guest_of_submittal": enter(world, part_link("submittal", link).token(world.context)), "guest_file": sent,
    }  # fmt: skip


def _ask_outside(world):
    """A review that asks an outside contact about a sheet of its own, and their visit by its link."""
    filed = world.file(name(OTHER_NUMBER))[0]
    review = start_on(world, make(world, step(world, "yusuf")), filed)
    link = world.sql("SELECT id FROM link WHERE thing_id = ?", review)[0][0]
    guest = enter(world, part_link("review", link).token(world.context))
    drawn = DrawInPart(marks=[NewMark(page=0, kind="pin", points=[(7, 7)], text="Bolt")])
    return {
        "guest_of_review": guest, "guest_revision": filed[1], "guest_step": world.review(review).slip[0].id,
        "guest_mark": draw_by_link(world.context, guest, filed[1], drawn).mine[0],
    }  # fmt: skip


def say_with_file(world, kind, target, text, who):
    """Says something about a thing, with a file that is called so; returns the file's id."""
    actor = world.actor(who)
    added = attachments.add_attachment(world.context, actor, kind, target, f"{text}.pdf", [pdf(text)])
    talk.say(world.context, actor, kind, target, talk.Say(text=text, attachments=[added.id]))
    return added.id

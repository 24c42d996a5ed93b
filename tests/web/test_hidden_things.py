"""Every answer searched for what is hidden: a sheet out of sight, and something private to two people."""

from datetime import date

import pytest

from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.context import acting
from nod.services.intake import intake
from nod.services.marks import mark_links
from nod.services.things.things import see_thing, tell_thing
from tests.services.letters import acts as letters
from tests.services.mail_in.letters import answer_address, came_in, email_of, last_id
from tests.services.mail_in.letters import letter as mail
from tests.services.things.toys import add_private_toy, toys_are_there
from tests.web.test_permissions import _address, _ask, _routes
from tests.web.things import say_with_file
from tests.world import name, pdf

pytestmark = pytest.mark.walk

HIDDEN = "BFT-HBC-Z1-01-D-S-0900"
SECRET = "Secret cofferdam"


def test_no_answer_speaks_of_what_is_hidden(app, world, ids, everybody):
    """Every route that reads, as those who see no more than the rest of the project, searched for the hidden sheet."""
    batch = intake.open_batch(
        world.context, world.actor("marit"),
        intake.OpenBatch(project_id=world.project_id, folder_id=world.cast.folders["Temporary works"]),
    )  # fmt: skip
    intake.add_file(world.context, world.actor("marit"), batch.id, name(HIDDEN, title=SECRET), [pdf(SECRET)])
    world.look()
    world.register(batch.id)
    document, revision = world.document(HIDDEN)
    (mark,) = world.ink(revision, world.draw(revision, "marit", text=SECRET), who="marit")
    from nod.services.marks import prints
    from nod.services.transmittals import transmittals

    prints.print_sheet(world.context, world.press, world.actor("marit"), revision, "own", with_marks=False)
    sent = transmittals.send_transmittal(
        world.context, world.actor("marit"),
        transmittals.SendTransmittal(
            project_id=world.project_id, revisions=[revision], people=[world.cast.people["rafael"]], purpose="record",
            note=SECRET,
        ),
    )  # fmt: skip
    attachment = say_with_file(world, "document", document, SECRET, "marit")
    world.look()
    hidden = [
        HIDDEN,
        SECRET,
        attachment,
        document,
        revision,
        mark.id,
        sent.id,
        batch.id,
        world.cast.folders["Temporary works"],
    ]
    aimed = {
        **ids,
        "document": document,
        "revision": revision,
        "mark": mark.id,
        "transmittal": sent.id,
        "batch": batch.id,
        "attachment": attachment,
        "target": document,
        "thing": document,
    }
    for rule, method, view in _routes(app):
        if method != "GET" or view.permission == "public":
            continue
        for person in ("stranger", "bronwen", "junpei", "leilani", "paolo"):
            for there in (ids, aimed):
                text = _ask(everybody[person], rule, method, there).data.decode(errors="replace")
                spoken = [each for each in hidden if each in text and each not in _address(rule, there)]
                assert spoken == [], f"{rule.rule} as {person} tells {spoken}"
    assert HIDDEN in everybody["marit"]("GET", f"/api/documents?project_id={ids['project']}").text


def test_no_answer_speaks_of_a_private_letter_but_to_those_in_it(app, world, ids, everybody):
    """It asks for an answer that is late, speaks of a sheet, has a file, was answered by mail; one did not arrive."""
    begun = letters.begin(world, "leilani", about=[("document", ids["document"])])
    file = letters.add(world, begun, "leilani", f"{SECRET}.pdf")
    letters.keep(
        world, begun, "leilani", subject=SECRET, page=f"<p>{SECRET}</p>", private=True, files=[file],
        to=[letters.person(world, "paolo"), letters.person(world, "yusuf")], asked_id=world.cast.people["paolo"],
        due_on=date(2027, 3, 1),
    )  # fmt: skip
    letter = letters.send(world, begun, "leilani")
    world.send()
    email = email_of(world, "yusuf")
    came_in(world, mail(f"Yusuf <{email}>", SECRET), answer_address(world, email, thing_kind="letter"))
    sent = world.sql("SELECT id FROM mail_out WHERE thing_id = ?", letter)[0][0]
    world.write(f"UPDATE mail_out SET trouble = 'lost', trouble_at = written_at WHERE id = '{sent}'")
    hidden = [SECRET, letter, begun, file]
    aimed = {**ids, "letter": letter, "message": begun, "attachment": file, "mail": last_id(world)}
    for rule, method, view in _routes(app):
        if method != "GET" or view.permission == "public" or "/guest/" in rule.rule:
            continue
        for person in ("stranger", "bronwen", "junpei", "marit", "rafael", "ines"):
            for there in (ids, aimed):
                text = _ask(everybody[person], rule, method, there).data.decode(errors="replace")
                spoken = [each for each in hidden if each in text and each not in _address(rule, there)]
                assert spoken == [], f"{rule.rule} as {person} tells {spoken}"
    for person in ("marit", "rafael", "ines"):
        assert SECRET not in everybody[person]("GET", f"/api/search?project_id={ids['project']}&words=cofferdam").text
        assert SECRET not in everybody[person]("GET", f"/api/mail?project_id={ids['project']}&tab=back").text
    for person in ("leilani", "paolo"):
        assert SECRET in everybody[person]("GET", f"/api/letters?project_id={ids['project']}&words=coffer").text


def test_no_answer_speaks_of_a_private_thing_to_leads_and_stewards(app, world, ids, everybody):
    """Something that is private, linked from a mark, logged and told: only those in it are told of it anywhere."""
    with toys_are_there() as kind:
        toy = add_private_toy(world, SECRET, "leilani", "paolo")
        mark_links.link_mark(
            world.context, world.actor("leilani"), ids["mark"], mark_links.LinkMark(kind="toy", target=toy)
        )
        with acting(world.context, world.actor("paolo")) as act:
            act.record(world.project_id, Fact(FactKind.DOCUMENT_CHANGED, Subject("toy", toy), SECRET))
            tell_thing(act, kind, see_thing(act.session, act.actor, kind, toy)[0])
        attachment = say_with_file(world, "toy", toy, SECRET, "leilani")
        world.look()
        aimed = {**ids, "kind": "toy", "target": toy, "thing": toy, "attachment": attachment}
        searched = f"/api/search?project_id={ids['project']}&words=cofferdam"
        for rule, method, view in _routes(app):
            if method != "GET" or view.permission == "public":
                continue
            for person in ("stranger", "bronwen", "junpei", "marit", "rafael", "ines"):
                for there in (ids, aimed):
                    text = _ask(everybody[person], rule, method, there).data.decode(errors="replace")
                    spoken = [
                        each for each in (SECRET, toy, attachment) if each in text and each not in _address(rule, there)
                    ]
                    assert spoken == [], f"{rule.rule} as {person} tells {spoken}"
        for person in ("junpei", "marit", "rafael", "ines"):
            assert SECRET not in everybody[person]("GET", searched).text
        for person in ("leilani", "paolo"):
            assert SECRET in everybody[person]("GET", searched).text
            assert SECRET in everybody[person]("GET", f"/api/audit?project_id={ids['project']}").text

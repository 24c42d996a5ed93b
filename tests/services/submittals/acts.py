"""What the tests do with submittals again and again."""

from datetime import date

from nod.services.attachments import attachments
from nod.services.submittals import answering, dossier, log, making, sending_in
from nod.services.submittals.log import AskedSubmittals
from tests.world import pdf

JUL30 = date(2027, 7, 30)
BOLLARDS = {
    "title": "Mooring bollards, 100 t", "kind": "SD", "section": "35 59 13", "paragraph": "2.02.A",
    "required_on": JUL30, "lead": 30, "rounds": 2,
}  # fmt: skip


def company_of(world, who):
    return world.actor(who).company_id


def make(world, who="marit", by="ottilie", number="", **more):
    """Of the company that `by` is of."""
    details = making.Details(**{**BOLLARDS, "company_id": company_of(world, by), **more})
    command = making.MakeSubmittal(project_id=world.project_id, number=number, details=details)
    return making.make_submittal(world.context, world.actor(who), command).id


def seen(world, submittal, who="marit"):
    return dossier.read_submittal(world.context, world.actor(who), submittal)


def version(world, submittal):
    return world.sql("SELECT version FROM submittal WHERE id = ?", submittal)[0][0]


def versions(world, *submittals):
    return {each: version(world, each) for each in submittals}


def change(world, *submittals, who="marit", **details):
    given = making.Details(**details)
    changes = [
        making.SubmittalChange(id=each, version=version(world, each), details=given) for each in submittals
    ]  # fmt: skip
    return making.change_submittals(world.context, world.actor(who), making.ChangeSubmittals(changes=changes))


def ask(world, *submittals, whom="ottilie", who="marit", note=""):
    command = sending_in.AskFor(
        submittals=versions(world, *submittals), person_id=world.cast.people[whom], note=note
    )  # fmt: skip
    sending_in.ask_for(world.context, world.actor(who), command)


def add(world, submittal, who, name="bollards.pdf", content=None):
    chunks = [content or pdf(name)]
    return attachments.add_attachment(world.context, world.actor(who), "submittal", submittal, name, chunks).id


def send_in(world, submittal, who="ottilie", files=1, note=""):
    added = [add(world, submittal, who, f"file {place}.pdf") for place in range(files)]
    command = sending_in.SendIn(version=version(world, submittal), note=note, files=added)
    sending_in.send_in(world.context, world.actor(who), submittal, command)


def give(world, submittal, whom="saoirse", who="marit", note=""):
    command = answering.GiveToAnswer(
        version=version(world, submittal), person_id=world.cast.people[whom], note=note
    )  # fmt: skip
    answering.give(world.context, world.actor(who), submittal, command)


def answer(world, submittal, verdict, who="saoirse", files=1, note="", *, on_behalf=False):
    added = [add(world, submittal, who, f"answer {place}.pdf") for place in range(files)]
    command = answering.AnswerSubmittal(
        version=version(world, submittal), verdict=verdict, note=note, files=added, on_behalf=on_behalf
    )  # fmt: skip
    answering.answer(world.context, world.actor(who), submittal, command)


def close(world, submittal, who="marit"):
    command = answering.CloseSubmittal(version=version(world, submittal))
    answering.close(world.context, world.actor(who), submittal, command)


def deliver(world, submittal, on, who="marit"):
    command = sending_in.Deliver(version=version(world, submittal), delivered_on=on)
    sending_in.deliver(world.context, world.actor(who), submittal, command)


def copy_in(world, submittal, *parties, who="marit"):
    given = [sending_in.CopiedParty(kind=kind, id=id) for kind, id in parties]
    command = sending_in.CopyIn(version=version(world, submittal), parties=given)
    sending_in.copy_in(world.context, world.actor(who), submittal, command)


def void(world, *submittals, who="marit", reason="Not in the scope any more."):
    command = sending_in.VoidSubmittals(submittals=versions(world, *submittals), reason=reason)
    sending_in.void(world.context, world.actor(who), command)


def listed(world, who="marit", **asked):
    return log.list_submittals(world.context, world.actor(who), AskedSubmittals(world.project_id, **asked))


def numbers(world, who="marit", **asked):
    return [each.number for each in listed(world, who, **asked).lines]


def state(world, submittal):
    return seen(world, submittal).line.state

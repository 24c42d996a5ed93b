"""An answer by mail to what was asked of somebody in a submittal (handbook §9): a verdict with a file, or words."""

from __future__ import annotations

from sqlalchemy.orm import Session

from nod.core.submittals.mailed import verdict_said
from nod.core.submittals.states import NOT_SENT, State
from nod.core.threads.threads import unfolded
from nod.core.trail.entries import Subject
from nod.services.acts.answers import show_verdicts
from nod.services.acts.context import Act
from nod.services.attachments.attachments import attach_mailed
from nod.services.links.part_links import link_for
from nod.services.mail.mails import About, write_mail
from nod.services.mail_in.answers import MailAnswer, answered_by_mail
from nod.services.submittals.answering import keep_answer, round_of, verdict_of
from nod.services.submittals.kind import SUBMITTAL
from nod.services.submittals.outside import is_contact, names_person
from nod.services.submittals.submittal_rows import named, tell_those
from nod.services.threads.talk import say_by_mail
from nod.store.tables import ProjectRow, SubmittalRow

_LONGEST_NOTE = 4000


@answered_by_mail(SUBMITTAL.code, names_person)
def take_answer(act: Act, row: SubmittalRow, answer: MailAnswer) -> str:
    """With a verdict in its first line and a file it is the answer; otherwise it is said in its Talk.

    What was meant as one, and is none, is told to whoever wrote it, with what is missing.
    """
    project = act.session.get_one(ProjectRow, row.project_id)
    words = {each.code: each.words for each in show_verdicts(project.rules["verdict_set"], "")}
    code, note = verdict_said(unfolded(answer.said.text, answer.said.folds), words)
    missing = _missing(act.session, row, answer, code)
    if not missing and code:
        sent = round_of(act.session, row)
        files = attach_mailed(act, SUBMITTAL, row, sent.answer_files, answer.files, answer.said.person_id)
        told = {"files": files, "by": "mail", "mail sha256": answer.said.sha256}
        keep_answer(act, row, project, verdict_of(project, code), note[:_LONGEST_NOTE], told)
        return f"answered {code}"
    if answer.says_something:
        say_by_mail(act, SUBMITTAL, row, answer.said, answer.files)
        text = unfolded(answer.said.text, answer.said.folds)
        tell_those(act, row, "wrote about it by mail", ["", text] if text else [])
    if missing:
        _write_back(act, row, project, answer, missing)
    return "said in its Talk"


def _missing(session: Session, row: SubmittalRow, answer: MailAnswer, code: str) -> str:
    """Why it is no answer, or nothing sent in, though it looks like one; empty for one, and for what is only said."""
    person_id, state = answer.said.person_id, State(row.state)
    if person_id == row.approver_id and state is State.UNDER_REVIEW:
        return _missing_of_answer(session, row, answer, code)
    if person_id == row.approver_id and code:
        return f"It is {state.value}: no answer is wanted now."
    if person_id == row.person_id and state in NOT_SENT and answer.files:
        return "Files are sent in under the address in the mail that asked you, so that you see that all have come."
    return "" if not code else "It is not you who is asked to answer it."


def _missing_of_answer(session: Session, row: SubmittalRow, answer: MailAnswer, code: str) -> str:
    if row.review_id is not None:
        return "It goes round in a review now, which answers it."
    given = round_of(session, row).given_at
    earlier = answer.asked_at is None or (given is not None and answer.asked_at < given)
    if code and earlier:
        return "It answers an earlier mail than the one that asks you now. Please answer that one."
    if code and not answer.files:
        return "An answer needs what was answered, attached."
    if answer.files and not code:
        return "No verdict was found. Please begin with its letter in a line of its own."
    return ""


def _write_back(act: Act, row: SubmittalRow, project: ProjectRow, answer: MailAnswer, missing: str) -> None:
    """Their words and files are kept; what is missing is said, with the way to do it."""
    person_id, thing = answer.said.person_id, Subject(SUBMITTAL.code, row.id)
    if not person_id:
        return
    lines = [f"Your mail about {named(row)} is kept in its Talk, and nothing else was done.", "", missing]
    link = None
    if is_contact(act.session, project.id, person_id):
        link = link_for(act, project.id, thing, row.keeper_id, person_id, "comment")
        lines += ["", "Or do it here, without a sign-in:", "{link}"]
    key = f"submittal-not-taken:{answer.said.mail_id}"
    subject = f"{project.number}: {named(row)}: not taken as an answer"
    write_mail(act, key, person_id, subject, lines, link, about=About(project, thing))

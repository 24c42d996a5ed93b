"""Who is told of what a review's acts bring: those who are asked, or need not any more, authors, starters, leads."""

from __future__ import annotations

from collections.abc import Container, Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property

from sqlalchemy import select

from nod.core.access.levels import RUNNING_ROLES
from nod.core.reviews.path import Quota, StepAct
from nod.core.reviews.running import Happened, Happening, PlaceState, StepRun, Turn
from nod.core.trail.entries import Subject
from nod.services.acts.context import Act
from nod.services.mail.mails import About, write_mail
from nod.services.notices.notices import Notice, tell_person
from nod.services.reviews.outside_links import link_for
from nod.services.reviews.review_rows import LoadedReview
from nod.services.reviews.roster import contact_ids
from nod.services.things.things import who_may_know
from nod.store.bulk import rows_of
from nod.store.tables import (
    DocumentRow,
    MembershipRow,
    PersonRow,
    ProjectRow,
    ReviewDocumentRow,
    RevisionRow,
)


def tell_of(act: Act, loaded: LoadedReview, turn: Turn) -> None:
    """Everybody who has to know of what happened; `loaded` has the rows as they are after it."""
    telling = _Telling(act, loaded)
    for each in turn.happened:
        if each.what is Happening.STEP_BEGAN:
            telling.step_began(each.step)
        elif each.what is Happening.NOBODY_ASKED:
            telling.nobody_asked(each.step)
        elif each.what is Happening.NOT_NEEDED:
            telling.not_needed(each)
    back = [each.document_id for each in turn.happened if each.what is Happening.SENT_BACK]
    if back:
        telling.sent_back(back)
    if any(each.what is Happening.CLOSED for each in turn.happened):
        telling.closed()


def tell_newcomer(act: Act, loaded: LoadedReview, at: int, person_id: str) -> None:
    """Whoever takes another's place in a running step is told as if it began for them."""
    _Telling(act, loaded).asked(at, [person_id], f":{loaded.row.version}")


def tell_cancelled(act: Act, loaded: LoadedReview, words: str) -> None:
    """Whoever has been asked for something is told that it is not wanted any more, and whoever started it."""
    _Telling(act, loaded).cancelled(words)


def remind(act: Act, loaded: LoadedReview, at: int, said: str, key: str) -> None:
    """All who are asked in a running step and have not answered."""
    _Telling(act, loaded).reminded(at, said, key)


def tell_leads_late(act: Act, loaded: LoadedReview, at: int, said: str, key: str) -> None:
    _Telling(act, loaded).late(at, said, key)


def tell_leads_silent(act: Act, loaded: LoadedReview, silence: str) -> None:
    """The contract's day is over, and the review runs."""
    _Telling(act, loaded).silent(silence)


_SHARED = "Others may take this step too. Pick it up first, so that nobody does it twice."


@dataclass
class _Telling:
    act: Act
    loaded: LoadedReview

    @cached_property
    def project(self) -> ProjectRow:
        return self.act.session.get_one(ProjectRow, self.loaded.row.project_id)

    @property
    def name(self) -> str:
        return f"{self.loaded.row.number} {self.loaded.row.name}"

    @property
    def about(self) -> list[Subject]:
        return [Subject("review", self.loaded.row.id)]

    @cached_property
    def lines(self) -> dict[str, str]:
        """`BFT-… P02  Title` for each document by its id, in their order."""
        query = (
            select(DocumentRow.id, DocumentRow.number, RevisionRow.code, RevisionRow.title, ReviewDocumentRow.verdict)
            .join(ReviewDocumentRow, ReviewDocumentRow.document_id == DocumentRow.id)
            .join(RevisionRow, RevisionRow.id == ReviewDocumentRow.revision_id)
            .where(ReviewDocumentRow.review_id == self.loaded.row.id)
            .order_by(ReviewDocumentRow.place)
        )
        return {
            row.id: f"  {row.number} {row.code}  {row.title}" + (f"  verdict {row.verdict}" if row.verdict else "")
            for row in rows_of(self.act.session, query)
        }

    def _may(self, people: Iterable[str]) -> Container[str]:
        return who_may_know(self.act.session, self.project.id, people, self.about)

    @cached_property
    def contacts(self) -> frozenset[str]:
        return frozenset(contact_ids(self.act.session, self.project.id))

    def _tell(self, kind: str, people: Sequence[str], key: str, subject: str, text: list[str]) -> None:
        outside = self.contacts.intersection(people)
        self._tell_outside(kind, [each for each in dict.fromkeys(people) if each in outside], key, subject, text)
        people = [each for each in people if each not in outside]
        may = self._may(people)
        # What asks for an answer leads straight to the sheet.
        link = f"/reviews/{self.loaded.row.id}" + ("/go-on" if kind == "step" else "")
        for person_id in dict.fromkeys(people):
            notice = Notice(f"{key}:{person_id}", subject, text, link, self.about)
            tell_person(self.act, self.project, kind, person_id, notice, may=may)

    def _tell_outside(self, kind: str, people: Iterable[str], key: str, subject: str, text: list[str]) -> None:
        """Contacts have no settings and no sign-in: what asks them for an answer brings the link to give it by."""
        about = About(self.project, self.about[0])
        for person_id in people:
            link = link_for(self.act, self.loaded.row, person_id, "answer") if kind == "step" else None
            lines = [*text, *(["", "Look at it and answer here, without a sign-in:", "{link}"] if link else [])]
            write_mail(self.act, f"{key}:{person_id}", person_id, subject, lines, link, about=about)

    def step_began(self, at: int) -> None:
        run = self.loaded.value.steps[at]
        people = [each.person for each in run.places if each.state is PlaceState.ASKED]
        began = self.loaded.steps[at].began_at
        self.asked(at, people, f":{began:%Y%m%dT%H%M%S}" if began else "")

    def asked(self, at: int, people: Sequence[str], round_key: str) -> None:
        row, run = self.loaded.steps[at], self.loaded.value.steps[at]
        due = row.due_on.strftime("%-d %B %Y") if row.due_on else ""
        message = self.loaded.row.message
        text = [
            f"{self.name}: the step {row.name} is with you.", "", f"Wanted: {_wanted(run)}, by the end of {due}.",
            *([_SHARED] if run.step.quota is Quota.ANY and len(run.asked) > 1 else []),
            *(["", message] if message else []), "", *self.lines.values(),
        ]  # fmt: skip
        subject = f"{self.project.number}: {row.name} by {due} · {self.name}"
        self._tell("step", people, f"step:{row.id}{round_key}", subject, text)

    def reminded(self, at: int, said: str, key: str) -> None:
        row, run = self.loaded.steps[at], self.loaded.value.steps[at]
        text = [
            f"{self.name}: the step {row.name} is with you, {said}.", "", f"Wanted: {_wanted(run)}.", "",
            *self.lines.values(),
        ]  # fmt: skip
        subject = f"{self.project.number}: {row.name} {said} · {self.name}"
        self._tell("step", run.asked, f"reminder:{row.id}:{key}", subject, text)

    def late(self, at: int, said: str, key: str) -> None:
        row, run = self.loaded.steps[at], self.loaded.value.steps[at]
        people = select(PersonRow.name).where(PersonRow.id.in_(run.asked)).order_by(PersonRow.name)
        names = ", ".join(self.act.session.scalars(people)) or "nobody"
        text = [
            f"{self.name}: the step {row.name} is {said}. It is with {names}.", "",
            "Remind them again, put somebody else in, or end the step.",
        ]  # fmt: skip
        subject = f"{self.project.number}: {row.name} is {said} · {self.name}"
        people_told = [*_leads(self.act, self.project), self.loaded.row.started_by]
        self._tell("stuck", people_told, f"late:{row.id}:{key}", subject, text)

    def silent(self, silence: str) -> None:
        row = self.loaded.row
        day = row.answer_by.strftime("%-d %B %Y") if row.answer_by else ""
        text = [
            f"{self.name}: the contract wanted an answer by {day}, and the review still runs. By the contract,"
            f" {silence}. No verdict was set.", "", *self.lines.values(),
        ]  # fmt: skip
        subject = f"{self.project.number}: the contract's time is over · {self.name}"
        self._tell("stuck", [*_leads(self.act, self.project), row.started_by], f"silence:{row.id}", subject, text)

    def nobody_asked(self, at: int) -> None:
        row = self.loaded.steps[at]
        text = [
            f"{self.name}: the step {row.name} has begun, and there is nobody whom it could ask.", "",
            "Put somebody in, or end the step.",
        ]  # fmt: skip
        subject = f"{self.project.number}: nobody for {row.name} · {self.name}"
        self._tell("stuck", [*_leads(self.act, self.project), self.loaded.row.started_by], f"nobody:{row.id}",
                   subject, text)  # fmt: skip

    def not_needed(self, happened: Happened) -> None:
        row = self.loaded.steps[happened.step]
        text = [f"{self.name}: the step {row.name} is done. Your answer is not needed any more."]
        subject = f"{self.project.number}: not needed any more, {row.name} · {self.name}"
        self._tell("cancelled", [happened.person], f"not_needed:{row.id}:{self.loaded.row.version}", subject, text)

    def sent_back(self, documents: Sequence[str]) -> None:
        """Each author of the documents that went back to theirs."""
        by_author: dict[str, list[str]] = {}
        for document_id in documents:
            for author in sorted(self.loaded.value.documents[document_id].authors):
                by_author.setdefault(author, []).append(document_id)
        for author, own in by_author.items():
            text = [
                f"{self.name}: back to you.", "",
                *(self.lines[each] for each in own), "", *self._said(own),
            ]  # fmt: skip
            subject = f"{self.project.number}: back to you · {self.name}"
            self._tell(
                "sent_back", [author], f"sent_back:{self.loaded.row.id}:{self.loaded.row.version}", subject, text
            )

    def _said(self, documents: Sequence[str]) -> list[str]:
        """What the deciding hands of the running stage said of these."""
        asked = {place.person for run in self.loaded.value.steps for place in run.places}
        people = select(PersonRow.id, PersonRow.name).where(PersonRow.id.in_(asked))
        names = dict(self.act.session.execute(people).all())
        return [
            f"{names[place.person]}: {answer.comment}"
            for run in self.loaded.value.steps
            for place in run.places
            for answer in place.answers
            if answer.document_id in documents and answer.comment and place.state is PlaceState.HANDED_IN
        ]

    def closed(self) -> None:
        """The starter is told how it ended."""
        text = [f"{self.name} is closed.", "", *self.lines.values(), "", "Next: send the documents out."]
        starter = self.loaded.row.started_by
        self._tell("closed", [starter], f"review_closed:{self.loaded.row.id}", f"Closed: {self.name}", text)

    def cancelled(self, words: str) -> None:
        review = self.loaded.row
        asked = [
            place.person
            for run in self.loaded.value.steps
            for place in run.places
            if place.state in (PlaceState.ASKED, PlaceState.HANDED_IN)
        ]
        text = [
            f"{self.act.actor.name} has {words} {self.name}. Nothing is wanted of you any more.", "",
            review.why_cancelled, "", *self.lines.values(),
        ]  # fmt: skip
        subject = f"{self.project.number}: {words}, {self.name}"
        self._tell("cancelled", [*asked, review.started_by], f"review_cancelled:{review.id}", subject, text)


def _wanted(run: StepRun) -> str:
    what = "a verdict on each document" if run.step.act is StepAct.DECIDE else "your comments on each document"
    return f"{what}, summing up what the others said" if run.step.sums_up else what


def _leads(act: Act, project: ProjectRow) -> list[str]:
    query = select(MembershipRow.person_id, MembershipRow.roles).where(
        MembershipRow.project_id == project.id, MembershipRow.state == "active"
    )
    return [person for person, roles in act.session.execute(query) if RUNNING_ROLES & set(roles)]

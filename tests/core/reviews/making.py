"""Short ways to make paths and reviews of people who are known by their names."""

from datetime import UTC, datetime
from zoneinfo import ZoneInfo

from nod.core.acts.working_days import Calendar, ProjectClock
from nod.core.reviews import acts
from nod.core.reviews.acts import Somebody
from nod.core.reviews.path import Named, NamedKind, Quota, Stage, Step, StepAct
from nod.core.reviews.running import Answer, Moment, UnderReview
from nod.core.reviews.verdicts import DEFAULT_SET

NOW = datetime(2027, 3, 9, 8, 30, tzinfo=UTC)
AT = ProjectClock(Calendar(), ZoneInfo("Europe/London"))


class Roll:
    """Who holds which role, and who stands in for whom."""

    def __init__(self, roles=None, away=None):
        self.roles = roles or {}
        self.away = away or {}

    def people(self, named):
        return [named.id] if named.kind is NamedKind.PERSON else self.roles.get(named.id, [])

    def stand_in(self, person):
        return self.away.get(person, "")


def moment(now=NOW, **more):
    return Moment(now, AT, Roll(**more))


def person(*names):
    return tuple(Named(NamedKind.PERSON, name) for name in names)


def role(name):
    return (Named(NamedKind.ROLE, name),)


def comments(name, *people, **more):
    return Step(name, StepAct.COMMENT, person(*people), **more)


def decides(name, *people, **more):
    return Step(name, StepAct.DECIDE, person(*people), **more)


def all_of(name, *people, **more):
    return decides(name, *people, quota=Quota.ALL, **more)


def some_of(least, name, *people, **more):
    return decides(name, *people, quota=Quota.SOME, least=least, **more)


def row(*steps, **then):
    return Stage(steps, then)


def started(*path, by="marit", documents=("d1", "d2"), authors=None, at=None):
    """The review; `authors` by document where not all are `by`'s."""
    under = [UnderReview(each, frozenset((authors or {}).get(each, {by}))) for each in documents]
    return acts.start(path, under, DEFAULT_SET, at or moment()).review


def who(name, **more):
    return Somebody(name, **more)


def says(review, verdict="", **by_document):
    """An answer a document that goes round."""
    return tuple(Answer(each.id, by_document.get(each.id, verdict), "") for each in review.going())

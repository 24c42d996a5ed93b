"""Setting a project up over HTTP."""

from __future__ import annotations

from nod.services.acts.answers import FromOutside
from nod.services.setup import (
    answer_times,
    distribution,
    letters,
    purposes,
    setup,
    setup_view,
    starters,
    submittals,
    working_days,
)
from nod.services.setup.answer_times import AnswerTimes, SetTerms
from nod.services.setup.distribution import Distribution, DistributionTried, SetDistribution, TryDistribution
from nod.services.setup.letters import SetLetterKinds
from nod.services.setup.purposes import SetPurposes
from nod.services.setup.setup import (
    NumberTested,
    Saved,
    SetAttachmentFolders,
    SetCodes,
    SetFields,
    SetGroupNotices,
    SetMarkInks,
    SetNatives,
    SetNumbering,
    SetProfile,
    SetRoles,
    TryNumber,
    TryUses,
    UsesTried,
)
from nod.services.setup.setup_view import Setup
from nod.services.setup.starters import KeepStarter, StarterList
from nod.services.setup.submittals import SetSubmittals
from nod.services.setup.working_days import Countries, ProjectDays, ProposedHolidays, SetDays
from nod.web.answers import answers, feature
from nod.web.guard import actor, context, permission

api = feature("setup")


class ProjectPath(FromOutside):
    project_id: str


class StarterPath(FromOutside):
    starter_id: str


class CalendarQuery(FromOutside):
    country: str
    region: str = ""
    first_year: int
    last_year: int


@api.get("/api/projects/<project_id>/setup", responses=answers(Setup))
@permission("run")
def read_setup(path: ProjectPath) -> Setup:
    """A project's whole set-up."""
    return setup_view.read_setup(context(), actor(), path.project_id)


@api.put("/api/projects/<project_id>/profile", responses=answers(Saved))
@permission("lead")
def set_profile(path: ProjectPath, body: SetProfile) -> Saved:
    """Name, dates, zone, units and the rest of what the project is."""
    return setup.set_profile(context(), actor(), path.project_id, body)


@api.put("/api/projects/<project_id>/numbering", responses=answers(Saved))
@permission("lead")
def set_numbering(path: ProjectPath, body: SetNumbering) -> Saved:
    """How numbers are made."""
    return setup.set_numbering(context(), actor(), path.project_id, body)


@api.post("/api/projects/<project_id>/numbering/try", responses=answers(NumberTested))
@permission("run")
def try_number(path: ProjectPath, body: TryNumber) -> NumberTested:
    """What is wrong with a number under a convention. Changes nothing."""
    return setup.try_number(context(), actor(), path.project_id, body)


@api.get("/api/projects/<project_id>/answer-times", responses=answers(AnswerTimes))
@permission("run")
def read_terms(path: ProjectPath) -> AnswerTimes:
    """Within how long the contract wants answers."""
    return answer_times.read_terms(context(), actor(), path.project_id)


@api.put("/api/projects/<project_id>/answer-times", responses=answers(Saved))
@permission("lead")
def set_terms(path: ProjectPath, body: SetTerms) -> Saved:
    """Set the contract's times for answers."""
    return answer_times.set_terms(context(), actor(), path.project_id, body)


@api.get("/api/projects/<project_id>/distribution", responses=answers(Distribution))
@permission("run")
def read_distribution(path: ProjectPath) -> Distribution:
    """The distribution matrix."""
    return distribution.read_distribution(context(), actor(), path.project_id)


@api.post("/api/projects/<project_id>/distribution/try", responses=answers(DistributionTried))
@permission("run")
def try_distribution(path: ProjectPath, body: TryDistribution) -> DistributionTried:
    """What would be due by a matrix that is being edited. Changes nothing."""
    return distribution.try_distribution(context(), actor(), path.project_id, body)


@api.put("/api/projects/<project_id>/distribution", responses=answers(Saved))
@permission("lead")
def set_distribution(path: ProjectPath, body: SetDistribution) -> Saved:
    """Who gets what."""
    return distribution.set_distribution(context(), actor(), path.project_id, body)


@api.post("/api/projects/<project_id>/codes/try", responses=answers(UsesTried))
@permission("run")
def try_uses(path: ProjectPath, body: TryUses) -> UsesTried:
    """Of how many documents another revision would be in force. Changes nothing."""
    return setup.try_uses(context(), actor(), path.project_id, body)


@api.put("/api/projects/<project_id>/codes", responses=answers(Saved))
@permission("lead")
def set_codes(path: ProjectPath, body: SetCodes) -> Saved:
    """Revision scheme, statuses, verdicts."""
    return setup.set_codes(context(), actor(), path.project_id, body)


@api.get("/api/projects/<project_id>/days", responses=answers(ProjectDays))
@permission("member")
def read_days(path: ProjectPath) -> ProjectDays:
    """Which days are worked, for typing dates."""
    return working_days.read_days(context(), actor(), path.project_id)


@api.put("/api/projects/<project_id>/days", responses=answers(Saved))
@permission("lead")
def set_days(path: ProjectPath, body: SetDays) -> Saved:
    """Working days and holidays."""
    return working_days.set_days(context(), actor(), path.project_id, body)


@api.put("/api/projects/<project_id>/fields", responses=answers(Saved))
@permission("lead")
def set_fields(path: ProjectPath, body: SetFields) -> Saved:
    """Typed fields of documents."""
    return setup.set_fields(context(), actor(), path.project_id, body)


@api.put("/api/projects/<project_id>/roles", responses=answers(Saved))
@permission("lead")
def set_roles(path: ProjectPath, body: SetRoles) -> Saved:
    """Roles and tools."""
    return setup.set_roles(context(), actor(), path.project_id, body)


@api.put("/api/projects/<project_id>/notices", responses=answers(Saved))
@permission("lead")
def set_group_notices(path: ProjectPath, body: SetGroupNotices) -> Saved:
    """How groups are told of what, unless a person sets their own."""
    return setup.set_group_notices(context(), actor(), path.project_id, body)


@api.put("/api/projects/<project_id>/mark-inks", responses=answers(Saved))
@permission("lead")
def set_mark_inks(path: ProjectPath, body: SetMarkInks) -> Saved:
    """Which ink a discipline or a company draws in."""
    return setup.set_mark_inks(context(), actor(), path.project_id, body)


@api.put("/api/projects/<project_id>/natives", responses=answers(Saved))
@permission("lead")
def set_natives(path: ProjectPath, body: SetNatives) -> Saved:
    """Of which forms a native is asked beside the PDF."""
    return setup.set_natives(context(), actor(), path.project_id, body)


@api.put("/api/projects/<project_id>/purposes", responses=answers(Saved))
@permission("lead")
def set_purposes(path: ProjectPath, body: SetPurposes) -> Saved:
    """The purposes of issue."""
    return purposes.set_purposes(context(), actor(), path.project_id, body)


@api.put("/api/projects/<project_id>/letter-kinds", responses=answers(Saved))
@permission("lead")
def set_letter_kinds(path: ProjectPath, body: SetLetterKinds) -> Saved:
    """The kinds of letters."""
    return letters.set_letter_kinds(context(), actor(), path.project_id, body)


@api.put("/api/projects/<project_id>/submittals", responses=answers(Saved))
@permission("lead")
def set_submittals(path: ProjectPath, body: SetSubmittals) -> Saved:
    """How submittals are numbered, their usual times and kinds."""
    return submittals.set_submittals(context(), actor(), path.project_id, body)


@api.put("/api/projects/<project_id>/attachment-folders", responses=answers(Saved))
@permission("lead")
def set_attachment_folders(path: ProjectPath, body: SetAttachmentFolders) -> Saved:
    """Where files attached to a kind of thing are filed."""
    return setup.set_attachment_folders(context(), actor(), path.project_id, body)


@api.post("/api/starters", responses=answers())
@permission("lead")
def keep_starter(body: KeepStarter) -> None:
    """Keep a project's set-up as a starter."""
    starters.keep_starter(context(), actor(), body)


@api.get("/api/calendars", responses=answers(Countries))
@permission("signed in")
def list_countries() -> Countries:
    """Countries with a published calendar."""
    return working_days.list_countries()


@api.get("/api/calendars/holidays", responses=answers(ProposedHolidays))
@permission("signed in")
def propose_holidays(query: CalendarQuery) -> ProposedHolidays:
    """Holidays of a published calendar."""
    return working_days.propose_holidays(query.country, query.region, query.first_year, query.last_year)


@api.get("/api/starters", responses=answers(StarterList))
@permission("signed in")
def list_starters() -> StarterList:
    """The starters there are."""
    return starters.list_starters(context(), actor())


@api.delete("/api/starters/<starter_id>", responses=answers())
@permission("signed in")
def remove_starter(path: StarterPath) -> None:
    """Remove a starter that one kept oneself."""
    starters.remove_starter(context(), actor(), path.starter_id)

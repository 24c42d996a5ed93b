"""Who sees a thing (handbook §3, §10, §11): one function, for one person. Queries ask `services.things.audiences`."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Audience:
    """Who sees a thing.

    `folders`: those that one must see, every one of them. `people` and `companies`: the named, by id. An open thing is
    there for whoever sees its folders, and for the named whether or not they see these; one that is not open is there
    for the named alone, and only if they see its folders. `leads` and `stewards`: whether those who run the project,
    and those of the workspace, see it without being named.
    """

    folders: frozenset[str] = frozenset()
    people: frozenset[str] = frozenset()
    companies: frozenset[str] = frozenset()
    is_open: bool = True
    leads: bool = True
    stewards: bool = True


def for_folders(*folders: str) -> Audience:
    return Audience(frozenset(folders))


def only_for(person_id: str) -> Audience:
    """One person alone: not even leads, controllers or stewards."""
    return Audience(people=frozenset((person_id,)), is_open=False, leads=False, stewards=False)


@dataclass(frozen=True)
class Eyes:
    """Somebody who looks, in one project. `folders` are those they see, None for all.

    `leads`: they run it, as a lead or controller. `borrowed`: somebody else looks through their eyes, who sees nothing
    that is kept from leads or from stewards. `tools`: those that are on for them.
    """

    person_id: str = ""
    company_id: str = ""
    folders: frozenset[str] | None = frozenset()
    leads: bool = False
    steward: bool = False
    borrowed: bool = False
    tools: frozenset[str] = frozenset()


def is_seen(audience: Audience, eyes: Eyes) -> bool:
    by_folders = eyes.folders is None or audience.folders <= eyes.folders
    if audience.is_open and by_folders:
        return True
    if eyes.borrowed and not (audience.leads and audience.stewards):
        return False
    if (eyes.leads and audience.leads) or (eyes.steward and audience.stewards):
        return True
    named = eyes.person_id in audience.people or eyes.company_id in audience.companies
    return named and (audience.is_open or by_folders)

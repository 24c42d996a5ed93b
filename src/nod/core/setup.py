"""What a project's lists may hold: statuses, verdicts, working days, holidays, roles, typed fields."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Mapping
from dataclasses import replace
from datetime import date

from nod.core.access.tools import FIXED_ROLES, TOOLS, Role
from nod.core.acts.refusals import RuleBroken
from nod.core.register.in_force import USES, use_of
from nod.core.reviews.verdicts import Verdict, sets_of

MEANINGS = ("go", "look", "stop")
FIELD_KINDS: dict[str, str] = {
    "text": "text", "number": "number", "date": "date", "choice": "one of a list", "yes_no": "yes or no",
}  # fmt: skip
_MOST = 100
_LONGEST_SET = 40


def check_statuses(statuses: Iterable[tuple[str, str]], used: Collection[str]) -> dict[str, str]:
    """Code to meaning. Raises RuleBroken for a bad or double code, or for leaving out one that documents have."""
    found: dict[str, str] = {}
    for code, words in statuses:
        _check_code(code, words, found, "status")
        found[code] = words.strip()
    _check_kept(found, used, "status")
    return found


def _check_code(code: str, words: str, found: Collection[str], what: str) -> None:
    if not re.fullmatch(r"[A-Z0-9]{1,4}", code):
        raise RuleBroken("code_invalid", f"“{code}” cannot be a {what}: one to four capitals and figures.", code)
    if code in found:
        raise RuleBroken("code_twice", f"The {what} {code} is there twice.", code)
    if not words.strip():
        raise RuleBroken("words_missing", f"Say what the {what} {code} means.", code)
    if len(found) >= _MOST:
        raise RuleBroken("too_many_codes", f"There are more than {_MOST} of them.", code)


def _check_kept(found: Collection[str], used: Collection[str], what: str) -> None:
    missing = sorted(set(used) - set(found))
    if missing:
        words = f"Documents have the {what} {', '.join(missing)}: it stays, as nothing is rewritten."
        raise RuleBroken("code_in_use", words, missing[0])


def check_uses(statuses: Iterable[str], uses: Mapping[str, str]) -> dict[str, str]:
    """By status, what it may be used for; said of all. Raises RuleBroken for a use that there is not."""
    for status, use in uses.items():
        if use not in USES:
            raise RuleBroken("use_unknown", f"Say what {status} may be used for: {', '.join(USES.values())}.", status)
    return {status: use_of(status, uses).code for status in statuses}


def check_verdicts(verdicts: Iterable[Verdict], used: Collection[str]) -> list[Verdict]:
    """Those of all sets, of each the mildest first. Raises RuleBroken for one with which no review could end well."""
    found: dict[str, Verdict] = {}
    for each in verdicts:
        _check_code(each.code, each.words, found, "verdict")
        if each.meaning not in MEANINGS:
            raise RuleBroken("meaning_unknown", f"Say whether {each.code} means go, look or stop.", each.code)
        found[each.code] = replace(each, of_set=" ".join(each.of_set.split())[:_LONGEST_SET])
    for of_set in sets_of(found.values()) or ("",):
        if not any(each.may_be_used for each in found.values() if each.of_set == of_set):
            where = f" of the set {of_set}" if of_set else ""
            raise RuleBroken("no_good_verdict", f"At least one verdict{where} lets the document be used.", of_set)
    _check_kept(found, used, "verdict")
    return sorted(found.values(), key=lambda each: each.severity)


def check_weekdays(weekdays: Iterable[int]) -> list[int]:
    """0 is Monday. Raises RuleBroken without any."""
    found = sorted(set(weekdays))
    if not found or found[0] < 0 or found[-1] > 6:
        raise RuleBroken("no_working_day", "At least one day of the week is a working day.")
    return found


def check_holidays(holidays: Iterable[tuple[date, str]]) -> dict[date, str]:
    """Raises RuleBroken for a day without a name, or one that is there twice."""
    found: dict[date, str] = {}
    for on, name in holidays:
        if on in found:
            raise RuleBroken("holiday_twice", f"{on.isoformat()} is there twice.", on.isoformat())
        if not name.strip():
            raise RuleBroken("words_missing", f"Give the holiday on {on.isoformat()} a name.", on.isoformat())
        found[on] = name.strip()[:80]
    return found


def check_roles(roles: Iterable[Role], used: Collection[str]) -> list[Role]:
    """The project's own roles. Raises RuleBroken for doubles, fixed ones, and leaving out one that people have."""
    found: dict[str, Role] = {}
    for role in roles:
        code, name = role_code(role.code or role.name), " ".join(role.name.split())[:40]
        if not code:
            raise RuleBroken("role_name", "Give each role a name.", role.name)
        if code in found or code in {each.code for each in FIXED_ROLES} or _has_name(found.values(), name):
            raise RuleBroken("role_twice", f"There is a role {name} already.", name)
        for tool in role.tools:
            if tool not in TOOLS:
                raise RuleBroken("tool_unknown", f"There is no tool {tool}.", tool)
        found[code] = Role(code, name, role.tools)
    missing = sorted(set(used) - set(found) - {each.code for each in FIXED_ROLES})
    if missing:
        raise RuleBroken("role_in_use", f"People have the role {missing[0]}. Change theirs first.", missing[0])
    return list(found.values())


def _has_name(roles: Iterable[Role], name: str) -> bool:
    return any(each.name.casefold() == name.casefold() for each in roles)


def role_code(name: str) -> str:
    """A role's code out of its name: `Site engineer` is `site_engineer`."""
    return re.sub(r"[^a-z0-9]+", "_", name.casefold()).strip("_")[:30]


def check_field(name: str, kind: str, choices: Iterable[str], names: Collection[str]) -> tuple[str, list[str]]:
    """A typed field's name and choices. Raises RuleBroken for a nameless, double or choiceless one."""
    plain = " ".join(name.split())[:40]
    if not plain:
        raise RuleBroken("field_name", "Give each field a name.", name)
    if plain.casefold() in {each.casefold() for each in names}:
        raise RuleBroken("field_twice", f"There are two fields {plain}.", plain)
    if kind not in FIELD_KINDS:
        raise RuleBroken("field_kind", f"Say what kind of field {plain} is.", plain)
    listed = list(dict.fromkeys(" ".join(each.split()) for each in choices if each.strip()))
    if kind == "choice" and len(listed) < 2:
        raise RuleBroken("field_choices", f"Give the field {plain} at least two choices.", plain)
    return plain, listed if kind == "choice" else []

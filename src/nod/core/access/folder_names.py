"""What a folder may be called: anything that every file system can carry, as folders are downloaded and mounted."""

from __future__ import annotations

import re

from nod.core.acts.plain_text import clean_text
from nod.core.acts.refusals import RuleBroken

LONGEST = 120
# From memory: the characters and names that Windows refuses, which is the strictest of the usual systems.
_FORBIDDEN = re.compile(r'[\x00-\x1f\x7f/\\:*?"<>|]')
_DEVICES = re.compile(r"(con|prn|aux|nul|com\d|lpt\d)(\..*)?", re.IGNORECASE)


def check_folder_name(name: str) -> str:
    """The name without outer spaces. Raises RuleBroken naming what is wrong with it."""
    plain = " ".join(name.split())
    if not plain:
        raise RuleBroken("folder_name", "Give the folder a name.")
    if len(plain) > LONGEST:
        raise RuleBroken("folder_name", f"A folder's name has at most {LONGEST} characters.", plain[:40])
    found = _FORBIDDEN.search(plain)
    if found:
        raise RuleBroken("folder_name", f"A folder's name cannot have {found.group()!r} in it.", plain)
    if plain.endswith(".") or plain.startswith(".") or _DEVICES.fullmatch(plain):
        raise RuleBroken("folder_name", f"{plain} cannot be a folder's name on every computer.", plain)
    return plain


MOST_DEEP = 12


def tidy_path(path: str) -> str:
    """The folders of a path that came with a file, as `A/B`: steps up and away are dropped, odd signs replaced."""
    names = []
    for part in re.split(r"[/\\]", clean_text(path)):
        plain = " ".join(_FORBIDDEN.sub("-", part).split()).strip(".")[:LONGEST].strip()
        if plain and not _DEVICES.fullmatch(plain):
            names.append(plain)
    return "/".join(names[:MOST_DEEP])

"""What `nod verify` and `nod check` say: in words, whatever they are given."""

from __future__ import annotations

import json
from itertools import islice
from pathlib import Path

from nod.core.trail.seals import NotSound, check_proof, read_key, read_proof, read_seal
from nod.services.acts.replays import replayed_words, table_faults
from nod.services.trail.seals import file_path, notes_in
from nod.services.trail.verification import MOST_FAULTS, Outside, verify_trail
from nod.settings import Settings
from nod.store.blobs import Blobs
from nod.store.database import DATABASE_FAULTS, Database

Told = tuple[list[str], bool]
"""Lines, and whether all is sound."""


def verify_all(
    settings: Settings, *, files: bool, root: str, size: int, seal: Path | None, key: str, tables: bool = False
) -> Told:
    """The trail, its seals, and if wanted the files, what somebody remembers, and the tables by the trail.

    For `tables` the features have to be loaded.
    """
    try:
        outside = _outside(root, size, seal, key)
        database = Database(settings.resolved_database_url)
        found = verify_trail(
            database, blobs=Blobs(settings.data_dir / "blobs") if files else None,
            seals_file=file_path(settings.data_dir), outside=outside,
        )  # fmt: skip
        faults = found.faults or (list(islice(table_faults(database), MOST_FAULTS)) if tables else [])
        database.close()
    except NotSound as error:
        return [f"NOT SOUND: {error}"], False
    except (*DATABASE_FAULTS, OSError) as error:
        return [f"NOT SOUND: the database cannot be read: {str(error).splitlines()[0]}"], False
    if faults:
        return [f"NOT SOUND: {each}" for each in faults], False
    lines = [f"{found.entries} entries verified, root {found.root}"]
    if found.seals:
        lines.append(f"{found.seals} {'seal fits' if found.seals == 1 else 'seals fit'} the trail")
    if outside:
        lines.append(
            f"the trail grew out of what you remember: {', '.join(f'{each.size} entries' for each in outside)}"
        )
    if files:
        lines.append(f"{found.files} files verified")
    if tables:
        lines.append(f"{replayed_words()} are as the entries made them")
    return lines, True


def _outside(root: str, size: int, seal: Path | None, key: str) -> list[Outside]:
    """Raises NotSound for what cannot be read."""
    found = []
    if root or size:
        try:
            found.append(Outside(size, bytes.fromhex(root)))
        except ValueError as error:
            raise NotSound("The root is not one: it has 64 of the signs 0 to 9 and a to f.") from error
        if size < 1 or len(found[0].root) != 32:
            raise NotSound("Give both --root, 64 signs, and --size, the number of entries it was over.")
    if seal:
        if not key:
            raise NotSound("Give the --key that the seals are signed with.")
        notes = notes_in(seal)
        if not notes:
            raise NotSound(f"There is no seal in {seal}.")
        for each in (read_seal(note, [read_key(key)]) for note in notes):
            found.append(Outside(each.size, each.root))
    return found


def check_files(proof: Path, key: str, seal: Path | None) -> Told:
    """A proof and, if there is one, an earlier seal, from files."""
    try:
        text = proof.read_text(encoding="utf-8")
        note = seal.read_text(encoding="utf-8") if seal else ""
    except (OSError, UnicodeDecodeError) as error:
        return [f"NOT PROVEN: the file cannot be read: {error}"], False
    return check_texts(text, key, note)


def check_texts(proof: str, key: str, note: str = "") -> Told:
    """The same of texts."""
    try:
        keys = [read_key(key)]
        checked = check_proof(read_proof(proof), keys, read_seal(note.strip() + "\n", keys) if note.strip() else None)
    except NotSound as error:
        return [f"NOT PROVEN: {error}"], False
    lines = list(checked.words)
    if checked.entry is None:
        lines.append("The content of the entry is not shown in this proof, only its hash.")
    else:
        lines.append(json.dumps(checked.entry, ensure_ascii=False, indent=1, sort_keys=True))
    return lines, True

"""Every package that the lock file names as optional must be in it: otherwise `npm ci` fails on another machine."""

import json
import sys
from pathlib import Path


def missing(lock: dict) -> set[str]:
    packages = lock["packages"]
    known = {name.rpartition("node_modules/")[2] for name in packages}
    named = {name for package in packages.values() for name in package.get("optionalDependencies", {})}
    return named - known


if __name__ == "__main__":
    text = Path(sys.argv[1]).read_text()
    if '"resolved"' in text:
        sys.exit("the lock file names a registry's host")
    absent = missing(json.loads(text))
    if absent:
        sys.exit(f"named as optional but not locked: {sorted(absent)}")

"""Runs what a change touches, and nothing else: `make quick`. Everything is `make test`.

A change is what differs from a commit, by default the last one. Python tests are picked by what they ran through last
time (pytest-testmon; the first run of all on a machine is long), those of the front end by what they import, those in
the browser by the stations touched. What walks over all there is (`walk`) would be picked every time, and is left to
`make test`.
"""

import shlex
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from time import monotonic

BIN = Path(sys.executable).parent
ROOMS = ("core", "services", "web", "features", "tables")
DAY = ("test_the_day",)
BROWSER = {
    "access": ("test_set_up",),
    "compare": ("test_measuring",),
    "demo": ("test_screens", *DAY),
    "desk": DAY,
    "formats": ("test_other_files", "test_hostile", "test_marks_travel"),
    "frame": ("test_screens", "test_sizes"),
    "intake": ("test_intake", "test_received"),
    "links": ("test_links", "test_outside", "test_recipient", "test_shares"),
    "live": ("test_live",),
    "letters": ("test_letters",),
    "mail": ("test_mail", *DAY),
    "mail_in": ("test_mail",),
    "mail_door": ("test_mail",),
    "marks": ("test_sheet", "test_marks_travel", "test_readers"),
    "measure": ("test_measuring",),
    "notices": DAY,
    "people": ("test_set_up", "test_keys"),
    "press": ("test_hostile",),
    "register": ("test_register", "test_large_register", "test_in_force"),
    "reviews": ("test_routes", "test_reviews", "test_readers", "test_in_force", "test_outside", *DAY),
    "sessions": ("test_sessions",),
    "setup": ("test_set_up", "test_distribution"),
    "sheet": ("test_sheet",),
    "standins": ("test_mail", *DAY),
    "submittals": ("test_submittals",),
    "supervisor": ("test_running",),
    "trail": ("test_proof",),
    "transmittals": ("test_mail", "test_holders", "test_recipient", "test_distribution", "test_received", *DAY),
    "worker": ("test_intake",),
}
SHARED = ("test_screens", "test_sizes", *DAY)
"""What all stations share is seen in a day's work."""


@dataclass(frozen=True)
class Step:
    name: str
    command: str
    at: str = "."


def changed_since(commit: str) -> list[str]:
    """Paths that differ from a commit, with those that git does not know yet."""
    lines = []
    for command in (f"git diff --name-only --diff-filter=d {commit}", "git ls-files --others --exclude-standard"):
        lines += subprocess.run(shlex.split(command), check=True, capture_output=True, text=True).stdout.splitlines()
    return sorted(set(lines))


def stations_of(path: str) -> set[str]:
    """The stations that a file of the product belongs to; `shared` if to none, nothing for other files."""
    parts = [each.removesuffix(".py") for each in Path(path).parts]
    if not path.startswith(("src/nod/", "frontend/src/")) or ".test." in path:
        return set()
    return {each for each in parts if each in BROWSER} or {"shared"}


def browser_tests(paths: list[str]) -> list[str]:
    """The files of browser tests that a change wants."""
    stations = set().union(*map(stations_of, paths)) if paths else set()
    names = {name for station in stations for name in BROWSER.get(station, SHARED)}
    own = {path for path in paths if path.startswith("tests/browser/test_")}
    if any(path.startswith("tests/browser/") and path not in own for path in paths):
        names |= set(SHARED)
    return sorted(own | {f"tests/browser/{name}.py" for name in names})


def steps_for(paths: list[str], commit: str) -> tuple[list[Step], list[Step]]:
    """What runs for itself on one processor each, and then what needs both."""
    python = any(path.endswith((".py", ".toml")) for path in paths)
    front = any(path.startswith("frontend/") for path in paths)
    checks = []
    if python:
        checks += [
            Step("format", f"{BIN}/ruff format --check -q src tests bench"),
            Step("lint", f"{BIN}/ruff check -q src tests bench"),
            Step("types", f"{BIN}/mypy"),
            Step("rooms", f"{BIN}/lint-imports --no-logo"),
            Step("description", "make -s described"),
        ]
    if front:
        checks += [
            Step("format of the front end", "npx prettier --check --log-level warn .", "frontend"),
            Step("types of the front end", "npm run -s types", "frontend"),
            Step("lint of the front end", "npm run -s lint", "frontend"),
            Step("rooms of the front end", "npm run -s rooms", "frontend"),
            Step("tests of the front end", f"npx vitest run --changed {commit} --reporter=dot", "frontend"),
        ]
    tests = []
    if python:
        tests.append(Step("Python tests", f"{BIN}/pytest -n 2 --testmon -m 'not walk' --ignore tests/browser"))
    if wanted := browser_tests(paths):
        tests.append(Step("the front end built", "make -s frontend/dist/index.html"))
        tests.append(Step("browser tests", f"{BIN}/pytest -n 2 --dist loadfile {' '.join(wanted)}"))
    return checks, tests


def run(step: Step) -> bool:
    began = monotonic()
    done = subprocess.run(shlex.split(step.command), cwd=step.at, capture_output=True, text=True, check=False)
    # Nothing to do is what pytest ends with 5 for.
    good = done.returncode == 0 or ("pytest" in step.command and done.returncode == 5)
    print(f"{'✓' if good else '✗'} {step.name}, {monotonic() - began:.0f} s", flush=True)
    if not good:
        print(done.stdout[-6000:], done.stderr[-2000:], sep="\n", flush=True)
    return good


def main() -> int:
    commit = sys.argv[1] if len(sys.argv) > 1 else "HEAD"
    paths = changed_since(commit)
    if not paths:
        print(f"Nothing differs from {commit}. `make quick SINCE=HEAD~1` runs what the last commit touched.")
        return 0
    checks, tests = steps_for(paths, commit)
    with ThreadPoolExecutor(2) as pool:
        good = list(pool.map(run, checks))
    return 0 if all(good) and all(run(step) for step in tests) else 1


if __name__ == "__main__":
    sys.exit(main())

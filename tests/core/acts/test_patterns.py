"""No pattern in the product may backtrack over hostile input: each is found in the source and fed with its worst.

For every regular expression the text that is most likely to hurt it is made from its own characters: each one, and each
pair of them, over and over, with an end that does not fit. Twice the text may take three times the time at most.
"""

import ast
import itertools
import re
import time
from pathlib import Path

import pytest

from nod.core.acts.refusals import Refusal
from nod.core.marks import lengths
from nod.core.people import pasted_people
from nod.formats.files.media_types import media_type

pytestmark = pytest.mark.walk

SOURCE = Path(__file__).resolve().parents[3] / "src/nod"
CALLS = ("compile", "match", "search", "fullmatch", "findall", "finditer", "sub", "split")
BOUNDED = {
    # By whom the text is cut before, and to how many characters.
    "core/people/pasted_people.py": 254,
    "core/intake/block_picks.py": 200,
    "core/intake/file_names.py": 255,
    "core/marks/lengths.py": 200,
    "web/first_look.py": 2000,  # Nod's own page.
    "core/submittals/mailed.py": 200,
    "core/submittals/spec_lines.py": 1000,
    "core/submittals/spec_paragraphs.py": 1000,
    "core/submittals/spec_tables.py": 1000,
    "core/submittals/specification.py": 6000,
}


def _patterns():
    """(file, pattern, flags as they are written) of every call of `re` whose pattern is spelled out."""
    for path in sorted(SOURCE.rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text())):
            if not (isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.args):
                continue
            if getattr(node.func.value, "id", "") != "re" or node.func.attr not in CALLS:
                continue
            first = node.args[0]
            name = path.relative_to(SOURCE).as_posix()
            if isinstance(first, ast.Constant):
                flags = [
                    each.attr for each in ast.walk(node) if isinstance(each, ast.Attribute) and each.attr.isupper()
                ]
                yield name, first.value, tuple(flags)
            else:
                assert (name, ast.unparse(first)) in BUILT, f"{name}: say how {ast.unparse(first)} is bounded"


BUILT = {
    ("core/register/number_patterns.py", "f'[A-Z0-9]{{1,{LONGEST_FIELD}}}'"),  # One class, a fixed number of times.
    (
        "core/register/numbers.py",
        "self.pattern",
    ),  # Made by `number_patterns.pattern_of` alone: one class and its count.
    (
        "core/intake/block_picks.py",
        "f'(?<![A-Za-z0-9]){built}(?![A-Za-z0-9])'",
    ),  # One `.*` over 200 characters at most.
    ("demo/sheet_frame.py", "pattern"),
    # Fixed words beside each other, and one blank or several between them.
    ("core/submittals/specification.py", "f\"\\\\b(?:{'|'.join(one)})(?:s|es)?\\\\b\""),
    # A fixed text, and a fixed count of digits.
    ("core/submittals/numbers.py", "re.escape(start) + '-(\\\\d{1,9})'"),
    # Over a name of 255 characters at most; its own test feeds it with its worst.
    ("core/intake/file_names.py", "f'(?P<gap>[{_PARTS}]*){_REV}{_CODE}(?=[{_PARTS}]|$)'"),
    (
        "core/intake/file_names.py",
        "f'(?P<gap>(?:^|[{_PARTS}])[\\\\s(\\\\[{{]*){_REV}{_CODE}(?P<shut>[)\\\\]}}]?)[\\\\s_.]*$'",
    ),
    ("core/intake/file_names.py", "f'(?<![A-Z0-9]){pattern}(?![A-Z0-9])'"),
    ("core/intake/file_names.py", "f'\\\\s*({pattern})'"),
}


def _signs(pattern):
    """One character of each literal and class of the pattern."""
    text = pattern.decode("latin-1") if isinstance(pattern, bytes) else pattern
    found = [each for each in text if each not in "()[]{}?*+|^$\\"]
    for code, sign in (("\\d", "1"), ("\\w", "a"), ("\\s", " "), ("\\S", "a"), (".", "x"), ("[^", "y")):
        if code in text:
            found.append(sign)
    return list(dict.fromkeys(["a", "1", " ", "\n", *found]))[:10]


def _worst(pattern):
    signs = _signs(pattern)
    units = [*signs, *("".join(pair) for pair in itertools.product(signs, repeat=2))]
    yield from units


def _seconds(compiled, text):
    text = text.encode() if isinstance(compiled.pattern, bytes) else text
    began = time.process_time()
    for _ in compiled.finditer(text):
        pass
    compiled.fullmatch(text)
    return time.process_time() - began


def _text(unit, size):
    return unit * (size // len(unit)) + "\x01"


@pytest.mark.parametrize(("name", "pattern", "flags"), sorted(set(_patterns()), key=str))
def test_no_pattern_backtracks_over_hostile_text(name, pattern, flags):
    value = 0
    for flag in flags:
        value |= getattr(re, flag)
    compiled, most = re.compile(pattern, value), BOUNDED.get(name, 2**20)
    long, slowest = max((_grows_slowly(compiled, unit, most), unit) for unit in _worst(pattern))
    if most < 2**20 or long > 0.02:  # Already 1 s for 1 MB: seen to grow slowly above.
        return
    told = []
    # What grows quickly does so every time; a machine that is busy elsewhere is so for a while.
    for _ in range(4):
        half, whole = (min(_seconds(compiled, _text(slowest, size)) for _ in range(3)) for size in (2**19, 2**20))
        if whole <= 3 * max(half, 0.2):
            return
        told.append((half, whole))
    pytest.fail(f"{slowest!r}: {told}")


def _grows_slowly(compiled, unit, most):
    """Returns the seconds for 16,000 characters. From short texts on, so that nothing exponential takes for ever."""
    for size in (*range(24, 64, 4), 128, 256, 512):
        assert _seconds(compiled, _text(unit, min(size, most))) < 0.25, (compiled.pattern, unit, size)
    short, long = (_seconds(compiled, _text(unit, min(size, most))) for size in (2**12, 2**14))
    if long > 0.05:
        long = min(long, _seconds(compiled, _text(unit, min(2**14, most))))
        # Twice the text three times the time: four times nine.
        assert long <= 9 * max(short, 0.005), (compiled.pattern, unit, short, long)
    return long


WORST = {
    "DXF, comments without end": (lambda n: media_type(b"999\n\n\n\n\n\n" * (n // 9) + b"x")),
    "DXF, blank lines": (lambda n: media_type(b"\n" * n + b"0")),
    "DXF, spaces": (lambda n: media_type(b" " * n + b"0\nSECTIO")),
    "people without an @": (lambda n: pasted_people.read_people("a" * n)),
    "people, nothing but @": (lambda n: pasted_people.read_people("@" * n)),
    "people, many commas": (lambda n: pasted_people.read_people("a@b," * (n // 4))),
    "people, open brackets": (lambda n: pasted_people.read_people("<" * n)),
    "an address without an end": (lambda n: pasted_people.is_email("a" * n + "@" + "b." * n)),
    "a length of figures": (lambda n: _refused(lengths.read_length, "1" * n, "metric")),
    "a length of feet": (lambda n: _refused(lengths.read_length, "1'" * n, "imperial")),
    "a ratio of figures": (lambda n: lengths.read_ratio("1:" + "1" * n)),
    "a ratio of spaces": (lambda n: lengths.read_ratio("1" + " " * n + ":")),
}


def _refused(act, *arguments):
    try:
        return act(*arguments)
    except Refusal:
        return None


@pytest.mark.parametrize("what", WORST)
def test_what_reads_hostile_text_takes_time_in_proportion(what):
    """Up to 1 MB; the 100 bytes that stopped all writing for 40 s were of the first kind."""
    act, size, before = WORST[what], 2**10, None
    while size <= (2**17 if what.startswith("people") else 2**20):  # 100,000 are read of what is pasted.
        took = min(_spent(act, size), _spent(act, size))
        if before is not None and took > 0.2:
            if took > 3 * max(before, 0.1):
                # The machine may have become slower between the two.
                before, took = (min(_spent(act, each) for _ in range(3)) for each in (size // 2, size))
            assert took <= 3 * max(before, 0.1), (size, before, took)
        before, size = took, size * 2


def _spent(act, size):
    began = time.process_time()
    act(size)
    return time.process_time() - began


def test_the_hundred_bytes_are_told_apart_at_once():
    assert media_type(b"999\n\n\n\n\n\n" * 11 + b"x") == "application/octet-stream"
    assert media_type(b"999\ncomment\n999\nanother\n  0\nSECTION\n") == "image/vnd.dxf"
    assert media_type(b"\xef\xbb\xbf0\r\nSECTION\r\n") == "image/vnd.dxf"
    assert media_type(b"0\nSECTIONS\n") == "application/octet-stream"

"""Where the files that nobody here wrote are; tests that need them skip, saying so, where they are absent."""

import os
from pathlib import Path

import pytest

ROOT = Path(os.environ.get("NOD_TEST_DATA") or Path(__file__).resolve().parents[2] / "shared" / "data")


def shared_data(part: str) -> Path:
    path = ROOT / part
    if not path.exists():
        pytest.skip(f"the test files at {path} are absent", allow_module_level=True)
    return path

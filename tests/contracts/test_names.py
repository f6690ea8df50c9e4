"""The check of names finds each kind of retired name."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import pytest

SCRIPT = Path(__file__).parents[2] / "scripts" / "check_names.py"


def check(tree: Path) -> str:
    """What is said of a tree; nothing when all is well."""
    done = subprocess.run(
        [sys.executable, str(SCRIPT), str(tree)], capture_output=True, text=True, check=False
    )
    assert done.stderr == ""
    assert done.returncode == (1 if done.stdout else 0)
    return done.stdout


@pytest.fixture
def tree(tmp_path: Path) -> Path:
    (tmp_path / "src").mkdir()
    (tmp_path / "docs").mkdir()
    (tmp_path / "docs" / "openapi.json").write_text('{"components": {"schemas": {}}}')
    return tmp_path


@pytest.mark.parametrize(
    ("name", "text", "said"),
    [
        ("closer.py", "", "the module's name closer"),
        ("rules.py", "class DoorRule:\n    pass\n", "rules.py:1: the class DoorRule"),
        ("ports.py", "class _Memory:\n    pass\n", "the class _Memory"),
        ("notes.py", "class Note:\n    made_us: int\n", "notes.py:2: the field made_us"),
    ],
)
def test_a_retired_name_is_found(tree: Path, name: str, text: str, said: str) -> None:
    (tree / "src" / name).write_text(text)
    assert said in check(tree)


def test_so_it_is_in_the_description_of_the_api(tree: Path) -> None:
    schemas: dict[str, object] = {"MadeOut": {"properties": {"made_us": {}}}}
    (tree / "docs" / "openapi.json").write_text(json.dumps({"components": {"schemas": schemas}}))
    said = check(tree)
    assert "the schema MadeOut" in said and "the property MadeOut.made_us" in said


def test_other_names_pass(tree: Path) -> None:
    (tree / "src" / "placement.py").write_text("class Madeira:\n    created_us: int\n")
    assert check(tree) == ""

"""The catalogue of what the front end says: all of it is used, and nothing else is said."""

from __future__ import annotations

import ast
import re
import subprocess
from typing import Final

import pytest
from scripts.list_texts import refusals, text_of

from tests.contracts.test_import_rules import copy_web, run_web
from tests.contracts.test_words import TEXTS, catalogue, read
from tests.support.application import ROOT

AREAS: Final = sorted(one.stem for one in TEXTS.glob("*.json"))
_IMPORT: Final = re.compile(r"import \* as (\w+) from 'texts/([\w-]+)\.json'")


@pytest.fixture(scope="module")
def used() -> dict[str, set[str]]:
    """The keys that the code names, by part of the catalogue."""
    found: dict[str, set[str]] = {area: set() for area in AREAS}
    for path in (ROOT / "web" / "src").rglob("*.ts*"):
        text = read(path)
        for name, area in _IMPORT.findall(text):
            found[area] |= set(re.findall(rf"\b{name}\.(\w+)", text))
    return found


@pytest.mark.parametrize("area", AREAS)
def test_every_entry_is_used_somewhere(area: str, used: dict[str, set[str]]) -> None:
    assert set(catalogue(area)) - used[area] == set()


def test_all_strings_are_listed_by_one_command() -> None:
    done = subprocess.run(
        ["python3", "scripts/list_texts.py"], cwd=ROOT, capture_output=True, text=True, check=True
    )
    lines = done.stdout.splitlines()
    assert len(lines) > sum(len(catalogue(area)) for area in AREAS) + 300
    assert "common.save\tSave" in lines
    assert "no-tag\tthere is no tag {missing}. Take a uid from /api/tags." in lines


_CODE: Final = re.compile(r"[a-z0-9]+(-[a-z0-9]+)*")
_IN_TEXT: Final = re.compile(r"\{(\w+)(?:![rsa])?(?::[^{}]*)?\}")
#: What is refused by a rule of another one: its code is that of the rule.
_PASSED_ON: Final = ("self.code", "str(error['type']).replace('_', '-')", "*found")


def test_what_the_api_refuses_has_a_code_that_says_one_thing() -> None:
    problems: dict[str, set[str]] = {}
    for call in refusals():
        code, problem = call.args[1], call.args[2] if len(call.args) > 2 else None
        if (text := text_of(code)) is None:
            assert ast.unparse(code) in _PASSED_ON
            continue
        assert _CODE.fullmatch(text), text
        problems.setdefault(text, set()).add(ast.unparse(problem) if problem else "")
    assert {code: texts for code, texts in problems.items() if len(texts) > 1} == {}
    assert len(problems) > 300


def test_each_parameter_of_what_is_refused_stands_in_its_text() -> None:
    for call in refusals():
        texts = [text_of(one) for one in call.args[2:4]]
        given = {one.arg for one in call.keywords}
        placed = {name for text in texts if text for name in _IN_TEXT.findall(text)}
        assert given == placed & given, ast.unparse(call)
        if None not in texts:
            # A brace that is meant: the class's own words, and JSON.
            assert placed - given <= {"name", "folder", "n"}, ast.unparse(call)


BAD_TEXTS: Final = (
    "export const One = () => <p>Nothing is recorded</p>;",
    'export const One = () => <p aria-label="Recorder" />;',
    "export const One = ({ n }: { n: number }) => <p title={`Tags ${n}`} />;",
    "export const one = [{ value: 1, label: 'Newest' }];",
    "export const one = 'The recorder does not run.';",
    "export const one = (n: number) => `all of ${n} tags are recorded`;",
)


_REFUSED: Final = re.compile(r"^ +(\d+):\d+ +error +What people read stands in the catalogue", re.MULTILINE)
FLOORS: Final = ("features/files", "entities")


@pytest.fixture(scope="module")
def refused(tmp_path_factory: pytest.TempPathFactory) -> dict[str, set[int]]:
    """The lines that are refused of a file with all bad texts, by floor."""
    folder = copy_web(tmp_path_factory.mktemp("web"))
    bad = {floor: folder / "src" / floor / "Bad.tsx" for floor in FLOORS}
    for path in bad.values():
        path.write_text("\n".join(BAD_TEXTS))
    said = run_web(folder, "eslint", *map(str, bad.values()))
    parts = {floor: said.split(str(path))[1].split(str(folder))[0] for floor, path in bad.items()}
    return {floor: {int(line) for line in _REFUSED.findall(part)} for floor, part in parts.items()}


@pytest.mark.parametrize("floor", FLOORS)
@pytest.mark.parametrize("code", BAD_TEXTS)
def test_a_text_in_the_code_is_refused(refused: dict[str, set[int]], floor: str, code: str) -> None:
    assert BAD_TEXTS.index(code) + 1 in refused[floor]

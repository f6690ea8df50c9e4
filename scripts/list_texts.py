"""Lists all that is said, a line each: what the front end says, by its key in the catalogue, and what the API
refuses, by its code."""

from __future__ import annotations

import ast
import json
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parents[1]
TEXTS = ROOT / "web" / "src" / "texts" / "en"
REFUSAL = "InvalidInput"


def labels() -> Iterator[tuple[str, str]]:
    """Key and text of each entry of the catalogue."""
    for file in sorted(TEXTS.glob("*.json")):
        for key, text in json.loads(file.read_text()).items():
            yield f"{file.stem}.{key}", text


def refusals() -> Iterator[ast.Call]:
    """The calls that say what is wrong with a field: field, code, problem, remedy, and their parameters."""
    for file in sorted((ROOT / "src").rglob("*.py")):
        for node in ast.walk(ast.parse(file.read_text())):
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == REFUSAL:
                yield node


def text_of(node: ast.expr) -> str | None:
    """The text that is written there; None where a name stands for it."""
    return node.value if isinstance(node, ast.Constant) and isinstance(node.value, str) else None


if __name__ == "__main__":
    for key, text in labels():
        print(f"{key}\t{text}")
    for code, problem, remedy in sorted(
        {
            tuple(text_of(one) or ast.unparse(one) for one in call.args[1:4])
            for call in refusals()
            if len(call.args) == 4
        }
    ):
        print(f"{code}\t{problem}. {remedy}")

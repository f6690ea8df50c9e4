"""Lists all that is said, a line each: what the front end says, by its key in the catalogue, what the API
refuses, by its code, and what the server puts into words itself, by the place of the words."""

from __future__ import annotations

import ast
import json
import re
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


WORDS = re.compile(r"[a-z]{2,} (?:[a-z]{2,}|{)")
STATEMENT = re.compile(r"\b(?:SELECT|INSERT|UPDATE|DELETE|FROM|WHERE|CREATE|COMMENT)\b")
NOT_SAID = {REFUSAL, "RuntimeError", "TypeError", "ValueError", "Query", "Field", "re.compile"}
"""Calls whose texts stand elsewhere in this list, or are read by programmers."""


def server_words() -> Iterator[tuple[str, str]]:
    """Place and text of what the server says of its own: reasons, states, explanations, rules, reports."""
    for file in sorted((ROOT / "src").rglob("*.py")):
        tree = ast.parse(file.read_text())
        left_out = {id(one) for node in ast.walk(tree) for one in _not_said(node)}
        for node in ast.walk(tree):
            if not isinstance(node, ast.expr) or id(node) in left_out:
                continue
            text = _words(node)
            if text is not None and WORDS.search(text) and not STATEMENT.search(text):
                yield f"{file.relative_to(ROOT)}:{node.lineno}", text


def _not_said(node: ast.AST) -> Iterator[ast.AST]:
    """What is documentation, log, or a part of a text that is looked at as a whole."""
    if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant):
        yield node.value
    elif isinstance(node, ast.JoinedStr):
        yield from node.values
    elif isinstance(node, ast.Call):
        name = ast.unparse(node.func)
        if name in NOT_SAID or name.startswith(("_log.", "logging.")):
            yield from ast.walk(node)


def _words(node: ast.expr) -> str | None:
    if isinstance(node, ast.JoinedStr):
        return "".join(str(part.value) if isinstance(part, ast.Constant) else "{}" for part in node.values)
    return text_of(node) if isinstance(node, ast.Constant) else None


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
    for place, text in server_words():
        print(f"{place}\t{text}")

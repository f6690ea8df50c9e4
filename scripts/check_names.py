"""Fails on names that were retired: of modules, classes, fields and properties of the API.

Migrations keep the names of their time, and so do readers of older files."""

from __future__ import annotations

import ast
import json
import re
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Final

RETIRED: Final = {
    "module": re.compile(r"closer|made|around|past|wish|facts"),
    "class": re.compile(
        r"(Door|Closer|Made|Around)([A-Z]\w*)?|_?(Past|Memory|Kept|Place)|\w*Wish|\w*Facts?(In)?|Compactor\w*"
    ),
    "field": re.compile(r"made_us|closer|(\w+_)?facts|pieces?"),
}
"""A name is retired when all of it matches."""


def retired(kind: str, name: str) -> bool:
    """Whether a name of a kind (module, class or field) is on the list."""
    return RETIRED[kind].fullmatch(name) is not None


def in_module(path: Path) -> Iterator[str]:
    """What is retired in a Python module, each with its line."""
    if retired("module", path.stem):
        yield f"{path}: the module's name {path.stem}"
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.ClassDef) and retired("class", node.name):
            yield f"{path}:{node.lineno}: the class {node.name}"
        target = node.target if isinstance(node, ast.AnnAssign) else None
        if isinstance(target, ast.Name) and retired("field", target.id):
            yield f"{path}:{target.lineno}: the field {target.id}"


def in_description(path: Path) -> Iterator[str]:
    """What is retired among the schemas and their properties in the description of the API."""
    for name, schema in json.loads(path.read_text(encoding="utf-8"))["components"]["schemas"].items():
        if retired("class", name):
            yield f"{path}: the schema {name}"
        for field in schema.get("properties", {}):
            if retired("field", field):
                yield f"{path}: the property {name}.{field}"


def main(root: Path) -> int:
    """Prints what is retired; the exit code."""
    found = [line for path in sorted((root / "src").rglob("*.py")) for line in in_module(path)]
    found += in_description(root / "docs" / "openapi.json")
    for line in found:
        print(f"{line} is retired: take the word that the trade uses")
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1])))

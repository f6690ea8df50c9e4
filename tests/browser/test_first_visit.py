"""What a page loads when somebody opens it for the first time."""

from __future__ import annotations

import gzip
import json
from functools import cache
from pathlib import Path
from typing import Any

import pytest

DIST = Path(__file__).parents[2] / "web" / "dist"
#: Bytes of JavaScript after gzip, fonts apart: at 10 Mbit/s they are there in a fifth of a second.
MOST = 220_000
SHELL = ("index.html", "src/app/start.tsx")
SETUP = "src/features/setup"
#: The parts that each page is drawn from at first; what is opened on it later is loaded later.
PAGES = {
    "trends": ("src/features/trends/index.ts",),
    "statistics beside their kind": (
        "src/features/statistics/index.ts",
        "src/features/statistics/sheet/LanesPage.tsx",
    ),
    "statistics in tables": (
        "src/features/statistics/index.ts",
        "src/features/statistics/table/TablePage.tsx",
    ),
    "samples": ("src/features/samples/index.ts",),
    "records": ("src/features/records/index.ts",),
    "runs": ("src/features/runs/index.ts",),
    "files": ("src/features/files/index.ts",),
    **{
        f"set-up: {name}": (f"{SETUP}/index.ts", *(f"{SETUP}/{part}.tsx" for part in parts))
        for name, parts in {
            "recorder": ("plant/RecorderPage",),
            "sources": ("sources/SourcesPage",),
            "tags": ("tags/TagsPage",),
            "import of tags": ("tags/ImportPage",),
            "loggers": ("loggers/LoggersPage",),
            "equipment": ("equipment/EquipmentPage",),
            "a class": ("equipment/EquipmentPage", "equipment/ClassPage"),
            "archives": ("plant/ArchivesPage",),
            "runs": ("plant/RunRulesPage",),
            "plant": ("plant/PlantPage",),
            "people": ("people/PeoplePage",),
            "changes": ("plant/ChangesPage",),
        }.items()
    },
}


@cache
def parts() -> dict[str, Any]:
    """The built parts by name: the file of each, and the parts that it needs at once."""
    return dict(json.loads((DIST / "parts.json").read_text()))


def needed(names: tuple[str, ...]) -> set[str]:
    """The files of these parts, and of all that they need at once."""
    found: set[str] = set()
    waiting = list(names)
    while waiting:
        name = waiting.pop()
        if name not in found:
            found.add(name)
            waiting += parts()[name].get("imports", [])
    return {str(parts()[name]["file"]) for name in found}


@pytest.mark.parametrize("page", PAGES)
def test_a_first_visit_loads_no_more_than_the_page_needs(page: str) -> None:
    sizes = {name: len(gzip.compress((DIST / name).read_bytes(), 9)) for name in needed(SHELL + PAGES[page])}
    largest = sorted(sizes.items(), key=lambda one: -one[1])[:6]
    assert sum(sizes.values()) <= MOST, largest

"""What people read is said in the trade's words: labels that were replaced do not come back."""

from __future__ import annotations

import json
import re
from pathlib import Path
from typing import Final

import pytest
from scripts import list_texts
from scripts.list_texts import text_of

from cronaca.core.statistics.words import LABELS
from tests.support.application import ROOT

# In place of: add, save, revert, private, previous and next window, compare with, read-only link, enabled,
# trigger, override, retention, running, start, duration, origin, min, max, time-weighted mean.
RETIRED: Final = (
    "Write anew", "Take away", "Take it out", "A window forth", "A window back", "Own rule", "Its own rule",
    "Keep its own rule", "Drawn beside it", "Show it", "Save over it", "As it was", "for me alone",
    "Only I see it", "look at only", "Its scale is shown", "Later than the clock by", "Held off while",
    "Takes a record when", "When it is safe", "Wanted: it records", "It is at work within",
    "Otherwise than its class", "Otherwise in", "Nothing but chance is at work", "Began", "Took", "Found by",
    "This is no number", "Make it no more", "What it says", "Facts", "Pin it", "Draw it", "Change it",
    "Go over to it", "Begin it now", "End it now", "Make it its own", "Make the class", "A run of your own",
    "Mean by time", "Std dev by time", "Lowest", "Highest", "all the same", "beside its like", "Do it to all",
    "See what it does", "Working it out", "It lets", "Trust and take", "Nothing lies here", "Looked through",
    "Taken", "Looked at", "Tag upwards", "What is unlikely", "one of them does not move",
)  # fmt: skip
_COMMENT: Final = re.compile(r"/\*.*?\*/|(?<!:)//[^\n]*", re.DOTALL)


_STATISTIC: Final = re.compile(r"stat: '(\w+)',\s+label: (wording|common)\.(\w+)")
TEXTS: Final = ROOT / "web" / "src" / "texts" / "en"


def catalogue(name: str) -> dict[str, str]:
    """What a part of the front end says, by key."""
    return dict(json.loads((TEXTS / f"{name}.json").read_text()))


def test_statistics_are_called_the_same_on_screens_as_in_reports_and_the_api() -> None:
    front = ROOT / "web" / "src" / "entities"
    text = (front / "figureTexts.ts").read_text() + (front / "stats" / "labels.ts").read_text()
    words = {"wording": catalogue("entities"), "common": catalogue("common")}
    shown = {stat: words[which][key] for stat, which, key in _STATISTIC.findall(text)}
    assert {name: LABELS[name] for name in shown} == shown
    # Of two tags, tables, and extremes with their times, which have the value of the extreme.
    missing = {"CountWhile", "Correlation", "Histogram", "TimeInStates", *_WITH_TIMES, *_NOT_NUMBERS}
    assert set(LABELS) - set(shown) == missing, "every other figure can be chosen"


_WITH_TIMES: Final = ("MinimumActualTime", "MaximumActualTime", "MinimumActualTime2", "MaximumActualTime2")
_NOT_NUMBERS: Final = ("WorstQuality", "WorstQuality2", "AnnotationCount")


def sources() -> list[Path]:
    """What is shown on a screen, and the documents that name it."""
    front = [one for one in (ROOT / "web" / "src").rglob("*.ts*") if ".test." not in one.name]
    return [*front, *TEXTS.glob("*.json"), *(ROOT / "docs").glob("*.md"), ROOT / "README.md"]


def read(path: Path) -> str:
    """Its text without the comments of code."""
    text = path.read_text()
    return _COMMENT.sub("", text) if path.suffix.startswith(".ts") else text


@pytest.fixture(scope="module")
def texts() -> dict[str, str]:
    found = {str(one.relative_to(ROOT)): read(one) for one in sources()}
    assert len(found) > 300
    refused = [text_of(part) or "" for call in list_texts.refusals() for part in call.args[2:4]]
    own = dict(list_texts.server_words())
    assert len(refused) > 500 and len(own) > 400
    return {**found, "refusals of the API": "\n".join(refused), **own}


@pytest.mark.parametrize("label", RETIRED)
def test_a_label_that_was_replaced_is_nowhere(texts: dict[str, str], label: str) -> None:
    # A label begins in its own way: "highest" within a sentence is a plain word.
    pattern = re.compile(rf"(?<!\w){re.escape(label)}(?!\w)")
    assert [path for path, text in texts.items() if pattern.search(text)] == []

"""Calculated values: a formula over other tags, a counter of edges, a meter of running hours, a totaliser, a
statistic over a window that moves on."""

from __future__ import annotations

import json
import math
import re
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache
from typing import Any, Final

from cronaca.core.errors import InvalidInput
from cronaca.core.model import Edge, ValueType

_NAME: Final = re.compile(r"[A-Za-z_][A-Za-z0-9_]{0,39}")
_WORDS: Final = frozenset({"and", "or", "not", "true", "false"})
_UID: Final = re.compile(r"[0-9a-f-]{36}")
_COUNTS: Final = (ValueType.INTEGER, ValueType.FLOAT)


class Kind(StrEnum):
    """How a value is calculated."""

    FORMULA = "formula"
    COUNTER = "counter"
    """Counts edges of its input, on past its preset."""
    REACHED = "reached"
    """Whether a counter has reached its preset."""
    HOURS = "hours"
    """How long its input was not zero."""
    TOTAL = "total"
    """The integral of its input, a rate."""
    FIGURE = "figure"
    """A statistic of its input over a window that moves on."""


NEEDS: Final = {
    Kind.FORMULA: frozenset[str](),
    Kind.COUNTER: frozenset({"input"}),
    Kind.REACHED: frozenset({"counter"}),
    Kind.HOURS: frozenset({"input"}),
    Kind.TOTAL: frozenset({"input"}),
    Kind.FIGURE: frozenset({"input"}),
}
_METERS: Final = frozenset({Kind.COUNTER, Kind.HOURS, Kind.TOTAL})
_FIELDS: Final = {
    Kind.FORMULA: {"formula"},
    Kind.COUNTER: {"edge", "preset"},
    Kind.REACHED: set[str](),
    Kind.HOURS: {"per"},
    Kind.TOTAL: {"per"},
    Kind.FIGURE: {"figure", "percent", "window"},
}
UNITS: Final = ("hour", "shift", "day")
"""Of the calendar: the window begins with the present one."""
SHORTEST_S: Final = 10.0
LONGEST_S: Final = 24 * 3600.0


@dataclass(frozen=True, slots=True)
class Calculation:
    """`inputs` are uids of tags by the names they have in the formula; a meter may have one named `reset`.
    `per` is the unit of a meter's time, or that of the rate a total is made of."""

    kind: Kind
    inputs: Mapping[str, str]
    formula: str = ""
    edge: Edge = Edge.RISING
    preset: float | None = None
    per: str = "h"
    figure: str = ""
    percent: float = 50.0
    """Which percentile."""
    window: float | str = ""
    """Seconds, or the present hour, shift or day."""

    @property
    def is_meter(self) -> bool:
        """Keeps what it stands at, can be set."""
        return self.kind in _METERS


@lru_cache(maxsize=16_384)
def parse_calculation(text: str, value_type: ValueType) -> Calculation:
    """A calculation from its JSON form; raises InvalidInput. The formula itself is read elsewhere."""
    given = _facts(text)
    kind = _kind(given)
    _check_fields(given, kind)
    inputs = _inputs(given, kind)
    if kind is Kind.FIGURE and value_type is not ValueType.FLOAT:
        raise InvalidInput("value_type", "statistic-float", "a statistic is a float", "Take float.")
    if value_type is ValueType.TEXT:
        raise InvalidInput(
            "value_type",
            "calculated-value-no-text",
            "a calculated value cannot be text",
            "Take a number or boolean.",
        )
    if kind in _METERS and value_type not in _COUNTS:
        raise InvalidInput(
            "value_type",
            "value-type-number",
            "a {kind} is a number",
            "Take float or integer.",
            kind=kind.value,
        )
    edge, per = given.get("edge", Edge.RISING.value), given.get("per", "h")
    if edge not in (Edge.RISING.value, Edge.FALLING.value, Edge.EITHER.value):
        raise InvalidInput(
            "address",
            "edge-unknown",
            "the edge {edge!r} is unknown",
            "Use rising, falling or either.",
            edge=edge,
        )
    if per not in ("s", "min", "h"):
        raise InvalidInput(
            "address", "unit-time-unknown", "the unit of time {per!r} is unknown", "Use s, min or h.", per=per
        )
    return Calculation(
        kind, inputs, str(given.get("formula", "")), Edge(edge), _preset(given), per,
        str(given.get("figure", "")), _percent(given), _window(given, kind),
    )  # fmt: skip


def _facts(text: str) -> dict[str, Any]:
    try:
        given = json.loads(text)
    except ValueError as exc:
        raise InvalidInput(
            "address", "not-calculation", "{text} is not a calculation", "Give kind and inputs.", text=text
        ) from exc
    if not isinstance(given, dict):
        raise InvalidInput(
            "address", "not-calculation", "{text} is not a calculation", "Give kind and inputs.", text=text
        )
    return given


def _kind(given: Mapping[str, Any]) -> Kind:
    kind = given.get("kind", Kind.FORMULA.value)
    if kind not in [known.value for known in Kind]:
        known = ", ".join(known.value for known in Kind)
        raise InvalidInput(
            "address",
            "kind-unknown",
            "the kind {kind!r} is unknown",
            "Use one of: {known}.",
            kind=kind,
            known=known,
        )
    return Kind(kind)


def _check_fields(given: Mapping[str, Any], kind: Kind) -> None:
    for name in given:
        if name not in _FIELDS[kind] | {"kind", "inputs"}:
            raise InvalidInput(
                "address",
                "address-no",
                "a {kind} has no {name!r}",
                "Leave it out.",
                kind=kind.value,
                name=name,
            )


def _inputs(given: Mapping[str, Any], kind: Kind) -> dict[str, str]:
    inputs = given.get("inputs", {})
    if not isinstance(inputs, dict):
        raise InvalidInput("inputs", "cannot-read", "they cannot be read", "Give a tag for each name.")
    for name, uid in inputs.items():
        if not _NAME.fullmatch(name) or name.casefold() in _WORDS:
            raise InvalidInput(
                "inputs",
                "cannot-name-formula",
                "{name!r} cannot be a name in a formula",
                "Use letters, digits and _, and begin with a letter.",
                name=name,
            )
        if not isinstance(uid, str) or not _UID.fullmatch(uid):
            raise InvalidInput("inputs", "inputs-no-tag", "{name} has no tag", "Choose one.", name=name)
    if kind is not Kind.FORMULA:
        optional = {"reset", "preset"} if kind is Kind.COUNTER else {"reset"} - NEEDS[kind]
        for name in NEEDS[kind] - inputs.keys():
            raise InvalidInput(
                "inputs", "tag-missing", "the tag for {name!r} is missing", "Choose one.", name=name
            )
        for name in inputs.keys() - NEEDS[kind] - (optional if kind in _METERS else set()):
            raise InvalidInput(
                "inputs",
                "no-input",
                "a {kind} has no input {name!r}",
                "Leave it out.",
                kind=kind.value,
                name=name,
            )
    return dict(inputs)


def _percent(given: Mapping[str, Any]) -> float:
    percent = given.get("percent", 50.0)
    if isinstance(percent, bool) or not isinstance(percent, int | float) or not 0 <= percent <= 100:
        raise InvalidInput(
            "address",
            "not-percentage",
            "{percent!r} is not a percentage",
            "Give a number from 0 to 100.",
            percent=percent,
        )
    return float(percent)


def _window(given: Mapping[str, Any], kind: Kind) -> float | str:
    window = given.get("window", "")
    if kind is not Kind.FIGURE or window in UNITS:
        return str(window)
    usable = isinstance(window, int | float) and not isinstance(window, bool)
    if not usable or not SHORTEST_S <= window <= LONGEST_S:
        words = ", ".join(UNITS)
        raise InvalidInput(
            "address",
            "window-unusable",
            "the window {window!r} cannot be used",
            "Give 10 to 86,400 seconds, or {words}.",
            window=window,
            words=words,
        )
    return float(window)


def _preset(given: Mapping[str, Any]) -> float | None:
    preset = given.get("preset")
    if preset is None:
        return None
    usable = isinstance(preset, int | float) and not isinstance(preset, bool) and math.isfinite(preset)
    if not usable or preset <= 0:
        raise InvalidInput(
            "address",
            "preset-unusable",
            "the preset {preset!r} cannot be used",
            "Give a number above 0.",
            preset=preset,
        )
    return float(preset)

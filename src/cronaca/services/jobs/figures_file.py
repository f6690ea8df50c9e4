"""Figures as the rows of a file."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final
from zoneinfo import ZoneInfo

import msgspec

from cronaca.core.windows import local_text
from cronaca.exchange.guarding import Cell
from cronaca.services.figures.specs import FigureResult, FigureSpec, FigureTable

HEADER: Final = (
    "tag", "figure", "interval_start", "interval_end", "time", "item", "value", "unit", "quality",
    "good_percent", "problem",
)  # fmt: skip
Row = list[Cell]
"""The cells in the order of HEADER."""


def rows_of(tag: str, spec: FigureSpec, result: FigureResult, zone: ZoneInfo) -> Iterator[Row]:
    """A row for each interval; of tables a row for each bin (its share of the window) or state (its seconds).
    Times are local with their offset. What was refused is one row with the reason."""
    name = figure_name(spec)
    if result.refused is not None:
        yield [tag, name, "", "", "", "", "", result.unit, "", "", str(result.refused)]
    for value in result.values:
        edges = [local_text(us, zone) for us in (value.start_us, value.end_us, value.time_us)]
        yield [tag, name, *edges, "", value.value, result.unit, value.quality, round(value.good, 3), ""]
    for table in result.tables:
        edges = [local_text(us, zone) for us in (table.start_us, table.end_us)]
        for item, amount in _items(table):
            yield [tag, name, *edges, "", item, amount, result.unit, "", "", ""]


def figure_name(spec: FigureSpec) -> str:
    """The name of a figure with the options that differ from the usual ones."""
    usual = msgspec.to_builtins(FigureSpec(spec.stat))
    options = {k: v for k, v in msgspec.to_builtins(spec).items() if v != usual[k]}
    written = ", ".join(f"{key}={value}" for key, value in options.items())
    return f"{spec.stat} ({written})" if written else spec.stat


def _items(table: FigureTable) -> Iterator[tuple[str, float]]:
    if table.bins:
        yield "below", table.below
        yield from ((f"{part.low:g} to {part.high:g}", part.amount) for part in table.bins)
        yield "above", table.above
    yield from ((str(state.state), state.seconds) for state in table.states)

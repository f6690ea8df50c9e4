"""The rows of a table of samples, newest first: one row a sample, or one row for a time that tags share."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from cronaca.core import quality as q
from cronaca.core.model import Series, Times, Window
from cronaca.core.trends.reading import How, read_at


@dataclass(frozen=True, slots=True)
class Cell:
    """A value, how it came about, and its quality; None where there is none."""

    value: float | int | None
    quality: int
    how: How = How.RECORDED


@dataclass(frozen=True, slots=True)
class SampleRow:
    """What the tags say at a time. `tag`: which one alone is in the row, by its place; None: all of them, in
    their order."""

    ts_us: int
    tag: int | None
    cells: tuple[Cell, ...]


def newest_first(parts: Sequence[Series], limit: int) -> list[SampleRow]:
    """The newest samples of several tags, one row each, those of one instant in the order of the tags. At
    least `limit` rows where there are so many, and never a part of an instant only: the next page begins
    before the last row's time."""
    newest = [part.take(slice(max(len(part) - limit, 0), None)) for part in parts]
    times = np.concatenate([part.ts_us for part in newest]) if newest else np.empty(0, np.int64)
    places = np.repeat(np.arange(len(newest)), [len(part) for part in newest])
    inside = np.concatenate([np.arange(len(part)) for part in newest]) if newest else places
    order = np.lexsort((places, -times))
    order = order[: _whole_instants(times[order], limit)]
    return [
        sample_row(newest[tag], tag, i) for tag, i in zip(places[order].tolist(), inside[order], strict=True)
    ]


def _whole_instants(times: Times, limit: int) -> int:
    """How many of these times, newest first, make a page of whole instants."""
    if len(times) <= limit:
        return len(times)
    return int(np.searchsorted(-times, -times[limit - 1], side="right"))


def sample_row(series: Series, tag: int, i: int) -> SampleRow:
    """The sample at one position of a tag's series as a row of its own."""
    quality = int(series.quality[i])
    value = None if quality >= q.BAD else series.values[i].item()
    return SampleRow(int(series.ts_us[i]), tag, (Cell(value, quality),))


def instants(parts: Sequence[Series]) -> Times:
    """The times at which any of the tags has a sample, newest first."""
    times: Times = np.unique(np.concatenate([part.ts_us for part in parts]))[::-1]
    return times


def grid_times(window: Window, step_us: int, most: int) -> Times:
    """The last times of a window, which may be empty, that are whole multiples of a step since 1970 (UTC),
    newest first."""
    last, first = (window.end_us - 1) // step_us, -(-window.start_us // step_us)
    times: Times = np.arange(last, max(first, last - most + 1) - 1, -1, dtype=np.int64) * step_us
    return times


def joined_row(
    ts_us: int, parts: Sequence[Series], stepped: Sequence[bool], known_until_us: Sequence[int]
) -> SampleRow:
    """What all tags say at one time: recorded, held since their last sample, or interpolated for those that
    are not `stepped`."""
    readings = [
        read_at(part, ts_us, stepped=holds, known_until_us=known)
        for part, holds, known in zip(parts, stepped, known_until_us, strict=True)
    ]
    return SampleRow(ts_us, None, tuple(Cell(one.value, one.quality, one.how) for one in readings))

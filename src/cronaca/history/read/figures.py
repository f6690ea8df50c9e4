"""The samples that figures are computed from: of long windows, blocks from rollups where they are true.

A level of rollups is used when none of its buckets is cut by an edge between intervals, or few are.
Buckets that are cut, that hold anything but Good samples, or in which a hole begins are read as samples;
so are days that are not summed up yet and windows with few samples.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.aggregates import Intervals, Samples
from cronaca.core.aggregates.condense import clean, condense, without_edges
from cronaca.core.calendar import month_window
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.coverage import places_of_marks, with_gaps_marked
from cronaca.core.errors import InvalidInput
from cronaca.core.figures import Path
from cronaca.core.model import HOUR, Gap, Series, Tag, Times, Window
from cronaca.core.rollup import Buckets, bucketise, key_samples
from cronaca.core.rollup.buckets import concatenate
from cronaca.core.rollup.levels import kept_levels
from cronaca.db.pool import Store
from cronaca.db.transaction import Transaction
from cronaca.history.read.cache import LruCache
from cronaca.history.read.series import Context, SeriesReader, count_inside
from cronaca.history.read.stretches import aligned, between, joined, runs, touched_days
from cronaca.history.tables import rollups
from cronaca.history.tables.months import HistoryMonth, list_months_of
from cronaca.plant.histories import History, get_history, list_choices

FEW_SAMPLES: Final = 200_000
"""So many are as quick to read as rollups, and tell more (how often an extreme occurred)."""
MOST_AT_ONCE: Final = 1_000_000
"""Samples of several tags that are held in memory at once: about 18 MB."""
MOST_BUCKETS: Final = 10_000
"""Of one tag, as far as there is a wider level."""
_PARTS: Final = 8
"""A bucket that is cut costs the reading of its samples: the shortest interval holds at least so many."""
_DEPTHS_US: Final = (HOUR, 24 * HOUR, 30 * 24 * HOUR)
"""How far a usable sample is looked for when the one beside the window is Bad."""
_CACHED: Final = 200
_BucketKey = tuple[HistoryKey, int, int, int, int]


@dataclass(frozen=True, slots=True)
class Wanted:
    """The samples of one tag over some intervals, from an archive (None: the fitting one); `exact` leaves
    rollups aside."""

    tag: Tag
    archive_id: int | None
    intervals: Intervals
    exact: bool = False


@dataclass(frozen=True, slots=True)
class FigureSamples:
    """What was read, and the way it came; `refused` says why nothing could be."""

    samples: Samples
    path: Path
    refused: InvalidInput | None = None


@dataclass(frozen=True, slots=True)
class _Summed:
    """What comes from rollups: whole months are `thinned` when their samples are gone."""

    buckets: Buckets
    width_us: int
    thinned: bool


class FigureReader:
    """Reads what figures are computed from; keeps decoded rollups while their month does not change."""

    def __init__(self, store: Store, reader: SeriesReader) -> None:
        self._store = store
        self._reader = reader
        self._buckets: LruCache[_BucketKey, Buckets] = LruCache(_CACHED)

    def read_each(self, requests: Sequence[Wanted]) -> Iterator[FigureSamples]:
        """The samples of several tags, one after the other. All are seen at the same instant of the database,
        as long as they hold less than MOST_AT_ONCE samples; more are read in several looks, so that memory
        stays bounded. What is yielded is read: no connection is held while figures are made of it."""
        rest = list(requests)
        while rest:
            read = self._read_some(rest)
            rest = rest[len(read) :]
            yield from read

    def estimate(self, requests: Sequence[Wanted]) -> int:
        """About how many samples reading these takes, told by counts per month: nothing is read."""
        with self._store.snapshot() as tx:
            choices = _choices(tx, requests)
            keys = sorted({history.key for some in choices.values() for history in some})
            months = list_months_of(tx, keys)
        return sum(
            max(
                (_cost(months[h.key], request) for h in choices[request.archive_id, request.tag.tag_id]),
                default=0,
            )
            for request in requests
        )

    def _read_some(self, requests: Sequence[Wanted]) -> list[FigureSamples]:
        """The first ones, as many as are held in memory at once; at least one."""
        samples: list[FigureSamples] = []
        held = 0
        with self._store.snapshot() as tx:
            choices = _choices(tx, requests)
            keys = [history.key for some in choices.values() for history in some]
            contexts: dict[Window, Context] = {}
            for request in requests:
                window = Window(int(request.intervals.lo_us[0]), int(request.intervals.hi_us[-1]))
                if window not in contexts:
                    contexts[window] = self._reader.context(tx, window, keys)
                context = contexts[window]
                read = self._read(
                    context, request, context.fitting(choices[request.archive_id, request.tag.tag_id])
                )
                samples.append(read)
                held += len(read.samples.series)
                if held >= MOST_AT_ONCE:
                    break
        return samples

    def _read(self, context: Context, request: Wanted, history: History | None) -> FigureSamples:
        if history is None:
            empty = Samples(Series.empty(request.tag.value_type), None, context.known_until_us)
            return FigureSamples(empty, Path())
        try:
            return self._read_history(context, request, history)
        except InvalidInput as exc:
            empty = Samples(Series.empty(history.value_type), None, context.known_until_us)
            return FigureSamples(empty, Path(), exc)

    def _read_history(self, context: Context, request: Wanted, history: History) -> FigureSamples:
        months = context.months[history.key]
        if request.exact and any(m.thinned and _overlaps(m, context.window) for m in months):
            raise InvalidInput(
                "windows",
                "samples-window-thinned-summaries",
                "samples of this window were thinned to summaries",
                "Ask for a figure that summaries can tell, or for a later window.",
            )
        width_us = 0 if request.exact else _width(months, context.window, request.intervals)
        summed = self._summed(context, history, request.intervals, width_us)
        if not summed:
            return _raw(context, history)
        return _both(context, history, summed, request.intervals)

    def _summed(
        self, context: Context, history: History, intervals: Intervals, width_us: int
    ) -> list[_Summed]:
        key, window = history.key, context.window
        edges = np.r_[intervals.lo_us, intervals.hi_us[-1:]]
        holes = context.knowledge(key).holes()
        levels = []
        for row in context.months[key]:
            whole = month_window(row.month)
            if whole.end_us <= window.start_us or whole.start_us >= window.end_us or not row.base_us:
                continue
            if row.thinned:
                levels.append(_Summed(self._level(context, row, row.base_us), row.base_us, thinned=True))
            elif width_us >= row.base_us:
                level = self._level(context, row, width_us)
                level = level.take(_inside(level.start_us, _built(context, row, width_us)))
                level = level.take(clean(level) & without_edges(level.start_us, width_us, edges))
                level = level.take(~_hit(level.start_us, width_us, holes))
                if len(level):
                    levels.append(_Summed(level, width_us, thinned=False))
        return levels

    def _level(self, context: Context, row: HistoryMonth, width_us: int) -> Buckets:
        place = (row.key, row.month, width_us, row.changes, row.days_built)
        kept = self._buckets.find(place)
        if kept is None:
            kept = rollups.find_buckets(context.tx, row.key, row.month, width_us)
            if kept is None:
                kept = _no_buckets(context, row, width_us)
            self._buckets.keep(place, kept)
        return kept


def _choices(tx: Transaction, requests: Sequence[Wanted]) -> dict[tuple[int | None, int], list[History]]:
    """By archive and tag: the history of the archive that is named, else one of each archive."""
    choices: dict[tuple[int | None, int], list[History]] = {}
    for archive_id in {request.archive_id for request in requests}:
        ids = sorted({request.tag.tag_id for request in requests if request.archive_id == archive_id})
        named = {} if archive_id is None else dict.fromkeys(ids, archive_id)
        histories = list_choices(tx, ids, named)
        choices |= {(archive_id, tag_id): histories.get(tag_id, []) for tag_id in ids}
    return choices


def _no_buckets(context: Context, row: HistoryMonth, width_us: int) -> Buckets:
    return bucketise(Series.empty(get_history(context.tx, row.key).value_type), width_us)


def _width(months: Sequence[HistoryMonth], window: Window, intervals: Intervals) -> int:
    """The level that fits the intervals best; 0 where samples are as quick."""
    near = [m for m in months if month_window(m.month).end_us > window.start_us
            and month_window(m.month).start_us < window.end_us]  # fmt: skip
    if sum(_share(m, window) for m in near) < FEW_SAMPLES:
        return 0
    base_us = max((m.base_us for m in near if not m.thinned), default=0)
    shortest = int((intervals.hi_us - intervals.lo_us).min())
    edges = np.r_[intervals.lo_us, intervals.hi_us[-1:]]
    fitting = [
        width for width in kept_levels(base_us)
        if width * _PARTS <= shortest or (width <= shortest and not bool((edges % width).any()))
    ]  # fmt: skip
    # Of narrow buckets fewer samples are lost to one that is cut or not wholly Good.
    few = [width for width in fitting if window.length_us <= MOST_BUCKETS * width]
    return few[0] if few else fitting[-1] if fitting else 0


def _cost(months: Sequence[HistoryMonth], request: Wanted) -> int:
    """Samples of one history, or none to speak of where rollups tell."""
    window = Window(int(request.intervals.lo_us[0]), int(request.intervals.hi_us[-1]))
    if not request.exact and _width(months, window, request.intervals):
        return 0
    return round(sum(_share(row, window) for row in months))


def _share(row: HistoryMonth, window: Window) -> float:
    """About how many of a month's samples lie in the window, were they spread evenly."""
    if row.first_us is None or row.last_us is None:
        return 0.0
    inside = min(row.last_us + 1, window.end_us) - max(row.first_us, window.start_us)
    return row.samples * max(inside, 0) / (row.last_us + 1 - row.first_us)


def _overlaps(row: HistoryMonth, window: Window) -> bool:
    return row.first_us is not None and row.last_us is not None and (
        row.first_us < window.end_us and row.last_us >= window.start_us
    )  # fmt: skip


def _built(context: Context, row: HistoryMonth, width_us: int) -> list[Window]:
    """The stretches of the month whose rollups are true, inside the window."""
    inside = aligned(context.window, width_us)
    stale = touched_days(context.waiting(row.key)).get(row.month, 0)
    stretches = []
    for run in runs(row.days_built & ~stale, month_window(row.month)):
        stretch = Window(max(run.start_us, inside.start_us), min(run.end_us, inside.end_us))
        if stretch.start_us < stretch.end_us:
            stretches.append(stretch)
    return stretches


def _inside(start_us: Times, stretches: Sequence[Window]) -> NDArray[np.bool_]:
    result = np.zeros(len(start_us), np.bool_)
    for stretch in stretches:
        result[slice(*np.searchsorted(start_us, [stretch.start_us, stretch.end_us]).tolist())] = True
    return result


def _hit(start_us: Times, width_us: int, holes: Sequence[Gap]) -> NDArray[np.bool_]:
    """Which buckets share time with a hole: samples may lie inside of one, and the line parts behind the
    last of them, which no bucket tells."""
    result = np.zeros(len(start_us), np.bool_)
    for hole in holes:
        first = int(np.searchsorted(start_us, hole.start_us - width_us, "right"))
        after = len(start_us) if hole.end_us is None else int(np.searchsorted(start_us, hole.end_us))
        result[first:after] = True
    return result


def _raw(context: Context, history: History) -> FigureSamples:
    read = context.read_samples(history, context.window)
    series, marks = _marked(context, history, _reaching_usable(context, history, read))
    known = context.knowledge(history.key).until_us
    path = Path("raw", 0, count_inside(read.ts_us, context.window))
    return FigureSamples(Samples(series, marks, known), path)


def _both(
    context: Context, history: History, summed: Sequence[_Summed], intervals: Intervals
) -> FigureSamples:
    """Blocks where buckets are true, samples elsewhere."""
    window = context.window
    edges = np.r_[intervals.lo_us, intervals.hi_us[-1:]]
    blocks, loose = [], []
    for part in summed:
        whole = np.ones(len(part.buckets), np.bool_)
        if part.thinned:
            whole = clean(part.buckets) & without_edges(part.buckets.start_us, part.width_us, edges)
            rest = part.buckets.take(~whole)
            loose.append(key_samples(history.value_type, rest.points))
        blocks.append(replace(part.buckets.take(whole), width_us=0))
    taken = [stretch for part in summed for stretch in _stretches(part.buckets.start_us, part.width_us)]
    parts = [context.read_samples(history, stretch) for stretch in between(window, taken)]
    plain = _reaching_usable(context, history, joined([*parts, *loose], history.value_type))
    for part in summed:
        if not part.thinned:
            plain = plain.take(~_hit_by(plain.ts_us, part.buckets.start_us, part.width_us))
    marked, marks = _marked(context, history, plain)
    buckets = concatenate(blocks)
    series, woven = condense(marked, buckets)
    marks = _at_times(series.ts_us, marked.ts_us[marks])
    known = context.knowledge(history.key).until_us
    read, summarised = count_inside(plain.ts_us, window), int(buckets.samples.sum())
    width_us = max(part.width_us for part in summed)
    thinned = any(len(series) > 0 for series in loose)
    path = Path("rollup", width_us, read, summarised, thinned)
    return FigureSamples(Samples(series, marks, known, blocks=woven), path)


def _stretches(start_us: Times, width_us: int) -> list[Window]:
    """Runs of neighbouring buckets."""
    if not len(start_us):
        return []
    opens = np.flatnonzero(np.r_[True, np.diff(start_us) != width_us])
    ends = np.r_[opens[1:], len(start_us)] - 1
    runs_us = zip(start_us[opens].tolist(), (start_us[ends] + width_us).tolist(), strict=True)
    return [Window(a, b) for a, b in runs_us]


def _hit_by(ts_us: Times, start_us: Times, width_us: int) -> NDArray[np.bool_]:
    """Which times lie in one of the buckets."""
    return _at_times(ts_us // width_us * width_us, start_us)


def _at_times(ts_us: Times, chosen: Times) -> NDArray[np.bool_]:
    """Which times are among the chosen ones, which are in order."""
    if not len(chosen):
        return np.zeros(len(ts_us), np.bool_)
    places = np.minimum(np.searchsorted(chosen, ts_us), len(chosen) - 1)
    result: NDArray[np.bool_] = chosen[places] == ts_us
    return result


def _marked(context: Context, history: History, series: Series) -> tuple[Series, NDArray[np.bool_]]:
    """The series with its holes marked, and which entries are such marks."""
    holes = [
        g for g in context.knowledge(history.key).holes()
        if g.start_us < context.window.end_us and (g.end_us is None or g.end_us > context.window.start_us)
    ]  # fmt: skip
    marked = with_gaps_marked(series, holes)
    marks = np.zeros(len(marked), np.bool_)
    if len(marked) > len(series):
        # A mark stands there or, where a sample does, one µs later.
        places = places_of_marks(series, holes)
        starts = np.array(sorted({place + late for place in places for late in (0, 1)}), np.int64)
        new = starts[_at_times(starts, marked.ts_us) & ~_at_times(starts, series.ts_us)]
        marks[np.searchsorted(marked.ts_us, new)] = True
    return marked, marks


def _reaching_usable(context: Context, history: History, series: Series) -> Series:
    """Further back and ahead, where the sample beside the window is Bad: bounds look for usable ones."""
    window, parts = context.window, [series]
    if len(series) and series.ts_us[0] < window.start_us and q.is_bad(series.quality[:1])[0]:
        parts += _search(
            context, history, [Window(max(window.start_us - d, 0), window.start_us) for d in _DEPTHS_US]
        )
    if len(series) and series.ts_us[-1] >= window.end_us and q.is_bad(series.quality[-1:])[0]:
        parts += _search(context, history, [Window(window.end_us, window.end_us + d) for d in _DEPTHS_US])
    return series if len(parts) == 1 else joined(parts, history.value_type)


def _search(context: Context, history: History, windows: Sequence[Window]) -> list[Series]:
    for window in windows:
        samples = context.read_samples(history, window)
        if not q.is_bad(samples.quality).all():
            return [samples]
    return []

"""Curves of any window: from rollups where they are true, from samples where they are not.

The columns of the plot snap to the buckets' edges; then the answer is the very set of samples that M4
takes of all samples on these columns. Raw are: the broken buckets at the window's edges, days that are
not summed up yet, days for which samples wait in the journal, months without rollups (their samples are
as quick to read).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from cronaca.core.calendar import month_window
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.codec.buckets import Shape
from cronaca.core.model import Series, Times, Window
from cronaca.core.rollup import LEVELS_US, key_samples, level_for
from cronaca.core.trends import reduce_m4
from cronaca.db.pool import Store
from cronaca.db.transaction import Transaction
from cronaca.history.read.cache import LruCache
from cronaca.history.read.recent import read_recent
from cronaca.history.read.series import (
    NO_CHOICE,
    Context,
    SeriesAnswer,
    SeriesReader,
    answer,
    count_inside,
    frame,
    nothing,
)
from cronaca.history.read.stretches import aligned, between, joined, runs, touched_days
from cronaca.history.tables import rollups
from cronaca.history.tables.months import HistoryMonth
from cronaca.plant.histories import History

_CACHED_SAMPLES: Final = 8_000_000
"""Key samples of decoded months: about 144 MB, a year of some hundred pens by the hour."""
_MonthKey = tuple[HistoryKey, int, int, int, int]


@dataclass(frozen=True, slots=True)
class Curve:
    """A curve for a plot; `reduced` when it holds fewer samples than were recorded; `width_us` is that of
    the buckets it came from, 0 when only from samples; `archive_id` 0: it was never recorded."""

    series: Series
    answer: SeriesAnswer
    reduced: bool
    width_us: int
    archive_id: int = 0


@dataclass(frozen=True, slots=True)
class _Summed:
    """A stretch of one month that comes from its buckets of one width."""

    row: HistoryMonth
    stretch: Window
    width_us: int


@dataclass(frozen=True, slots=True)
class _Plan:
    """Which stretches come from buckets of one width, which from samples."""

    width_us: int
    summed: list[_Summed]
    raw: list[Window]


@dataclass(frozen=True, slots=True)
class _Month:
    """What curves need of the buckets of a month: their key samples in order of time, where each bucket
    begins, and how many samples lie before it."""

    key_samples: Series
    start_us: Times
    before: Times

    @staticmethod
    def of(shape: Shape) -> _Month:
        samples = np.r_[0, np.cumsum(shape.samples)]
        return _Month(key_samples(shape.value_type, shape.points), shape.start_us, samples)

    def take(self, stretch: Window) -> tuple[Series, int]:
        """The key samples of whole buckets, and how many samples these hold."""
        ends = [stretch.start_us, stretch.end_us]
        first, after = np.searchsorted(self.start_us, ends).tolist()
        inside = slice(*np.searchsorted(self.key_samples.ts_us, ends).tolist())
        return self.key_samples.take(inside), int(self.before[after] - self.before[first])


class CurveReader:
    """Reads curves; keeps decoded rollups as long as their month does not change."""

    def __init__(self, store: Store, reader: SeriesReader) -> None:
        self._store = store
        self._reader = reader
        self._months: LruCache[_MonthKey, _Month] = LruCache(
            _CACHED_SAMPLES, lambda month: len(month.key_samples)
        )

    def read_many(
        self, tag_ids: Sequence[int], window: Window, width: int, archives: Mapping[int, int] = NO_CHOICE
    ) -> list[Curve]:
        """The curves of several tags for a plot of so many pixel columns, all seen at one instant; from the
        archive that is named for a tag, else from the fitting one."""
        with self._store.snapshot() as tx:
            context, histories = self._reader.chosen(tx, tag_ids, window, archives)
            return [
                self._read_recent(context, tag_id, width)
                if history is None
                else self._read_tag(context, history, width)
                for tag_id, history in zip(tag_ids, histories, strict=True)
            ]

    def read_at(
        self, tag_ids: Sequence[int], at_us: int, archives: Mapping[int, int] = NO_CHOICE
    ) -> list[SeriesAnswer]:
        """What is known of several tags at one instant; of those that nobody records what is remembered."""
        with self._store.snapshot() as tx:
            context, histories = self._reader.chosen(tx, tag_ids, Window.parse(at_us, at_us + 1), archives)
            return [
                context.read(history)
                if history is not None
                else read_recent(context, tag_id) or nothing(context)
                for tag_id, history in zip(tag_ids, histories, strict=True)
            ]

    def _read_recent(self, context: Context, tag_id: int, width: int) -> Curve:
        found = read_recent(context, tag_id) or nothing(context)
        curve = reduce_m4(found.series, context.window, width, 1)
        return Curve(curve, found, len(curve) < found.samples, width_us=0)

    def _read_tag(self, context: Context, history: History, width: int) -> Curve:
        key, window = history.key, context.window
        plan = _plan(context.months[key], window, width, context.waiting(key))
        whole, samples = _read_raw(context, history, plan.raw)
        if plan.summed:
            summed, more = self._read_summed(context.tx, key, plan.summed)
            whole, samples = joined([*summed, whole], history.value_type), samples + more
            whole = frame(whole, window)
        result = answer(whole, context.knowledge(key), window, samples)
        result = replace(result, last_us=context.last_us(key))
        curve = reduce_m4(result.series, window, width, max(plan.width_us, 1))
        return Curve(curve, result, len(curve) < samples, plan.width_us, key.archive_id)

    def _read_summed(
        self, tx: Transaction, key: HistoryKey, summed: Sequence[_Summed]
    ) -> tuple[list[Series], int]:
        parts, samples = [], 0
        for width_us in sorted({part.width_us for part in summed}):
            mine = [part for part in summed if part.width_us == width_us]
            buckets = self._read_months(tx, key, [part.row for part in mine], width_us)
            for summed_part in mine:
                month = buckets.get(summed_part.row.month)
                if month is not None:
                    part, inside = month.take(summed_part.stretch)
                    parts.append(part)
                    samples += inside
        return parts, samples

    def _read_months(
        self, tx: Transaction, key: HistoryKey, rows: Sequence[HistoryMonth], width_us: int
    ) -> dict[int, _Month]:
        places = {row.month: (key, row.month, width_us, row.changes, row.days_built) for row in rows}
        kept = {month: self._months.find(place) for month, place in places.items()}
        levels = {month: level for month, level in kept.items() if level is not None}
        for month, shape in rollups.read_shapes(tx, key, sorted(set(places) - set(levels)), width_us).items():
            levels[month] = _Month.of(shape)
            self._months.keep(places[month], levels[month])
        return levels


def _read_raw(context: Context, history: History, stretches: Sequence[Window]) -> tuple[Series, int]:
    """The samples of some stretches with their neighbours, and how many lie inside."""
    parts = [context.read_samples(history, stretch) for stretch in stretches]
    samples = sum(count_inside(part.ts_us, stretch) for part, stretch in zip(parts, stretches, strict=True))
    return joined(parts, history.value_type), samples


def _plan(rows: Sequence[HistoryMonth], window: Window, width: int, waiting: Sequence[Series]) -> _Plan:
    width_us = level_for(window.length_us / width, LEVELS_US[0])
    summed, stale = [], touched_days(waiting)
    for row in rows:
        whole = month_window(row.month)
        if whole.end_us <= window.start_us or whole.start_us >= window.end_us:
            continue
        if row.thinned and row.base_us:
            summed.append(_Summed(row, whole, max(row.base_us, width_us)))
        elif width_us and 0 < row.base_us <= width_us:
            inside = aligned(window, width_us)
            for run in runs(row.days_built & ~stale.get(row.month, 0), whole):
                stretch = Window(max(run.start_us, inside.start_us), min(run.end_us, inside.end_us))
                if stretch.start_us < stretch.end_us:
                    summed.append(_Summed(row, stretch, width_us))
    return _Plan(width_us if summed else 0, summed, between(window, [part.stretch for part in summed]))

"""Where the outputs of the recorder's stages are stored: one handler for each kind."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, Final

import numpy as np

from cronaca.core.model import Gap
from cronaca.core.outputs import (
    RECENT_ROW,
    CoverageMark,
    Output,
    RecentReadings,
    Record,
    RunMark,
    SafeRecord,
    StageState,
)
from cronaca.core.ports import Flush
from cronaca.db.transaction import Transaction
from cronaca.history.tables import gaps, recent, stage_states
from cronaca.logbook import records, runs
from cronaca.plant import coverage


@dataclass(frozen=True, slots=True)
class Late:
    """What a flush of an epoch that is over may fill: the holes that it reaches into, with their numbers.
    `opened_us`: when that epoch was opened."""

    holes: Sequence[tuple[int, Gap]]
    opened_us: int

    def parts_of(self, gap: Gap) -> list[Gap]:
        """The parts of a gap that lie in one of the holes: elsewhere another recorder has recorded."""
        parts = []
        for _, hole in self.holes:
            start_us = max(gap.start_us, hole.start_us)
            end_us = min(gap.end_us or gap.start_us, hole.end_us or hole.start_us)
            if start_us < end_us:
                parts.append(replace(gap, start_us=start_us, end_us=end_us))
        return parts


@dataclass(frozen=True, slots=True)
class Storing:
    """The flush that is being stored, in its transaction; with `late` it is one of an epoch that is over."""

    tx: Transaction
    flush: Flush
    group: int
    late: Late | None = None


OutputHandler = Callable[[Storing, Sequence[Any]], Sequence[SafeRecord]]
"""Stores the outputs of one kind; returns the records that are safe by it."""


def _store_gaps(to: Storing, some: Sequence[Gap]) -> Sequence[SafeRecord]:
    late = to.late
    parts = some if late is None else [part for gap in some for part in late.parts_of(gap)]
    gaps.add_gaps(to.tx, parts, to.group)
    return ()


def _store_coverage(to: Storing, marks: Sequence[CoverageMark]) -> Sequence[SafeRecord]:
    for mark in marks:
        if mark.reason is None:
            coverage.begin(to.tx, mark.keys, mark.at_us)
        elif to.late is None:
            coverage.end(to.tx, mark.keys, mark.at_us, mark.reason)
        else:
            coverage.end_late(to.tx, mark.keys, mark.at_us, mark.reason, to.late.opened_us)
    return ()


def _store_runs(to: Storing, marks: Sequence[RunMark]) -> Sequence[SafeRecord]:
    runs.put_marks(to.tx, to.flush.epoch, marks, cut_us=None if to.late is None else to.flush.known_until_us)
    return ()


def _store_records(to: Storing, taken: Sequence[Record]) -> Sequence[SafeRecord]:
    return records.add_records(to.tx, (to.flush.epoch, to.flush.seq), taken)


def _store_states(to: Storing, states: Sequence[StageState]) -> Sequence[SafeRecord]:
    for state in states:
        stage_states.put_state(to.tx, to.flush.epoch, state, to.group)
    return ()


def _store_recent(to: Storing, some: Sequence[RecentReadings]) -> Sequence[SafeRecord]:
    now_us = to.flush.received_us
    rows = np.concatenate([np.frombuffer(one.rows, RECENT_ROW) for one in some])
    # What waited for the database for longer is forgotten already.
    rows = rows[rows["ts"] > now_us - recent.KEPT_US]
    if to.late is None:
        recent.add(to.tx, rows, now_us)
    return ()


HANDLERS: Final[Mapping[type[Output], OutputHandler]] = {
    Gap: _store_gaps,
    CoverageMark: _store_coverage,
    RunMark: _store_runs,
    Record: _store_records,
    StageState: _store_states,
    RecentReadings: _store_recent,
}
"""In this order the kinds of a flush are stored."""


def store_outputs(handlers: Mapping[type[Output], OutputHandler], to: Storing) -> tuple[SafeRecord, ...]:
    """Stores all outputs of a flush, kind by kind; returns the records that are safe by it."""
    safe: list[SafeRecord] = []
    for kind, store in handlers.items():
        if some := to.flush.of(kind):
            safe += store(to, some)
    return tuple(safe)

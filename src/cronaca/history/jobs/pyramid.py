"""Building the pyramid: the days of a history that are over and not summed up yet, one month at a time.

Work is found by bits: a day of a `history_month` row is built, or it is not. Writers of segments clear
the bits of what they change; the builder sets them only while nothing has changed since it looked.
"""

from __future__ import annotations

import logging
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final
from zoneinfo import ZoneInfo

import numpy as np

from cronaca.core.calendar import local_midnights, month_at, month_window, months_between
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import StoreConflict, StoreUnavailable
from cronaca.core.model import DAY, HOUR, Times, Window
from cronaca.core.ports import Clock
from cronaca.core.rollup import Buckets, base_for, bucketise, coarsen
from cronaca.core.rollup.buckets import concatenate
from cronaca.core.rollup.levels import kept_levels
from cronaca.core.rollup.rows import ReportRow, report_rows
from cronaca.db.pool import Store
from cronaca.db.transaction import Transaction
from cronaca.history.read.series import SeriesAnswer, SeriesReader
from cronaca.history.tables import epochs, months, rollups, summaries
from cronaca.history.tables.months import ALL_DAYS, HistoryMonth
from cronaca.history.tables.partitions import Partitions
from cronaca.plant import histories
from cronaca.plant.site import find_plant
from cronaca.plant.tags import is_stepped, list_names

AT_ONCE: Final = 64
MOST_SAMPLES: Final = 4_000_000
"""Of one history at once."""
_AGAIN_S: Final = 600.0
_LONGEST_REASON: Final = 300
_log = logging.getLogger(__name__)
_Place = tuple[HistoryKey, int]
"""A history and a month."""
_DUE: Final = """
SELECT archive_id, month, tag_id, version FROM history_month
WHERE NOT thinned AND ((month < %(month)s AND days_built <> %(all)s)
    OR (month = %(month)s AND (days_built & %(days)s) <> %(days)s))
ORDER BY month, archive_id, tag_id LIMIT %(most)s
"""
_OPEN: Final = """
INSERT IGNORE INTO history_month (archive_id, month, tag_id, version)
SELECT h.archive_id, %(month)s, h.tag_id, h.version FROM history h
WHERE EXISTS (SELECT 1 FROM history_month m WHERE m.archive_id = h.archive_id AND m.tag_id = h.tag_id
    AND m.version = h.version AND m.month < %(month)s)
"""
_NEWEST: Final = "SELECT MAX(month) FROM history_month WHERE month < %(month)s"
_PUT: Final = """
UPDATE history_month SET days_built = %(days)s, base_us = %(base_us)s
WHERE archive_id = %(archive_id)s AND tag_id = %(tag_id)s AND version = %(version)s AND month = %(month)s
    AND changes = %(changes)s
"""


@dataclass(frozen=True, slots=True)
class _Built:
    """What one building found, not written yet."""

    row: HistoryMonth
    days_built: int
    base_us: int
    levels: list[Buckets]
    window: Window
    hours: list[ReportRow]
    local: Window
    local_days: list[ReportRow]


@dataclass(frozen=True, slots=True)
class _Failure:
    """Why a month of a history cannot be summed up, and when it is tried again (monotonic seconds)."""

    tag: str
    reason: str
    again_at: float


class PyramidBuilder:
    """Sums up what is over. A history that cannot be summed up keeps none of the others waiting."""

    def __init__(self, store: Store, clock: Clock) -> None:
        self._store = store
        self._clock = clock
        self._reader = SeriesReader(store)
        self._partitions = Partitions(store)
        self._opened: set[int] = set()
        self._aside: dict[_Place, _Failure] = {}

    @property
    def problem(self) -> str:
        """Which histories cannot be summed up at present, and why; empty when all can."""
        if not self._aside:
            return ""
        (key, month), first = next(iter(self._aside.items()))
        rest = len(self._aside) - 1
        more = f" (and {rest} more months of histories)" if rest else ""
        return (
            f"Of {first.tag!r} (archive {key.archive_id}) {month} cannot be summed up: {first.reason}{more}. "
            "`./cronaca history verify` lists what is damaged."
        )

    def build_some(self, seconds: float, stop: Callable[[], bool] = lambda: False) -> int:
        """Builds for at most about so long; returns how many months of histories were brought up to date."""
        deadline = time.monotonic() + seconds
        done = 0
        while not stop():
            finished_us = self._finished_us()
            self._open_months(month_at(finished_us))
            before = (done, len(self._aside))
            for key, month in self._due(finished_us):
                done += self._try(key, month, finished_us)
                if time.monotonic() > deadline or stop():
                    return done
            if (done, len(self._aside)) == before:
                return done
        return done

    def _try(self, key: HistoryKey, month: int, finished_us: int) -> bool:
        """Builds; what fails is set aside for a while, and the others go on."""
        try:
            built = self._build(key, month, finished_us)
        except (StoreUnavailable, StoreConflict):
            raise
        except Exception as exc:  # noqa: BLE001 - said in health as `problem`, and tried again
            _log.error("Month %d of %s cannot be summed up", month, key, exc_info=exc)
            with self._store.snapshot() as tx:
                tag = list_names(tx, [key.tag_id]).get(key.tag_id, str(key.tag_id))
            reason = f"{type(exc).__name__}: {exc}"[:_LONGEST_REASON]
            self._aside[key, month] = _Failure(tag, reason, time.monotonic() + _AGAIN_S)
            return False
        self._aside.pop((key, month), None)
        return built

    def _finished_us(self) -> int:
        """The last midnight (UTC) before which all is known."""
        with self._store.snapshot() as tx:
            last = epochs.find_last_epoch(tx)
        now_us = self._clock.now_us()
        running = last is not None and last.state == "open"
        known_us = last.known_until_us if last is not None and running else now_us
        return min(known_us, now_us) // DAY * DAY

    def _open_months(self, month: int) -> None:
        """A row for each history in each month since its first one: an unchanged value is summed up too."""
        if month in self._opened:
            return
        with self._store.transaction() as tx:
            newest = tx.fetch_one(_NEWEST, month=month)
            first = month if newest is None or newest[0] is None else int(newest[0])
            for touched in months_between(first, month):
                tx.execute(_OPEN, month=touched)
        self._opened.add(month)

    def _due(self, finished_us: int) -> list[tuple[HistoryKey, int]]:
        month = month_at(finished_us)
        days = _days_before(month, finished_us)
        now = time.monotonic()
        aside = {place for place, entry in self._aside.items() if entry.again_at > now}
        with self._store.snapshot() as tx:
            rows = tx.fetch(_DUE, month=month, all=ALL_DAYS, days=days, most=AT_ONCE + len(aside))
        due = [(HistoryKey(archive_id, tag_id, version), m) for archive_id, m, tag_id, version in rows]
        # What is due no more, for retention took it or it was mended elsewhere, is no problem any more.
        self._aside = {p: entry for p, entry in self._aside.items() if p in aside or p in due}
        return [place for place in due if place not in aside]

    def _build(self, key: HistoryKey, month: int, finished_us: int) -> bool:
        """Builds missing days of one month; False when it changed meanwhile and has to wait."""
        with self._store.snapshot() as tx:
            built = self._sum_up(tx, key, month, finished_us)
        self._partitions.ensure({(key.archive_id, month), *summaries.places_of(key, built.local_days)})
        return self._store.run(lambda tx: _write(tx, built))

    def _sum_up(self, tx: Transaction, key: HistoryKey, month: int, finished_us: int) -> _Built:
        row = next(m for m in months.list_months(tx, key) if m.month == month)
        base_us = _base(row)
        kept = row.days_built if base_us == row.base_us else 0
        days, window = _next_days(row, kept, finished_us)
        plant = find_plant(tx)
        midnights = local_midnights(window, ZoneInfo(plant.zone if plant else "UTC"))
        local = Window(midnights[0], midnights[-1])
        read = Window(min(local.start_us, window.start_us), max(local.end_us, window.end_us))
        history, stepped = histories.get_history(tx, key), is_stepped(tx, key.tag_id)
        answer = self._reader.context(tx, read, [key]).read(history)
        levels = _levels(tx, row, window, base_us, answer, keep=bool(kept))
        hours = hour_rows(answer, window, stepped)
        over = [day for day in _report(answer, midnights, stepped) if day.end_us <= finished_us]
        return _Built(row, kept | days, base_us, levels, window, hours, local, over)


def hour_rows(answer: SeriesAnswer, window: Window, stepped: bool) -> list[ReportRow]:
    """The rows of the hours of a window; the answer may reach further."""
    return _report(answer, list(range(window.start_us, window.end_us + 1, HOUR)), stepped)


def _report(answer: SeriesAnswer, edges: list[int], stepped: bool) -> list[ReportRow]:
    return report_rows(answer.series, answer.recorded, edges, stepped=stepped, until_us=answer.known_until_us)


def _next_days(row: HistoryMonth, kept: int, finished_us: int) -> tuple[int, Window]:
    """The days to build next, as bits and as a window: from the first one missing to the last, but not
    more samples at once than fit well into memory."""
    whole = month_window(row.month)
    due = ALL_DAYS if whole.end_us <= finished_us else _days_before(row.month, finished_us)
    missing = due & ~kept
    first = (missing & -missing).bit_length() - 1
    length = (whole.end_us - whole.start_us) // DAY
    filled = max(row.days_present.bit_count(), 1)
    most = max(MOST_SAMPLES * filled // max(row.samples, 1), 1)
    last = min(missing.bit_length(), first + most)
    window = Window(whole.start_us + min(first, length - 1) * DAY, whole.start_us + min(last, length) * DAY)
    # Days that a month does not have count as built with its last one.
    return (ALL_DAYS if last >= length else (1 << last) - 1) & ~((1 << first) - 1), window


def _days_before(month: int, finished_us: int) -> int:
    """The days of a month that are over at a midnight."""
    return (1 << max((finished_us - month_window(month).start_us) // DAY, 0)) - 1


def _base(row: HistoryMonth) -> int:
    """The finest width to keep: as before, unless samples have become much denser."""
    if row.first_us is None or row.last_us is None:
        return row.base_us
    base = base_for(row.samples, max(row.last_us - row.first_us, HOUR))
    if not base or (row.base_us and row.base_us <= base):
        return row.base_us
    return base


def _levels(
    tx: Transaction, row: HistoryMonth, window: Window, base_us: int, answer: SeriesAnswer, *, keep: bool
) -> list[Buckets]:
    """All kept levels of the month, with the days of the window anew."""
    if not base_us:
        return []
    parts = [fresh_buckets(answer, window, base_us)]
    old = rollups.find_buckets(tx, row.key, row.month, base_us) if keep else None
    if old is not None:
        parts.append(old.take((old.start_us < window.start_us) | (old.start_us >= window.end_us)))
    levels = [concatenate(parts)]
    for width in kept_levels(base_us)[1:]:
        levels.append(coarsen(levels[-1], width))
    return levels


def fresh_buckets(answer: SeriesAnswer, window: Window, base_us: int) -> Buckets:
    """The buckets of a window. The marks of holes belong to its shape, but are no samples."""
    series = answer.series
    first, after = np.searchsorted(series.ts_us, [window.start_us, window.end_us]).tolist()
    buckets = bucketise(series.take(slice(first, after)), base_us)
    marks = _marks(series.ts_us[first:after], answer.recorded.ts_us)
    places = np.searchsorted(buckets.start_us, marks // base_us * base_us)
    np.subtract.at(buckets.counts["bad"], places, 1)
    return buckets


def _marks(marked: Times, recorded: Times) -> Times:
    """The times that are not those of recorded samples; both are in order."""
    if not len(recorded):
        return marked
    places = np.minimum(np.searchsorted(recorded, marked), len(recorded) - 1)
    marks: Times = marked[recorded[places] != marked]
    return marks


def _write(tx: Transaction, built: _Built) -> bool:
    row = built.row
    days, base_us = built.days_built, built.base_us
    if not tx.execute(
        _PUT, **row.key._asdict(), month=row.month, days=days, base_us=base_us, changes=row.changes
    ):
        return False
    rollups.put_rollups(tx, row.key, row.month, built.levels)
    summaries.put_hours(tx, row.key, built.window, built.hours)
    summaries.put_days(tx, row.key, built.local, built.local_days)
    return True

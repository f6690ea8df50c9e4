"""Retention: what is older than an archive keeps, or more than it may take, goes; announced before, on
record afterwards. Whole months go with their partition, the rest of a month in short transactions of one
history each. Recording never waits: it writes the journal, which is not touched here.

Of each history the last sample before the cut stays, however old: it is the value that holds at the cut.
"""

from __future__ import annotations

import logging
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from typing import Final

from cronaca.core.calendar import month_at, month_window
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import InvalidInput, StoreUnavailable
from cronaca.core.model import DAY, HOUR, Series, Window, merge
from cronaca.core.ports import Clock
from cronaca.db.pool import Store
from cronaca.db.transaction import Transaction
from cronaca.history.jobs.compaction import compact_some, in_turn
from cronaca.history.jobs.pyramid import PyramidBuilder
from cronaca.history.tables import months, segments
from cronaca.history.tables.months import ALL_DAYS, HistoryMonth
from cronaca.history.tables.partitions import Partitions
from cronaca.history.write import edits
from cronaca.history.write.turn import take_turn
from cronaca.plant import histories

_log = logging.getLogger(__name__)
SHORTEST_US: Final = DAY
_POLICY: Final = "SELECT keep_us, keep_bytes, thin FROM archive WHERE archive_id = %(archive_id)s"
_PUT_POLICY: Final = """
UPDATE archive SET keep_us = %(keep_us)s, keep_bytes = %(keep_bytes)s, thin = %(thin)s
WHERE archive_id = %(archive_id)s
"""
_WITH_POLICY: Final = """
SELECT archive_id FROM archive WHERE keep_us IS NOT NULL OR keep_bytes IS NOT NULL ORDER BY archive_id
"""
_SIZES: Final = """
SELECT month, SUM(bytes) FROM history_month WHERE archive_id = %(archive_id)s GROUP BY month ORDER BY month
"""
_OLD: Final = """
SELECT DISTINCT tag_id, version FROM history_month
WHERE archive_id = %(archive_id)s AND month <= %(month)s AND sample_count > 0
"""
_FORGET: Final = """
UPDATE history_month SET sample_count = 0, bytes = 0, segments = 0, first_us = NULL, last_us = NULL,
    tail = '', days_present = 0, days_built = %(all)s, base_us = 0, changes = changes + 1
WHERE archive_id = %(archive_id)s AND month = %(month)s
"""
"""The row stays: the numbers of its segments must never be given twice."""
_THIN: Final = """
UPDATE history_month SET thinned = TRUE, sample_count = 0, bytes = 0, segments = 0, first_us = NULL,
    last_us = NULL, tail = '', days_built = %(all)s, changes = changes + 1
WHERE archive_id = %(archive_id)s AND month = %(month)s
"""
_FORCE_BASE: Final = """
UPDATE history_month SET base_us = %(base_us)s, days_built = 0, changes = changes + 1
WHERE archive_id = %(archive_id)s AND month = %(month)s AND base_us = 0 AND sample_count > 0 AND NOT thinned
"""
_UNBUILT: Final = """
SELECT 1 FROM history_month WHERE archive_id = %(archive_id)s AND month = %(month)s AND NOT thinned
    AND days_built <> %(all)s LIMIT 1
"""
_END_COVERAGE: Final = "DELETE FROM coverage WHERE archive_id = %(archive_id)s AND end_us <= %(cut_us)s"
_TRIM_COVERAGE: Final = """
UPDATE IGNORE coverage SET start_us = %(cut_us)s WHERE archive_id = %(archive_id)s AND start_us < %(cut_us)s
"""
_SAY_REMOVED: Final = "UPDATE archive SET removed_until_us = %(cut_us)s WHERE archive_id = %(archive_id)s"
_ADD_RUN: Final = """
INSERT INTO retention_run (archive_id, created_us, month, before_us, samples, bytes, how)
VALUES (%(archive_id)s, %(created_us)s, %(month)s, %(before_us)s, %(samples)s, %(bytes)s, %(how)s)
"""
_LIST_RUNS: Final = """
SELECT created_us, month, before_us, samples, bytes, how FROM retention_run
WHERE archive_id = %(archive_id)s ORDER BY run_id
"""


@dataclass(frozen=True, slots=True)
class Policy:
    """What an archive keeps: `keep_us` by age, `keep_bytes` by size (whole months go), None without
    limit; with `thin` the summaries of what goes are kept, and only whole months go."""

    keep_us: int | None = None
    keep_bytes: int | None = None
    thin: bool = False


@dataclass(frozen=True, slots=True)
class Doomed:
    """What goes of one month: samples before `before_us`, about so many bytes."""

    month: int
    before_us: int
    samples: int
    bytes: int
    whole: bool


@dataclass(frozen=True, slots=True)
class Plan:
    """What retention will do to an archive now; `cut_us` None when nothing is old or large enough."""

    archive_id: int
    cut_us: int | None
    thin: bool
    doomed: tuple[Doomed, ...] = ()

    @property
    def samples(self) -> int:
        """How many samples go."""
        return sum(part.samples for part in self.doomed)


@dataclass(frozen=True, slots=True)
class Gone:
    """What retention did."""

    created_us: int
    month: int
    before_us: int
    samples: int
    bytes: int
    how: str


def get_policy(tx: Transaction, archive_id: int) -> Policy:
    """The policy of an archive."""
    row = tx.fetch_one(_POLICY, archive_id=archive_id)
    return Policy() if row is None else Policy(row[0], row[1], bool(row[2]))


def put_policy(tx: Transaction, archive_id: int, policy: Policy) -> None:
    """Sets the policy; raises InvalidInput for one that cannot be meant."""
    if policy.keep_us is not None and policy.keep_us < SHORTEST_US:
        raise InvalidInput("keep_us", "shorter-day", "it is shorter than a day", "Keep at least one day.")
    if policy.keep_bytes is not None and policy.keep_bytes < 1 << 20:
        raise InvalidInput("keep_bytes", "less-one-mb", "it is less than one MB", "Allow at least one MB.")
    policy_columns = {"keep_us": policy.keep_us, "keep_bytes": policy.keep_bytes, "thin": policy.thin}
    tx.execute(_PUT_POLICY, archive_id=archive_id, **policy_columns)


def list_gone(tx: Transaction, archive_id: int) -> list[Gone]:
    """What went so far, oldest first."""
    return [Gone(*row) for row in tx.fetch(_LIST_RUNS, archive_id=archive_id)]


def plan(tx: Transaction, archive_id: int, policy: Policy, now_us: int) -> Plan:
    """What the policy would delete now, to the sample; changes nothing."""
    cut_us = _cut(tx, archive_id, policy, now_us)
    if cut_us is None:
        return Plan(archive_id, None, policy.thin)
    counts: dict[int, list[int]] = defaultdict(lambda: [0, 0])
    for key in _old_histories(tx, archive_id, cut_us):
        rows = months.list_months(tx, key)
        stays = _last_before(tx, rows, key, cut_us)
        for row in rows:
            count, size = _goes(tx, row, cut_us, stays)
            counts[row.month][0] += count
            counts[row.month][1] += size
    doomed = [_doomed(month, cut_us, *sums) for month, sums in sorted(counts.items()) if sums[0]]
    return Plan(archive_id, cut_us, policy.thin, tuple(doomed))


def _doomed(month: int, cut_us: int, samples: int, size: int) -> Doomed:
    end_us = month_window(month).end_us
    return Doomed(month, min(end_us, cut_us), samples, size, end_us <= cut_us)


def _cut(tx: Transaction, archive_id: int, policy: Policy, now_us: int) -> int | None:
    """All samples before this time go: a midnight (UTC), or the start of a month."""
    cuts = []
    if policy.keep_us is not None:
        cuts.append((now_us - policy.keep_us) // DAY * DAY)
    if policy.keep_bytes is not None:
        sizes = [(int(m), int(size)) for m, size in tx.fetch(_SIZES, archive_id=archive_id)]
        total = sum(size for _, size in sizes)
        for month, size in sizes:
            if total <= policy.keep_bytes or month >= month_at(now_us):
                break
            total -= size
            cuts.append(month_window(month).end_us)
    cut_us = max(cuts, default=0)
    if policy.thin:
        cut_us = month_window(month_at(cut_us)).start_us if cut_us else 0
    return cut_us if cut_us > 0 else None


def _old_histories(tx: Transaction, archive_id: int, cut_us: int) -> list[HistoryKey]:
    rows = tx.fetch(_OLD, archive_id=archive_id, month=month_at(cut_us))
    return [HistoryKey(archive_id, tag_id, version) for tag_id, version in rows]


def _last_before(tx: Transaction, rows: Sequence[HistoryMonth], key: HistoryKey, cut_us: int) -> Series:
    """The sample that holds at the cut, if there is one."""
    filled = [row for row in rows if row.first_us is not None and row.first_us < cut_us]
    if not filled:
        return Series.empty(histories.get_history(tx, key).value_type)
    extents = segments.list_extents(tx, key, [filled[-1].month])
    across = [e for e in extents if e.start_us < cut_us <= e.end_us]
    ended_us = max((e.end_us for e in extents if e.end_us < cut_us), default=0)
    near = [*across, *(e for e in extents if e.end_us == ended_us)]
    parts = [stored.series() for stored in segments.read_extents(tx, key, near)]
    whole = merge(parts, parts[0].value_type)
    return whole.take(slice(int(whole.ts_us.searchsorted(cut_us)) - 1, int(whole.ts_us.searchsorted(cut_us))))


def _goes(tx: Transaction, row: HistoryMonth, cut_us: int, stays: Series) -> tuple[int, int]:
    """Stored samples of a month that go, and about how many bytes they take."""
    whole = month_window(row.month)
    if row.thinned or not row.samples or whole.start_us >= cut_us:
        return 0, 0
    kept = int(((stays.ts_us >= whole.start_us) & (stays.ts_us < whole.end_us)).sum())
    if whole.end_us <= cut_us:
        return row.samples - kept, row.bytes if row.samples > kept else 0
    window = Window(whole.start_us, cut_us)
    count = 0
    extents = segments.touching(segments.list_extents(tx, row.key, [row.month]), window)
    for stored in segments.read_extents(tx, row.key, [e for e in extents if e.end_us >= cut_us]):
        count += int((stored.series().ts_us < cut_us).sum())
    count += sum(e.samples for e in extents if e.end_us < cut_us)
    return count - kept, row.bytes * max(count - kept, 0) // row.samples


def forget_month(tx: Transaction, archive_id: int, month: int, all_days: int) -> None:
    """The rows of a month whose partitions went hold nothing any more."""
    tx.execute(_FORGET, archive_id=archive_id, month=month, all=all_days)


class Retention:
    """Does what the policies of the archives say."""

    def __init__(self, store: Store, clock: Clock) -> None:
        self._store = store
        # What is read while the writers' turn holds: the transaction that holds it must not touch the
        # tables itself, for their partitions are dropped from outside of it.
        self._aside = store.apart(1)
        self._clock = clock
        self._partitions = Partitions(store)

    def run_all(self) -> list[Plan]:
        """Every archive with a policy; what was done. One that fails keeps no other from its turn: the first
        of their errors is raised at the end."""
        with self._store.snapshot() as tx:
            archives = [int(row[0]) for row in tx.fetch(_WITH_POLICY)]
        done: list[Plan] = []
        errors: list[Exception] = []
        for archive_id in archives:
            try:
                done.append(self.run(archive_id))
            except StoreUnavailable:
                raise
            except Exception as exc:  # noqa: BLE001 - raised when the others are done
                _log.error("Archive %d cannot be emptied by its policy", archive_id, exc_info=exc)
                errors.append(exc)
        if errors:
            raise errors[0]
        return done

    def run(self, archive_id: int) -> Plan:
        """One archive; what was done."""
        now_us = self._clock.now_us()
        while in_turn(self._store, self._partitions, compact_some):
            pass
        with self._store.snapshot() as tx:
            todo = plan(tx, archive_id, get_policy(tx, archive_id), now_us)
        if todo.cut_us is None:
            return todo
        done = [part for part in todo.doomed if self._delete(todo, todo.cut_us, part, now_us)]
        if done and not todo.thin:
            with self._store.transaction() as tx:
                tx.execute(_END_COVERAGE, archive_id=archive_id, cut_us=todo.cut_us)
                tx.execute(_TRIM_COVERAGE, archive_id=archive_id, cut_us=todo.cut_us)
                tx.execute(_SAY_REMOVED, archive_id=archive_id, cut_us=todo.cut_us)
        return Plan(archive_id, todo.cut_us, todo.thin, tuple(done))

    def _delete(self, todo: Plan, cut_us: int, part: Doomed, now_us: int) -> bool:
        if not part.whole:
            self._delete_rows(todo.archive_id, cut_us, part)
            how = "dropped"
        elif todo.thin:
            if not self._prepare_thinning(todo.archive_id, part.month):
                return False
            self._drop_month(todo.archive_id, cut_us, part.month, thin=True)
            how = "thinned"
        else:
            self._drop_month(todo.archive_id, cut_us, part.month, thin=False)
            how = "dropped"
        with self._store.transaction() as tx:
            tx.execute(
                _ADD_RUN, archive_id=todo.archive_id, created_us=now_us, month=part.month,
                before_us=part.before_us, samples=part.samples, bytes=part.bytes, how=how,
            )  # fmt: skip
        return True

    def _drop_month(self, archive_id: int, cut_us: int, month: int, *, thin: bool) -> None:
        """Drops the partitions of a month in the writers' turn. A crash in between leaves rows of a month
        without segments, which reads as nothing, and the next run goes on."""
        place = (archive_id, month)
        with self._store.transaction() as tx:
            take_turn(tx)
            kept = self._survivors(archive_id, cut_us, month)
            for table in ("segment",) if thin else ("segment", "rollup", "summary_hour", "summary_day"):
                self._partitions.drop(table, place)
            if thin:
                tx.execute(_THIN, archive_id=archive_id, month=month, all=ALL_DAYS)
            else:
                forget_month(tx, archive_id, month, ALL_DAYS)
        if kept:
            in_turn(self._store, self._partitions, lambda tx, p: _put_back(tx, p, kept))

    def _survivors(self, archive_id: int, cut_us: int, month: int) -> dict[HistoryKey, Series]:
        """The samples of a month that hold at the cut."""
        survivors = {}
        whole = month_window(month)
        with self._aside.snapshot() as tx:
            for key in _old_histories(tx, archive_id, cut_us):
                stays = _last_before(tx, months.list_months(tx, key), key, cut_us)
                if len(stays) and whole.start_us <= stays.ts_us[0] < whole.end_us:
                    survivors[key] = stays
        return survivors

    def _delete_rows(self, archive_id: int, cut_us: int, part: Doomed) -> None:
        """The first days of a month: history after history."""
        with self._store.snapshot() as tx:
            keys = _old_histories(tx, archive_id, cut_us)
        for key in keys:
            work = partial(_trim, key=key, cut_us=cut_us, month=part.month)
            in_turn(self._store, self._partitions, work)

    def _prepare_thinning(self, archive_id: int, month: int) -> bool:
        """Makes sure that every history of the month is summed up, the sparse ones too."""
        key = {"archive_id": archive_id, "month": month}
        with self._store.transaction() as tx:
            tx.execute(_FORCE_BASE, **key, base_us=HOUR)
        builder = PyramidBuilder(self._store, self._clock)
        for _ in range(3):
            builder.build_some(600)
            with self._store.snapshot() as tx:
                if tx.fetch_one(_UNBUILT, **key, all=ALL_DAYS) is None:
                    return True
        return False


def _put_back(tx: Transaction, partitions: Partitions, kept: dict[HistoryKey, Series]) -> None:
    partitions.check(segments.places_of(kept))
    segments.append(tx, kept)


def _trim(tx: Transaction, _: Partitions, *, key: HistoryKey, cut_us: int, month: int) -> None:
    rows = months.list_months(tx, key)
    row = next((r for r in rows if r.month == month), None)
    if row is None or not row.samples:
        return
    stays = _last_before(tx, rows, key, cut_us)
    whole = month_window(month)
    end_us = int(stays.ts_us[0]) if len(stays) else cut_us
    if end_us > whole.start_us:
        window = Window(whole.start_us, end_us)
        edits.take_out(tx, row, window)
        edits.finish_month(tx, row, window)

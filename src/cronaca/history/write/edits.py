"""Corrections of history, and the modified history they leave behind."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from typing import Final

from cronaca.core.calendar import bits_of_window, month_at, month_of, month_window, months_between
from cronaca.core.codec import MAX_SAMPLES, decode_segment, encode_segment
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.edits import EditKind, apply_edit, fill_outage, window_of
from cronaca.core.errors import CorruptPayload, InvalidInput
from cronaca.core.model import Series, Window, concatenate, merge
from cronaca.core.topics import Topic
from cronaca.db.pool import Store
from cronaca.db.transaction import Row, Transaction
from cronaca.history.jobs.compaction import compact_some, in_turn
from cronaca.history.tables import months, segments
from cronaca.history.tables.months import HistoryMonth
from cronaca.history.tables.partitions import Partitions
from cronaca.history.tables.segments import StoredSegment
from cronaca.plant import coverage, histories

_ADD: Final = """
INSERT INTO history_edit (archive_id, tag_id, version, kind, start_us, end_us, created_us, person, reason,
    written, replaced)
VALUES (%(archive_id)s, %(tag_id)s, %(version)s, %(kind)s, %(start_us)s, %(end_us)s, %(created_us)s,
    %(person)s, %(reason)s, %(written)s, %(replaced)s)
"""
_ADD_PART: Final = "INSERT INTO history_edit_part (edit_id, part, payload) VALUES (%s, %s, %s)"
_COLUMNS: Final = "edit_id, kind, start_us, end_us, created_us, person, reason, written, replaced"
_LIST: Final = f"""
SELECT {_COLUMNS} FROM history_edit
WHERE archive_id = %(archive_id)s AND tag_id = %(tag_id)s AND version = %(version)s
    AND end_us > %(start_us)s AND start_us < %(end_us)s ORDER BY edit_id
"""
_PARTS: Final = "SELECT payload FROM history_edit_part WHERE edit_id = %(edit_id)s ORDER BY part"


@dataclass(frozen=True, slots=True)
class Edit:
    """One correction on record. `written` and `replaced` count samples."""

    edit_id: int
    kind: EditKind
    start_us: int
    end_us: int
    created_us: int
    person: str
    reason: str
    written: int
    replaced: int


@dataclass(frozen=True, slots=True)
class Author:
    """Who corrects, when, and why."""

    person: str
    created_us: int
    reason: str


@dataclass(frozen=True, slots=True)
class Filling:
    """What belongs into a stretch of a history that was lost when it happened."""

    key: HistoryKey
    window: Window
    samples: Series


class HistoryEditor:
    """Corrects history. Each correction is one transaction: whole or not at all."""

    def __init__(self, store: Store) -> None:
        self._store = store
        self._partitions = Partitions(store)

    def insert(self, key: HistoryKey, samples: Series, author: Author) -> Edit:
        """Adds samples; raises InvalidInput where another one stands already."""
        return self._edit(key, EditKind.INSERT, window_of(samples), samples, author)

    def replace(self, key: HistoryKey, samples: Series, author: Author) -> Edit:
        """Exchanges samples; raises InvalidInput where none stands."""
        return self._edit(key, EditKind.REPLACE, window_of(samples), samples, author)

    def update(self, key: HistoryKey, samples: Series, author: Author) -> Edit:
        """Adds or exchanges samples."""
        return self._edit(key, EditKind.UPDATE, window_of(samples), samples, author)

    def delete(self, key: HistoryKey, window: Window, author: Author) -> Edit:
        """Removes all samples of the window."""
        with self._store.snapshot() as tx:
            kind = histories.get_history(tx, key).value_type
        return self._edit(key, EditKind.DELETE, window, Series.empty(kind), author)

    def fill(self, parts: Sequence[Filling], author: Author) -> int:
        """Puts what a device remembered of an outage in the place of what stands for it, each history in a
        transaction of its own; returns how many samples were written."""
        written = 0
        for part in parts:
            self._partitions.ensure(segments.places_of({part.key: part.samples}))
            self._compact_first()
            change = partial(_fill, part=part, author=author)
            written += in_turn(self._store, self._partitions, change)
        return written

    def _compact_first(self) -> None:
        """What waits in the journal would stand behind the correction: most of it is compacted before, the
        rest in the very transaction."""
        while in_turn(self._store, self._partitions, compact_some):
            pass

    def _edit(self, key: HistoryKey, kind: EditKind, window: Window, samples: Series, author: Author) -> Edit:
        if not author.reason.strip():
            raise InvalidInput("reason", "reason-empty", "it is empty", "Say why history is corrected.")
        with self._store.snapshot() as tx:
            histories.get_history(tx, key)
        self._partitions.ensure(segments.places_of({key: samples}))
        self._compact_first()
        return in_turn(
            self._store, self._partitions, lambda tx, p: _edit(tx, p, key, kind, window, samples, author)
        )


def _edit(
    tx: Transaction,
    partitions: Partitions,
    key: HistoryKey,
    kind: EditKind,
    window: Window,
    samples: Series,
    author: Author,
) -> Edit:
    while compact_some(tx, partitions):
        pass
    changes = [_edit_month(tx, kind, row, window, samples) for row in _months(tx, key, window)]
    replaced = concatenate([old for old, _ in changes], samples.value_type)
    written = sum(count for _, count in changes)
    if kind is not EditKind.DELETE:
        coverage.add(tx, [(key, window)])
    edit = Edit(
        0, kind, window.start_us, window.end_us, author.created_us, author.person, author.reason, written,
        len(replaced),
    )  # fmt: skip
    return _put_on_record(tx, key, edit, replaced)


def _fill(tx: Transaction, partitions: Partitions, part: Filling, author: Author) -> int:
    while compact_some(tx, partitions):
        pass
    window, samples = part.window, part.samples
    changes = []
    for row in _months(tx, part.key, window):
        taken = merge(take_out(tx, row, window), samples.value_type)
        changes.append(fill_outage(taken, samples.take(month_of(samples.ts_us) == row.month)))
        segments.add_segments(tx, row, changes[-1].after)
        finish_month(tx, row, window)
    replaced = concatenate([change.replaced for change in changes], samples.value_type)
    written = sum(change.written for change in changes)
    if written or len(replaced):
        coverage.add(tx, [(part.key, window)])
        edit = Edit(
            0, EditKind.UPDATE, window.start_us, window.end_us, author.created_us, author.person,
            author.reason, written, len(replaced),
        )  # fmt: skip
        _put_on_record(tx, part.key, edit, replaced)
    return written


def _months(tx: Transaction, key: HistoryKey, window: Window) -> list[HistoryMonth]:
    by_month = {row.month: row for row in months.list_months(tx, key)}
    touched = months_between(month_at(window.start_us), month_at(window.end_us - 1))
    return [by_month.get(month) or HistoryMonth(key, month) for month in touched]


def _edit_month(
    tx: Transaction, kind: EditKind, row: HistoryMonth, window: Window, samples: Series
) -> tuple[Series, int]:
    """Corrects one month; the samples replaced, and how many were written."""
    mine = samples.take(month_of(samples.ts_us) == row.month)
    if kind is not EditKind.DELETE and not len(mine):
        return mine, 0
    taken = take_out(tx, row, window)
    edited = apply_edit(kind, merge(taken, samples.value_type), mine)
    segments.add_segments(tx, row, edited.after)
    finish_month(tx, row, window)
    return edited.replaced, edited.written


def take_out(tx: Transaction, row: HistoryMonth, window: Window) -> list[Series]:
    """Takes the samples of the window out of a month's segments, in the order in which they were written.
    Each segment keeps its place in that order with what is left of it."""
    extents = segments.touching(segments.list_extents(tx, row.key, [row.month]), window)
    stored = segments.read_extents(tx, row.key, extents)
    taken = []
    for segment in stored:
        series = segment.series()
        inside = (series.ts_us >= window.start_us) & (series.ts_us < window.end_us)
        taken.append(series.take(inside))
        _keep_rest(tx, row, segment, series.take(~inside))
    return taken


def _keep_rest(tx: Transaction, row: HistoryMonth, segment: StoredSegment, rest: Series) -> None:
    segments.remove_segments(tx, [segment])
    if len(rest):
        segments.put_segment(tx, row.key, row.month, segment.generation, rest)


def finish_month(tx: Transaction, row: HistoryMonth, window: Window) -> None:
    """Writes a month's row anew after its segments were changed by hand."""
    extents = segments.list_extents(tx, row.key, [row.month])
    row.first_us = min((e.start_us for e in extents), default=None)
    row.last_us = max((e.end_us for e in extents), default=None)
    row.samples, row.bytes = sum(e.samples for e in extents), sum(e.bytes for e in extents)
    row.segments, row.tail = len(extents), []
    days = bits_of_window(window, row.month)
    row.touch(days)
    whole = month_window(row.month)
    if row.first_us is not None and row.last_us is not None:
        row.days_present |= days & bits_of_window(Window(row.first_us, row.last_us + 1), row.month)
    else:
        row.days_present &= ~bits_of_window(whole, row.month)
    months.put_months(tx, [row])
    months.unbuild_after(tx, [(row, days)])


def _put_on_record(tx: Transaction, key: HistoryKey, edit: Edit, replaced: Series) -> Edit:
    tx.changes(Topic.HISTORY)
    number = tx.insert(
        _ADD,
        **key._asdict(),
        **{name: getattr(edit, name) for name in Edit.__slots__ if name != "edit_id"},
    )
    pieces = [replaced.take(slice(i, i + MAX_SAMPLES)) for i in range(0, len(replaced), MAX_SAMPLES)]
    tx.execute_many(_ADD_PART, [(number, i, encode_segment(piece)) for i, piece in enumerate(pieces)])
    return Edit(number, *(getattr(edit, name) for name in Edit.__slots__ if name != "edit_id"))


def list_edits(tx: Transaction, key: HistoryKey, window: Window) -> list[Edit]:
    """The corrections that touch the window, oldest first."""
    return [_edit_of(row) for row in tx.fetch(_LIST, **key._asdict(), **_ends(window))]


def read_replaced(tx: Transaction, edit_id: int) -> list[Series]:
    """What stood there before a correction, in order of time."""
    try:
        return [decode_segment(payload) for (payload,) in tx.fetch(_PARTS, edit_id=edit_id)]
    except CorruptPayload as exc:
        raise exc.within(f"modified history {edit_id}") from exc


def _ends(window: Window) -> dict[str, int]:
    return {"start_us": window.start_us, "end_us": window.end_us}


def _edit_of(row: Row) -> Edit:
    return Edit(row[0], EditKind(row[1]), *row[2:])

"""The journal: what the recorder commits first, one row per flush, keyed by (epoch, seq)."""

from __future__ import annotations

import struct
from collections.abc import Sequence
from typing import Final, NamedTuple

from cronaca.core.codec import Batch, decode_batch, encode_batch
from cronaca.core.errors import CorruptPayload
from cronaca.core.model import Gap, GapReason
from cronaca.core.ports import Flush
from cronaca.db.transaction import Transaction


class JournalKey(NamedTuple):
    """Where in the journal a row stands; keys compare in the order of writing."""

    epoch: int
    seq: int


class Row(NamedTuple):
    """A row: its samples, or none and what is wrong with it."""

    key: JournalKey
    batch: Batch
    problem: str = ""


_ADD: Final = """
INSERT INTO journal (epoch, seq, received_us, sample_count, payload)
VALUES (%(epoch)s, %(seq)s, %(received_us)s, %(sample_count)s, %(payload)s)
"""
_HAS: Final = "SELECT 1 FROM journal WHERE epoch = %(epoch)s AND seq = %(seq)s"
_KEYS_AFTER: Final = """
SELECT j.epoch, j.seq FROM journal j JOIN compaction_mark m ON m.epoch = j.epoch
WHERE j.seq > m.seq ORDER BY j.epoch, j.seq
"""
_READ_ONE: Final = "SELECT payload FROM journal WHERE epoch = %(epoch)s AND seq = %(seq)s"
_READ_MANY: Final = "SELECT epoch, seq, payload FROM journal WHERE (epoch, seq) IN %(keys)s"
_READ_AT_ONCE: Final = 100
"""Rows of one query: a flush of a large plant may have some hundred kB."""
_READ_WAITING: Final = """
SELECT epoch, seq, payload FROM journal
WHERE epoch = %(epoch)s AND seq > %(mark)s ORDER BY seq LIMIT %(most)s
"""
_STRETCH: Final = """
SELECT j.received_us, COALESCE(
    (SELECT MAX(b.received_us) FROM journal b WHERE b.epoch = j.epoch AND b.seq < j.seq),
    (SELECT opened_us FROM recorder_epoch e WHERE e.epoch = j.epoch), j.received_us - 1000000)
FROM journal j WHERE j.epoch = %(epoch)s AND j.seq = %(seq)s
"""
_ADD_GAP: Final = """
INSERT INTO gap (start_us, end_us, reason, detail)
VALUES (%(start_us)s, %(end_us)s, %(reason)s, %(detail)s)
"""
_KEEP_DAMAGED: Final = """
INSERT IGNORE INTO journal_damaged (epoch, seq, received_us, sample_count, payload, problem, gap_id)
SELECT epoch, seq, received_us, sample_count, payload, %(problem)s, %(gap)s FROM journal
WHERE epoch = %(epoch)s AND seq = %(seq)s
"""
_REMOVE: Final = "DELETE FROM journal WHERE epoch = %(epoch)s AND seq = %(seq)s"
_LIST_DAMAGED: Final = "SELECT epoch, seq, problem FROM journal_damaged ORDER BY epoch, seq"
_RECEIVED: Final = "SELECT received_us FROM journal WHERE epoch = %(epoch)s AND seq = %(seq)s"
_READ_AFTER: Final = """
SELECT epoch, seq, payload FROM journal
WHERE epoch > %(epoch)s OR (epoch = %(epoch)s AND seq > %(seq)s) ORDER BY epoch, seq LIMIT %(most)s
"""
_LAST: Final = "SELECT epoch, seq FROM journal ORDER BY epoch DESC, seq DESC LIMIT 1"
_FIRST: Final = "SELECT epoch, seq FROM journal ORDER BY epoch, seq LIMIT 1"
_FIND_WAITING: Final = """
SELECT j.epoch FROM journal j JOIN compaction_mark m ON m.epoch = j.epoch
WHERE j.seq > m.seq ORDER BY j.epoch LIMIT 1
"""
_ADD_MARK: Final = "INSERT INTO compaction_mark (epoch, seq) VALUES (%(epoch)s, 0)"
_LOCK_MARK: Final = "SELECT seq FROM compaction_mark WHERE epoch = %(epoch)s FOR UPDATE"
_PUT_MARK: Final = "UPDATE compaction_mark SET seq = %(seq)s WHERE epoch = %(epoch)s"
_PRUNE: Final = """
DELETE j FROM journal j JOIN compaction_mark m ON m.epoch = j.epoch
WHERE j.seq <= m.seq AND j.received_us < %(before_us)s
"""
_BACKLOG: Final = """
SELECT COUNT(*), COALESCE(SUM(j.sample_count), 0)
FROM journal j JOIN compaction_mark m ON m.epoch = j.epoch WHERE j.seq > m.seq
"""


def add_batch(tx: Transaction, flush: Flush) -> bool:
    """Writes the flush's row; False when it is there already (a commit whose answer was lost)."""
    if tx.fetch_one(_HAS, epoch=flush.epoch, seq=flush.seq) is not None:
        return False
    tx.execute(
        _ADD,
        epoch=flush.epoch,
        seq=flush.seq,
        received_us=flush.received_us,
        sample_count=flush.batch.sample_count,
        payload=encode_batch(flush.batch),
    )
    return True


def list_uncompacted(tx: Transaction) -> list[JournalKey]:
    """The rows that are not in segments yet, in order."""
    return [JournalKey(*row) for row in tx.fetch(_KEYS_AFTER)]


def get_batch(tx: Transaction, key: JournalKey) -> Batch:
    """One row's samples; raises CorruptPayload that names the row."""
    row = tx.fetch_one(_READ_ONE, epoch=key.epoch, seq=key.seq)
    return _decode(key, b"" if row is None else row[0])


def read_batches(tx: Transaction, keys: Sequence[JournalKey]) -> list[Row]:
    """Several rows, in order."""
    batches = []
    for first in range(0, len(keys), _READ_AT_ONCE):
        chosen = [tuple(key) for key in keys[first : first + _READ_AT_ONCE]]
        batches += [_row(*row) for row in tx.fetch(_READ_MANY, keys=chosen)]
    return sorted(batches, key=lambda row: row.key)


def read_waiting(tx: Transaction, epoch: int, mark: int, most: int) -> list[Row]:
    """At most `most` rows of one epoch behind its mark, in order."""
    return [_row(*row) for row in tx.fetch(_READ_WAITING, epoch=epoch, mark=mark, most=most)]


def read_after(tx: Transaction, after: JournalKey, most: int) -> list[Row]:
    """At most `most` rows behind a key, in order."""
    return [_row(*row) for row in tx.fetch(_READ_AFTER, epoch=after.epoch, seq=after.seq, most=most)]


def set_aside(tx: Transaction, row: Row) -> None:
    """Takes a row that cannot be read out of the journal, keeps it as it is, and puts the stretch that it
    told of on record as a gap."""
    gap = damage_gap(tx, row)
    number = tx.insert(
        _ADD_GAP, start_us=gap.start_us, end_us=gap.end_us, reason=gap.reason.value, detail=gap.detail
    )
    tx.execute(_KEEP_DAMAGED, epoch=row.key.epoch, seq=row.key.seq, problem=row.problem[:500], gap=number)
    tx.execute(_REMOVE, epoch=row.key.epoch, seq=row.key.seq)


def damage_gap(tx: Transaction, row: Row) -> Gap:
    """The stretch that a row which cannot be read told of. Which tags were in it nobody knows: it is a gap of
    all, and samples of others that lie inside stay."""
    stretch = tx.fetch_one(_STRETCH, epoch=row.key.epoch, seq=row.key.seq)
    received_us, before_us = (0, 0) if stretch is None else (int(stretch[0]), int(stretch[1]))
    detail = f"Journal row {row.key.epoch}/{row.key.seq} cannot be read: {row.problem}"
    return Gap(before_us, max(received_us, before_us + 1), GapReason.DAMAGED, detail[:500])


def list_damaged(tx: Transaction) -> list[tuple[JournalKey, str]]:
    """The rows that were set aside, and what is wrong with them."""
    return [(JournalKey(epoch, seq), problem) for epoch, seq, problem in tx.fetch(_LIST_DAMAGED)]


def find_received(tx: Transaction, key: JournalKey) -> int | None:
    """When one row came in, µs; None when there is no such row."""
    row = tx.fetch_one(_RECEIVED, epoch=key.epoch, seq=key.seq)
    return None if row is None else int(row[0])


def find_ends(tx: Transaction) -> tuple[JournalKey, JournalKey] | None:
    """The oldest and the newest row, or None while the journal is empty."""
    first, last = tx.fetch_one(_FIRST), tx.fetch_one(_LAST)
    return None if first is None or last is None else (JournalKey(*first), JournalKey(*last))


def find_waiting_epoch(tx: Transaction) -> int | None:
    """The oldest epoch with rows that are not in segments yet."""
    row = tx.fetch_one(_FIND_WAITING)
    return None if row is None else int(row[0])


def add_mark(tx: Transaction, epoch: int) -> None:
    """Says that nothing of a new epoch is in segments yet."""
    tx.execute(_ADD_MARK, epoch=epoch)


def lock_mark(tx: Transaction, epoch: int) -> int:
    """How far the epoch is compacted. The caller has the writers' turn."""
    row = tx.fetch_one(_LOCK_MARK, epoch=epoch)
    return 0 if row is None else int(row[0])


def put_mark(tx: Transaction, key: JournalKey) -> None:
    """Says that rows up to the key are in segments."""
    tx.execute(_PUT_MARK, epoch=key.epoch, seq=key.seq)


def prune(tx: Transaction, before_us: int) -> int:
    """Removes compacted rows received before `before_us`; returns how many."""
    return tx.execute(_PRUNE, before_us=before_us)


def count_backlog(tx: Transaction) -> tuple[int, int]:
    """Rows and samples that wait for compaction."""
    row = tx.fetch_one(_BACKLOG) or (0, 0)
    return int(row[0]), int(row[1])


def _row(epoch: int, seq: int, payload: bytes) -> Row:
    key = JournalKey(epoch, seq)
    try:
        return Row(key, _decode(key, payload))
    except CorruptPayload as exc:
        return Row(key, Batch({}), exc.problem)


def _decode(key: JournalKey, payload: bytes) -> Batch:
    try:
        return decode_batch(payload)
    except CorruptPayload as exc:
        raise exc.within(f"journal row {key.epoch}/{key.seq}") from exc
    except (ValueError, TypeError, LookupError, ArithmeticError, struct.error) as exc:
        raise CorruptPayload(f"journal row {key.epoch}/{key.seq}", f"it cannot be unpacked ({exc})") from exc

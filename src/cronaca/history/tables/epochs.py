"""Epochs: each is one recorder's lease on the plant."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any, Final

import orjson

from cronaca.core.errors import LeaseLost, NotFound
from cronaca.core.groups import WHOLE_PLANT
from cronaca.core.model import SECOND
from cronaca.core.ports import Flush
from cronaca.db.transaction import Transaction

LEASE_S: Final = 5

_COLUMNS: Final = (
    "epoch, holder, state, opened_us, known_until_us, last_seq, reason, report, "
    "lease_until > UTC_TIMESTAMP(6)"
)
_LAST_LOCKED: Final = """
SELECT epoch, state, opened_us, known_until_us, lease_until > UTC_TIMESTAMP(6), reason
FROM recorder_epoch WHERE group_id = %(group_id)s ORDER BY epoch DESC LIMIT 1 FOR UPDATE
"""
_NEXT_LOCKED: Final = "SELECT epoch + 1 FROM recorder_epoch ORDER BY epoch DESC LIMIT 1 FOR UPDATE"
_BEFORE: Final = """
SELECT MAX(b.epoch) FROM recorder_epoch b JOIN recorder_epoch e ON e.group_id = b.group_id
WHERE e.epoch = %(epoch)s AND b.epoch < e.epoch
"""
_CLOSE: Final = """
UPDATE recorder_epoch SET state = 'closed', reason = %(reason)s, known_until_us = %(known_until_us)s
WHERE epoch = %(epoch)s AND state = 'open'
"""
_OPEN: Final = """
INSERT INTO recorder_epoch (epoch, group_id, holder, state, opened_us, known_until_us, last_seq, lease_until)
VALUES (%(epoch)s, %(group_id)s, %(holder)s, 'open', %(now_us)s, %(now_us)s, 0,
        UTC_TIMESTAMP(6) + INTERVAL %(lease_s)s SECOND)
"""
_RENEW: Final = """
UPDATE recorder_epoch SET known_until_us = %(known_until_us)s, last_seq = %(seq)s,
    report = COALESCE(%(report)s, report),
    lease_until = UTC_TIMESTAMP(6) + INTERVAL %(lease_s)s SECOND
WHERE epoch = %(epoch)s AND state = 'open'
"""
_EXTEND: Final = """
UPDATE recorder_epoch SET lease_until = UTC_TIMESTAMP(6) + INTERVAL %(lease_s)s SECOND
WHERE epoch = %(epoch)s AND state = 'open'
"""
_PUT_SOURCE: Final = """
INSERT INTO source_knowledge (epoch, source_id, known_until_us) VALUES (%s, %s, %s)
ON DUPLICATE KEY UPDATE known_until_us = VALUES(known_until_us)
"""
_LIST_SOURCES: Final = "SELECT source_id, known_until_us FROM source_knowledge WHERE epoch = %(epoch)s"
_FORGET_SOURCES: Final = """
DELETE FROM source_knowledge WHERE epoch < %(epoch)s
    AND epoch IN (SELECT epoch FROM recorder_epoch WHERE group_id = %(group_id)s)
"""
_FILLED: Final = (
    "SELECT GREATEST(last_seq, filled_seq) FROM recorder_epoch WHERE epoch = %(epoch)s FOR UPDATE"
)
_PUT_FILLED: Final = "UPDATE recorder_epoch SET filled_seq = %(seq)s WHERE epoch = %(epoch)s"
_OPENED: Final = "SELECT opened_us FROM recorder_epoch WHERE epoch = %(epoch)s"
_PUT_OPENED: Final = """
UPDATE recorder_epoch SET opened_us = %(now_us)s, known_until_us = %(now_us)s,
    lease_until = UTC_TIMESTAMP(6) + INTERVAL %(lease_s)s SECOND
WHERE epoch = %(epoch)s
"""
_ON_THEIR_WAY_US: Final = 5 * SECOND
"""Values that are committed later than this after their time are late, not on their way."""
_KNOWN_UNTIL: Final = "SELECT known_until_us FROM recorder_epoch WHERE epoch = %(epoch)s"
_IS_OPEN: Final = "SELECT 1 FROM recorder_epoch WHERE epoch = %(epoch)s AND state = 'open' FOR UPDATE"
_FIND_LAST: Final = f"SELECT {_COLUMNS} FROM recorder_epoch ORDER BY epoch DESC LIMIT 1"
_FIRST_OPENED: Final = "SELECT MIN(opened_us) FROM recorder_epoch"


@dataclass(frozen=True, slots=True)
class Epoch:
    """One lease; `report` is what the recorder last said of itself."""

    epoch: int
    holder: str
    state: str
    opened_us: int
    known_until_us: int
    last_seq: int
    reason: str
    running: bool
    """True while it is open and its lease, by the clock of the database, has not lapsed."""
    report: dict[str, Any]


@dataclass(frozen=True, slots=True)
class Predecessor:
    """The epoch before a new one, and how it ended."""

    epoch: int
    known_until_us: int
    reason: str


def take_lease(
    tx: Transaction, holder: str, now_us: int, group: int = WHOLE_PLANT
) -> tuple[int, Predecessor | None] | None:
    """Opens a group's next epoch; None while another recorder's lease on it runs. A lapsed one is closed as
    lost."""
    newest = tx.fetch_one(_NEXT_LOCKED)
    last = tx.fetch_one(_LAST_LOCKED, group_id=group)
    predecessor = None
    if last is not None:
        epoch, state, _, known_until_us, running, reason = last
        if state == "open":
            if running:
                return None
            reason = "lost"
            tx.execute(_CLOSE, epoch=epoch, reason=reason, known_until_us=known_until_us)
        predecessor = Predecessor(epoch, known_until_us, reason)
    number = 1 if newest is None else int(newest[0])
    tx.execute(_OPEN, epoch=number, group_id=group, holder=holder, now_us=now_us, lease_s=LEASE_S)
    tx.execute(_FORGET_SOURCES, epoch=number, group_id=group)
    return number, predecessor


def check_lease(tx: Transaction, epoch: int) -> None:
    """Locks the epoch's row; raises LeaseLost when the epoch was closed."""
    if tx.fetch_one(_IS_OPEN, epoch=epoch) is None:
        raise LeaseLost(epoch)


def renew_lease(tx: Transaction, flush: Flush, *, with_report: bool) -> None:
    """Moves the epoch's knowledge and lease on; without a report, the one before stands."""
    tx.execute(
        _RENEW,
        epoch=flush.epoch,
        seq=flush.seq,
        known_until_us=flush.known_until_us,
        report=orjson.dumps(flush.report).decode() if with_report else None,
        lease_s=LEASE_S,
    )


def extend_lease(tx: Transaction, epoch: int) -> None:
    """Keeps the lease while older work is done; knowledge does not move."""
    tx.execute(_EXTEND, epoch=epoch, lease_s=LEASE_S)


def put_sources_known(tx: Transaction, flush: Flush) -> None:
    """Until when the samples of each source are committed."""
    tx.execute_many(_PUT_SOURCE, [(flush.epoch, *pair) for pair in flush.sources_known])


def list_sources_known(tx: Transaction, epoch: int) -> dict[int, int]:
    """Until when the samples of each source are committed in an epoch, in µs."""
    return {int(source_id): int(us) for source_id, us in tx.fetch(_LIST_SOURCES, epoch=epoch)}


def begin_fill(tx: Transaction, epoch: int, seq: int) -> bool:
    """Takes note that a flush of an epoch that is over is filled in; False when it was, or was committed by
    its own recorder: what a recorder has spooled comes in order."""
    row = tx.fetch_one(_FILLED, epoch=epoch)
    if row is not None and seq <= int(row[0]):
        return False
    tx.execute(_PUT_FILLED, epoch=epoch, seq=seq)
    return True


def get_opened(tx: Transaction, epoch: int) -> int:
    """When an epoch was opened, in µs; raises NotFound."""
    row = tx.fetch_one(_OPENED, epoch=epoch)
    if row is None:
        raise NotFound("epoch", str(epoch))
    return int(row[0])


def put_opened(tx: Transaction, epoch: int, now_us: int) -> None:
    """An epoch that holds nothing yet begins now; its lease is renewed."""
    tx.execute(_PUT_OPENED, epoch=epoch, now_us=now_us, lease_s=LEASE_S)


def find_before(tx: Transaction, epoch: int) -> int | None:
    """The epoch of the same group before this one, or None."""
    row = tx.fetch_one(_BEFORE, epoch=epoch)
    return None if row is None or row[0] is None else int(row[0])


def find_known_until(tx: Transaction, epoch: int) -> int | None:
    """Until when an epoch's samples were committed by the time it ended; None: there is no such epoch (the
    database was restored from a back-up since)."""
    row = tx.fetch_one(_KNOWN_UNTIL, epoch=epoch)
    return None if row is None else int(row[0])


def close_epoch(tx: Transaction, epoch: int, known_until_us: int, reason: str) -> None:
    """Ends an epoch on purpose; harmless when it was closed already."""
    tx.execute(_CLOSE, epoch=epoch, reason=reason, known_until_us=known_until_us)


def live_end_us(tx: Transaction, now_us: int) -> int:
    """Where a live window ends: up to which all values are known while they are recorded and no more than a
    moment behind; else now, so that what is missing shows."""
    last = find_last_epoch(tx)
    if last is None or not last.running or not 0 <= now_us - last.known_until_us <= _ON_THEIR_WAY_US:
        return now_us
    return last.known_until_us


def find_last_epoch(tx: Transaction) -> Epoch | None:
    """The newest epoch, or None when nothing was ever recorded."""
    row = tx.fetch_one(_FIND_LAST)
    if row is None:
        return None
    epoch, holder, state, opened_us, known_until_us, last_seq, reason, report, leased = row
    running = state == "open" and bool(leased)
    plain = json.loads(report) if report else {}
    return Epoch(epoch, holder, state, opened_us, known_until_us, last_seq, reason, running, plain)


def find_first_opened(tx: Transaction) -> int | None:
    """When recording began for the first time, in µs."""
    row = tx.fetch_one(_FIRST_OPENED)
    return None if row is None else row[0]

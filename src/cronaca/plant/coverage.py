"""The stretches in which each tag was recorded."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Final

from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import Covered, GapReason, Window
from cronaca.core.topics import Topic
from cronaca.db.transaction import Transaction

_ADD: Final = """
INSERT INTO coverage (archive_id, tag_id, version, start_us, origin, end_us, ended_by)
VALUES (%s, %s, %s, %s, %s, %s, %s)
ON DUPLICATE KEY UPDATE ended_by = IF(end_us IS NULL OR end_us > VALUES(end_us), ended_by, VALUES(ended_by)),
    end_us = IF(end_us IS NULL OR VALUES(end_us) IS NULL, NULL, GREATEST(end_us, VALUES(end_us)))
"""
_END: Final = """
UPDATE coverage SET end_us = GREATEST(start_us, %(end_us)s), ended_by = %(reason)s
WHERE (tag_id, archive_id, version) IN %(keys)s AND end_us IS NULL
"""
_OPEN_BEFORE: Final = """
SELECT archive_id, tag_id, version FROM coverage
WHERE (tag_id, archive_id, version) IN %(keys)s AND end_us IS NULL AND start_us <= %(end_us)s
"""
_END_BEFORE: Final = """
UPDATE coverage SET end_us = %(end_us)s, ended_by = %(reason)s
WHERE (tag_id, archive_id, version) IN %(keys)s AND end_us IS NULL AND start_us <= %(end_us)s
"""
_LIST: Final = """
SELECT archive_id, tag_id, version, start_us, end_us, ended_by FROM coverage
WHERE tag_id IN %(tag_ids)s ORDER BY start_us
"""
_REMOVED: Final = "SELECT archive_id, removed_until_us FROM archive"
IMPORTED: Final = GapReason.NOT_RECORDED


def begin(tx: Transaction, keys: Iterable[HistoryKey], start_us: int) -> None:
    """A logger records these from now on."""
    tx.changes(Topic.COVERAGE)
    tx.execute_many(_ADD, [(k.archive_id, k.tag_id, k.version, start_us, "logger", None, "") for k in keys])


def end(tx: Transaction, keys: Iterable[HistoryKey], end_us: int, reason: GapReason) -> None:
    """No logger records these any more, and why. One statement, however many they are."""
    tx.changes(Topic.COVERAGE)
    chosen = [(k.tag_id, k.archive_id, k.version) for k in keys]
    if chosen:
        tx.execute(_END, keys=chosen, end_us=end_us, reason=reason.value)


def end_late(
    tx: Transaction, keys: Iterable[HistoryKey], end_us: int, reason: GapReason, again_us: int
) -> None:
    """What an earlier recorder says of the end of recording, told after the present one began at `again_us`:
    a stretch that the present one records on is parted, never closed."""
    tx.changes(Topic.COVERAGE)
    chosen = [(k.tag_id, k.archive_id, k.version) for k in keys]
    if not chosen:
        return
    parted = [HistoryKey(*row) for row in tx.fetch(_OPEN_BEFORE, keys=chosen, end_us=end_us)]
    tx.execute(_END_BEFORE, keys=chosen, end_us=end_us, reason=reason.value)
    if again_us > end_us:
        begin(tx, parted, again_us)


def add(tx: Transaction, windows: Iterable[tuple[HistoryKey, Window]]) -> None:
    """History of these stretches was brought in otherwise."""
    tx.changes(Topic.COVERAGE)
    rows = [
        (k.archive_id, k.tag_id, k.version, w.start_us, "imported", w.end_us, IMPORTED.value)
        for k, w in windows
    ]
    tx.execute_many(_ADD, rows)


def list_removed(tx: Transaction) -> dict[int, int]:
    """Of each archive in which retention has deleted samples, the time before which they lay."""
    return dict(tx.fetch(_REMOVED))


def list_coverage(tx: Transaction, keys: Sequence[HistoryKey]) -> dict[HistoryKey, list[Covered]]:
    """The stretches of some histories, as they were written: they may overlap."""
    by_key: dict[HistoryKey, list[Covered]] = {key: [] for key in keys}
    rows = tx.fetch(_LIST, tag_ids=sorted({key.tag_id for key in keys})) if keys else []
    for archive_id, tag_id, version, start_us, end_us, reason in rows:
        key = HistoryKey(archive_id, tag_id, version)
        if key in by_key:
            by_key[key].append(Covered(start_us, end_us, GapReason(reason) if reason else IMPORTED))
    return by_key

"""Gaps on record: stretches in which nothing could be kept, and why."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from cronaca.core.codec.batch import HistoryKey
from cronaca.core.groups import WHOLE_PLANT
from cronaca.core.model import Gap, GapReason, Window
from cronaca.core.topics import Topic
from cronaca.db.transaction import Transaction
from cronaca.history.tables import months

_ADD: Final = "INSERT INTO gap (group_id, start_us, end_us, reason, detail) VALUES (%s, %s, %s, %s, %s)"
_ADD_SCOPED: Final = """
INSERT INTO gap (start_us, end_us, reason, detail, scoped)
VALUES (%(start_us)s, %(end_us)s, %(reason)s, %(detail)s, TRUE)
"""
_ADD_HISTORY: Final = (
    "INSERT IGNORE INTO gap_history (archive_id, tag_id, version, gap_id) VALUES (%s, %s, %s, %s)"
)
_LIST: Final = """
SELECT start_us, end_us, reason, detail FROM gap
WHERE NOT scoped AND end_us > %(start_us)s AND start_us < %(end_us)s ORDER BY start_us, gap_id
"""
_LIST_SCOPED: Final = """
SELECT h.archive_id, h.tag_id, h.version, g.start_us, g.end_us, g.reason, g.detail
FROM gap g JOIN gap_history h ON h.gap_id = g.gap_id
WHERE g.scoped AND g.end_us > %(start_us)s AND g.start_us < %(end_us)s AND h.tag_id IN %(tag_ids)s
ORDER BY g.start_us, g.gap_id
"""
_LIST_ALL: Final = """
SELECT g.start_us, g.end_us, g.reason, g.detail, g.scoped, COUNT(h.gap_id), MIN(t.name)
FROM gap g LEFT JOIN gap_history h ON h.gap_id = g.gap_id LEFT JOIN tag t ON t.tag_id = h.tag_id
WHERE g.end_us > %(start_us)s AND g.start_us < %(end_us)s
GROUP BY g.gap_id ORDER BY g.start_us DESC, g.gap_id DESC LIMIT %(most)s
"""

_AFTER_RECORDER: Final = """
SELECT gap_id, start_us, end_us, reason, detail FROM gap
WHERE NOT scoped AND group_id = %(group_id)s AND start_us >= %(after_us)s AND start_us < %(until_us)s
    AND reason IN ('recorder_down', 'recorder_stopped', 'clock_step') ORDER BY start_us, gap_id
"""
_EXTEND: Final = """
UPDATE gap SET end_us = %(end_us)s
WHERE NOT scoped AND group_id = %(group_id)s AND end_us = %(opened_us)s
    AND reason IN ('recorder_down', 'recorder_stopped', 'clock_step')
"""
_REMOVE: Final = "DELETE FROM gap WHERE gap_id = %(gap_id)s"


@dataclass(frozen=True, slots=True)
class ListedGap:
    """A gap for people: how many tags have it (0: all) and the name of one of them."""

    gap: Gap
    tags: int
    tag_name: str


def add_gaps(tx: Transaction, gaps: Sequence[Gap], group: int = WHOLE_PLANT) -> None:
    """Puts ended gaps on record; those without histories are of all that a group's recorder records."""
    whole = [gap for gap in gaps if not gap.histories]
    if whole:
        tx.changes(Topic.COVERAGE)
    tx.execute_many(_ADD, [(group, g.start_us, g.end_us, g.reason.value, g.detail[:500]) for g in whole])
    for gap in gaps:
        if gap.histories:
            add_scoped(tx, gap)


def add_scoped(tx: Transaction, gap: Gap) -> int:
    """Puts a gap of single histories on record; returns its number."""
    tx.changes(Topic.COVERAGE)
    number = tx.insert(
        _ADD_SCOPED, start_us=gap.start_us, end_us=gap.end_us, reason=gap.reason.value,
        detail=gap.detail[:500],
    )  # fmt: skip
    tx.execute_many(_ADD_HISTORY, [(*history, number) for history in gap.histories])
    if gap.end_us is not None and gap.end_us > gap.start_us:
        window = Window(gap.start_us, gap.end_us)
        months.unbuild_days(tx, window, sorted({tag_id for _, tag_id, _ in gap.histories}))
    return number


def list_gaps(tx: Transaction, window: Window) -> list[Gap]:
    """The gaps of all histories that touch the window, in order of time."""
    rows = tx.fetch(_LIST, start_us=window.start_us, end_us=window.end_us)
    return [Gap(start, end, GapReason(reason), detail) for start, end, reason, detail in rows]


def list_scoped(tx: Transaction, window: Window, keys: Sequence[HistoryKey]) -> dict[HistoryKey, list[Gap]]:
    """The gaps of some histories alone that touch the window, in order of time."""
    chosen = set(keys)
    by_key: dict[HistoryKey, list[Gap]] = defaultdict(list)
    if not chosen:
        return by_key
    rows = tx.fetch(
        _LIST_SCOPED, start_us=window.start_us, end_us=window.end_us,
        tag_ids=sorted({key.tag_id for key in keys}),
    )  # fmt: skip
    for archive_id, tag_id, version, start, end, reason, detail in rows:
        key = HistoryKey(archive_id, tag_id, version)
        if key in chosen:
            by_key[key].append(Gap(start, end, GapReason(reason), detail, (key,)))
    return by_key


def list_newest(tx: Transaction, window: Window, most: int) -> list[ListedGap]:
    """The newest gaps of any scope that touch the window, newest first."""
    rows = tx.fetch(_LIST_ALL, start_us=window.start_us, end_us=window.end_us, most=most)
    return [
        ListedGap(Gap(start, end, GapReason(reason), detail), int(tags) if scoped else 0, name or "")
        for start, end, reason, detail, scoped, tags, name in rows
    ]


def list_after_recorder(
    tx: Transaction, after_us: int, until_us: int, group: int = WHOLE_PLANT
) -> list[tuple[int, Gap]]:
    """The gaps without a recorder of the group that lie in a stretch, with their numbers."""
    rows = tx.fetch(_AFTER_RECORDER, after_us=after_us, until_us=until_us, group_id=group)
    return [(number, Gap(start, end, GapReason(reason), text)) for number, start, end, reason, text in rows]


def extend_until_recorder(tx: Transaction, opened_us: int, end_us: int, group: int = WHOLE_PLANT) -> None:
    """The gap without a recorder that ends where one was given its lease lasts until that one records."""
    tx.changes(Topic.COVERAGE)
    tx.execute(_EXTEND, opened_us=opened_us, end_us=end_us, group_id=group)


def cut(tx: Transaction, gap_id: int, gap: Gap, window: Window, group: int = WHOLE_PLANT) -> None:
    """Takes a stretch that lies inside of a gap out of it: what is left before and behind stays a gap."""
    tx.changes(Topic.COVERAGE)
    end_us = window.end_us if gap.end_us is None else gap.end_us
    tx.execute(_REMOVE, gap_id=gap_id)
    left = Gap(gap.start_us, window.start_us, gap.reason, gap.detail)
    right = Gap(window.end_us, end_us, gap.reason, gap.detail)
    add_gaps(tx, [part for part in (left, right) if part.start_us < (part.end_us or 0)], group)

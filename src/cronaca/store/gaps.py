"""Gaps on record: stretches in which nothing could be kept, and why."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from cronaca.core.model import Gap, GapReason, Window
from cronaca.store.transaction import Transaction

_ADD: Final = "INSERT INTO gap (start_us, end_us, reason, detail) VALUES (%s, %s, %s, %s)"
_LIST: Final = """
SELECT start_us, end_us, reason, detail FROM gap
WHERE end_us > %(start_us)s AND start_us < %(end_us)s ORDER BY start_us, gap_id
"""

_AFTER_RECORDER: Final = """
SELECT gap_id, start_us, end_us, reason, detail FROM gap
WHERE start_us >= %(after_us)s AND start_us < %(until_us)s
    AND reason IN ('recorder_down', 'recorder_stopped', 'clock_step') ORDER BY start_us, gap_id
"""
_SHORTEN: Final = "UPDATE gap SET start_us = %(start_us)s WHERE gap_id = %(gap_id)s"
_REMOVE_EMPTY: Final = "DELETE FROM gap WHERE gap_id = %(gap_id)s AND start_us >= end_us"


def add_gaps(tx: Transaction, gaps: Sequence[Gap]) -> None:
    """Puts ended gaps on record."""
    tx.execute_many(_ADD, [(g.start_us, g.end_us, g.reason.value, g.detail[:500]) for g in gaps])


def list_gaps(tx: Transaction, window: Window) -> list[Gap]:
    """The gaps that touch the window, in order of time."""
    rows = tx.fetch(_LIST, start_us=window.start_us, end_us=window.end_us)
    return [Gap(start, end, GapReason(reason), detail) for start, end, reason, detail in rows]


def list_after_recorder(tx: Transaction, after_us: int, until_us: int) -> list[tuple[int, Gap]]:
    """The gaps without a recorder that begin in a stretch, with their numbers."""
    rows = tx.fetch(_AFTER_RECORDER, after_us=after_us, until_us=until_us)
    return [(number, Gap(start, end, GapReason(reason), text)) for number, start, end, reason, text in rows]


def shorten(tx: Transaction, gap_id: int, start_us: int) -> None:
    """Lets a gap begin later; removes it when nothing is left."""
    tx.execute(_SHORTEN, gap_id=gap_id, start_us=start_us)
    tx.execute(_REMOVE_EMPTY, gap_id=gap_id)

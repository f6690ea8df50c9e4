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


def add_gaps(tx: Transaction, gaps: Sequence[Gap]) -> None:
    """Puts ended gaps on record."""
    tx.execute_many(_ADD, [(g.start_us, g.end_us, g.reason.value, g.detail[:500]) for g in gaps])


def list_gaps(tx: Transaction, window: Window) -> list[Gap]:
    """The gaps that touch the window, in order of time."""
    rows = tx.fetch(_LIST, start_us=window.start_us, end_us=window.end_us)
    return [Gap(start, end, GapReason(reason), detail) for start, end, reason, detail in rows]

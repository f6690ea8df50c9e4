"""How the recorder did in each minute of the last hours: samples, late scans, and how far it was behind."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from cronaca.core.groups import WHOLE_PLANT
from cronaca.core.model import MINUTE, Window
from cronaca.db.transaction import Transaction

_KEPT: Final = 180
"""Minutes; the page shows sixty."""
_ADD: Final = """
INSERT INTO recorder_minute (group_id, minute, samples, late_scans, behind_us)
VALUES (%(group_id)s, %(minute)s, %(samples)s, %(late_scans)s, %(behind_us)s)
ON DUPLICATE KEY UPDATE
    samples = samples + VALUES(samples), late_scans = late_scans + VALUES(late_scans),
    behind_us = GREATEST(behind_us, VALUES(behind_us))
"""
_PRUNE: Final = "DELETE FROM recorder_minute WHERE group_id = %(group_id)s AND minute < %(minute)s"
_LIST: Final = """
SELECT minute, SUM(samples), SUM(late_scans), MAX(behind_us) FROM recorder_minute
WHERE minute >= %(first)s AND minute < %(after)s GROUP BY minute ORDER BY minute
"""


@dataclass(frozen=True, slots=True)
class RecorderMinute:
    """What was committed in a minute, how many scans were late, and the longest that what is known lay behind
    the clock."""

    start_us: int
    samples: int
    late_scans: int
    behind_us: int


def add(tx: Transaction, part: RecorderMinute, group: int = WHOLE_PLANT) -> None:
    """Adds what one flush brings to its minute, and forgets what is long over."""
    minute = part.start_us // MINUTE
    tx.execute(
        _ADD, group_id=group, minute=minute, samples=part.samples, late_scans=part.late_scans,
        behind_us=part.behind_us,
    )  # fmt: skip
    tx.execute(_PRUNE, group_id=group, minute=minute - _KEPT)


def list_minutes(tx: Transaction, window: Window) -> list[RecorderMinute]:
    """The minutes that begin in a window, of all groups together; those without a recorder are missing."""
    rows = tx.fetch(_LIST, first=-(-window.start_us // MINUTE), after=-(-window.end_us // MINUTE))
    return [
        RecorderMinute(int(minute) * MINUTE, int(samples), int(late), int(behind))
        for minute, samples, late, behind in rows
    ]

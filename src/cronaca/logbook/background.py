"""What processes in the background say of themselves: that they are at work, or what keeps failing."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from cronaca.db.pool import Store
from cronaca.db.transaction import Transaction

_SAY: Final = """
INSERT INTO background_state (role, holder, seen_at, failing, detail)
VALUES (%s, %s, UTC_TIMESTAMP(6), %s, %s)
ON DUPLICATE KEY UPDATE seen_at = UTC_TIMESTAMP(6), failing = VALUES(failing), detail = VALUES(detail)
"""
_FORGET: Final = "DELETE FROM background_state WHERE seen_at < UTC_TIMESTAMP(6) - INTERVAL 1 DAY"
_LIST: Final = """
SELECT role, holder, TIMESTAMPDIFF(MICROSECOND, seen_at, UTC_TIMESTAMP(6)) / 1000000, failing, detail
FROM background_state ORDER BY role, seen_at DESC
"""
_LONGEST: Final = 1000


@dataclass(frozen=True, slots=True)
class BackgroundState:
    """What one process or task said last: how long ago in s, whether its work fails, and why."""

    role: str
    holder: str
    age_s: float
    failing: bool
    detail: str


class StoreBackground:
    """A core.ports.Background on a store."""

    def __init__(self, store: Store, role: str, holder: str) -> None:
        self._store = store
        self._role = role
        self._holder = holder

    def say(self, *, failing: bool, detail: str = "") -> None:
        """Puts on record how the work goes. Raises StoreError."""
        row = (self._role, self._holder[:200], failing, detail[:_LONGEST])

        def work(tx: Transaction) -> None:
            tx.execute(_FORGET)
            tx.execute_many(_SAY, [row])

        self._store.run(work)


def list_states(tx: Transaction) -> list[BackgroundState]:
    """All of the last day, the newest of each role first."""
    return [
        BackgroundState(role, holder, float(age_s), bool(failing), detail)
        for role, holder, age_s, failing, detail in tx.fetch(_LIST)
    ]

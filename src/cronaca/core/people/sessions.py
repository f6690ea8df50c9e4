"""How long a sign-in holds."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from cronaca.core.model import HOUR, MINUTE

_TOLERANCE_US: Final = 2 * MINUTE
"""By which the clocks of two servers may differ."""


@dataclass(frozen=True, slots=True)
class SessionLimits:
    """A session ends so long after it was last used, and so long after its start (OWASP ASVS 4, chapter 3,
    has both, from memory; the times are ours)."""

    idle_us: int = 12 * HOUR
    absolute_us: int = 7 * 24 * HOUR


@dataclass(frozen=True, slots=True)
class SessionTimes:
    """When a session began and was last used, UTC µs."""

    created_us: int
    seen_us: int

    def holds(self, now_us: int, limits: SessionLimits) -> bool:
        """Whether it is valid. A clock that was set back does not prolong it: before its last use it does not
        hold either."""
        if now_us < self.seen_us - _TOLERANCE_US:
            return False
        return now_us < self.seen_us + limits.idle_us and now_us < self.created_us + limits.absolute_us

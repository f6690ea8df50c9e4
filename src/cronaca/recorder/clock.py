"""The recorder's clock: wall time anchored to the monotonic clock, so that it never jumps unnoticed."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Final

STEP_US: Final = 1_000_000
"""A difference between wall clock and recorder beyond this is a step; below it the clock is slewed."""
_SLEW: Final = 0.05
"""Share of a small difference that is taken up at each check."""


class AnchoredClock:
    """UTC now in µs; a core.ports.Clock."""

    def __init__(
        self,
        wall_ns: Callable[[], int] = time.time_ns,
        monotonic_ns: Callable[[], int] = time.monotonic_ns,
    ) -> None:
        self._wall_ns = wall_ns
        self._monotonic_ns = monotonic_ns
        # One attribute: another thread must never see a step without its count.
        self._state = (wall_ns() - monotonic_ns(), 0)

    def now_us(self) -> int:
        """UTC now."""
        return self.now_and_steps()[0]

    def now_and_steps(self) -> tuple[int, int]:
        """UTC now, and how often the clock was set until then."""
        offset_ns, steps = self._state
        return (self._monotonic_ns() + offset_ns) // 1000, steps

    def follow_wall(self) -> int:
        """Follows the wall clock: small differences slowly, a step at once. Returns the step in µs, or 0."""
        offset_ns, steps = self._state
        behind_ns = self._wall_ns() - self._monotonic_ns() - offset_ns
        if abs(behind_ns) > STEP_US * 1000:
            self._state = (offset_ns + behind_ns, steps + 1)
            return behind_ns // 1000
        self._state = (offset_ns + int(behind_ns * _SLEW), steps)
        return 0

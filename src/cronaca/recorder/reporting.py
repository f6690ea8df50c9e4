"""Helps with what the recorder says of itself: figures that are made now and then."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Final, Generic, TypeVar

_REPORT_S: Final = 0.9
_RATE_S: Final = 2.0
"""Rates of loggers are taken over at least so long."""
T = TypeVar("T")


class Rates:
    """Samples a second by logger, from counts that only grow."""

    def __init__(self) -> None:
        self._since = time.monotonic()
        self._counts: dict[int, int] = {}
        self._rates: dict[int, float] = {}

    def of(self, counts: dict[int, int]) -> dict[int, float]:
        """By logger, of the newest counts."""
        now = time.monotonic()
        if now - self._since >= _RATE_S:
            length = now - self._since
            self._rates = {n: (kept - self._counts.get(n, kept)) / length for n, kept in counts.items()}
            self._counts, self._since = dict(counts), now
        return self._rates


class NowAndThen(Generic[T]):
    """Something made at most once in a second or so, however often it is asked for."""

    def __init__(self, make: Callable[[], T]) -> None:
        self._make = make
        self._kept: tuple[float, T] | None = None

    def get(self) -> T:
        """The one made last, or a new one."""
        now, kept = time.monotonic(), self._kept
        if kept is None or now - kept[0] >= _REPORT_S:
            self._kept = kept = now, self._make()
        return kept[1]

    def forget(self) -> None:
        """It has changed: the next one who asks gets a new one."""
        self._kept = None

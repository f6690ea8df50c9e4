"""What was found for a token a moment ago, so that not each request asks the database."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final, Generic, TypeVar

from cronaca.core.errors import StoreUnavailable

T = TypeVar("T")
KNOWN_S: Final = 1.0
"""So long it is taken from memory: what is ended elsewhere is over here after this."""
AWAY_S: Final = 900.0
"""So long it holds while the database is away."""
_MOST: Final = 10_000


@dataclass(frozen=True, slots=True)
class _Known(Generic[T]):
    found: T | None
    asked_at: float


class Recalled(Generic[T]):
    """What tokens stand for, for a moment."""

    def __init__(self) -> None:
        self._known: dict[str, _Known[T]] = {}
        self._lock = threading.Lock()

    def known(self, token: str) -> tuple[bool, T | None]:
        """Whether it is known from a moment ago, and what."""
        known = self._known.get(token)
        if known is None or time.monotonic() > known.asked_at + KNOWN_S:
            return False, None
        return True, known.found

    def find(self, token: str, ask: Callable[[], T | None]) -> T | None:
        """What is known, or what `ask` finds. While the database is away what was known before; raises
        StoreUnavailable where nothing was."""
        is_known, found = self.known(token)
        if is_known:
            return found
        asked_at = time.monotonic()
        try:
            found = ask()
        except StoreUnavailable:
            known = self._known.get(token)
            if known is None or asked_at > known.asked_at + AWAY_S:
                raise
            return known.found
        with self._lock:
            if len(self._known) >= _MOST:
                self._known.clear()
            self._known[token] = _Known(found, asked_at)
        return found

    def forget(self, token: str) -> None:
        """It has changed: it is asked for anew."""
        with self._lock:
            self._known.pop(token, None)

    def forget_all(self) -> None:
        """All of it is asked for anew."""
        with self._lock:
            self._known.clear()

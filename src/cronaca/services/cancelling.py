"""Whether the one who asked for the work under way is still there."""

from __future__ import annotations

import threading
from contextvars import ContextVar
from typing import Final

from cronaca.core.errors import Cancelled

_GONE: Final[ContextVar[threading.Event | None]] = ContextVar("gone", default=None)


def watch(gone: threading.Event) -> None:
    """From here on, work of this request (in threads that it starts too) ends when the event is set."""
    _GONE.set(gone)


def go_on() -> None:
    """Called between the steps of long work; raises Cancelled when the client has left."""
    gone = _GONE.get()
    if gone is not None and gone.is_set():
        raise Cancelled("The client has left.")

"""Long work that tells how far it is: one JSON object a line (NDJSON).

`{"done": 120, "of": 500}` while it lasts, at the end `{"result": ...}` or `{"problem": {...}}` (RFC 9457). A
client that goes away ends the work; nothing is written then.
"""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable, Iterator
from typing import Any, Final

import orjson
from fastapi.responses import StreamingResponse

from cronaca.api.errors import body_of
from cronaca.core.errors import CronacaError

MEDIA_TYPE: Final = "application/x-ndjson"
Line = dict[str, Any]
Tell = Callable[[int, int], None]
Work = Callable[[Tell], Line]


class _Cancelled(Exception):
    """The client went away."""


class _Stream:
    def __init__(self, work: Work) -> None:
        self._work = work
        self._lines: queue.Queue[Line | CronacaError | None] = queue.Queue()
        self._cancelled = threading.Event()
        self._thread = threading.Thread(target=self._run, daemon=True)
        self._thread.start()

    def first(self) -> Line:
        """The first line; what is refused before it is raised."""
        line = self._lines.get()
        if isinstance(line, CronacaError):
            raise line
        return line or {}

    def rest(self, first: Line) -> Iterator[bytes]:
        """All lines as they come."""
        try:
            line: Line | CronacaError | None = first
            while line is not None:
                shown = {"problem": body_of(line)} if isinstance(line, CronacaError) else line
                yield orjson.dumps(shown) + b"\n"
                line = self._lines.get()
        finally:
            self._cancelled.set()

    def _run(self) -> None:
        try:
            self._lines.put({"result": self._work(self._tell)})
        except _Cancelled:
            pass
        except CronacaError as exc:
            self._lines.put(exc)
        except Exception as exc:
            self._lines.put(CronacaError(f"{type(exc).__name__}: {exc}"))
            raise
        finally:
            self._lines.put(None)

    def _tell(self, done: int, of: int) -> None:
        if self._cancelled.is_set():
            raise _Cancelled
        self._lines.put({"done": done, "of": of})


def stream(work: Work) -> StreamingResponse:
    """The work's progress and result; raises what is refused before there is any progress."""
    streaming = _Stream(work)
    return StreamingResponse(streaming.rest(streaming.first()), media_type=MEDIA_TYPE)

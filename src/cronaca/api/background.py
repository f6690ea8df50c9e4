"""Tasks of the server that run beside the requests: one that fails is begun anew, and health tells of it."""

from __future__ import annotations

import asyncio
import contextlib
import logging
from collections.abc import Awaitable, Callable
from typing import Final

FIRST_PAUSE_S: Final = 0.5
LONGEST_PAUSE_S: Final = 15.0
_STEADY_S: Final = 60.0
_log = logging.getLogger(__name__)
Work = Callable[[], Awaitable[None]]


class Background:
    """Named tasks that are to run as long as the server does."""

    def __init__(self) -> None:
        self._tasks: dict[str, asyncio.Task[None]] = {}
        self.failures: dict[str, str] = {}
        """Why a task is not running at present, or was begun anew a moment ago; by its name."""

    def start(self, name: str, work: Work) -> None:
        """Begins a task."""
        self._tasks[name] = asyncio.create_task(self._keep(name, work), name=name)

    async def stop(self) -> None:
        """Ends all tasks."""
        for task in self._tasks.values():
            task.cancel()
        for task in self._tasks.values():
            with contextlib.suppress(asyncio.CancelledError):
                await task

    @property
    def names(self) -> tuple[str, ...]:
        """The tasks there are."""
        return tuple(self._tasks)

    async def _keep(self, name: str, work: Work) -> None:
        pause, loop = FIRST_PAUSE_S, asyncio.get_running_loop()
        while True:
            begun = loop.time()
            try:
                await work()
                why = "it ended without being told to"
            except Exception as exc:  # noqa: BLE001 - kept where it happened, and said
                _log.exception("The task %s failed; it is begun anew", name)
                why = f"{type(exc).__name__}: {exc}"
            self.failures[name] = f"The task {name} failed and is being restarted: {why}"[:300]
            if loop.time() - begun > _STEADY_S:
                pause = FIRST_PAUSE_S
            await asyncio.sleep(pause)
            pause = min(2 * pause, LONGEST_PAUSE_S)
            loop.call_later(_STEADY_S, self.failures.pop, name, None)

"""The jobs of the worker: each queue has a thread of its own beside the loop."""

from __future__ import annotations

import logging
import threading
from collections.abc import Mapping, Sequence
from typing import Final

from cronaca.core.errors import StoreUnavailable
from cronaca.core.ports import Background, JobQueue

LOOK_S: Final = 1.0
"""So often a queue is looked at."""
_AGAIN_S: Final = 5.0
_log = logging.getLogger(__name__)


class JobThreads:
    """Works off queues until it is stopped. Whatever fails is said, and tried again."""

    def __init__(self, queues: Sequence[JobQueue], stop: threading.Event, look_s: float = LOOK_S) -> None:
        self._stop = stop
        self._look_s = look_s
        self._failures: dict[str, str] = {}
        self._queues = queues
        self._threads = [
            threading.Thread(target=self._run, args=(queue,), name=f"jobs {queue.name}") for queue in queues
        ]

    def start(self) -> None:
        """Begins."""
        for thread in self._threads:
            thread.start()

    def join(self) -> None:
        """Waits until all have ended, after `stop` was set."""
        for thread in self._threads:
            thread.join()

    def failures(self) -> Mapping[str, str]:
        """What fails at present."""
        failing = dict(self._failures)
        for queue, thread in zip(self._queues, self._threads, strict=True):
            failing |= queue.failures
            if not thread.is_alive() and not self._stop.is_set():
                failing[queue.name] = f"Jobs of {queue.name} are not worked on: their thread has ended."
        return failing

    def _run(self, queue: JobQueue) -> None:
        while not self._stop.is_set():
            pause_s = self._look_s
            try:
                if queue.run_next():
                    pause_s = 0
            except StoreUnavailable as exc:
                _log.warning("Jobs of %s wait: %s", queue.name, exc)
            except Exception as exc:  # noqa: BLE001 - said in health with its cause, and tried again
                if self._stop.is_set():
                    return
                _log.exception("Working on jobs of %s fails", queue.name)
                self._failures[queue.name] = f"Working on jobs fails: {type(exc).__name__}: {exc}"
                pause_s = _AGAIN_S
            else:
                self._failures.pop(queue.name, None)
            self._stop.wait(pause_s)


class WithJobs:
    """A Background that tells of jobs too."""

    def __init__(self, background: Background, jobs: JobThreads) -> None:
        self._background = background
        self._jobs = jobs

    def say(self, *, failing: bool, detail: str = "") -> None:
        """Puts on record how the work goes. Raises StoreError."""
        failures = self._jobs.failures()
        details = " ".join(text for text in (detail, *failures.values()) if text)
        self._background.say(failing=failing or bool(failures), detail=details)

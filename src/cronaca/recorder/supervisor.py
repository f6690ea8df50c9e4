"""Keeps child processes running: restart with capped backoff, end in order, never outlive the parent."""

from __future__ import annotations

import logging
import os
import signal
import subprocess
import threading
import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Final

FIRST_PAUSE_S: Final = 0.5
LONGEST_PAUSE_S: Final = 15.0
_STEADY_S: Final = 30.0
"""A child that lived this long starts its backoff anew."""
_STOP_S: Final = 15.0
_log = logging.getLogger(__name__)


@dataclass(slots=True)
class Child:
    """One process to keep running."""

    name: str
    command: Sequence[str]
    process: subprocess.Popen[bytes] | None = None
    started: float = 0.0
    pause: float = FIRST_PAUSE_S
    restart_at: float = 0.0
    restarts: int = field(default=0)


class Supervisor:
    """Starts children in order, watches them, ends them in the reverse order."""

    def __init__(self, commands: Mapping[str, Sequence[str]], env: Mapping[str, str]) -> None:
        self._children = [Child(name, command) for name, command in commands.items()]
        self._env = {**os.environ, **env}

    def start(self) -> None:
        """Starts every child."""
        for child in self._children:
            self._spawn(child)

    def watch(self, stop: threading.Event, period_s: float = 0.2) -> None:
        """Restarts children that end, until `stop` is set."""
        while not stop.wait(period_s):
            for child in self._children:
                self._look_after(child, time.monotonic())

    def stop(self) -> None:
        """Ends all children, last started first."""
        for child in reversed(self._children):
            _end(child)

    def pid_of(self, name: str) -> int | None:
        """The process id of a running child."""
        found = next(child for child in self._children if child.name == name)
        return found.process.pid if found.process is not None and found.process.poll() is None else None

    def _spawn(self, child: Child) -> None:
        # setpriv asks the kernel to end the child when this process dies, by kill -9 too.
        command = ["setpriv", "--pdeathsig", "TERM", *child.command]
        child.process = subprocess.Popen(command, env=self._env, start_new_session=True)  # noqa: S603
        child.started = time.monotonic()

    def _look_after(self, child: Child, now: float) -> None:
        if child.process is not None and child.process.poll() is not None:
            if now - child.started > _STEADY_S:
                child.pause = FIRST_PAUSE_S
            _log.warning("%s ended (%s); again in %.1f s", child.name, child.process.returncode, child.pause)
            child.process, child.restart_at = None, now + child.pause
            child.pause = min(2 * child.pause, LONGEST_PAUSE_S)
            child.restarts += 1
        elif child.process is None and now >= child.restart_at:
            self._spawn(child)


def _end(child: Child) -> None:
    if child.process is None or child.process.poll() is not None:
        return
    child.process.send_signal(signal.SIGTERM)
    try:
        child.process.wait(_STOP_S)
    except subprocess.TimeoutExpired:
        _log.warning("%s does not end; it is killed", child.name)
        child.process.kill()
        child.process.wait()

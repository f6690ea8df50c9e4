"""Keeps child processes running: restart with capped backoff, end in order, never outlive the parent.

A child may be told a file that it has to touch now and then: one that hangs, and so falls silent, is killed
and started again."""

from __future__ import annotations

import logging
import os
import signal
import subprocess
import threading
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Final

FIRST_PAUSE_S: Final = 0.5
LONGEST_PAUSE_S: Final = 15.0
_STEADY_S: Final = 30.0
"""A child that lived this long starts its backoff anew."""
_STOP_S: Final = 15.0
BEAT_S: Final = 1.0
HEARTBEAT: Final = "CRONACA_HEARTBEAT"
"""Setting that names the file which a child has to touch."""
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
    most_silent_s: float = 0.0
    """How long it may be silent; 0: nobody listens."""
    heartbeat: Path | None = None
    beat_ns: int = 0
    heard: float = 0.0
    """When another time stood in its file, by the monotonic clock: the wall clock may be set."""


class Supervisor:
    """Starts children in order, watches them, ends them in the reverse order."""

    def __init__(
        self, commands: Mapping[str, Sequence[str]], env: Mapping[str, str],
        most_silent_s: Mapping[str, float] | None = None, folder: Path | None = None,
    ) -> None:  # fmt: skip
        """`most_silent_s`: of children that have to give signs of life, how long they may be silent;
        `folder`: where the files for that lie."""
        silent = most_silent_s or {}
        self._children = [
            Child(name, command, most_silent_s=silent.get(name, 0.0)) for name, command in commands.items()
        ]
        self._env = {**os.environ, **env}
        if folder is not None:
            folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            for child in self._children:
                child.heartbeat = folder / f"{child.name}.alive" if child.most_silent_s else None

    def start(self, *names: str) -> None:
        """Starts these children, or every one that was not started yet."""
        for child in self._children:
            if child.process is None and (not names or child.name in names):
                self._spawn(child)

    def watch(
        self, stop: threading.Event, period_s: float = 0.2, until: Callable[[], bool] = lambda: False
    ) -> None:
        """Restarts children that end, until `stop` is set or a condition holds."""
        while not until() and not stop.wait(period_s):
            for child in self._children:
                if child.started:
                    self._look_after(child, time.monotonic())

    def stop(self) -> None:
        """Ends all children, last started first."""
        for child in reversed(self._children):
            _end(child)

    def pid_of(self, name: str) -> int | None:
        """The process id of a running child."""
        match = next(child for child in self._children if child.name == name)
        return match.process.pid if match.process is not None and match.process.poll() is None else None

    def _spawn(self, child: Child) -> None:
        # setpriv asks the kernel to end the child when this process dies, by kill -9 too.
        command = ["setpriv", "--pdeathsig", "TERM", *child.command]
        env = self._env if child.heartbeat is None else {**self._env, HEARTBEAT: str(child.heartbeat)}
        child.process = subprocess.Popen(command, env=env, start_new_session=True)  # noqa: S603
        child.started = child.heard = time.monotonic()

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
        elif child.process is not None and child.heartbeat is not None:
            _listen(child, child.heartbeat, now)
            if now - child.heard > child.most_silent_s:
                _log.error("%s has been silent for %.0f s; it is killed", child.name, child.most_silent_s)
                child.process.kill()
                child.heard = now


def _listen(child: Child, path: Path, now: float) -> None:
    try:
        beat_ns = path.stat().st_mtime_ns
    except FileNotFoundError:
        return
    if beat_ns != child.beat_ns:
        child.beat_ns, child.heard = beat_ns, now


class Heartbeat:
    """The other end: a process that is listened to says that it lives."""

    def __init__(self, path: Path | None) -> None:
        """Without a path nobody listens."""
        self._path = path
        self._next = 0.0

    def beat(self) -> None:
        """Gives a sign of life, at most once a second. Never raises: a full disk must not end the process."""
        now = time.monotonic()
        if self._path is None or now < self._next:
            return
        self._next = now + BEAT_S
        try:
            self._path.touch()
        except OSError as exc:
            _log.warning("No sign of life can be given: %s", exc)


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

"""Doing the jobs of one queue: claimed, worked on with signs of life, ended with what came of them."""

from __future__ import annotations

import logging
import tempfile
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final

from cronaca.core.access import Permission
from cronaca.core.errors import Cancelled, CronacaError, NotPermitted, StoreError
from cronaca.core.jobs import JobState, Queue
from cronaca.core.model import DAY
from cronaca.db import Store
from cronaca.logbook import jobs
from cronaca.logbook.jobs import ClaimedJob, Ending
from cronaca.services.jobs.specs import JobSpec, from_text

_SAY_S: Final = 0.5
"""So often at most a job says how far it is."""
KEEP_US: Final = 7 * DAY
"""So long a person's job and its file are kept after its end."""
_CLEAR_S: Final = 20.0
_SAID_S: Final = 3600.0
"""So long a failed job of a recorder is said in health."""
_log = logging.getLogger(__name__)


class WorkerEnds(Exception):
    """The worker was told to end while it worked on a job."""


@dataclass(frozen=True, slots=True)
class Doing:
    """What a handler gets. `tell` is called between steps with the share done, 0 to 1; it raises Cancelled
    when the job is not wanted any more. `folder` is empty, and goes with the job."""

    spec: JobSpec
    payload: bytes | None
    name: str
    folder: Path
    tell: Callable[[float], None]


@dataclass(frozen=True, slots=True)
class Outcome:
    """What a handler has made: an answer for who waits, or a file."""

    answer: bytes | None = None
    file: Path | None = None


Handler = Callable[[Doing], Outcome]
MayStill = Callable[[str, Permission], bool]


class JobRunner:
    """The jobs of one queue. `handlers` by kind; `may_still` says whether a person still has a permission: a
    job runs with the rights of whoever asked for it, as they are when it begins."""

    def __init__(
        self, store: Store, queue: Queue, handlers: Mapping[str, Handler], holder: str,
        now_us: Callable[[], int], *, may_still: MayStill, ends: Callable[[], bool] = lambda: False,
    ) -> None:  # fmt: skip
        self._store = store
        self._queue = queue
        self._handlers = handlers
        self._holder = holder
        self._now_us = now_us
        self._may_still = may_still
        self._ends = ends
        self._clear_at = 0.0
        self._failed: dict[str, tuple[float, str]] = {}

    @property
    def name(self) -> str:
        """Whose jobs they are."""
        return self._queue.value

    @property
    def failures(self) -> Mapping[str, str]:
        """Of a recorder's jobs, by kind, why the last failed, for an hour. People see it with their job."""
        since = time.monotonic() - _SAID_S
        return {kind: why for kind, (at, why) in self._failed.items() if at > since}

    def run_next(self) -> bool:
        """Does the next job; returns whether there was one. Raises StoreError when the database is away; the
        job then waits."""
        now_us = self._now_us()
        job = self._store.run(lambda tx: jobs.claim_job(tx, self._queue, self._holder, now_us))
        if job is None:
            self._clear_old(now_us)
            return False
        try:
            with tempfile.TemporaryDirectory(prefix="cronaca-job-") as folder:
                self._run(job, Path(folder))
        except (StoreError, WorkerEnds):
            self._give_back(job)
            raise
        return True

    def _clear_old(self, now_us: int) -> None:
        """Now and then, when there is nothing else to do."""
        if time.monotonic() >= self._clear_at:
            self._clear_at = time.monotonic() + _CLEAR_S
            jobs.clear_old(self._store, now_us - KEEP_US, now_us - DAY)

    def _run(self, job: ClaimedJob, folder: Path) -> None:
        try:
            outcome = self._outcome(job, folder)
        except Cancelled:
            _log.info("Job %s was cancelled", job.number)
            return
        except (StoreError, WorkerEnds):
            raise
        except CronacaError as exc:
            self._fail(job, str(exc))
        except Exception as exc:  # noqa: BLE001 - said with the job; the others are done
            _log.exception("Job %s (%s) failed", job.number, job.kind)
            self._fail(job, f"It failed: {type(exc).__name__}: {exc}")
        else:
            self._keep(job, outcome)

    def _outcome(self, job: ClaimedJob, folder: Path) -> Outcome:
        if job.spent:
            raise CronacaError("It was started several times, and ended the worker each time. Request less.")
        permission = Permission(job.permission)
        if not self._may_still(job.person, permission):
            raise NotPermitted(job.person, permission.value)
        spec = from_text(job.kind, job.content)
        return self._handlers[job.kind](
            Doing(spec, job.payload, job.name, folder, _Telling(self._store, job, self._holder, self._ends))
        )

    def _keep(self, job: ClaimedJob, outcome: Outcome) -> None:
        size, name = 0, ""
        if outcome.file is not None:
            size, name = jobs.put_file(self._store, job.number, outcome.file), outcome.file.name
        self._end(job, Ending(JobState.DONE, "", outcome.answer, name, size))
        self._failed.pop(job.kind, None)

    def _fail(self, job: ClaimedJob, why: str) -> None:
        self._end(job, Ending(JobState.FAILED, why))
        if self._queue is Queue.RECORDER:
            _log.error("Job %s (%s) of the recorder failed: %s", job.number, job.kind, why)
            said = f"The job {job.kind.replace('_', ' ')} failed: {why}"
            self._failed[job.kind] = (time.monotonic(), said)

    def _end(self, job: ClaimedJob, ending: Ending) -> None:
        now_us = self._now_us()
        if not self._store.run(lambda tx: jobs.end_job(tx, job.number, self._holder, ending, now_us)):
            jobs.clear_file(self._store, job.number)  # it was cancelled at the last moment

    def _give_back(self, job: ClaimedJob) -> None:
        try:
            self._store.run(lambda tx: jobs.give_back(tx, job.number, self._holder))
        except StoreError as exc:  # it is taken over when its sign of life is old
            _log.warning("Job %s cannot be given back: %s", job.number, exc)


class _Telling:
    """Says how far a job is, not more often than anybody looks."""

    def __init__(self, store: Store, job: ClaimedJob, holder: str, ends: Callable[[], bool]) -> None:
        self._store = store
        self._job = job
        self._holder = holder
        self._ends = ends
        self._again_at = 0.0

    def __call__(self, share: float, *_: Any) -> None:  # noqa: ANN401 - counts beside the share
        if self._ends():
            raise WorkerEnds
        if time.monotonic() < self._again_at:
            return
        self._again_at = time.monotonic() + _SAY_S
        number, holder = self._job.number, self._holder
        if not self._store.run(lambda tx: jobs.put_share(tx, number, holder, share)):
            raise Cancelled("The job was cancelled.")

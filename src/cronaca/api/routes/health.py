"""Health: what is connected, what is recorded at what rate, what is late."""

from __future__ import annotations

import asyncio
import logging
import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from typing import Final, cast

from fastapi import Request, Response

from cronaca.api.background import Background
from cronaca.api.routing import api_router
from cronaca.api.schemas import (
    Alive,
    DatabaseHealth,
    DiskHealth,
    Health,
    RecorderHealth,
    SourceHealth,
    WorkerHealth,
)
from cronaca.core.errors import StoreError
from cronaca.core.model import SECOND, SourceSetup
from cronaca.db import Store, disks
from cronaca.history.tables import epochs, journal
from cronaca.history.tables.epochs import Epoch
from cronaca.logbook import background
from cronaca.logbook.background import BackgroundState
from cronaca.plant.sources import list_sources

router = api_router("", "health", permission=None)
LATE_US: Final = 3 * SECOND
"""The recorder flushes twice a second; without a flush for this long it is late."""
_WORKER_LATE_S: Final = 90.0
_AWAY: Final = "The database does not answer. The server's log has the address and the reason."
_log = logging.getLogger(__name__)


@router.get("/alive")
async def get_alive() -> Alive:
    """Answers as long as this process serves requests at all, whatever the database does."""
    return Alive(now_us=str(time.time_ns() // 1000))


@router.get("/health", responses={503: {"model": Health, "description": "The database is away"}})
async def get_health(request: Request, response: Response) -> Health:
    """State of database, recorder, sources and what runs in the background; 503 when the database is away."""
    now_us = time.time_ns() // 1000
    state = request.app.state
    failures = dict(cast(Background, state.background).failures)
    # On a connection and a thread of its own: it answers however much else is asked.
    work = partial(_read_health, state.watching, now_us, failures)
    try:
        return await asyncio.get_running_loop().run_in_executor(state.apart, work)
    except StoreError as exc:
        _log.warning("The database is away: %s", exc)
        response.status_code = 503
        database = DatabaseHealth(state="away", detail=_AWAY, journal_rows=None, journal_samples=None)
        return Health(status="down", now_us=str(now_us), database=database, recorder=None, sources=[])


def _read_health(store: Store, now_us: int, failures: Mapping[str, str]) -> Health:
    with store.snapshot() as tx:
        epoch = epochs.find_last_epoch(tx)
        rows, samples = journal.count_backlog(tx)
        sources = list_sources(tx)
        places = disks.list_places(tx)
        states = background.list_states(tx)
    recorder = recorder_health(epoch, now_us)
    source_list = source_states(sources, epoch, recorder.state)
    worker, _ = worker_state(states)
    faults = list(failures)
    well = recorder.state == "running" and all(s.state in ("up", "disabled") for s in source_list)
    well = well and not recorder.dropped_samples and not recorder.quarantined and not recorder.faults
    well = well and all(place.state in ("ok", "unknown") for place in places)
    well = well and worker in ("running", "never_started") and not faults
    return Health(
        status="ok" if well else "degraded",
        now_us=str(now_us),
        database=DatabaseHealth(state="up", detail="", journal_rows=rows, journal_samples=samples),
        recorder=recorder,
        sources=[
            SourceHealth(uid=state.uid, name=state.name, state=state.state, since_us=state.since_us)
            for state in source_list
        ],
        disks=[_disk(place) for place in places],
        worker=WorkerHealth(state=worker),
        faults=faults,
    )


def worker_state(states: Sequence[BackgroundState]) -> tuple[str, str]:
    """What the worker said last, and why: running, failing, or silent for too long."""
    newest = next((state for state in states if state.role == "worker"), None)
    if newest is None:
        return "never_started", ""
    if newest.age_s > _WORKER_LATE_S:
        return "silent", f"Nothing was heard of it for {newest.age_s:.0f} s."
    return "failing" if newest.failing else "running", newest.detail


def _disk(place: disks.DiskLocation) -> DiskHealth:
    disk = place.disk
    sizes = (None, None) if disk is None else (disk.free, disk.total)
    return DiskHealth(archive=place.archive, state=place.state, free_bytes=sizes[0], total_bytes=sizes[1])


def recorder_health(epoch: Epoch | None, now_us: int) -> RecorderHealth:
    """The recorder by what it last said."""
    if epoch is None:
        return RecorderHealth(state="never_started", **dict.fromkeys(_RECORDER_FIELDS))
    age_us = now_us - epoch.known_until_us
    report = epoch.report
    return RecorderHealth(
        state=_recorder_state(epoch, age_us),
        epoch=epoch.epoch,
        since_us=str(epoch.opened_us),
        known_until_us=str(epoch.known_until_us),
        last_flush_age_ms=round(age_us / 1000, 1),
        last_flush_ms=report.get("last_flush_ms"),
        samples_per_second=report.get("samples_per_second"),
        queued_samples=report.get("queued_samples"),
        dropped_samples=report.get("dropped_samples"),
        late_scans=report.get("late_scans"),
        quarantined=report.get("quarantined"),
        niceness=report.get("niceness"),
        faults=len(report.get("faults", [])),
    )


_RECORDER_FIELDS: Final = [name for name in RecorderHealth.model_fields if name not in ("state", "faults")]


def _recorder_state(epoch: Epoch, age_us: int) -> str:
    if epoch.state == "closed":
        return "lost" if epoch.reason == "lost" else "stopped"
    # Whether it still records is told by its lease, which is by the database's clock: the clocks of two
    # machines may differ by more than a lease.
    if not epoch.running:
        return "lost"
    return "late" if age_us > LATE_US else "running"


@dataclass(frozen=True, slots=True)
class SourceState:
    """What is known of a source, and why it is so."""

    uid: str
    name: str
    state: str
    since_us: str | None
    detail: str


def source_states(sources: list[SourceSetup], epoch: Epoch | None, recorder_state: str) -> list[SourceState]:
    """A source's state is what the recorder last said; without a live recorder nobody knows it."""
    reports = {} if epoch is None else {r["source_id"]: r for r in epoch.report.get("sources", [])}
    states = []
    for source in sources:
        report = reports.get(source.source_id)
        if not source.enabled:
            state, since, detail = "disabled", None, ""
        elif report is None or recorder_state not in ("running", "late"):
            state, since, detail = "unknown", None, "The recorder does not run."
        else:
            state, since, detail = report["state"], str(report["since_us"]), report["detail"]
        states.append(SourceState(source.uid, source.name, state, since, detail))
    return states

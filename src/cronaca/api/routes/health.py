"""Health: what is connected, what is recorded at what rate, what is late."""

from __future__ import annotations

import time
from typing import Final

from fastapi import APIRouter, Response

from cronaca.api.deps import StoreDep
from cronaca.api.schemas import DatabaseHealth, DiskHealth, Health, RecorderHealth, SourceHealth
from cronaca.core.errors import StoreError
from cronaca.core.model import SECOND, SourceSetup
from cronaca.store import Store, disks, epochs, journal, setup
from cronaca.store.epochs import Epoch
from cronaca.store.transaction import Transaction

router = APIRouter(tags=["health"])
LATE_US: Final = 3 * SECOND
"""The recorder flushes twice a second; without a flush for this long it is late."""
_LOST_US: Final = 10 * SECOND


@router.get("/health", responses={503: {"model": Health, "description": "The database is away"}})
def get_health(store: StoreDep, response: Response) -> Health:
    """State of database, recorder and sources; 503 when the database is away."""
    now_us = time.time_ns() // 1000
    try:
        return _read_health(store, now_us)
    except StoreError as exc:
        response.status_code = 503
        database = DatabaseHealth(state="away", detail=str(exc), journal_rows=None, journal_samples=None)
        return Health(status="down", now_us=str(now_us), database=database, recorder=None, sources=[])


def _read_health(store: Store, now_us: int) -> Health:
    with store.snapshot() as tx:
        epoch = epochs.find_last_epoch(tx)
        rows, samples = journal.count_backlog(tx)
        sources = setup.list_sources(tx)
        places = disk_health(tx)
    recorder = recorder_health(epoch, now_us)
    found = source_health(sources, epoch, recorder.state)
    well = recorder.state == "running" and all(s.state in ("up", "disabled") for s in found)
    well = well and not recorder.dropped_samples
    well = well and all(one.state in ("ok", "unknown") for one in places)
    return Health(
        status="ok" if well else "degraded",
        now_us=str(now_us),
        database=DatabaseHealth(state="up", detail="", journal_rows=rows, journal_samples=samples),
        recorder=recorder,
        sources=found,
        disks=places,
    )


def disk_health(tx: Transaction) -> list[DiskHealth]:
    """Where each archive lies."""
    return [DiskHealth(archive=one.archive, state=one.state, text=one.text) for one in disks.list_places(tx)]


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
    )


_RECORDER_FIELDS: Final = [name for name in RecorderHealth.model_fields if name != "state"]


def _recorder_state(epoch: Epoch, age_us: int) -> str:
    if epoch.state == "closed":
        return "lost" if epoch.reason == "lost" else "stopped"
    if age_us > _LOST_US:
        return "lost"
    return "late" if age_us > LATE_US else "running"


def source_health(sources: list[SourceSetup], epoch: Epoch | None, recorder_state: str) -> list[SourceHealth]:
    """A source's state is what the recorder last said; without a live recorder nobody knows it."""
    reports = {} if epoch is None else {r["source_id"]: r for r in epoch.report.get("sources", [])}
    found = []
    for source in sources:
        report = reports.get(source.source_id)
        if not source.enabled:
            state, since, detail = "disabled", None, ""
        elif report is None or recorder_state not in ("running", "late"):
            state, since, detail = "unknown", None, "The recorder does not run."
        else:
            state, since, detail = report["state"], str(report["since_us"]), report["detail"]
        found.append(
            SourceHealth(uid=source.uid, name=source.name, state=state, since_us=since, detail=detail)
        )
    return found

"""What state the plant's recording is in, for the pages that show it: at a glance (health), and in full."""

from __future__ import annotations

import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Final

from cronaca.api.schemas import DatabaseHealth, DiskHealth, Health, RecorderHealth, SourceHealth, WorkerHealth
from cronaca.api.schemas.recorder import (
    QuarantinedOut,
    RecorderMinuteOut,
    RecorderOut,
    WorkerState,
    WorkingDisk,
    WorkingGap,
    WorkingLogger,
    WorkingSource,
)
from cronaca.core.model import DAY, HOUR, MINUTE, SECOND, SourceSetup, Window
from cronaca.db import Store, disks
from cronaca.history.tables import epochs, gaps, journal, minutes
from cronaca.history.tables.epochs import Epoch
from cronaca.logbook import background
from cronaca.logbook.background import BackgroundState
from cronaca.plant import loggers, sources
from cronaca.plant.loggers import LoggerSummary
from cronaca.plant.sources import list_sources
from cronaca.plant.tags import list_names
from cronaca.services import control

LATE_US: Final = 3 * SECOND
"""The recorder flushes twice a second; without a flush for this long it is late."""
_WORKER_LATE_S: Final = 90.0
_MOST_GAPS: Final = 50
_MOST_GAPS_OF_AN_HOUR: Final = 10_000
_AWAY: Final = "The database does not answer. The server's log has the address and the reason."


def database_away() -> Health:
    """What is known when the database does not answer."""
    database = DatabaseHealth(state="away", detail=_AWAY, journal_rows=None, journal_samples=None)
    now_us = str(time.time_ns() // 1000)
    return Health(status="down", now_us=now_us, database=database, recorder=None, sources=[])


def at_a_glance(found: Health) -> Health:
    """The same for who may not see the plant: no names, no counts."""
    database = DatabaseHealth(
        state=found.database.state, detail=found.database.detail, journal_rows=None, journal_samples=None
    )
    return Health(status=found.status, now_us=found.now_us, database=database, recorder=None, sources=[])


def read_health(store: Store, failures: Mapping[str, str]) -> Health:
    """State of database, recorder, sources and what runs in the background. Raises StoreError."""
    now_us = time.time_ns() // 1000
    with store.snapshot() as tx:
        epoch = epochs.find_last_epoch(tx)
        rows, samples = journal.count_backlog(tx)
        all_sources = list_sources(tx)
        places = disks.list_places(tx)
        states = background.list_states(tx)
    recorder = recorder_health(epoch, now_us)
    source_list = source_states(all_sources, epoch, recorder.state)
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
        return "silent", f"It has not reported for {newest.age_s:.0f} s."
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
            state, since, detail = "unknown", None, "The recorder is not running."
        else:
            state, since, detail = report["state"], str(report["since_us"]), report["detail"]
        states.append(SourceState(source.uid, source.name, state, since, detail))
    return states


def read_recorder(store: Store, failures: Mapping[str, str]) -> RecorderOut:
    """What is connected, what is recorded at what rate, what is late, where the gaps of the last day are.
    Raises StoreError."""
    now_us = time.time_ns() // 1000
    with store.snapshot() as tx:
        epoch = epochs.find_last_epoch(tx)
        _, waiting = journal.count_backlog(tx)
        source_rows, summaries = sources.list_rows(tx), loggers.list_summaries(tx)
        newest = control.get_revision(tx)
        torn = gaps.list_newest(tx, Window(now_us - DAY, now_us), _MOST_GAPS)
        states = background.list_states(tx)
        report = {} if epoch is None else epoch.report
        kept_back = report.get("quarantine", [])
        names = list_names(tx, [tag_id for entry in kept_back for tag_id in entry["tag_ids"]])
        all_sources = list_sources(tx)
        places = disks.list_places(tx)
    state, worker = recorder_health(epoch, now_us), worker_state(states)
    runs = state.state in ("running", "late")
    report = report if runs else {}
    doing = {logger["logger_id"]: logger for logger in report.get("loggers", [])}
    connected = {source_now.uid: source_now for source_now in source_states(all_sources, epoch, state.state)}
    return RecorderOut(
        state=state.state, since_us=state.since_us, revision=report.get("revision"), newest_revision=newest,
        known_until_us=state.known_until_us, samples_per_second=state.samples_per_second,
        queued_samples=state.queued_samples, dropped_samples=state.dropped_samples,
        late_scans=state.late_scans, last_flush_ms=state.last_flush_ms, journal_samples=waiting,
        spooled_samples=report.get("spooled_samples"), spool_bytes=report.get("spool_bytes"),
        disks=[WorkingDisk(archive=place.archive, state=place.state, text=place.text) for place in places],
        sources=[
            WorkingSource(
                uid=row.uid, name=row.spec.name, protocol=row.spec.protocol, tags=row.tags,
                state=connected[row.uid].state, since_us=connected[row.uid].since_us,
                detail=connected[row.uid].detail,
            )
            for row in source_rows
        ],
        loggers=[_logger(row, doing.get(row.logger_id)) for row in summaries],
        gaps=[
            WorkingGap(
                start_us=str(row.gap.start_us), end_us=str(row.gap.end_us or now_us),
                reason=row.gap.reason.value, detail=row.gap.detail, tags=row.tags, tag=row.tag_name,
            )
            for row in torn
        ],
        quarantined=report.get("quarantined", 0),
        quarantine=[
            QuarantinedOut(
                at_us=str(entry["at_us"]), what=entry["what"], reason=entry["reason"],
                tags=[names[tag_id] for tag_id in entry["tag_ids"] if tag_id in names],
            )
            for entry in kept_back
        ],
        faults=[*report.get("faults", []), *failures.values()],
        worker=WorkerState(state=worker[0], detail=worker[1]),
    )  # fmt: skip


def _logger(row: LoggerSummary, doing: dict[str, Any] | None) -> WorkingLogger:
    state = doing or {
        "state": "unknown",
        "reason": "The recorder is not running, or has not applied the change yet.",
    }
    return WorkingLogger(
        uid=row.uid, name=row.name, archive=row.archive, text=row.text, state=state["state"],
        reason=state["reason"], members=row.members, kept=state.get("kept"),
        samples_per_second=state.get("samples_per_second"),
    )  # fmt: skip


def read_hour(store: Store) -> list[RecorderMinuteOut]:
    """How the recorder did in each of the last 60 whole minutes. Raises StoreError."""
    end_us = time.time_ns() // 1000 // MINUTE * MINUTE
    hour = Window(end_us - HOUR, end_us)
    with store.snapshot() as tx:
        known = {minute.start_us: minute for minute in minutes.list_minutes(tx, hour)}
        torn = [row.gap for row in gaps.list_newest(tx, hour, _MOST_GAPS_OF_AN_HOUR)]
    result = []
    for start_us in range(hour.start_us, hour.end_us, MINUTE):
        minute = known.get(start_us)
        touching = sum(gap.start_us < start_us + MINUTE and (gap.end_us or end_us) > start_us for gap in torn)
        result.append(
            RecorderMinuteOut(
                start_us=str(start_us),
                samples_per_second=None if minute is None else round(minute.samples / 60, 1),
                late_scans=None if minute is None else minute.late_scans,
                behind_ms=None if minute is None else round(minute.behind_us / 1000, 1),
                gaps=touching,
            )
        )
    return result

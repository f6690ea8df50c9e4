"""The recorder at a glance: sources, loggers, rates, lateness, gaps."""

from __future__ import annotations

import time
from typing import Any, Final, cast

from fastapi import Request

from cronaca.api.background import Background
from cronaca.api.deps import StoreDep
from cronaca.api.routes.health import (
    recorder_health,
    source_states,
    worker_state,
)
from cronaca.api.routing import api_router
from cronaca.api.schemas.recorder import (
    QuarantinedOut,
    RecorderOut,
    WorkerState,
    WorkingDisk,
    WorkingGap,
    WorkingLogger,
    WorkingSource,
)
from cronaca.core.model import DAY, Window
from cronaca.db import disks
from cronaca.history.tables import epochs, gaps, journal
from cronaca.logbook import background
from cronaca.plant import loggers, sources
from cronaca.plant.loggers import LoggerSummary
from cronaca.plant.sources import list_sources
from cronaca.plant.tags import list_names
from cronaca.services import control

router = api_router("", "recorder")
_MOST_GAPS: Final = 50


@router.get("/recorder")
def get_recorder(request: Request, store: StoreDep) -> RecorderOut:
    """What is connected, what is recorded at what rate, what is late, where the gaps of the last day are."""
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
    failures = dict(cast(Background, request.app.state.background).failures)
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
    state = doing or {"state": "unknown", "reason": "The recorder does not run, or has not taken it up yet."}
    return WorkingLogger(
        uid=row.uid, name=row.name, archive=row.archive, text=row.text, state=state["state"],
        reason=state["reason"], members=row.members, kept=state.get("kept"),
        samples_per_second=state.get("samples_per_second"),
    )  # fmt: skip

"""The recorder at a glance: sources, loggers, rates, lateness, gaps."""

from __future__ import annotations

from typing import cast

from fastapi import Request

from cronaca.api.background import Background
from cronaca.api.deps import StoreDep
from cronaca.api.plant_state import read_hour, read_recorder
from cronaca.api.routing import api_router
from cronaca.api.schemas.recorder import RecorderMinuteOut, RecorderOut

router = api_router("", "recorder")


@router.get("/recorder")
def get_recorder(request: Request, store: StoreDep) -> RecorderOut:
    """What is connected, what is recorded at what rate, what is late, where the gaps of the last day are."""
    return read_recorder(store, dict(cast(Background, request.app.state.background).failures))


@router.get("/recorder/hour")
def get_recorder_hour(store: StoreDep) -> list[RecorderMinuteOut]:
    """How it did in each of the last 60 whole minutes: rate, late scans, how far behind, gaps."""
    return read_hour(store)

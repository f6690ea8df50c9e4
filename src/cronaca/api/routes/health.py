"""Health: what is connected, what is recorded at what rate, what is late."""

from __future__ import annotations

import asyncio
import logging
import time
from functools import partial
from typing import Final, cast

from fastapi import Request, Response

from cronaca.api.background import Background
from cronaca.api.plant_state import database_away, read_health
from cronaca.api.routing import api_router
from cronaca.api.schemas import Alive, Health
from cronaca.core.errors import StoreError

router = api_router("", "health", permission=None)
_log: Final = logging.getLogger(__name__)


@router.get("/alive")
async def get_alive() -> Alive:
    """Answers as long as this process serves requests at all, whatever the database does."""
    return Alive(now_us=str(time.time_ns() // 1000))


@router.get("/health", responses={503: {"model": Health, "description": "The database is away"}})
async def get_health(request: Request, response: Response) -> Health:
    """State of database, recorder, sources and what runs in the background; 503 when the database is away."""
    state = request.app.state
    failures = dict(cast(Background, state.background).failures)
    # On a connection and a thread of its own: it answers however much else is asked.
    work = partial(read_health, state.watching, failures)
    try:
        return await asyncio.get_running_loop().run_in_executor(state.apart, work)
    except StoreError as exc:
        _log.warning("The database is away: %s", exc)
        response.status_code = 503
        return database_away()

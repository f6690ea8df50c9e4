"""Health: what is connected, what is recorded at what rate, what is late."""

from __future__ import annotations

import asyncio
import logging
import time
from functools import partial
from typing import Final, cast

from fastapi import Request, Response

from cronaca.api.background import Background
from cronaca.api.permissions import find_actor
from cronaca.api.plant_state import at_a_glance, database_away, read_health
from cronaca.api.routing import api_router
from cronaca.api.schemas import Alive, Health
from cronaca.core.access import Permission
from cronaca.core.errors import NotSignedIn, StoreError

router = api_router("", "health", permission=None)
_SOON_S: Final = 1.0
_log: Final = logging.getLogger(__name__)


@router.get("/alive")
async def get_alive() -> Alive:
    """Answers as long as this process serves requests at all, whatever the database does."""
    return Alive(now_us=str(time.time_ns() // 1000))


@router.get("/health", responses={503: {"model": Health, "description": "The database is away"}})
async def get_health(request: Request, response: Response) -> Health:
    """State of database, recorder, sources and what runs in the background; 503 when the database is away.
    Who may not see the plant is told the state alone."""
    state = request.app.state
    failures = dict(cast(Background, state.background).failures)
    # On a connection and a thread of its own: it answers however much else is asked.
    work = partial(read_health, state.watching, failures)
    try:
        found = await asyncio.get_running_loop().run_in_executor(state.apart, work)
        return found if await _may_see(request) else at_a_glance(found)
    except StoreError as exc:
        _log.warning("The database is away: %s", exc)
        response.status_code = 503
        return database_away()


async def _may_see(request: Request) -> bool:
    """Whether who asks may see the plant, as far as that is found soon: a monitor is not kept waiting."""
    try:
        actor = await asyncio.wait_for(find_actor(request), _SOON_S)
    except (NotSignedIn, StoreError, TimeoutError):
        return False
    return Permission.VIEW in actor.permissions

"""States of the whole, computed at intervals for all pages that follow them, as long as one does."""

from __future__ import annotations

import asyncio
import logging
import time
from collections.abc import Callable, Mapping
from concurrent.futures import Executor
from dataclasses import dataclass
from typing import Final

from pydantic import BaseModel

from cronaca.api.live import LiveHub
from cronaca.api.plant_state import database_away, read_health, read_recorder
from cronaca.core.access import Permission
from cronaca.core.errors import StoreError
from cronaca.db import Store

_TICK_S: Final = 0.25
_log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class State:
    """A state that pages follow: how it is read, how often, what one needs to see it, and what is told while
    the database does not answer (nothing: the state before stays)."""

    read: Callable[[Store, Mapping[str, str]], BaseModel]
    every_s: float
    permission: Permission
    away: Callable[[], BaseModel] | None = None


STATES: Final[Mapping[str, State]] = {
    "health": State(read_health, 2.0, Permission.VIEW, database_away),
    "recorder": State(read_recorder, 1.0, Permission.VIEW),
}


class StatePusher:
    """Reads each state that somebody follows, and hands it to the followers."""

    def __init__(self, hub: LiveHub, store: Store, executor: Executor, failures: Mapping[str, str]) -> None:
        self._hub = hub
        self._store = store
        self._executor = executor
        self._failures = failures
        self._read_at: dict[str, float] = {}

    async def run(self, name: str) -> None:
        """Goes on with one state until cancelled: what is wrong with it does not concern the others."""
        state = STATES[name]
        while True:
            if self._is_due(name, state):
                await self._push(name, state)
            await asyncio.sleep(_TICK_S)

    def _is_due(self, name: str, state: State) -> bool:
        since = time.monotonic() - self._read_at.get(name, 0.0)
        return since >= state.every_s and bool(self._hub.followers(name))

    async def _push(self, name: str, state: State) -> None:
        self._read_at[name] = time.monotonic()
        text = await asyncio.get_running_loop().run_in_executor(self._executor, self._read, state)
        if text is None:
            return
        for client in self._hub.followers(name):
            client.offer_state(name, text)

    def _read(self, state: State) -> str | None:
        try:
            return state.read(self._store, dict(self._failures)).model_dump_json()
        except StoreError as exc:
            _log.debug("A state cannot be read: %s", exc)  # the hub says that the database is away
            return None if state.away is None else state.away().model_dump_json()

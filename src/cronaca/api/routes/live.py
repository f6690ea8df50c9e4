"""Live values and samples by WebSocket, with resume after a break.

Client, first message: {"tags": [uid, ...], "after": "epoch:seq" or null}.
Server: {"type": "values", "values": [{tag, t_us, v, q}]}      present values, all at first, then changes
        {"type": "samples", "cursor", "known_until_us", "series": [{tag, t_us[], v[], q[]}]}
        the first one of a client without "after": what came in of late, all of it since "since_us"
        {"type": "resync", "cursor"}                            too much was missed: read curves anew
        {"type": "database", "up": false}                       the server cannot follow at present
        {"type": "refused", "detail"}                           then the connection ends
"""

from __future__ import annotations

import asyncio
import contextlib
import re
from typing import Final, cast

import orjson
from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from pydantic import Field, ValidationError

from cronaca.api.deps import find_all_tags
from cronaca.api.live import Client, LiveHub, Message
from cronaca.api.schemas import Model, Uid
from cronaca.core.errors import CronacaError
from cronaca.store.journal import JournalKey

router = APIRouter()
_PATIENCE_S: Final = 10.0
_POLICY_VIOLATION: Final = 1008


class Subscribe(Model):
    """The client's first message."""

    tags: list[Uid] = Field(min_length=1, max_length=500)
    after: str | None = Field(None, pattern=r"^\d{1,18}:\d{1,18}$")


@router.websocket("/live")
async def live(socket: WebSocket) -> None:
    """Sends what happens to the tags asked for until the client leaves."""
    await socket.accept()
    hub = cast(LiveHub, socket.app.state.hub)
    try:
        wish = Subscribe.model_validate_json(await asyncio.wait_for(socket.receive_text(), _PATIENCE_S))
        tags = await asyncio.to_thread(find_all_tags, socket.app.state.store, wish.tags)
    except (ValidationError, CronacaError, TimeoutError) as exc:
        await _refuse(socket, str(exc) or "no subscription came in time")
        return
    except WebSocketDisconnect:
        return
    client = Client({tag.tag_id: tag for tag in tags})
    joined = hub.add(client)
    try:
        if wish.after is None:
            await _begin(socket, hub, client, joined)
        else:
            await _resume(socket, hub, client, wish.after, joined)
        await _pump(socket, client)
    finally:
        hub.remove(client)


async def _refuse(socket: WebSocket, detail: str) -> None:
    await socket.send_text(_dump({"type": "refused", "detail": re.sub(r"\s+", " ", detail)[:500]}))
    await socket.close(_POLICY_VIOLATION)


async def _begin(socket: WebSocket, hub: LiveHub, client: Client, joined: JournalKey | None) -> None:
    try:
        recent = await asyncio.to_thread(hub.read_recent, client, joined)
    except CronacaError:
        recent = {"type": "resync", "cursor": None}  # as in _resume
    if recent is not None:
        await socket.send_text(_dump(recent))


async def _resume(
    socket: WebSocket, hub: LiveHub, client: Client, after: str, joined: JournalKey | None
) -> None:
    epoch, seq = (int(part) for part in after.split(":"))
    try:
        missed = await asyncio.to_thread(hub.read_missed, client, JournalKey(epoch, seq), joined)
    except CronacaError:
        missed = None  # the hub says that the database is away; reading anew is right in any case
    await socket.send_text(_dump(missed or {"type": "resync", "cursor": None}))


async def _pump(socket: WebSocket, client: Client) -> None:
    """Sends what is queued; ends when the client closes, which only a pending receive can tell."""
    gone = asyncio.create_task(_wait_for_close(socket))
    try:
        while not gone.done():
            message = asyncio.create_task(client.outbox.get())
            await asyncio.wait({gone, message}, return_when=asyncio.FIRST_COMPLETED)
            if not message.done():
                message.cancel()
                break
            with contextlib.suppress(WebSocketDisconnect, RuntimeError):
                await socket.send_text(_dump(message.result()))
    finally:
        gone.cancel()


async def _wait_for_close(socket: WebSocket) -> None:
    with contextlib.suppress(WebSocketDisconnect, RuntimeError):
        while True:
            await socket.receive_text()


def _dump(message: Message) -> str:
    return orjson.dumps(message).decode()

"""Live values and samples by WebSocket, with resume after a break.

Client, first message: {"tags": [uid, ...], "after": "epoch:seq" or null}
        later ones: {"tags": [uid, ...]}                        from now on these tags
Server: {"type": "values", "values": [{tag, t_us, v, q}]}      present values, all at first, then changes
        {"type": "samples", "cursor", "known_until_us", "ahead": {tag: us},
         "series": [{tag, archive, t_us[], v[], q[]}]}     `ahead`: tags known for longer than the rest
        the first one of a client without "after", and of tags that a later message brought: what came in
        of late, all of it since "since_us"
        {"type": "resync", "cursor"}                            too much was missed: read curves anew
        {"type": "database", "up": false}                       the server cannot follow at present
        {"type": "refused", "detail"}                           then the connection ends
"""

from __future__ import annotations

import asyncio
import contextlib
import re
from typing import Final, cast

from fastapi import WebSocket, WebSocketDisconnect
from pydantic import Field, ValidationError

from cronaca.api.deps import find_all_tags
from cronaca.api.live import Client, LiveHub, dump
from cronaca.api.routing import api_router
from cronaca.api.schemas import Model, Uid
from cronaca.core.errors import CronacaError, InvalidInput
from cronaca.history.tables.journal import JournalKey

router = api_router()
_PATIENCE_S: Final = 10.0
_POLICY_VIOLATION: Final = 1008
_READ_ANEW: Final = dump({"type": "resync", "cursor": None})


class Subscribe(Model):
    """A message of the client."""

    tags: list[Uid] = Field(min_length=1, max_length=500)
    after: str | None = Field(None, pattern=r"^\d{1,18}:\d{1,18}$")


@router.websocket("/live")
async def live(socket: WebSocket) -> None:
    """Sends what happens to the tags asked for until the client leaves."""
    await socket.accept()
    hub = cast(LiveHub, socket.app.state.hub)
    try:
        spec = Subscribe.model_validate_json(await asyncio.wait_for(socket.receive_text(), _PATIENCE_S))
        tags = await asyncio.to_thread(find_all_tags, socket.app.state.store, spec.tags)
    except (ValidationError, CronacaError, TimeoutError) as exc:
        await _refuse(socket, str(exc) or "no subscription came in time")
        return
    except KeyError:
        await _refuse(socket, "the subscription has to be a text frame")
        return
    except WebSocketDisconnect:
        return
    client = Client({tag.tag_id: tag for tag in tags})
    joined = hub.add(client)
    try:
        if spec.after is None:
            await _tell_recent(socket, hub, client, set(client.tags), joined)
        else:
            await _resume(socket, hub, client, spec.after, joined)
        await _pump(socket, hub, client)
    except (WebSocketDisconnect, RuntimeError):
        return
    finally:
        hub.remove(client)


async def _refuse(socket: WebSocket, detail: str) -> None:
    with contextlib.suppress(WebSocketDisconnect, RuntimeError):  # it may have left meanwhile
        await socket.send_text(dump({"type": "refused", "detail": re.sub(r"\s+", " ", detail)[:500]}))
        await socket.close(_POLICY_VIOLATION)


async def _tell_recent(
    socket: WebSocket, hub: LiveHub, client: Client, tags: set[int], joined: JournalKey | None
) -> None:
    try:
        recent = await asyncio.to_thread(hub.read_recent, client, tags, joined)
    except CronacaError:
        recent = _READ_ANEW  # as in _resume
    if recent is not None:
        await socket.send_text(recent)


async def _resume(
    socket: WebSocket, hub: LiveHub, client: Client, after: str, joined: JournalKey | None
) -> None:
    epoch, seq = (int(part) for part in after.split(":"))
    try:
        missed = await asyncio.to_thread(hub.read_missed, client, JournalKey(epoch, seq), joined)
    except CronacaError:
        missed = None  # the hub says that the database is away; reading anew is right in any case
    await socket.send_text(missed or _READ_ANEW)


class _Asked:
    """The tags that a client asks for after its first message; the newest message counts."""

    def __init__(self, client: Client) -> None:
        self._client = client
        self._wish: Subscribe | None = None
        self.problem = ""
        """Why its newest message cannot be understood."""

    async def listen(self, socket: WebSocket) -> None:
        """Takes messages until the client closes, which only a pending receive can tell."""
        with contextlib.suppress(WebSocketDisconnect, RuntimeError, KeyError):
            while True:
                text = await socket.receive_text()
                try:
                    self._wish = Subscribe.model_validate_json(text)
                except ValidationError as exc:
                    self.problem = str(exc)
                self._client.wake.set()

    async def serve(self, socket: WebSocket, hub: LiveHub) -> None:
        """Changes the client's tags when it has asked for others, and tells what came in of the new ones of
        late before anything that comes later. Raises CronacaError for a tag that is unknown."""
        if self.problem:
            raise InvalidInput("tags", self.problem, "Send a list of tags.")
        spec, self._wish = self._wish, None
        if spec is None:
            return
        tags = await asyncio.to_thread(find_all_tags, socket.app.state.store, spec.tags)
        new, joined = hub.change(self._client, {tag.tag_id: tag for tag in tags})
        if new:
            await _tell_recent(socket, hub, self._client, new, joined)


async def _pump(socket: WebSocket, hub: LiveHub, client: Client) -> None:
    """Sends what is to be told until the client leaves, or says what cannot be understood."""
    asked = _Asked(client)
    gone = asyncio.create_task(asked.listen(socket))
    try:
        while not gone.done():
            news = asyncio.create_task(client.wake.wait())
            await asyncio.wait({gone, news}, return_when=asyncio.FIRST_COMPLETED)
            news.cancel()
            if gone.done():
                break
            try:
                await asked.serve(socket, hub)
            except CronacaError as exc:
                await _refuse(socket, str(exc))
                return
            with contextlib.suppress(WebSocketDisconnect, RuntimeError):
                for message in hub.next_messages(client):
                    await socket.send_text(message)
    finally:
        gone.cancel()

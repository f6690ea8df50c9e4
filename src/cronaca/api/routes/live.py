"""What happens, by one WebSocket a page, with resume after a break.

Client, each message: {"tags": [uid, ...],      samples and present values of these
                       "values": [uid, ...],    present values alone
                       "topics": [name, ...],   "changes", and states of the whole: "health", "recorder"
                       "after": "epoch:seq"}    in the first message alone: what came before is known
        a later message takes the place of the one before
Server: {"type": "values", "values": [{tag, t_us, v, q}]}      present values, all at first, then changes
        {"type": "samples", "cursor", "known_until_us", "ahead": {tag: us},
         "series": [{tag, archive, t_us[], v[], q[]}]}     `ahead`: tags known for longer than the rest
        the first one of a client without "after", and of tags that a later message brought: what came in
        of late of the tags in "since", all of it since "since_us"
        {"type": "changed", "counts": {topic: count}}           how often what has changed: all at first, then
                                                                what has changed since
        {"type": "state", "of": name, "state"}                  as the API's answer of that name
        {"type": "resync", "cursor"}                            too much was missed: read curves anew
        {"type": "database", "up": false}                       the server cannot follow at present
        {"type": "alive"}                                       nothing else happened for a while
        {"type": "refused", "detail", "tags" or "topics"}       those are not followed, the rest is
        {"type": "refused", "detail"}                           then the connection ends
"""

from __future__ import annotations

import asyncio
import contextlib
import re
from collections.abc import Iterable
from typing import Final, cast

from fastapi import WebSocket, WebSocketDisconnect
from pydantic import Field, ValidationError, model_validator

from cronaca.api.deps import find_known_tags
from cronaca.api.live import Client, LiveHub, Subscription, dump
from cronaca.api.permissions import Views, end_with_session
from cronaca.api.pushing import STATES
from cronaca.api.routing import api_router
from cronaca.api.schemas import Model, Uid
from cronaca.core.access import Actor
from cronaca.core.errors import CronacaError, InvalidInput, StoreError
from cronaca.core.model import Tag
from cronaca.history.tables.journal import JournalKey

router = api_router()
_PATIENCE_S: Final = 10.0
_ALIVE_S: Final = 5.0
"""A page that hears nothing for longer takes the connection for lost."""
_MOST_TAGS: Final = 500
_POLICY_VIOLATION: Final = 1008
_TRY_AGAIN_LATER: Final = 1013
_CHANGES: Final = "changes"
_READ_ANEW: Final = dump({"type": "resync", "cursor": None})
_ALIVE: Final = dump({"type": "alive"})


class Subscribe(Model):
    """A message of the client."""

    tags: list[Uid] = Field(default_factory=list, max_length=_MOST_TAGS)
    values: list[Uid] = Field(default_factory=list, max_length=_MOST_TAGS)
    topics: list[str] = Field(default_factory=list, max_length=20)
    after: str | None = Field(None, pattern=r"^\d{1,18}:\d{1,18}$")

    @model_validator(mode="after")
    def _check(self) -> Subscribe:
        if not (self.tags or self.values or self.topics):
            raise ValueError("name tags or topics to follow")
        if unknown := sorted(set(self.topics) - {_CHANGES, *STATES}):
            raise ValueError(f"there is no topic {unknown[0]}; there are {_CHANGES}, {', '.join(STATES)}")
        return self


@router.websocket("/live")
async def live(socket: WebSocket, who: Views) -> None:
    """Sends what happens to what is asked for, until the client leaves."""
    await socket.accept()
    hub = cast(LiveHub, socket.app.state.hub)
    client = Client(Subscription())
    asked = _Asked(client, who.actor)
    try:
        text = await asyncio.wait_for(socket.receive_text(), _PATIENCE_S)
        spec = Subscribe.model_validate_json(text)
        client.subscription = await asked.subscription_of(spec, socket)
    except StoreError:
        await _break_off(socket)
        return
    except (ValidationError, CronacaError, TimeoutError) as exc:
        await _refuse(socket, str(exc) or "no subscription came in time")
        return
    except KeyError:
        await _refuse(socket, "the subscription has to be a text frame")
        return
    except (WebSocketDisconnect, RuntimeError):
        return
    joined = hub.add(client)
    ending = asyncio.create_task(end_with_session(socket, who.actor))
    try:
        if spec.after is None:
            await _tell_recent(socket, hub, client, set(client.tags), joined)
        elif client.tags:
            await _resume(socket, hub, client, spec.after, joined)
        await _pump(socket, hub, client, asked)
    except (WebSocketDisconnect, RuntimeError):
        return
    finally:
        ending.cancel()
        hub.remove(client)


async def _break_off(socket: WebSocket) -> None:
    """The page connects anew after a while: until then the database may be back."""
    with contextlib.suppress(WebSocketDisconnect, RuntimeError):
        await socket.send_text(dump({"type": "database", "up": False}))
        await socket.close(_TRY_AGAIN_LATER)


async def _refuse(socket: WebSocket, detail: str) -> None:
    with contextlib.suppress(WebSocketDisconnect, RuntimeError):  # it may have left meanwhile
        await socket.send_text(dump({"type": "refused", "detail": _line(detail)}))
        await socket.close(_POLICY_VIOLATION)


def _line(text: str) -> str:
    return re.sub(r"\s+", " ", text)[:500]


async def _tell_recent(
    socket: WebSocket, hub: LiveHub, client: Client, tags: set[int], joined: JournalKey | None
) -> None:
    if not tags:
        return
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
    """What a client asks for after its first message; the newest message counts."""

    def __init__(self, client: Client, actor: Actor) -> None:
        self._client = client
        self._actor = actor
        self._spec: Subscribe | None = None
        self.problem = ""
        """Why its newest message cannot be understood."""

    async def listen(self, socket: WebSocket) -> None:
        """Takes messages until the client closes, which only a pending receive can tell."""
        with contextlib.suppress(WebSocketDisconnect, RuntimeError, KeyError):
            while True:
                text = await socket.receive_text()
                try:
                    self._spec = Subscribe.model_validate_json(text)
                except ValidationError as exc:
                    self.problem = str(exc)
                self._client.wake.set()

    async def serve(self, socket: WebSocket, hub: LiveHub) -> None:
        """Changes the client's subscription when it has asked for something else, and tells what came in of
        new tags of late before anything that comes later. Raises CronacaError."""
        if self.problem:
            raise InvalidInput(
                "tags", "tags-refused", "{reason}", "Send lists of tags and topics.", reason=self.problem
            )
        spec, self._spec = self._spec, None
        if spec is None:
            return
        new, joined = hub.change(self._client, await self.subscription_of(spec, socket))
        await _tell_recent(socket, hub, self._client, new, joined)

    async def subscription_of(self, spec: Subscribe, socket: WebSocket) -> Subscription:
        """What is asked for, without tags that there are none of: the client is told of those. Raises
        StoreError."""
        states = STATES.keys() & set(spec.topics)
        denied = {name for name in states if STATES[name].permission not in self._actor.permissions}
        if denied:
            detail = "You are not permitted to see this. Ask whoever manages rights."
            await socket.send_text(dump({"type": "refused", "detail": detail, "topics": sorted(denied)}))
        store = socket.app.state.store
        asked = dict.fromkeys([*spec.tags, *spec.values])
        found, missing = await asyncio.to_thread(find_known_tags, store, asked) if asked else ({}, [])
        if missing:
            detail = f"There is no tag {missing[0]} any more; it may have been removed."
            await socket.send_text(dump({"type": "refused", "detail": detail, "tags": missing}))
        return Subscription(
            tags=_only(found.values(), spec.tags), value_tags=_only(found.values(), spec.values),
            states=frozenset(states - denied), changes=_CHANGES in spec.topics,
        )  # fmt: skip


def _only(tags: Iterable[Tag], uids: Iterable[str]) -> dict[int, Tag]:
    wanted = set(uids)
    return {tag.tag_id: tag for tag in tags if tag.uid in wanted}


async def _pump(socket: WebSocket, hub: LiveHub, client: Client, asked: _Asked) -> None:
    """Sends what is to be told until the client leaves, or says what cannot be understood."""
    gone = asyncio.create_task(asked.listen(socket))
    try:
        while not gone.done():
            news = asyncio.create_task(client.wake.wait())
            await asyncio.wait({gone, news}, timeout=_ALIVE_S, return_when=asyncio.FIRST_COMPLETED)
            news.cancel()
            if gone.done():
                break
            try:
                await asked.serve(socket, hub)
            except StoreError:
                await _break_off(socket)
                return
            except CronacaError as exc:
                await _refuse(socket, str(exc))
                return
            with contextlib.suppress(WebSocketDisconnect, RuntimeError):
                for message in hub.next_messages(client) or [_ALIVE]:
                    await socket.send_text(message)
    finally:
        gone.cancel()

"""What a request has to pass before it is worked on: the size of its body, and a turn for heavy work.

Bodies are read before anything else is done, up to a limit for each route. Heavy work (figures, exports,
rehearsals) runs a few at a time, so that it can neither use up threads and connections nor memory, nor make
health and the live link wait. What waits too long, or behind too many, is told to come again later (503). A
client that leaves gives its turn back, and its work ends at its next step.
"""

from __future__ import annotations

import asyncio
import contextlib
import re
import threading
from collections.abc import AsyncIterator, Sequence
from contextlib import asynccontextmanager
from dataclasses import dataclass, field
from typing import Any, Final

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from cronaca.api.errors import response_of
from cronaca.core.errors import Cancelled, InvalidInput, Overloaded, TooLarge, WrongType
from cronaca.services import cancelling

_MEGABYTE: Final = 1 << 20
_MOST_BODY: Final = 1 * _MEGABYTE
_BODY_S: Final = 30.0
"""How long a body may take to come in."""
DEEPEST: Final = 64
"""Levels of a JSON body; what people send has a handful."""


@dataclass(frozen=True, slots=True)
class Rule:
    """What holds for the routes whose method and path match. `types`: how the type of a body may begin;
    other web pages cannot send these without asking first (Fetch standard, CORS-safelisted headers)."""

    pattern: re.Pattern[str]
    most_body: int = _MOST_BODY
    heavy: bool = False
    types: tuple[bytes, ...] = (b"application/json",)


def _rule(
    pattern: str, *, most_body: int = _MOST_BODY, heavy: bool = False,
    types: tuple[bytes, ...] = (b"application/json",),
) -> Rule:  # fmt: skip
    return Rule(re.compile(pattern), most_body, heavy, types)


_TABLES: Final = (
    b"text/csv", b"application/csv", b"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    b"application/vnd.ms-excel", b"application/octet-stream",
)  # fmt: skip


RULES: Final = (
    _rule(r"POST /api/setup/tags/import(/columns)?", most_body=40 * _MEGABYTE, heavy=True, types=_TABLES),
    _rule(r"POST /api/setup/document", most_body=40 * _MEGABYTE, heavy=True),
    _rule(r"(POST|PATCH) /api/setup/tags(/remove)?", most_body=16 * _MEGABYTE),
    _rule(r"(POST|PUT) /api/setup/(classes|equipment|loggers).*", most_body=8 * _MEGABYTE),
    _rule(r"POST /api/history/edits", most_body=16 * _MEGABYTE),
    _rule(r"POST /api/(figures(/explain)?|statistics/.*|series/made)", most_body=4 * _MEGABYTE, heavy=True),
    _rule(r"POST /api/setup/rehearse", heavy=True),
    _rule(r"POST /api/reports/make", heavy=True),
    _rule(r"GET /api/series/(raw|export)", heavy=True),
    _rule(r"GET /api/(records/.*|setup/tags)/export", heavy=True),
)
_PLAIN: Final = _rule("")


@dataclass
class Turns:
    """A few run at a time; the rest wait for a while, in order."""

    running: int
    most_waiting: int
    longest_wait_s: float
    _slots: asyncio.Semaphore = field(init=False)
    _waiting: int = 0

    def __post_init__(self) -> None:
        self._slots = asyncio.Semaphore(self.running)

    @property
    def waiting(self) -> int:
        """How many wait for their turn."""
        return self._waiting

    @asynccontextmanager
    async def take(self, gone: asyncio.Future[None]) -> AsyncIterator[None]:
        """Waits for a turn. Raises Overloaded, and Cancelled when the client left meanwhile."""
        retry_s = max(1, round(self.longest_wait_s))
        if self._slots.locked() and self._waiting >= self.most_waiting:
            raise Overloaded("this server", retry_s)
        self._waiting += 1
        turn = asyncio.ensure_future(self._slots.acquire())
        try:
            either: set[asyncio.Future[Any]] = {turn, gone}
            await asyncio.wait(either, timeout=self.longest_wait_s, return_when=asyncio.FIRST_COMPLETED)
        finally:
            self._waiting -= 1
        if not turn.done():
            turn.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await turn
                self._slots.release()  # it came at the last moment
            if gone.done():
                raise Cancelled("The client has left.")
            raise Overloaded("this server", retry_s)
        try:
            yield
        finally:
            self._slots.release()


class Admission:
    """ASGI middleware: bodies by size, heavy work by turns."""

    def __init__(self, app: ASGIApp, turns: Turns, rules: Sequence[Rule] = RULES) -> None:
        self._app = app
        self._turns = turns
        self._rules = rules

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Lets a request pass, or answers it."""
        if scope["type"] != "http" or not scope["path"].startswith("/api"):
            await self._app(scope, receive, send)
            return
        rule = self._rule_for(scope)
        try:
            body = await asyncio.wait_for(_read_body(scope, receive, rule.most_body), _BODY_S)
            _check_type(rule, body, _content_type(scope))
            check_depth(body, _content_type(scope))
        except Cancelled:
            return
        except TimeoutError:
            late = InvalidInput(
                "body",
                "did-not-come-within",
                "it did not come in within {body_s:g} s",
                "Send it in one go.",
                body_s=_BODY_S,
            )
            await response_of(late)(scope, receive, send)
            return
        except (TooLarge, InvalidInput, WrongType) as exc:
            await response_of(exc)(scope, receive, send)
            return
        await self._work_on(scope, rule, body, receive, send)

    async def _work_on(self, scope: Scope, rule: Rule, body: bytes, receive: Receive, send: Send) -> None:
        gone = threading.Event()
        left: asyncio.Future[None] = asyncio.get_running_loop().create_future()
        watcher = asyncio.create_task(_watch(receive, gone, left))
        cancelling.watch(gone)
        replay = _Replay(body, left)
        try:
            if rule.heavy:
                async with self._turns.take(left):
                    await self._app(scope, replay, send)
            else:
                await self._app(scope, replay, send)
        except Overloaded as exc:
            await response_of(exc)(scope, receive, send)
        except Cancelled:
            return
        finally:
            watcher.cancel()

    def _rule_for(self, scope: Scope) -> Rule:
        line = f"{scope['method']} {scope['path'].rstrip('/')}"
        return next((rule for rule in self._rules if rule.pattern.fullmatch(line)), _PLAIN)


async def _read_body(scope: Scope, receive: Receive, most: int) -> bytes:
    for name, value in scope["headers"]:
        if name == b"content-length" and value.isdigit() and int(value) > most:
            raise TooLarge(most)
    parts: list[bytes] = []
    size = 0
    while True:
        message = await receive()
        if message["type"] == "http.disconnect":
            raise Cancelled("The client has left.")
        parts.append(message.get("body", b""))
        size += len(parts[-1])
        if size > most:
            raise TooLarge(most)
        if not message.get("more_body", False):
            return b"".join(parts)


def _content_type(scope: Scope) -> bytes:
    return next((value for name, value in scope["headers"] if name == b"content-type"), b"")


def _check_type(rule: Rule, body: bytes, content_type: bytes) -> None:
    if body and not content_type.lower().startswith(rule.types):
        raise WrongType(rule.types[0].decode())


_STRINGS: Final = re.compile(rb'"(?:[^"\\]|\\.)*"')
_NO_BRACKET: Final = re.compile(rb"[^\[\]{}]+")


def check_depth(body: bytes, content_type: bytes) -> None:
    """Raises InvalidInput for JSON that is nested deeper than anybody means it: parsing it is what costs."""
    if b"json" not in content_type and body[:1] not in (b"[", b"{"):
        return
    if body.count(b"[") + body.count(b"{") <= DEEPEST:
        return
    depth = 0
    for bracket in _NO_BRACKET.sub(b"", _STRINGS.sub(b"", body)):
        depth += 1 if bracket in b"[{" else -1
        if depth > DEEPEST:
            raise InvalidInput(
                "body",
                "nested-deeper-levels",
                "it is nested deeper than {deepest} levels",
                "Reduce the nesting.",
                deepest=DEEPEST,
            )


async def _watch(receive: Receive, gone: threading.Event, left: asyncio.Future[None]) -> None:
    """Waits until the client leaves."""
    while True:
        message: Message = await receive()
        if message["type"] == "http.disconnect":
            gone.set()
            if not left.done():
                left.set_result(None)
            return


class _Replay:
    """Hands the body that was read on to the application, then waits for the client to leave."""

    def __init__(self, body: bytes, left: asyncio.Future[None]) -> None:
        self._body: bytes | None = body
        self._left = left

    async def __call__(self) -> Message:
        if self._body is not None:
            body, self._body = self._body, None
            return {"type": "http.request", "body": body, "more_body": False}
        await asyncio.shield(self._left)
        return {"type": "http.disconnect"}

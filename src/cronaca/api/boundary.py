"""The outermost layer of the application: no answer without the shape, whatever happens inside.

Every exception becomes a problem document; security headers stand on every answer; requests by other names
than this server's, or from other web pages, are turned away before anything is done.
"""

from __future__ import annotations

import ipaddress
import logging
import re
from collections.abc import Iterable
from typing import Final
from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from cronaca.api.errors import problem, unforeseen

_log = logging.getLogger(__name__)
_CHANGES: Final = frozenset({"POST", "PUT", "PATCH", "DELETE"})
_LONGEST_PATH: Final = 4_000
_POLICY_VIOLATION: Final = 1008
_HOST: Final = re.compile(r"(?:\[[0-9a-fA-F:.]+\]|[A-Za-z0-9._-]+)(?::\d{1,5})?")


class Boundary:
    """ASGI middleware around everything else."""

    def __init__(self, app: ASGIApp, hosts: Iterable[str]) -> None:
        """`hosts` are the names, without ports, under which the server is reached beside its addresses."""
        self._app = app
        self._hosts = frozenset(name.lower() for name in hosts)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Lets a request through, or answers it."""
        if scope["type"] == "http":
            await self._request(scope, receive, send)
        elif scope["type"] == "websocket":
            await self._socket(scope, receive, send)
        else:
            await self._app(scope, receive, send)

    async def _request(self, scope: Scope, receive: Receive, send: Send) -> None:
        begun = False

        async def sending(message: Message) -> None:
            nonlocal begun
            if message["type"] == "http.response.start":
                begun = True
                _secure(scope, MutableHeaders(scope=message))
            await send(message)

        refused = self._refused(scope) or self._foreign(scope, scope["method"] in _CHANGES)
        if refused is not None:
            status, name, title, detail = refused
            await problem(status, name, title, detail)(scope, receive, sending)
            return
        try:
            await self._app(scope, receive, sending)
        except Exception as exc:
            if begun:
                _log.error("An answer under way broke off", exc_info=exc)
                raise
            await unforeseen(exc)(scope, receive, sending)

    async def _socket(self, scope: Scope, receive: Receive, send: Send) -> None:
        refused = self._refused(scope) or self._foreign(scope, changes=True)
        if refused is not None:
            await receive()
            await send({"type": "websocket.close", "code": _POLICY_VIOLATION, "reason": refused[2][:120]})
            return
        try:
            await self._app(scope, receive, send)
        except Exception:  # noqa: BLE001 - the page connects anew; the log says why
            _log.exception("A live connection broke off")

    def _refused(self, scope: Scope) -> tuple[int, str, str, str] | None:
        """Why a request is not for this server: DNS rebinding reaches it under a name that is not its own."""
        host = Headers(scope=scope).get("host", "")
        if not _HOST.fullmatch(host) or not self._is_own(_name_of(host)):
            return (
                400, "unknown-host", "The request is for another host",
                "This server does not answer under that name. "
                "Use its address, or name the host in CRONACA_HOSTS.",
            )  # fmt: skip
        if len(scope["path"]) > _LONGEST_PATH or "\0" in scope["path"]:
            return 404, "not-found", "Not found", "There is no such address."
        return None

    def _is_own(self, name: str) -> bool:
        if name in self._hosts:
            return True
        try:
            ipaddress.ip_address(name)
        except ValueError:
            return False
        return True  # a literal address cannot be rebound

    def _foreign(self, scope: Scope, changes: bool) -> tuple[int, str, str, str] | None:
        """Why a change is refused: another web page in somebody's browser has sent it. Programs send neither
        of these headers."""
        if not changes:
            return None
        headers = Headers(scope=scope)
        origin, site = headers.get("origin"), headers.get("sec-fetch-site")
        own = origin is None or _same_host(origin, headers.get("host", ""))
        if own and site in (None, "same-origin", "none"):
            return None
        return (
            403, "foreign-origin", "Another web page has sent this",
            "Changes are taken from Cronaca's own pages and from programs only. Nothing was done.",
        )  # fmt: skip


def _name_of(host: str) -> str:
    name = host[1 : host.index("]")] if host.startswith("[") else host.partition(":")[0]
    return name.lower()


def _same_host(origin: str, host: str) -> bool:
    try:
        return urlsplit(origin).netloc.lower() == host.lower()
    except ValueError:
        return False


_POLICY: Final = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "
    "connect-src 'self'; frame-ancestors 'self'; base-uri 'self'; form-action 'self'; object-src 'none'"
)


def _secure(scope: Scope, headers: MutableHeaders) -> None:
    headers["Content-Security-Policy"] = _POLICY
    headers["X-Content-Type-Options"] = "nosniff"
    headers["Referrer-Policy"] = "same-origin"
    if scope["path"].startswith("/api"):
        # What the plant recorded is for who asked for it, and for no cache on the way.
        headers["Cache-Control"] = "no-store"

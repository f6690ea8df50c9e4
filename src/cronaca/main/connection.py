"""A browser's connection as uvicorn serves it, with a time limit for the head of a request and with what
cannot be read answered in the one shape of errors."""

from __future__ import annotations

import asyncio
import json
from typing import Any, Final

import h11
from uvicorn.protocols.http.h11_impl import H11Protocol

HEAD_S: Final = 15.0
"""How long the head of a request may take to come in, from its connection or its first byte on."""


class LimitedConnection(H11Protocol):
    """Closes a connection whose request does not begin in time: else each would hold a socket for ever."""

    head_s: float = HEAD_S
    _limit: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]  # as uvicorn has it
        """Also begins to wait for a head."""
        super().connection_made(transport)
        self._await_head()

    def connection_lost(self, exc: Exception | None) -> None:
        """Also ends the waiting."""
        self._end_waiting()
        super().connection_lost(exc)

    def data_received(self, data: bytes) -> None:
        """Also sees whether a head is complete, or a next one has begun."""
        super().data_received(data)
        if self.conn.their_state is not h11.IDLE:
            self._end_waiting()
        elif self._limit is None:
            self._await_head()

    def send_400_response(self, msg: str) -> None:
        """A problem document (RFC 9457) in place of a plain text."""
        body = json.dumps({
            "type": "urn:cronaca:problem:invalid-request", "title": "This is not HTTP", "status": 400,
            "detail": f"{msg} Send HTTP/1.1 with a head of at most 64 kB.", "errors": [],
        }).encode()  # fmt: skip
        headers = [(b"content-type", b"application/problem+json"), (b"connection", b"close")]
        headers += [(b"cache-control", b"no-store"), (b"content-length", str(len(body)).encode())]
        answer: list[Any] = [
            h11.Response(status_code=400, headers=headers, reason=b"Bad Request"),
            h11.Data(data=body), h11.EndOfMessage(),
        ]  # fmt: skip
        for event in answer:
            self.transport.write(self.conn.send(event) or b"")
        self.transport.close()

    def _await_head(self) -> None:
        self._limit = self.loop.call_later(self.head_s, self.transport.close)

    def _end_waiting(self) -> None:
        if self._limit is not None:
            self._limit.cancel()
            self._limit = None

"""A Modbus TCP device made of raw bytes, so that a test can have it answer in any wrong way."""

from __future__ import annotations

import contextlib
import socket
import struct
import threading
from collections.abc import Callable, Iterator

Behaviour = Callable[[bytes], Iterator[bytes | None]]
"""From a request to what is sent back, piece by piece; None: the connection is reset there."""


class RawDevice:
    """Listens on a free port; every request is answered as `behaviour` says at that moment."""

    def __init__(self, behaviour: Behaviour) -> None:
        self.behaviour = behaviour
        self.requests: list[bytes] = []
        self._listener = socket.create_server(("127.0.0.1", 0))
        self.port = int(self._listener.getsockname()[1])
        self._open: list[socket.socket] = []
        threading.Thread(target=self._accept, daemon=True).start()

    def close(self) -> None:
        self._listener.close()
        for one in self._open:
            with contextlib.suppress(OSError):
                one.shutdown(socket.SHUT_RDWR)
            one.close()

    def _accept(self) -> None:
        while True:
            try:
                connection, _ = self._listener.accept()
            except OSError:
                return
            self._open.append(connection)
            threading.Thread(target=self._serve, args=(connection,), daemon=True).start()

    def _serve(self, connection: socket.socket) -> None:
        with contextlib.suppress(OSError):
            while request := _read_request(connection):
                self.requests.append(request)
                for piece in self.behaviour(request):
                    if piece is None:
                        connection.setsockopt(socket.SOL_SOCKET, socket.SO_LINGER, struct.pack("ii", 1, 0))
                        connection.close()
                        return
                    connection.sendall(piece)


def _read_request(connection: socket.socket) -> bytes:
    head = _exactly(connection, 7)
    if len(head) < 7:
        return b""
    length = int.from_bytes(head[4:6], "big") - 1
    return head + _exactly(connection, length)


def _exactly(connection: socket.socket, count: int) -> bytes:
    data = b""
    while len(data) < count:
        piece = connection.recv(count - len(data))
        if not piece:
            return b""
        data += piece
    return data


def frame(request: bytes, pdu: bytes, *, transaction: int = 0, length: int | None = None) -> bytes:
    """An answer to a request: the header as it should be, unless said otherwise."""
    number = (int.from_bytes(request[:2], "big") + transaction) % 65_536
    size = len(pdu) + 1 if length is None else length
    return number.to_bytes(2, "big") + b"\0\0" + size.to_bytes(2, "big") + request[6:7] + pdu


def _count(request: bytes) -> int:
    return int.from_bytes(request[10:12], "big")


def well(request: bytes) -> Iterator[bytes | None]:
    """Answers as it should: every register holds its own address."""
    start, count = int.from_bytes(request[8:10], "big"), _count(request)
    data = b"".join((start + i).to_bytes(2, "big") for i in range(count))
    yield frame(request, request[7:8] + bytes([2 * count]) + data)


def short(request: bytes) -> Iterator[bytes | None]:
    """Fewer registers than asked for, in a frame that is right by itself."""
    count = max(_count(request) - 1, 0)
    yield frame(request, request[7:8] + bytes([2 * count]) + b"\0\1" * count)


def odd(request: bytes) -> Iterator[bytes | None]:
    """Half a register."""
    yield frame(request, request[7:8] + b"\x03abc")


def overlong(request: bytes) -> Iterator[bytes | None]:
    """More registers than asked for."""
    count = _count(request) + 5
    yield frame(request, request[7:8] + bytes([2 * count]) + b"\0\1" * count)


def cut(request: bytes) -> Iterator[bytes | None]:
    """The frame says more than it brings, and nothing follows."""
    yield frame(request, request[7:8] + b"\x10ab", length=19)


def other_transaction(request: bytes) -> Iterator[bytes | None]:
    for piece in well(request):
        assert piece is not None
        yield frame(request, piece[7:], transaction=7)


def other_function(request: bytes) -> Iterator[bytes | None]:
    yield frame(request, b"\x2b\x0e\x01\x00")


def garbage(request: bytes) -> Iterator[bytes | None]:
    yield bytes((7 * i + request[1]) % 256 for i in range(900))


def silence(request: bytes) -> Iterator[bytes | None]:
    yield from ()


def reset(request: bytes) -> Iterator[bytes | None]:
    """Half an answer, then the connection is gone."""
    for piece in well(request):
        assert piece is not None
        yield piece[: len(piece) // 2]
    yield None


def flood(request: bytes) -> Iterator[bytes | None]:
    """A million answers at once."""
    for piece in well(request):
        assert piece is not None
        for _ in range(1000):
            yield piece * 1000


def empty(request: bytes) -> Iterator[bytes | None]:
    """A frame without content."""
    yield frame(request, b"", length=0)


def exception(code: int) -> Behaviour:
    """Answers every request with an exception."""

    def behave(request: bytes) -> Iterator[bytes | None]:
        yield frame(request, bytes([request[7] | 0x80, code]))

    return behave

"""A TCP proxy that a test can cut: the network between a process and the database."""

from __future__ import annotations

import contextlib
import socket
import threading


class Proxy:
    """Forwards connections from a port of its own to a target, unless it is cut."""

    def __init__(self, host: str, port: int) -> None:
        self._target = (host, port)
        self._listener = socket.create_server(("127.0.0.1", 0))
        self.port = int(self._listener.getsockname()[1])
        self._pairs: list[tuple[socket.socket, socket.socket]] = []
        self._lock = threading.Lock()
        self._is_cut = False
        threading.Thread(target=self._accept, daemon=True).start()

    def cut(self) -> None:
        """Breaks every connection and refuses new ones."""
        with self._lock:
            self._is_cut = True
            pairs, self._pairs = self._pairs, []
        for pair in pairs:
            _end(*pair)

    def mend(self) -> None:
        """Forwards again."""
        with self._lock:
            self._is_cut = False

    def close(self) -> None:
        self._listener.close()
        self.cut()

    def _accept(self) -> None:
        while True:
            try:
                inner, _ = self._listener.accept()
            except OSError:
                return
            with self._lock:
                if self._is_cut:
                    inner.close()
                    continue
            try:
                outer = socket.create_connection(self._target, 5)
            except OSError:
                inner.close()
                continue
            outer.settimeout(None)
            with self._lock:
                self._pairs.append((inner, outer))
            for source, goal in ((inner, outer), (outer, inner)):
                threading.Thread(target=_forward, args=(source, goal), daemon=True).start()


def _forward(source: socket.socket, goal: socket.socket) -> None:
    with contextlib.suppress(OSError):
        while data := source.recv(65_536):
            goal.sendall(data)
    _end(source, goal)


def _end(*sockets: socket.socket) -> None:
    for one in sockets:
        with contextlib.suppress(OSError):
            one.shutdown(socket.SHUT_RDWR)
        one.close()

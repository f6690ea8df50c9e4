"""A port for a server of our own on loopback that nothing else takes before the server does."""

from __future__ import annotations

import secrets
import socket
from pathlib import Path
from typing import Final

from cronaca.core.errors import StoreError

_LOWEST: Final = 15_000
_TRIES: Final = 200
_OUTGOING: Final = Path("/proc/sys/net/ipv4/ip_local_port_range")


def find_free_port(preferred: int = 0) -> int:
    """The preferred port when it is free, else one below those that the operating system gives to outgoing
    connections: such a connection may take one of its range at any moment between this answer and the
    server's start. Raises StoreError where none is free."""
    if preferred and is_free(preferred):
        return preferred
    count = max(_first_outgoing() - _LOWEST, 1)
    for _ in range(_TRIES):
        port = _LOWEST + secrets.randbelow(count)
        if is_free(port):
            return port
    raise StoreError(f"No free port was found on loopback, from {_LOWEST} in {_TRIES} tries.")


def is_free(port: int) -> bool:
    """Whether a server could listen there on loopback now."""
    with socket.socket() as probe:
        # Else connections that have just ended would make a server move to another port.
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return False
        return True


def _first_outgoing() -> int:
    """The lowest port of outgoing connections, as Linux says it; its usual value elsewhere."""
    try:
        return int(_OUTGOING.read_text().split()[0])
    except (OSError, ValueError, IndexError):
        return 32_768

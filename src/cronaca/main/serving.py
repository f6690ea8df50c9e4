"""The server's process, and what describes its API."""

from __future__ import annotations

import ctypes
import socket
import sys
from typing import Any, Final

import uvicorn

from cronaca.api.app import ServerOptions, create_app
from cronaca.api.schemas import setup_file
from cronaca.db import Address, Store
from cronaca.main import keep_files_private, open_store
from cronaca.main.connection import LimitedConnection
from cronaca.main.supervisor import Heartbeat
from cronaca.settings import Settings

_M_TRIM_THRESHOLD: Final = -1
_M_MMAP_THRESHOLD: Final = -3
_M_ARENA_MAX: Final = -8
"""Options of glibc's mallopt (malloc.h)."""


def run_server(settings: Settings) -> None:
    """Serves API and front end until told to end."""
    keep_files_private()
    bound_memory()
    hosts = [name.strip() for name in settings.hosts.split(",") if name.strip()]
    options = ServerOptions(
        hosts=(*hosts, socket.gethostname()),
        doubt_below=settings.doubt_below,
        beat=Heartbeat(settings.heartbeat).beat,
    )
    app = create_app(open_store(settings), settings.web_dir, options)
    config = uvicorn.Config(
        app, host=settings.host, port=settings.port, log_level="warning", ws="websockets-sansio",
        timeout_graceful_shutdown=2, server_header=False, http=LimitedConnection,
        h11_max_incomplete_event_size=64 << 10,
    )  # fmt: skip
    uvicorn.Server(config).run()


def bound_memory() -> None:
    """Large arrays are given back to the system when they are freed. By itself the allocator keeps them in
    a pool for each thread (mallopt(3)), and a server that has computed much stays as large as it ever was."""
    if sys.platform != "linux":
        return
    mallopt = getattr(ctypes.CDLL(None), "mallopt", None)
    if mallopt is not None:
        for option, value in ((_M_ARENA_MAX, 2), (_M_MMAP_THRESHOLD, 1 << 20), (_M_TRIM_THRESHOLD, 8 << 20)):
            mallopt(option, value)


def openapi_document() -> dict[str, Any]:
    """The API's description; no database is needed for it."""
    nowhere = Store(Address("127.0.0.1", 3306, "nobody", "nothing"))
    return create_app(nowhere, Settings().web_dir).openapi()


def setup_file_schema() -> dict[str, Any]:
    """The JSON Schema of a set-up file."""
    return setup_file.setup_file_schema()

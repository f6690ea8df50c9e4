"""The server's process, and what describes its API."""

from __future__ import annotations

import getpass
import socket
from typing import Any

import uvicorn

from cronaca.api.app import ServerOptions, create_app
from cronaca.api.front_end import Brand
from cronaca.api.schemas import setup_file
from cronaca.core.errors import StoreError
from cronaca.core.model import HOUR, MINUTE
from cronaca.core.people import SessionLimits
from cronaca.db import Address, Store
from cronaca.main import keep_files_private, open_store
from cronaca.main.connection import LimitedConnection
from cronaca.main.memory import bound_memory
from cronaca.main.supervisor import Heartbeat
from cronaca.services.people import Passwords, People
from cronaca.settings import Settings


def run_server(settings: Settings) -> None:
    """Serves API and front end until told to end."""
    keep_files_private()
    bound_memory()
    hosts = [name.strip() for name in settings.hosts.split(",") if name.strip()]
    options = ServerOptions(
        hosts=(*hosts, socket.gethostname()),
        doubt_below=settings.doubt_below,
        base_path=settings.base_path,
        brand=Brand(settings.product_name, settings.accent_day, settings.accent_night),
        sessions=SessionLimits(settings.session_idle_min * MINUTE, settings.session_hours * HOUR),
        beat=Heartbeat(settings.heartbeat).beat,
    )
    app = create_app(open_store(settings), settings.web_dir, options)
    _print_first_code(app.state.people)
    config = uvicorn.Config(
        app, host=settings.host, port=settings.port, log_level="warning", ws="websockets-sansio",
        timeout_graceful_shutdown=2, server_header=False, http=LimitedConnection,
        h11_max_incomplete_event_size=64 << 10,
    )  # fmt: skip
    uvicorn.Server(config).run()


def _print_first_code(people: People) -> None:
    """Whoever sees this console may set up the first administrator."""
    try:
        is_needed = people.is_empty()
    except StoreError:
        is_needed = True  # it is of no use where there are accounts
    if is_needed:
        print(f"  Code for the first administrator (open the page):  {people.first_code}", flush=True)


def reset_at_machine(settings: Settings, name: str, password: str) -> None:
    """Gives an account another password; on record as done by the user of this machine."""
    people = People(open_store(settings), Passwords())
    people.reset_at_machine(name, password, f"{getpass.getuser()} at {socket.gethostname()}")


def openapi_document() -> dict[str, Any]:
    """The API's description; no database is needed for it."""
    nowhere = Store(Address("127.0.0.1", 3306, "nobody", "nothing"))
    return create_app(nowhere, Settings().web_dir).openapi()


def setup_file_schema() -> dict[str, Any]:
    """The JSON Schema of a set-up file."""
    return setup_file.setup_file_schema()

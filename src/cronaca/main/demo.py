"""The demo: the made-up plant, and all processes beside it."""

from __future__ import annotations

import asyncio
import ipaddress
import socket
import sys
import threading
import time
from datetime import UTC, datetime
from pathlib import Path
from typing import Final

from rich.progress import Progress

from cronaca.core.errors import NotFound
from cronaca.core.model import SECOND, Window
from cronaca.db import Store, parse_url
from cronaca.db.migrate import migrate
from cronaca.db.private_server import PrivateServer
from cronaca.demo.equipment import seed_class
from cronaca.demo.history import (
    LENGTH_US,
    LINES,
    NOT_SET_UP,
    join_recording,
    load_line,
    save_line,
    write_history,
)
from cronaca.demo.opcua_stand_in import SERVER_URI, Guard, OpcUaStandIn
from cronaca.demo.people import SignInData, seed_people
from cronaca.demo.plant import DryingLine
from cronaca.demo.seed import (
    UA_LINES,
    add_past_records,
    add_past_runs,
    seed,
    seed_calculated,
    seed_quality_samples,
    seed_records,
    seed_runs,
)
from cronaca.demo.stand_in import run_plant
from cronaca.main import BEHIND, keep_files_private, on_signal, set_priority, until_signal
from cronaca.main.supervisor import Supervisor
from cronaca.recorder.drivers.opcua import Identity
from cronaca.settings import Settings

_MOST_SILENT_S: Final = {"recorder": 60.0, "worker": 300.0, "server": 60.0}
"""A process that gives no sign of life for so long hangs. One step of the worker may take minutes."""
_MOST_WAIT_S: Final = 60.0
"""The first picture does not wait longer for values."""


def run_demo_plant(settings: Settings) -> None:
    """Serves the stand-in device until told to end."""
    keep_files_private(settings.data_dir)
    set_priority(BEHIND)
    line_file, guest_file = _plant_file(settings), settings.data_dir / "plant-5.npz"
    line, guest = load_line(line_file, _now_us()), load_line(guest_file, _now_us(), NOT_SET_UP)
    own = Identity(settings.data_dir / "plant-certificates", SERVER_URI)
    own.ensure()
    guard = Guard(own.key_file, own.certificate_file, open=True)
    server = OpcUaStandIn(settings.plant_ua_port, UA_LINES, guard=guard)

    async def work(stop: asyncio.Event) -> None:
        await run_plant([line, guest], settings.plant_port, settings.plant_speed, stop, server)

    asyncio.run(until_signal(work))
    if line_file.parent.is_dir():
        save_line(guest, guest_file, _now_us())
        save_line(line, line_file, _now_us())  # the next start goes on where the plant was


def run_demo(settings: Settings) -> None:
    """Starts database, plant, recorder, worker and server; prints the address; ends all in order."""
    keep_files_private(settings.data_dir)
    stop = threading.Event()
    on_signal(stop.set)
    database = None
    url = settings.database_url
    if not url:
        print("Starting the database ...", flush=True)
        database = PrivateServer(settings.data_dir / "mariadb")
        url = database.start().url
    try:
        _run_demo_on(settings, url, stop)
    finally:
        if database is not None:
            database.stop()


def _run_demo_on(settings: Settings, url: str, stop: threading.Event) -> None:
    port = free_port(settings.host, settings.port)
    plant_port = free_port("127.0.0.1", settings.plant_port)
    ua_port = free_port("127.0.0.1", settings.plant_ua_port)
    store = Store(parse_url(url))
    for name in migrate(store):
        print(f"Database: {name}", flush=True)
    made: tuple[DryingLine, int] | None = None
    if seed(store, plant_port, _now_us(), len(LINES), ua_port) and settings.demo_history:
        with _progress() as progress:
            task = progress.add_task("Writing 14 days of history of four lines", total=1.0)
            made = write_history(store, _now_us, lambda share: progress.update(task, completed=share))
        save_line(made[0], _plant_file(settings), made[1])
    seed_records(store, _now_us(), len(LINES))
    if made is not None:
        add_past_records(store, Window(made[1] - LENGTH_US, made[1]))
    seed_calculated(store, _now_us(), len(LINES))
    seed_runs(store, _now_us(), len(LINES))
    seed_class(store, _now_us(), len(LINES))
    seed_quality_samples(store, _now_us())
    people = _seed_people(settings, store)
    env = {
        "CRONACA_DATABASE_URL": url,
        "CRONACA_PORT": str(port),
        "CRONACA_PLANT_PORT": str(plant_port),
        "CRONACA_PLANT_UA_PORT": str(ua_port),
        "PYTHONUNBUFFERED": "1",
    }
    command = [sys.executable, "-m", "cronaca.cli"]
    parts = {name: [*command, name] for name in ("demo-plant", "recorder", "worker", "server")}
    supervisor = Supervisor(parts, env, _MOST_SILENT_S, settings.data_dir / "alive")
    try:
        # The plant answers before it is asked: else each start would leave a hole.
        supervisor.start("demo-plant")
        supervisor.watch(stop, until=lambda: _answers("127.0.0.1", plant_port))
        if stop.is_set():
            return
        supervisor.start()
        if made is not None:
            _join(store, supervisor, stop, *made)
        store.close()
        supervisor.watch(stop, until=lambda: _answers(settings.host, port))
        if not stop.is_set():
            print(f"\n  Cronaca is running:  http://{settings.host}:{port}/", flush=True)
            print(f"{_told(people)}\n  Ctrl-C ends it.\n", flush=True)
        supervisor.watch(stop)
    finally:
        supervisor.stop()


def _seed_people(settings: Settings, store: Store) -> SignInData | None:
    """People whose passwords are printed are made for this machine alone."""
    try:
        is_local = ipaddress.ip_address(settings.host).is_loopback
    except ValueError:
        is_local = settings.host == "localhost"
    return seed_people(store, settings.data_dir / "demo-people.json", _now_us) if is_local else None


def _told(people: SignInData | None) -> str:
    """With what to sign in."""
    if people is None:
        return "  Its passwords are not known here. Without an account the page asks for the first one."
    lines = [f"    {name:<14} {password}" for name, password in people.passwords.items()]
    ends = datetime.fromtimestamp(people.ends_us / SECOND, UTC).date()
    return "\n".join((
        "  To do more than look, sign in (with these, as long as nobody has changed them):", *lines,
        f"  Token for programs, as the engineer, until {ends}:\n    {people.token}",
    ))  # fmt: skip


def _join(
    store: Store, supervisor: Supervisor, stop: threading.Event, plant: DryingLine, since_us: int
) -> None:
    """Fills what lies between the history and the recorder's first samples, then finds its runs."""
    give_up = time.monotonic() + _MOST_WAIT_S
    windows: list[Window] = []

    def joined() -> bool:
        windows.extend(
            window for window in [join_recording(store, plant, since_us, _now_us)] if window is not None
        )
        return bool(windows) or time.monotonic() > give_up

    with _progress() as progress:
        progress.add_task("Waiting for the first values", total=None)
        supervisor.watch(stop, period_s=0.5, until=joined)
    if not windows:
        print("The sources do not answer yet: the last minute before the start stays empty.", flush=True)
    until_us = windows[0].end_us if windows else since_us
    add_past_runs(store, Window(since_us - LENGTH_US, until_us))


def _progress() -> Progress:
    return Progress(transient=True)


def _now_us() -> int:
    return time.time_ns() // 1000


def _plant_file(settings: Settings) -> Path:
    return settings.data_dir / "plant.npz"


def free_port(host: str, preferred: int) -> int:
    """The wanted port or the next free one after it (which is said); raises NotFound after 50 tries."""
    for port in range(preferred, min(preferred + 50, 65_536)):
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind((host, port))
            except OSError:
                continue
        if port != preferred:
            print(f"Port {preferred} is taken; using {port}.", flush=True)
        return port
    raise NotFound("free port", f"{preferred} to {preferred + 49}")


def _answers(host: str, port: int) -> bool:
    """Whether somebody takes connections there."""
    with socket.socket() as probe:
        return probe.connect_ex((host, port)) == 0

"""The whole application on free ports: database, device, recorder, worker, server as real processes."""

from __future__ import annotations

import asyncio
import json
import os
import signal
import subprocess
import sys
import threading
import time
import urllib.request
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from cronaca.core.model import Window
from cronaca.db import Address, Store
from cronaca.db.migrate import migrate
from cronaca.db.ports import find_free_port
from cronaca.demo.names import tag_uid
from cronaca.demo.opcua_stand_in import OpcUaStandIn
from cronaca.demo.seed import seed
from cronaca.demo.stand_in import ModbusStandIn
from cronaca.history.read.series import SeriesAnswer, SeriesReader
from cronaca.plant.tags import find_tags
from tests.support.signed_in import BEARER, sign_in_at

ROOT = Path(__file__).parents[2]
PARTS = ("recorder", "worker", "server")


def wait_for(condition: Callable[[], Any], seconds: float = 20.0, what: str = "it") -> Any:  # noqa: ANN401
    """The condition's first true answer."""
    deadline = time.monotonic() + seconds
    while True:
        found = condition()
        if found:
            return found
        assert time.monotonic() < deadline, f"{what} did not happen within {seconds} s"
        time.sleep(0.05)


def lasts(seconds: float) -> None:
    """Lets a fault, or an idle time, go on for so long: its length is tested, nothing is waited for."""
    time.sleep(seconds)


async def until(condition: Callable[[], object], seconds: float = 15.0) -> None:
    """Waits for it while the loop goes on."""
    await asyncio.to_thread(wait_for, condition, seconds)


async def goes_on(seconds: float) -> None:
    """Lets the loop go on for so long: what a test says of this time is that something does not happen."""
    await asyncio.sleep(seconds)


async def _end_others() -> None:
    """Ends what a library has left running."""
    others = asyncio.all_tasks() - {asyncio.current_task()}
    for task in others:
        task.cancel()
    await asyncio.gather(*others, return_exceptions=True)


class Device:
    """A stand-in, run by a loop in a thread so that a test can set values and switch it off."""

    def __init__(self, stand_in: ModbusStandIn | OpcUaStandIn | None = None) -> None:
        self._loop = asyncio.new_event_loop()
        self._thread = threading.Thread(target=self._loop.run_forever, daemon=True)
        self._thread.start()
        self._stand_in = stand_in or ModbusStandIn(port=find_free_port())
        self.port = self._stand_in.port

    def _do(self, work: Any) -> None:  # noqa: ANN401
        asyncio.run_coroutine_threadsafe(work, self._loop).result(60)

    def on(self) -> None:
        self._do(self._stand_in.start())

    def off(self) -> None:
        self._do(self._stand_in.stop())

    def set(self, values: Mapping[str, float]) -> None:
        one = self._stand_in
        self._do(one.set_values(values) if isinstance(one, ModbusStandIn) else one.set_values(1, values))

    def close(self) -> None:
        self.off()
        self._do(_end_others())
        self._loop.call_soon_threadsafe(self._loop.stop)
        self._thread.join()
        self._loop.close()


class Processes:
    """Parts of the program as processes of their own; each is known by its process."""

    def __init__(self, address: Address, folder: Path) -> None:
        self._address = address
        self._folder = folder
        self._processes: dict[str, subprocess.Popen[bytes]] = {}
        self.port = find_free_port()

    def start_part(self, name: str, called: str = "", prefix: Sequence[str] = (), **settings: str) -> None:
        """Starts a part as a process of its own; `called` tells a second one of the same kind apart."""
        env = {
            **os.environ,
            "PYTHONPATH": str(ROOT / "src"),
            "CRONACA_DATABASE_URL": self._address.url,
            "CRONACA_DATA_DIR": str(self._folder),
            "CRONACA_PORT": str(self.port),
            "CRONACA_WEB_DIR": str(ROOT / "web" / "dist"),
            **settings,
        }
        command = ["setpriv", "--pdeathsig", "KILL", *prefix, sys.executable, "-m", "cronaca.cli", name]
        with (self._folder / f"{called or name}.log").open("ab") as log:
            self._processes[called or name] = subprocess.Popen(command, env=env, stdout=log, stderr=log)

    def log(self, name: str) -> str:
        """What a part has printed."""
        return (self._folder / f"{name}.log").read_text(errors="replace")

    def pid(self, name: str) -> int:
        return self._processes[name].pid

    def alive(self, name: str) -> bool:
        return self._processes[name].poll() is None

    def signal(self, name: str, number: signal.Signals) -> None:
        self._processes[name].send_signal(number)

    def kill(self, name: str) -> None:
        """kill -9."""
        self._processes[name].kill()
        self._processes[name].wait()

    def end(self, name: str) -> int:
        """An orderly end; the exit code."""
        self._processes[name].send_signal(signal.SIGTERM)
        return self._processes[name].wait(15)

    def end_all(self) -> None:
        """Ends every process, last started first."""
        for process in reversed(self._processes.values()):
            if process.poll() is None:
                process.send_signal(signal.SIGCONT)
                process.terminate()
        for process in self._processes.values():
            process.wait(15)


class Application(Processes):
    """The whole: device, recorder, worker, server on one database."""

    def __init__(self, address: Address, folder: Path, lines: int = 1, *, has_people: bool = True) -> None:
        super().__init__(address, folder)
        self.device = Device()
        self.url = f"http://127.0.0.1:{self.port}"
        self.store = Store(address)
        migrate(self.store)
        seed(self.store, self.device.port, time.time_ns() // 1000, lines)
        if has_people:
            sign_in_at(self.store)

    def start(self) -> None:
        self.device.on()
        try:
            for name in PARTS:
                self.start_part(name)
            self.wait_until_well()
        except BaseException:
            self.stop()  # else they would run on, and slow down what comes after
            raise

    def wait_until_well(self) -> None:
        """Until every part is at work. Machines are shared: three processes that begin at once may get a
        fifth of a core."""
        wait_for(lambda: self.health().get("status") == "ok", 150, what="a healthy start")

    @contextmanager
    def running(self) -> Iterator[Application]:
        """Started, and ended with whatever uses it."""
        self.start()
        try:
            yield self
        finally:
            self.stop()

    def stop(self) -> None:
        self.end_all()
        self.device.close()
        self.store.close()

    def get(self, path: str) -> Any:  # noqa: ANN401
        return json.loads(self.download(path))

    def download(self, path: str) -> bytes:
        """What the server answers to the administrator who is signed in."""
        request = urllib.request.Request(f"{self.url}{path}", headers=BEARER)
        with urllib.request.urlopen(request, timeout=60) as answer:
            return bytes(answer.read())

    def send(self, method: str, path: str, body: object) -> Any:  # noqa: ANN401
        data, headers = json.dumps(body).encode(), {"Content-Type": "application/json", **BEARER}
        request = urllib.request.Request(f"{self.url}{path}", data, headers, method=method)
        with urllib.request.urlopen(request, timeout=20) as answer:
            return json.loads(answer.read() or b"null")

    def health(self) -> dict[str, Any]:
        try:
            return dict(self.get("/api/health"))
        except OSError:
            return {}

    def epoch(self) -> int:
        """The epoch of the recorder that is running, by what the server says; 0 when none is."""
        return int((self.health().get("recorder") or {}).get("epoch") or 0)

    def wait_for_setup(self) -> None:
        """Until the recorder works by the newest set-up."""

        def followed() -> bool:
            recorder = self.get("/api/recorder")
            return bool(recorder["revision"] == recorder["newest_revision"])

        wait_for(followed, 30, "the recorder's taking over of the set-up")

    def wait_for_history(self, signal_key: str, seconds: float, value: float | None = None) -> None:
        """Until a tag that is recorded every second has samples, of this value, over the last seconds."""

        def there() -> bool:
            now_us = time.time_ns() // 1000
            window = Window(now_us - round(seconds * 1e6), now_us)
            found = self.read(signal_key, window).recorded
            inside = found.values[found.ts_us >= window.start_us]
            return len(inside) >= seconds - 1 and (value is None or bool((inside == value).all()))

        wait_for(there, 30, f"{seconds} s of {signal_key}")

    def wait_for_readings(
        self, count: int, signal_key: str = "head_pressure", value: float | None = None
    ) -> None:
        """Until a tag that is recorded every second has so many more samples, of this value, than now."""
        begun_us = time.time_ns() // 1000

        def there() -> bool:
            found = self.read(signal_key, Window(begun_us, time.time_ns() // 1000 + 1)).recorded
            fit = found.ts_us >= begun_us
            if value is not None:
                fit &= found.values == value
            return int(fit.sum()) >= count

        wait_for(there, 30, f"{count} readings of {signal_key}")

    def read(self, signal_key: str, window: Window) -> SeriesAnswer:
        """The history of a signal, past the server."""
        (answer,) = self.read_uids([tag_uid(signal_key)], window)
        return answer

    def read_uids(self, uids: list[str], window: Window) -> list[SeriesAnswer]:
        """The histories of tags by uid."""
        with self.store.snapshot() as tx:
            found = find_tags(tx, uids)
        return SeriesReader(self.store).read_many([found[uid].tag_id for uid in uids], window)

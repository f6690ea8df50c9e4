"""Heavy requests, sixty-four at once: what health, the live link and memory do meanwhile."""

from __future__ import annotations

import http.client
import json
import re
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import psutil
from tests.support.application import Processes, wait_for
from tests.support.builders import a_flush, a_tag, plant_with
from tests.support.signed_in import BEARER, sign_in_at
from websockets.sync.client import connect

from bench.data import p95, wave
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import DAY, SECOND, Series, Window
from cronaca.db import Store
from cronaca.db.migrate import migrate
from cronaca.db.private_server import PrivateServer
from cronaca.history.write.bulk import backfill
from cronaca.services.sink import StoreSink

TAGS = 30
DAYS = 14
AT_ONCE = 64
SETTLE_S = 12.0
"""The server makes its description after its start."""
QUIET_S = 5.0
DOCUMENT = Path("docs/benchmarks.md")
HEADING = "## Heavy requests at once"


@dataclass
class Found:
    """What was seen. Times in ms, memory in MB."""

    quiet_p95: float
    busy_p95: float
    busy_longest: float
    live_longest: float
    answered: int
    refused: int
    other: int
    seconds: float
    memory: float
    after_left: float


class _Load:
    def __init__(self, folder: Path) -> None:
        self.server = PrivateServer(folder / "load")
        self.store = Store(self.server.start(), timeout_s=60)
        migrate(self.store)
        sign_in_at(self.store)
        self.end_us = time.time_ns() // 1000 // DAY * DAY
        tags = [a_tag(f"tag {i}") for i in range(TAGS)]
        self.keys = plant_with(self.store, tags, 0)
        self.uids = [tag.uid for tag in tags]
        start_us = self.end_us - DAYS * DAY
        for i, key in enumerate(self.keys.values()):
            self._fill(key, start_us, i)
        self.sink = StoreSink(self.store)
        self.epoch = self.sink.open_epoch("bench", self.end_us) or 1
        self.seq = 0
        self.parts = Processes(self.store.address, folder)
        self.parts.start_part("server")
        wait_for(lambda: self.status("GET", "/api/alive") == 200, 60, "the server")

    def _fill(self, key: HistoryKey, start_us: int, seed: int) -> None:
        series = wave(DAYS * DAY // SECOND, seed)
        moved = Series(
            series.value_type, series.ts_us - series.ts_us[0] + start_us, series.values, series.quality
        )
        window = Window(start_us, self.end_us)
        for first in range(0, len(moved), 400_000):
            backfill(self.store, {key: moved.take(slice(first, first + 400_000))}, window)

    def status(self, method: str, path: str, body: object = None, timeout: float = 120.0) -> int:
        connection = http.client.HTTPConnection("127.0.0.1", self.parts.port, timeout=timeout)
        try:
            data = None if body is None else json.dumps(body)
            connection.request(method, path, data, {"Content-Type": "application/json", **BEARER})
            answer = connection.getresponse()
            answer.read()
            return answer.status
        except OSError:
            return 0
        finally:
            connection.close()

    def heavy(self) -> dict[str, object]:
        """Thirty tags, four figures, a fortnight by the hour, from samples alone."""
        return {
            "tags": self.uids, "exact": True,
            "windows": [{
                "start_us": str(self.end_us - DAYS * DAY), "end_us": str(self.end_us),
                "split": {"interval_us": 3600 * SECOND},
            }],
            "figures": [{"stat": s} for s in ("TimeAverage", "Minimum", "Maximum", "PercentGood")],
        }  # fmt: skip

    def commit(self) -> None:
        self.seq += 1
        now_us = time.time_ns() // 1000
        series = {k: Series.of(wave(1, 0).value_type, [now_us], [1.0]) for k in list(self.keys.values())[:4]}
        self.sink.commit(a_flush(self.epoch, self.seq, series, now_us))

    @property
    def process(self) -> psutil.Process:
        return psutil.Process(self.parts._processes["server"].pid)


def _health_times(load: _Load, until: threading.Event) -> list[float]:
    times = []
    while not until.is_set():
        start = time.perf_counter()
        load.status("GET", "/api/health", timeout=60)
        times.append((time.perf_counter() - start) * 1000)
        time.sleep(0.1)
    return times


def _most_memory(load: _Load, until: threading.Event) -> float:
    most = 0
    while not until.wait(0.2):
        most = max(most, load.process.memory_info().rss)
    return most / 1e6


def _live_gaps(load: _Load, until: threading.Event) -> float:
    longest, last = 0.0, time.perf_counter()
    with connect(f"ws://127.0.0.1:{load.parts.port}/api/live", additional_headers=BEARER) as socket:
        socket.send(json.dumps({"tags": load.uids[:4], "after": None}))
        while not until.is_set():
            load.commit()
            try:
                socket.recv(timeout=0.4)
            except TimeoutError:
                continue
            now = time.perf_counter()
            longest, last = max(longest, now - last), now
    return longest * 1000


def measure(folder: Path) -> Found:
    """One run: quiet, then under load, then after the clients have left."""
    load = _Load(folder)
    try:
        quiet = _quiet(load)
        over = threading.Event()
        with ThreadPoolExecutor(AT_ONCE + 3) as pool:
            health, live = pool.submit(_health_times, load, over), pool.submit(_live_gaps, load, over)
            most = pool.submit(_most_memory, load, over)
            start = time.perf_counter()
            asked = [
                pool.submit(load.status, "POST", "/api/figures", load.heavy(), 300.0) for _ in range(AT_ONCE)
            ]
            statuses = [one.result() for one in asked]
            seconds = time.perf_counter() - start
            over.set()
            times, longest = health.result(), live.result()
            memory = most.result()
        after = _after_leaving(load)
        return Found(
            quiet, p95(times), max(times), longest, statuses.count(200), statuses.count(503),
            AT_ONCE - statuses.count(200) - statuses.count(503), seconds, memory, after,
        )  # fmt: skip
    finally:
        load.parts.end_all()
        load.store.close()
        load.server.stop()


def _quiet(load: _Load) -> float:
    time.sleep(SETTLE_S)
    over = threading.Event()
    timer = threading.Timer(QUIET_S, over.set)
    timer.start()
    return p95(_health_times(load, over))


def _after_leaving(load: _Load) -> float:
    """Share of a core that the server takes 5 s after all clients left in mid-work."""
    with ThreadPoolExecutor(8) as pool:
        list(pool.map(lambda _: load.status("POST", "/api/figures", load.heavy(), 1.0), range(8)))
    time.sleep(5.0)
    return load.process.cpu_percent(2.0) / 100


def section(found: Found) -> list[str]:
    """The table for the document."""
    return [
        HEADING, "",
        f"{AT_ONCE} requests at once, each for {TAGS} tags x 4 figures x {DAYS} days by the hour from "
        "samples alone (36 million samples); server, database and clients on the same two cores. Bars: "
        "health p95 at most 500 ms beyond quiet, memory at most 600 MB, nothing running 5 s after clients "
        "left.", "",
        "| What | Seen |", "| --- | --- |",
        f"| health p95, quiet | {found.quiet_p95:.0f} ms |",
        f"| health p95 / longest, under load | {found.busy_p95:.0f} / {found.busy_longest:.0f} ms |",
        f"| longest silence of the live link under load | {found.live_longest:.0f} ms |",
        f"| answered / refused with 503 and Retry-After / anything else | "
        f"{found.answered} / {found.refused} / {found.other} |",
        f"| until the last was answered | {found.seconds:.0f} s |",
        f"| most memory that the server took | {found.memory:.0f} MB |",
        f"| share of a core 5 s after all clients left | {found.after_left:.2f} |",
    ]  # fmt: skip


def write(lines: list[str]) -> None:
    """Puts a section, which begins with its heading, into the document in place of the one before."""
    text = DOCUMENT.read_text()
    found = re.search(re.escape(lines[0]) + r".*?(?=\n## |\Z)", text, re.DOTALL)
    new = "\n".join(lines) + "\n"
    DOCUMENT.write_text(text[: found.start()] + new + text[found.end() :] if found else f"{text}\n{new}")


if __name__ == "__main__":
    import tempfile

    with tempfile.TemporaryDirectory() as folder:
        lines = section(measure(Path(folder)))
        print("\n".join(lines))
        write(lines)

"""Logger rules at work on 10,000 tags, and replayed over a month: `python -m bench.rules [seconds]`."""

from __future__ import annotations

import asyncio
import sys
import tempfile
import time
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np
from tests.support.builders import a_tag, plant_with

from bench.data import wave
from bench.live import cpu_seconds
from cronaca.core.logger_rules import replay, rule_for
from cronaca.core.model import SECOND, LoggerMode, RuleKind, RuleSpec, Tag
from cronaca.core.outputs import SafeRecord
from cronaca.core.ports import Flush
from cronaca.core.readings import Values
from cronaca.db import Store
from cronaca.db.migrate import migrate
from cronaca.db.private_server import PrivateServer
from cronaca.history.tables.current import BLOCK
from cronaca.plant.whole import read_setup
from cronaca.recorder.clock import AnchoredClock
from cronaca.recorder.drivers.generator import GeneratorDriver
from cronaca.recorder.engine import Outlet, Recorder
from cronaca.recorder.outputs.spool import Spool
from cronaca.services.control import read_histories
from cronaca.services.sink import StoreSink

TAGS = 10_000
TITLE = "## Logger rules"
RULES = {
    "every change": RuleSpec(),
    "deadband 0.5": RuleSpec(width=0.5),
    "deadband 0.5, at most one in 10 s, extremes kept": RuleSpec(
        width=0.5, rate_limit_us=10 * SECOND, keep_extremes=True
    ),
    "straight lines within 0.5": RuleSpec(kind=RuleKind.LINE, width=0.5),
}


class _TimedSink(StoreSink):
    """Notes how long each commit took."""

    def __init__(self, store: Store) -> None:
        super().__init__(store)
        self.seconds: list[float] = []

    def commit(self, flush: Flush) -> tuple[SafeRecord, ...]:
        started = time.perf_counter()
        found = super().commit(flush)
        self.seconds.append(time.perf_counter() - started)
        return found


def measure_live_rules(folder: Path, length_s: float) -> list[str]:
    """10,000 generated tags at 1 Hz, a fifth of them by each rule and by the clock."""
    server = PrivateServer(folder / "rules")
    store = Store(server.start(), timeout_s=60)
    migrate(store)
    plant_with(store, [a_tag(f"tag {i}") for i in range(TAGS)], 0)
    with store.snapshot() as tx:
        facts, histories = read_setup(tx), read_histories(tx)
    (clock_logger,) = facts.loggers
    kinds = [None, *RULES.values()]
    loggers = [
        replace(
            clock_logger, logger_id=i + 1, tags=clock_logger.tags[i :: len(kinds)],
            **({} if rule is None else {"mode": LoggerMode.ON_CHANGE, "interval_us": 0, "rule": rule}),
        )
        for i, rule in enumerate(kinds)
    ]  # fmt: skip
    sink, clock = _TimedSink(store), AnchoredClock()
    recorder = Recorder(
        replace(facts, loggers=tuple(loggers)), lambda _: _Waves(clock), histories,
        Outlet(sink, Spool(folder / "rules-spool"), "bench"), block=BLOCK, clock=clock,
    )  # fmt: skip
    share = asyncio.run(_run(recorder, length_s))
    with store.snapshot() as tx:
        ((samples,),) = tx.fetch("SELECT SUM(sample_count) FROM journal")
    late = recorder.late_scans
    store.close()
    server.stop()
    slowest = max(sink.seconds[2:]) * 1000
    return [
        f"10,000 tags, slow waves with noise, read once a second over {length_s:g} s, a fifth recorded by",
        f"the clock, a fifth by each rule below: **{share:.2f} of a core** (bar 0.6), {late} late scans,",
        f"{int(samples) / length_s:.0f} samples a second kept, {len(sink.seconds)} commits, the",
        f"slowest {slowest:.0f} ms.",
    ]


class _Waves(GeneratorDriver):
    """Slow waves with noise, made for all tags at once: the device is not what is measured."""

    def __init__(self, clock: AnchoredClock) -> None:
        super().__init__(clock)
        self._noise = np.random.default_rng(1)

    async def read(self, tags: Sequence[Tag]) -> Values:
        seconds = self._clock.now_us() / SECOND
        phase = np.arange(len(tags)) / len(tags)
        values = 50 + 40 * np.sin(2 * np.pi * (seconds / 600 + phase)) + self._noise.normal(0, 0.1, len(tags))
        return Values(np.round(values, 2).view(np.int64), np.zeros(len(tags), np.uint16))


async def _run(recorder: Recorder, length_s: float) -> float:
    stop = asyncio.Event()
    task = asyncio.create_task(recorder.run(stop))
    await asyncio.sleep(5)
    before = cpu_seconds()
    await asyncio.sleep(length_s)
    used = cpu_seconds() - before
    stop.set()
    await task
    return used / length_s


def measure_replays() -> list[str]:
    """A month at 1 Hz through each rule."""
    readings = wave(30 * 86_400, 1)
    tag = a_tag("signal")
    lines = [
        "| a month at 1 Hz (2.6 million readings) by | kept | replayed in (bar 5 s) |",
        "| --- | --- | --- |",
    ]
    for name, spec in RULES.items():
        started = time.perf_counter()
        kept = replay(rule_for(spec, tag), readings)
        lines.append(f"| {name} | {len(kept) / len(readings):.1%} | {time.perf_counter() - started:.1f} s |")
    return lines


def write_section(length_s: float) -> None:
    """Puts the measured section at the end of docs/benchmarks.md, in place of an older one."""
    with tempfile.TemporaryDirectory() as folder:
        live = measure_live_rules(Path(folder), length_s)
    section = [TITLE, "", *live, "", *measure_replays(), ""]
    page = Path("docs/benchmarks.md")
    before = page.read_text().partition(TITLE)[0].rstrip()
    page.write_text(f"{before}\n\n" + "\n".join(section))


if __name__ == "__main__":
    write_section(float(sys.argv[1]) if len(sys.argv) > 1 else 600.0)

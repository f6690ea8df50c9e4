"""Nothing ends unseen: a thread, task, logger or process that dies is said with its cause, and begun anew."""

from __future__ import annotations

import ast
import asyncio
import os
import signal
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from cronaca.api.background import Background
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import StoreRejected
from cronaca.core.model import SECOND, GapReason, LoggerMode, SourceSetup, ValueType
from cronaca.core.outputs import CoverageMark, SafeRecord
from cronaca.core.ports import Control, Flush, News, RecorderReport, Request
from cronaca.core.readings import Readings
from cronaca.core.setup.whole import Setup
from cronaca.db import Store
from cronaca.logbook.background import StoreBackground
from cronaca.main.supervisor import Supervisor
from cronaca.recorder.engine import Outlet, Recorder
from cronaca.recorder.live import LiveTable
from cronaca.recorder.outputs.spool import Spool
from cronaca.recorder.stages.calculations import Calculator
from cronaca.recorder.stages.on_change import ChangeLogger
from cronaca.recorder.stages.stage import Moment
from cronaca.worker.loop import run_loop
from tests.recorder.test_calculations import CALCULATED, DEVICE_1, context_of, formula
from tests.support.application import ROOT, Processes, until, wait_for
from tests.support.builders import NOW, a_logger, a_tag, plant_with
from tests.support.fakes import FakeDriver, FakeSink, always
from tests.support.signed_in import app_of

TAGS = tuple(a_tag(f"t{i}", tag_id=i, scan_us=SECOND // 20) for i in (1, 2))
SOURCE = SourceSetup(1, "u", "Line 1", "fake", "{}", True)
HISTORIES = {(1, i): (HistoryKey(1, i, 1), ValueType.FLOAT) for i in (1, 2)}
CHANGES = a_logger(1, "c", "on change", 1, LoggerMode.ON_CHANGE, 0, (1,))
TICKS = a_logger(2, "p", "periodic", 1, LoggerMode.PERIODIC, SECOND // 10, (2,))
PLAN = Setup((SOURCE,), TAGS, (CHANGES, TICKS))


def a_recorder(sink: FakeSink, folder: Path, control: Control | None = None) -> Recorder:
    out = Outlet(sink, Spool(folder), "test", control)
    return Recorder(PLAN, always(FakeDriver()), HISTORIES, out, block=256)


async def test_a_flusher_that_dies_ends_the_recorder_with_its_cause(tmp_path: Path) -> None:
    class Broken(FakeSink):
        def close_epoch(self, epoch: int, known_until_us: int, reason: str) -> None:
            raise AssertionError("nobody asked")

        def commit(self, flush: Flush) -> tuple[SafeRecord, ...]:
            raise MemoryError("no more")

    with pytest.raises(MemoryError, match="no more"):
        await asyncio.wait_for(a_recorder(Broken(), tmp_path).run(asyncio.Event()), 20)


def test_a_recorder_whose_flusher_dies_exits_with_a_code_and_the_cause(store: Store, tmp_path: Path) -> None:
    """As a process: it ended with 0 and no word before."""
    plant_with(store, [a_tag("t")], NOW)
    parts = Processes(store.address, tmp_path)
    (tmp_path / "sitecustomize.py").write_text(
        "import cronaca.services.sink as sink\n"
        "def broken(*_): raise MemoryError('no more')\n"
        "sink.StoreSink.commit = broken\n"
    )
    parts.start_part("recorder", PYTHONPATH=f"{tmp_path}:{ROOT / 'src'}")
    assert parts._processes["recorder"].wait(40) not in (0, None)
    assert "MemoryError: no more" in (tmp_path / "recorder.log").read_text()


async def test_a_logger_that_fails_is_set_aside_and_said_and_the_others_go_on(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    broken = [True]
    whole = ChangeLogger.on

    def on(self: ChangeLogger, readings: Readings) -> None:
        if broken[0]:
            raise ZeroDivisionError("a rule")
        whole(self, readings)

    monkeypatch.setattr(ChangeLogger, "on", on)
    monkeypatch.setattr("cronaca.recorder.stages.logger_set._RETRY_US", SECOND)
    sink, stop = FakeSink(), asyncio.Event()
    task = asyncio.create_task(a_recorder(sink, tmp_path).run(stop))
    await until(lambda: newest(sink) and "ZeroDivisionError" in " ".join(newest(sink).faults))
    state = next(one for one in newest(sink).loggers if one.logger_id == 1)
    assert (state.state, state.why) == ("failed", "fault")
    marks = [mark for flush in sink.flushes for mark in flush.of(CoverageMark)]
    assert any(m.reason is GapReason.LOGGER_FAILED and m.keys == (HistoryKey(1, 1, 1),) for m in marks)
    await until(lambda: sum(tag == 2 for tag, *_ in sink.samples()) > 10)
    broken[0] = False
    await until(lambda: any(tag == 1 for tag, *_ in sink.samples()))
    await until(lambda: newest(sink).faults == ())
    stop.set()
    await task


def newest(sink: FakeSink) -> RecorderReport:
    return sink.flushes[-1].report if sink.flushes else None  # type: ignore[return-value]


async def test_what_is_asked_of_a_recorder_may_fail_and_is_answered(tmp_path: Path) -> None:
    class Asked:
        """One request at first, and a set-up that cannot be taken up."""

        def __init__(self) -> None:
            self.answers: list[str] = []
            self.looks = 0

        def look(self, revision: int) -> News:
            self.looks += 1
            if self.looks == 1:
                return News(revision, requests=(Request(1, "browse", "not json"),))
            if self.looks == 2:
                raise StoreRejected("no such table")
            if self.looks == 3:
                return News(9, PLAN, {})  # there is no history for its loggers
            return News(9)

        def answer(self, number: int, content: str) -> None:
            self.answers.append(content)

    control, sink, stop = Asked(), FakeSink(), asyncio.Event()
    task = asyncio.create_task(a_recorder(sink, tmp_path, control).run(stop))
    await until(lambda: control.looks > 5)
    await until(lambda: control.answers and newest(sink).faults)
    assert '"ok": false' in control.answers[0]
    assert "no such table" in " ".join(newest(sink).faults)
    before = len(sink.flushes)
    await until(lambda: len(sink.flushes) > before + 1)
    stop.set()
    await task


def test_a_formula_that_fails_is_bad_alone(monkeypatch: pytest.MonkeyPatch) -> None:
    a = a_tag("a", tag_id=1)
    good, bad = formula(8, "a + 1", a=a), formula(9, "a * 2", a=a)
    live = LiveTable([a, good, bad], NOW, 256)
    calculator = Calculator(live)
    setup = Setup((DEVICE_1, CALCULATED), (a, good, bad), ())
    calculator.follow(setup, context_of(live, setup), NOW)
    whole = calculator._results

    def results(work: object, limit_us: int) -> object:
        if work.tag.tag_id == 9:  # type: ignore[attr-defined]
            raise ZeroDivisionError("a step")
        return whole(work, limit_us)  # type: ignore[arg-type]

    monkeypatch.setattr(calculator, "_results", results)
    made = calculator.on_time(Moment(NOW + SECOND, NOW + SECOND, {1: NOW + SECOND}))
    codes = {
        int(live.tag_ids[slot]): int(code)
        for readings in made
        for slot, code in zip(readings.slots.tolist(), readings.quality.tolist(), strict=True)
    }
    assert codes[9] == 0x8089
    assert 8 in codes and codes[8] != 0x8089
    assert "ZeroDivisionError" in calculator.unusable([9])


class TestServer:
    async def test_a_task_that_dies_is_noticed_and_begun_anew(self) -> None:
        background, begun = Background(), 0

        async def work() -> None:
            nonlocal begun
            begun += 1
            if begun < 3:
                raise KeyError("gone")
            await asyncio.Event().wait()

        background.start("work", work)
        await until(lambda: begun == 3)
        assert "KeyError" in background.failures["work"]
        await background.stop()

    def test_health_tells_of_a_task_that_died_within_five_seconds(
        self, store: Store, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        app = app_of(store, tmp_path)

        async def broken() -> None:
            raise KeyError("the follower")

        monkeypatch.setattr(app.state.hub, "look_once", broken)
        with TestClient(app) as client:
            wait_for(lambda: client.get("/api/health").json()["faults"], 5, "health to tell")
            health = client.get("/api/health").json()
            page = client.get("/api/recorder").json()
        assert health["status"] == "degraded"
        assert health["faults"] == ["live"]
        assert "The task live failed" in page["faults"][0], "the reason is on the recorder page"

    def test_every_task_that_is_begun_is_looked_after(self) -> None:
        """Tasks and threads are begun in few places; each of them keeps what ended it."""
        known = {
            "api/background.py", "api/admission.py", "api/routes/live.py", "api/routes/figures.py",
            "api/streaming.py", "recorder/engine.py", "recorder/work.py", "recorder/devices/follow.py",
            "recorder/outputs/flush.py", "main/demo.py", "demo/stand_in.py", "demo/opcua_stand_in.py",
            "worker/jobs.py",
        }  # fmt: skip
        found = set()
        for path in (ROOT / "src/cronaca").rglob("*.py"):
            for node in ast.walk(ast.parse(path.read_text())):
                name = getattr(getattr(node, "func", None), "attr", "")
                if name in ("create_task", "ensure_future", "Thread"):
                    found.add(str(path.relative_to(ROOT / "src/cronaca")))
        assert found <= known, "a new place begins a task: see that its end is noticed, then name it here"


class TestCompactor:
    def test_one_that_fails_is_said_with_its_cause_and_goes_on(self, store: Store, tmp_path: Path) -> None:
        stop, mended = threading.Event(), threading.Event()

        class Works:
            def compact_step(self) -> int:
                if not mended.is_set():
                    raise ValueError("a segment cannot be read")
                return 0

            problem = ""

            def build_some(self, seconds: float, stop: Callable[[], bool]) -> int:
                return 0

            def run_all(self) -> None:
                return

            def make_due(self, beat: Callable[[], None]) -> int:
                return 0

        work, background = Works(), StoreBackground(store, "worker", "test/1")
        thread = threading.Thread(
            target=run_loop, args=(work, work, work, work, stop, 0.5), kwargs={"background": background}
        )
        thread.start()
        try:
            with TestClient(app_of(store, tmp_path)) as client:
                wait_for(lambda: worker(client)["state"] == "failing")
                assert "a segment cannot be read" in worker(client)["detail"]
                health = client.get("/api/health").json()
                assert (health["status"], health["worker"]) == ("degraded", {"state": "failing"})
                mended.set()
                wait_for(lambda: worker(client)["state"] == "running")
        finally:
            stop.set()
            thread.join()


def worker(client: TestClient) -> dict[str, str]:
    return dict(client.get("/api/recorder").json()["worker"])


class TestSupervisor:
    def test_a_process_that_hangs_is_killed_and_started_again(self, tmp_path: Path) -> None:
        program = (
            "import sys, time; sys.path[:0] = ['src']\n"
            "from pathlib import Path; import os\n"
            "from cronaca.main.supervisor import HEARTBEAT, Heartbeat\n"
            "beat = Heartbeat(Path(os.environ[HEARTBEAT]))\n"
            "while True:\n    beat.beat(); time.sleep(0.05)\n"
        )
        supervisor = Supervisor({"a": [sys.executable, "-c", program]}, {}, {"a": 4.0}, tmp_path)
        stop = threading.Event()
        supervisor.start()
        watcher = threading.Thread(target=supervisor.watch, args=(stop, 0.05))
        watcher.start()
        wait_for((tmp_path / "a.alive").exists)
        first = supervisor.pid_of("a")
        assert first is not None
        until_s = time.monotonic() + 5.0
        while time.monotonic() < until_s:
            assert supervisor.pid_of("a") == first, "one that lives is left alone"
            time.sleep(0.2)
        os.kill(first, signal.SIGSTOP)
        wait_for(lambda: supervisor.pid_of("a") not in (None, first), 30)
        stop.set()
        watcher.join()
        supervisor.stop()

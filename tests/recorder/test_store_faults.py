"""The recorder's clock and the worker's death, on the real store."""

from __future__ import annotations

import asyncio
import time
from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path

import numpy as np

from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import SECOND, GapReason, Series, ValueType, Window
from cronaca.db import Store
from cronaca.db.private_server import PrivateServer
from cronaca.history.read.series import SeriesReader
from cronaca.history.tables import gaps, journal
from cronaca.plant.histories import list_histories
from cronaca.plant.whole import read_setup
from cronaca.recorder.clock import AnchoredClock
from cronaca.recorder.engine import Outlet, Recorder
from cronaca.recorder.outputs.spool import Spool
from cronaca.services.sink import StoreSink
from tests.support.application import Processes, until, wait_for
from tests.support.builders import NOW, a_flush, a_tag, plant_with, remade
from tests.support.fakes import FakeDriver, always


async def test_a_clock_set_back_and_forth_loses_nothing(store: Store, tmp_path: Path) -> None:
    """On the real store, with a wall clock that jumps an hour ahead, then two hours back."""
    count, ahead = await record_over_steps(store, tmp_path, [3600, -7200, 30, -30])
    assert count > 60, "it goes on at once after each step, back too"
    assert ahead == 2, "the two steps ahead tore a hole each"


async def record_over_steps(store: Store, folder: Path, steps: Sequence[int]) -> tuple[int, int]:
    """Records ten times a second while the clock is set by each of these steps in seconds, the next one when
    the last is on record; how many samples are there, and how many gaps say that the clock was set."""
    tag = a_tag("t", scan_us=SECOND // 10)
    key = plant_with(store, [tag], 0)["t"]
    with store.snapshot() as tx:
        plant_setup = read_setup(tx)
        histories = {(h.key.archive_id, h.key.tag_id): (h.key, h.value_type) for h in list_histories(tx)}
    fast = remade(plant_setup.loggers[0], interval_us=SECOND // 10)
    offset = [time.time_ns() - time.monotonic_ns()]
    clock = AnchoredClock(lambda: time.monotonic_ns() + offset[0])
    out = Outlet(StoreSink(store), Spool(folder), "test")
    recorder = Recorder(
        replace(plant_setup, loggers=(fast,)), always(FakeDriver({"t": 5.0})), histories, out,
        block=256, clock=clock,
    )  # fmt: skip
    stop = asyncio.Event()
    task = asyncio.create_task(recorder.run(stop))
    seen: set[int] = set()
    for number, step_s in enumerate(steps):
        await until(partial(_has_more, store, key, seen), 30)
        seen = _all_times(store, key, seen)
        offset[0] += step_s * 10**9
        # A slow machine notices later; two steps noticed as one would be another test.
        await until(partial(_has_steps, store, number + 1), 30)
    await until(partial(_has_more, store, key, seen), 30)
    stop.set()
    await task
    seen = _all_times(store, key, seen)
    with store.snapshot() as tx:
        reasons = [reason for (reason,) in tx.fetch("SELECT reason FROM recorder_epoch ORDER BY epoch")]
        found = gaps.list_gaps(tx, Window(0, 4 * 10**15))
    assert reasons == ["clock_step"] * len(steps) + ["stopped"]
    late = [g for g in found if g.reason is GapReason.RECORDER_LATE]
    assert all((g.end_us or 0) - g.start_us < 20 * SECOND for g in late), "a step is no machine held up"
    return len(seen), sum(gap.reason is GapReason.CLOCK_STEP for gap in found)


def _has_steps(store: Store, number: int) -> bool:
    with store.snapshot() as tx:
        return len(tx.fetch("SELECT 1 FROM recorder_epoch WHERE reason = 'clock_step'")) == number


def _has_more(store: Store, key: HistoryKey, before: set[int]) -> bool:
    """A second and more has been recorded since."""
    return len(_all_times(store, key, before)) > len(before) + 12


def _all_times(store: Store, key: HistoryKey, before: set[int]) -> set[int]:
    (answer,) = SeriesReader(store).read_keys([key], Window(0, 10**15 * 9))
    times = answer.recorded.ts_us
    assert bool((np.diff(times) > 0).all())
    assert before <= set(times.tolist()), "a committed sample is gone"
    return set(times.tolist())


def test_a_worker_killed_in_mid_transaction_harms_nothing(
    store: Store, database: PrivateServer, tmp_path: Path
) -> None:
    """Killed again and again while its transaction has changed rows already; then left to finish."""
    tags = [a_tag(f"t{i}") for i in range(2000)]
    keys = plant_with(store, tags, NOW)
    sink = StoreSink(store)
    epoch = sink.open_epoch("test", NOW)
    assert epoch is not None
    for seq in range(1, 61):
        first = NOW + seq * 5 * SECOND
        series = Series.of(ValueType.FLOAT, first + np.arange(5) * SECOND, np.arange(5.0) + seq)
        sink.commit(a_flush(epoch, seq, dict.fromkeys(keys.values(), series), first + 5 * SECOND))
    parts = Processes(store.address, tmp_path)
    admin = Store(database.admin_address, connections=1)  # only an administrator sees others' transactions
    for late_s in (0.0, 0.05, 0.1):
        parts.start_part("worker")
        wait_for(partial(_has_changed_rows, admin), 20, "a transaction under way")
        time.sleep(late_s)
        parts.kill("worker")
        assert _waiting(store) == 60, "it was in the middle: all of it is undone"
        assert _samples(store, keys["t7"]) == 300 and _samples(store, keys["t1999"]) == 300
    admin.close()
    parts.start_part("worker")
    wait_for(lambda: _waiting(store) == 0, 60, "the compaction")
    assert {_samples(store, key) for key in keys.values()} == {300}
    assert parts.end("worker") == 0


def _has_changed_rows(admin: Store) -> bool:
    time.sleep(0.15)  # MariaDB shows the same picture to whoever looks more often than every 0.1 s
    with admin.transaction() as tx:
        return bool(tx.fetch("SELECT 1 FROM information_schema.innodb_trx WHERE trx_rows_modified > 0"))


def _samples(store: Store, key: HistoryKey) -> int:
    (answer,) = SeriesReader(store).read_keys([key], Window(NOW, NOW + 3600 * SECOND))
    assert bool((np.diff(answer.recorded.ts_us) == SECOND).all())
    return answer.samples


def _waiting(store: Store) -> int:
    with store.snapshot() as tx:
        return journal.count_backlog(tx)[0]

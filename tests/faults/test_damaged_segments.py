"""A segment that cannot be read costs its own history, and nothing of the work on all others."""

from __future__ import annotations

import threading
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient

from cronaca.core import quality as q
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import DAY, SECOND, Series, ValueType, Window
from cronaca.db import Store
from cronaca.history.jobs import retention
from cronaca.history.jobs.compaction import StoreCompaction
from cronaca.history.jobs.pyramid import PyramidBuilder
from cronaca.history.jobs.verify import verify
from cronaca.history.read.curves import CurveReader
from cronaca.history.read.series import SeriesReader
from cronaca.history.tables import months
from cronaca.history.write.bulk import backfill
from cronaca.logbook.background import StoreBackground, list_states
from cronaca.plant.tags import list_tags
from cronaca.services.sink import StoreSink
from cronaca.worker.loop import run_loop
from tests.support.application import wait_for
from tests.support.builders import NOW, FixedClock, a_flush, a_tag, plant_with
from tests.support.signed_in import app_of

TAGS = ("damaged", "well")
START = NOW // DAY * DAY - 3 * DAY


def a_series(start_us: int, count: int, step_us: int = SECOND) -> Series:
    ts = start_us + np.arange(count, dtype=np.int64) * step_us
    return Series.of(ValueType.FLOAT, ts, np.arange(count, dtype=np.float64))


@pytest.fixture
def keys(store: Store) -> dict[str, HistoryKey]:
    return plant_with(store, [a_tag(name) for name in TAGS], START)


def damage(store: Store, key: HistoryKey) -> None:
    with store.transaction() as tx:
        tx.execute("UPDATE segment SET payload = 'broken' WHERE tag_id = %(tag)s", tag=key.tag_id)


class Unused:
    def run_all(self) -> None:
        return


def test_compaction_leaves_a_damaged_segment_as_it_is_and_goes_on(
    store: Store, keys: dict[str, HistoryKey]
) -> None:
    sink, compaction = StoreSink(store), StoreCompaction(store, FixedClock(NOW))
    epoch = sink.open_epoch("test", NOW) or 0

    def record(seq: int) -> None:
        start = NOW + seq * 60 * SECOND
        series = dict.fromkeys(keys.values(), a_series(start, 60))
        sink.commit(a_flush(epoch, seq, series, start + 60 * SECOND))
        assert compaction.compact_step() == 1

    record(1)
    damage(store, keys["damaged"])
    record(2)
    record(3)
    (fault,) = verify(store, lambda _: None)
    assert f"tag {keys['damaged'].tag_id}" in str(fault)
    well, damaged = SeriesReader(store).read_keys([keys["well"], keys["damaged"]], Window(NOW, NOW + DAY))
    assert well.samples == 180
    good = damaged.recorded.ts_us[damaged.recorded.quality == 0]
    assert good.tolist() == well.recorded.ts_us[60:].tolist(), "what came later is there"
    bad = damaged.recorded.take(damaged.recorded.quality != 0)
    assert bad.ts_us.tolist() == well.recorded.ts_us[[0, 59]].tolist()
    assert set(bad.quality.tolist()) == {q.BAD_DATA_LOST}


def test_a_damaged_segment_is_bad_in_figures_and_curves_and_costs_no_other_tag(
    store: Store, keys: dict[str, HistoryKey], tmp_path: Path
) -> None:
    rows = {key: a_series(START, 2_000, 60 * SECOND) for key in keys.values()}
    backfill(store, rows, Window(START, NOW))
    damage(store, keys["damaged"])
    PyramidBuilder(store, FixedClock(NOW)).build_some(60)
    window = Window(START, START + DAY)
    bad, well = CurveReader(store, SeriesReader(store)).read_many([keys[n].tag_id for n in TAGS], window, 100)
    assert set(bad.series.quality.tolist()) == {q.BAD_DATA_LOST}
    assert len(well.series) > 100
    with store.snapshot() as tx:
        uids = [tag.uid for tag in list_tags(tx)]
    span = {"start_us": START, "end_us": START + DAY}
    body = {"tags": uids, "figures": [{"stat": "PercentBad"}, {"stat": "PercentGood"}], "windows": [span]}
    with TestClient(app_of(store, tmp_path)) as client:
        answer = client.post("/api/figures", json=body).json()
    shares = [[one["values"][0]["value"] for one in tag["figures"]] for tag in answer["results"]]
    assert shares == [[100.0, 0.0], [0.0, 100.0]]


def test_summing_up_goes_on_with_all_other_histories_and_says_which_one_fails(
    store: Store, keys: dict[str, HistoryKey], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("cronaca.history.jobs.pyramid.AT_ONCE", 1)
    rows = {key: a_series(START, 2_000, 60 * SECOND) for key in keys.values()}
    backfill(store, rows, Window(START, NOW))
    builder = PyramidBuilder(store, FixedClock(NOW))
    assert builder.build_some(60) == 2
    with store.transaction() as tx:
        tag = keys["damaged"].tag_id
        tx.execute("UPDATE rollup SET shape = 'x', figures = 'x' WHERE tag_id = %(tag)s", tag=tag)
    backfill(store, {key: a_series(START + DAY + 1, 2) for key in keys.values()}, Window(START, NOW))
    assert builder.build_some(60) == 1
    with store.snapshot() as tx:
        days = {name: months.list_months(tx, key)[0].days_built for name, key in keys.items()}
    assert days["damaged"] != days["well"]
    assert "'damaged'" in builder.problem and "cut short" in builder.problem
    assert builder.build_some(60) == 0, "it is not tried again at once"
    monkeypatch.setattr("cronaca.history.jobs.pyramid._AGAIN_S", 0.0)
    again = PyramidBuilder(store, FixedClock(NOW))
    assert again.build_some(60) == 0 and again.problem
    with store.transaction() as tx:
        tx.execute("DELETE FROM history_month WHERE tag_id = %(tag)s", tag=keys["damaged"].tag_id)
    again.build_some(60)
    assert again.problem == "", "what is gone is no problem any more"


def test_health_has_the_history_that_cannot_be_summed_up(store: Store) -> None:
    class Builds:
        problem = "1 history cannot be summed up: 'damaged'"

        def build_some(self, seconds: float, stop: Callable[[], bool]) -> int:
            return 0

    class Compacts:
        def compact_step(self) -> int:
            return 0

    class NothingDue:
        def make_due(self, beat: Callable[[], None]) -> int:
            return 0

    stop = threading.Event()
    background = StoreBackground(store, "worker", "test/1")
    thread = threading.Thread(
        target=run_loop, args=(Compacts(), Builds(), Unused(), NothingDue(), stop, 0.5),
        kwargs={"background": background},
    )  # fmt: skip
    thread.start()

    def said() -> list[tuple[bool, str]]:
        with store.snapshot() as tx:
            return [(one.failing, one.detail) for one in list_states(tx)]

    try:
        wait_for(said)
    finally:
        stop.set()
        thread.join()
    assert said() == [(True, Builds.problem)]


def test_an_archive_that_cannot_be_emptied_keeps_no_other_from_it(
    store: Store, keys: dict[str, HistoryKey], monkeypatch: pytest.MonkeyPatch
) -> None:
    done: list[int] = []

    def run(self: retention.Retention, archive_id: int) -> None:
        done.append(archive_id)
        if archive_id == 1:
            raise ValueError("archive 1 cannot be read")

    with store.transaction() as tx:
        tx.execute("INSERT INTO archive (uid, name, keep_us) SELECT UUID(), 'two', 1")
        tx.execute("UPDATE archive SET keep_us = 1")
    monkeypatch.setattr(retention.Retention, "run", run)
    with pytest.raises(ValueError, match="archive 1"):
        retention.Retention(store, FixedClock(NOW)).run_all()
    assert len(done) == 2

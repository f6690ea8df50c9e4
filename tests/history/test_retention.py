"""Retention deletes exactly what it announced, keeps the value that holds, and never makes recording wait."""

from __future__ import annotations

import threading
import time
from datetime import UTC, datetime

import numpy as np
import pytest

from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import InvalidInput
from cronaca.core.model import DAY, HOUR, MINUTE, SECOND, GapReason, Series, ValueType, Window
from cronaca.db import Store
from cronaca.history.jobs import retention
from cronaca.history.jobs.pyramid import PyramidBuilder
from cronaca.history.jobs.retention import Policy, Retention
from cronaca.history.jobs.verify import verify
from cronaca.history.read.curves import CurveReader
from cronaca.history.read.series import SeriesReader
from cronaca.history.tables.partitions import list_places
from cronaca.history.write.bulk import backfill
from cronaca.plant import histories
from cronaca.plant.archives import insert_archive
from cronaca.plant.tags import list_tags
from cronaca.services.sink import StoreSink
from tests.support.application import wait_for
from tests.support.builders import FixedClock, a_flush, a_tag, plant_with

NOW = int(datetime(2026, 11, 23, 9, 30, tzinfo=UTC).timestamp()) * SECOND
START = int(datetime(2026, 8, 20, tzinfo=UTC).timestamp()) * SECOND
ALL = Window(0, 4 * 10**15)


class Works:
    """Two archives with the same tags: one sampled each minute, one that changed once, long ago."""

    def __init__(self, store: Store) -> None:
        self.store = store
        first = plant_with(store, [a_tag("t"), a_tag("door", ValueType.BOOLEAN)], START)
        with store.transaction() as tx:
            self.other = insert_archive(tx, "00000000-0000-0000-0000-000000000002", "Long term")
            tags = {tag.name: tag for tag in list_tags(tx)}
            second = {n: histories.open_history(tx, self.other, tag, START).key for n, tag in tags.items()}
        self.one = first["t"].archive_id
        self.keys = {1: first, 2: second}
        times = np.arange(START, NOW, MINUTE)
        self.wave = Series.of(ValueType.FLOAT, times, np.round(np.sin(times / float(HOUR)) * 9, 1))
        self.door = Series.of(ValueType.BOOLEAN, [START + HOUR, START + 5 * HOUR], [1, 0])
        for keys in self.keys.values():
            backfill(store, {keys["t"]: self.wave, keys["door"]: self.door}, Window(START, NOW))
        self.clock = FixedClock(NOW)
        self.retention = Retention(store, self.clock)

    def set(self, archive_id: int, policy: Policy) -> retention.Plan:
        with self.store.transaction() as tx:
            retention.put_policy(tx, archive_id, policy)
            return retention.plan(tx, archive_id, policy, NOW)

    def read(self, key: HistoryKey) -> Series:
        return SeriesReader(self.store).read_keys([key], ALL)[0].recorded

    def faults(self) -> list[str]:
        return [str(fault) for fault in verify(self.store, lambda _: None)]


@pytest.fixture
def works(store: Store) -> Works:
    return Works(store)


def test_exactly_the_announced_samples_go_from_each_archive(works: Works) -> None:
    cuts = {1: (NOW - 30 * DAY) // DAY * DAY, 2: (NOW - 80 * DAY) // DAY * DAY}
    PyramidBuilder(works.store, works.clock).build_some(60)
    plans = {
        1: works.set(works.one, Policy(keep_us=30 * DAY)),
        2: works.set(works.other, Policy(keep_us=80 * DAY)),
    }
    before = {i: works.read(keys["t"]) for i, keys in works.keys.items()}
    done = works.retention.run_all()
    for i, cut in cuts.items():
        kept = before[i].take(before[i].ts_us >= cut - MINUTE)
        assert works.read(works.keys[i]["t"]).equals(kept), (
            "the last one before the cut holds there: it stays"
        )
        gone_doors = 1
        assert plans[i].samples == len(before[i]) - len(kept) + gone_doors
        assert done[i - 1].samples == plans[i].samples
        assert works.read(works.keys[i]["door"]).equals(works.door.take(slice(1, 2)))
    assert list_places(works.store, "segment") == {(works.one, m) for m in (202608, 202610, 202611)} | {
        (works.other, m) for m in (202608, 202609, 202610, 202611)
    }, "September of the first went as a whole"
    with works.store.snapshot() as tx:
        gone = retention.list_gone(tx, works.one)
        again = retention.plan(tx, works.one, Policy(keep_us=30 * DAY), NOW)
    assert [(g.month, g.how) for g in gone] == [(202608, "dropped"), (202609, "dropped"), (202610, "dropped")]
    assert sum(g.samples for g in gone) == plans[1].samples
    assert again.samples == 0, "what was done is done"
    asked = Window(NOW - 90 * DAY, NOW)
    (answer,) = SeriesReader(works.store).read_keys([works.keys[1]["t"]], asked)
    assert (answer.blanks[0].reason, answer.blanks[0].end_us) == (GapReason.REMOVED, cuts[1])
    PyramidBuilder(works.store, works.clock).build_some(60)
    assert works.faults() == []


def test_by_size_the_oldest_months_go(works: Works) -> None:
    with works.store.snapshot() as tx:
        ((total,),) = tx.fetch("SELECT SUM(bytes) FROM history_month WHERE archive_id = 1")[:1]
        rows = tx.fetch("SELECT month, SUM(bytes) FROM history_month WHERE archive_id = 1 GROUP BY month")
        sizes = {int(month): int(size) for month, size in rows}
        tight = Policy(keep_bytes=int(total) - sizes[202608] - 1)
        found = retention.plan(tx, works.one, tight, NOW)
        roomy = retention.plan(tx, works.one, Policy(keep_bytes=int(total)), NOW)
    assert [one.month for one in found.doomed] == [202608, 202609]
    assert roomy.cut_us is None


def test_thinning_keeps_curves_and_summaries_of_what_goes(works: Works) -> None:
    found = works.set(works.one, Policy(keep_us=30 * DAY, thin=True))
    assert [(one.month, one.whole) for one in found.doomed] == [(202608, True), (202609, True)]
    key = works.keys[1]["t"]
    works.retention.run(works.one)
    reader = SeriesReader(works.store)
    window = Window(START, NOW)
    (curve,) = CurveReader(works.store, reader).read_many([key.tag_id], window, 100)
    september = (works.wave.ts_us < NOW - 53 * DAY) & (works.wave.ts_us > NOW - 80 * DAY)
    mine = (curve.series.ts_us < NOW - 53 * DAY) & (curve.series.ts_us > NOW - 80 * DAY)
    assert curve.series.values[mine].max() == works.wave.values[september].max(), "no extreme is lost"
    assert curve.answer.samples > len(works.wave) - 100
    (raw,) = reader.read_keys([key], Window(START, NOW - 60 * DAY))
    assert raw.samples == 0, "the samples themselves are gone"
    with works.store.snapshot() as tx:
        hours = tx.fetch(
            "SELECT COUNT(*) FROM summary_hour WHERE month = 202609 AND tag_id = 1 AND archive_id = 1"
        )
    assert hours == [(30 * 24,)]
    assert works.faults() == []


def test_recording_never_waits_for_retention(works: Works) -> None:
    """A recorder commits to both archives as often as it can while months of both go."""
    works.set(works.one, Policy(keep_us=30 * DAY))
    works.set(works.other, Policy(keep_us=60 * DAY))
    sink = StoreSink(works.store)
    epoch = sink.open_epoch("test", NOW)
    assert epoch is not None
    done, slowest, commits = threading.Event(), 0.0, 0

    def record() -> None:
        nonlocal slowest, commits
        while not done.is_set():
            started = time.perf_counter()
            commits += 1
            at = NOW + commits * SECOND
            new = {
                keys["t"]: Series.of(ValueType.FLOAT, [at], [float(commits)]) for keys in works.keys.values()
            }
            sink.commit(a_flush(epoch, commits, new, known_until_us=at))
            slowest = max(slowest, time.perf_counter() - started)
            done.wait(0.005)

    thread = threading.Thread(target=record)
    thread.start()
    try:
        wait_for(lambda: commits > 0, 10, "the first commit")
        plans = works.retention.run_all()
    finally:
        done.set()
        thread.join()
    assert all(plan.samples > 0 for plan in plans)
    assert commits >= 3
    # What waits for a lock waits its five seconds, as long as a lease; a machine that stalls takes less.
    assert slowest < 5.0
    for keys in works.keys.values():
        times = works.read(keys["t"]).ts_us
        assert (times > NOW).sum() == commits, "all that was recorded meanwhile is there"
    assert works.faults() == []


@pytest.mark.parametrize("policy", [Policy(keep_us=HOUR), Policy(keep_bytes=10)])
def test_a_policy_that_cannot_be_meant_is_refused(works: Works, policy: Policy) -> None:
    with pytest.raises(InvalidInput, match="keep_"):
        works.set(works.one, policy)

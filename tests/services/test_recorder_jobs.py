"""What recorders have the worker do, on the real store: looking up the past, and filling gaps."""

from __future__ import annotations

import numpy as np
import pytest

from cronaca.core import quality as q
from cronaca.core.codec.batch import Batch, HistoryKey, encode_batch
from cronaca.core.errors import InvalidInput
from cronaca.core.jobs import Queue
from cronaca.core.loggers import OnChange, Periodic
from cronaca.core.model import DAY, NO_RULE, SECOND, Series, ValueType, Window
from cronaca.core.ports import MissedReadings, Remembered
from cronaca.db import Store
from cronaca.history.read.lookup import StoreHistoryLookup
from cronaca.history.read.series import SeriesReader
from cronaca.history.write.bulk import backfill
from cronaca.history.write.edits import list_edits
from cronaca.logbook import jobs
from cronaca.services.jobs import for_recorder
from cronaca.services.jobs.runner import JobRunner
from tests.support.builders import NOW, a_tag, plant_with
from tests.support.checks import now_us

TAG, OTHER = a_tag("Line 1 Zone 1 air temperature"), a_tag("Line 2 Zone 1 air temperature")
WINDOW = Window(NOW, NOW + 1000 * SECOND)


@pytest.fixture
def key(store: Store) -> HistoryKey:
    """One tag with a thousand seconds of history in segments, and one without any."""
    keys = plant_with(store, [TAG, OTHER])
    series = Series.of(ValueType.FLOAT, NOW + np.arange(1000) * SECOND, np.arange(1000) / 10)
    backfill(store, {keys[TAG.name]: series}, WINDOW)
    return keys[TAG.name]


def work_for(store: Store) -> JobRunner:
    handlers = for_recorder.handlers(store)
    return JobRunner(store, Queue.RECORDER, handlers, "test/1", lambda: NOW, may_still=lambda *_: True)


def test_the_past_of_a_tag_is_what_the_store_has(store: Store, key: HistoryKey) -> None:
    lookup = for_recorder.AskedHistoryLookup(store)
    assert lookup.recall(key.tag_id, WINDOW) is None
    assert lookup.recall(key.tag_id, WINDOW) is None  # it is asked once
    assert work_for(store).run_next()
    answer = lookup.recall(key.tag_id, WINDOW)
    assert answer is not None
    _check_same(answer, StoreHistoryLookup(store).recall(key.tag_id, WINDOW))
    assert not work_for(store).run_next()


def test_also_of_a_tag_without_any(store: Store, key: HistoryKey) -> None:
    lookup, number = for_recorder.AskedHistoryLookup(store), key.tag_id + 1
    lookup.recall(number, WINDOW)
    work_for(store).run_next()
    answer = lookup.recall(number, WINDOW)
    assert answer is not None
    _check_same(answer, StoreHistoryLookup(store).recall(number, WINDOW))


def test_what_cannot_be_read_is_said_to_the_recorder_and_in_health(
    store: Store, key: HistoryKey, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("cronaca.history.read.series.MOST_SAMPLES", 10)
    lookup, work = for_recorder.AskedHistoryLookup(store), work_for(store)
    lookup.recall(key.tag_id, WINDOW)
    work.run_next()
    with pytest.raises(InvalidInput, match="Choose a shorter one"):
        lookup.recall(key.tag_id, WINDOW)
    assert "recall" in work.failures
    with monkeypatch.context() as later:
        later.setattr("cronaca.services.jobs.runner._SAID_S", 0.0)
        assert work.failures == {}
    monkeypatch.undo()
    lookup.recall(key.tag_id, WINDOW)
    work.run_next()
    assert work.failures == {}


def test_an_answer_that_became_too_old_is_asked_for_again(store: Store, key: HistoryKey) -> None:
    lookup = for_recorder.AskedHistoryLookup(store)
    lookup.recall(key.tag_id, WINDOW)
    jobs.clear_old(store, 0, now_us() + DAY)
    assert lookup.recall(key.tag_id, WINDOW) is None
    lookup.recall(key.tag_id, WINDOW)
    work_for(store).run_next()
    assert lookup.recall(key.tag_id, WINDOW) is not None


def test_a_gap_is_filled_once_with_what_each_logger_would_have_kept(store: Store, key: HistoryKey) -> None:
    """The job outlives its recorder, and the worker that did not come to its end."""
    gap = Window(WINDOW.end_us, WINDOW.end_us + 60 * SECOND)
    ticks = gap.start_us + np.arange(0, 120) * SECOND // 2
    missed = Series.of(ValueType.FLOAT, ticks, np.arange(120) / 4)
    every_10_s = ((key, Periodic(10 * SECOND)),)
    for_recorder.AskedBackfill(store).fill(MissedReadings(TAG, gap, missed, every_10_s))
    jobs.clear_old(store, 0, now_us() + 30 * DAY)  # not even after a month
    work = work_for(store)
    assert work.run_next()
    with store.transaction() as tx:
        tx.execute("UPDATE job SET state = 'waiting'")
        tx.execute("UPDATE job SET payload = %(p)s", p=encode_batch(Batch({HistoryKey(0, 0, 0): missed})))
    assert work.run_next()
    (answer,) = SeriesReader(store).read_keys([key], gap)
    inside = answer.recorded.take(answer.recorded.ts_us >= gap.start_us)
    first = -(-gap.start_us // (10 * SECOND)) * 10 * SECOND
    expected = np.arange(first, gap.end_us, 10 * SECOND)
    assert inside.ts_us.tolist() == expected.tolist()
    assert inside.values.tolist() == [((t - gap.start_us) // (SECOND // 2)) / 4 for t in expected.tolist()]
    assert q.is_good(inside.quality).all()
    with store.snapshot() as tx:
        assert len(list_edits(tx, key, gap)) == 1


def test_by_the_rule_of_a_logger_on_change_too(store: Store, key: HistoryKey) -> None:
    gap = Window(WINDOW.end_us, WINDOW.end_us + 60 * SECOND)
    missed = Series.of(ValueType.FLOAT, gap.start_us + np.arange(60) * SECOND, np.arange(60) // 20)
    mode: OnChange[int] = OnChange(NO_RULE)
    taker = ((key, mode),)
    for_recorder.AskedBackfill(store).fill(MissedReadings(TAG, gap, missed, taker))
    assert work_for(store).run_next()
    (answer,) = SeriesReader(store).read_keys([key], gap)
    inside = answer.recorded.take(answer.recorded.ts_us >= gap.start_us)
    # The last equal one before each change is kept too: a sloped curve is then true.
    assert ((inside.ts_us - gap.start_us) // SECOND).tolist() == [0, 19, 20, 39, 40]
    assert inside.values.tolist() == [0.0, 0.0, 1.0, 1.0, 2.0]


def _check_same(answer: Remembered, expected: Remembered | None) -> None:
    assert expected is not None
    assert answer.known_until_us == expected.known_until_us
    assert answer.series.value_type is expected.series.value_type
    assert answer.series.ts_us.tolist() == expected.series.ts_us.tolist()
    assert answer.series.values.tolist() == expected.series.values.tolist()
    assert answer.series.quality.tolist() == expected.series.quality.tolist()

"""What unrecorded tags were: left by the recorder, kept for minutes, drawn by every server."""

from __future__ import annotations

import numpy as np
import pytest

from cronaca.core import quality as q
from cronaca.core.bits import to_bits
from cronaca.core.model import SECOND, LoggerMode, ValueType, Window
from cronaca.core.outputs import RECENT_ROW, RecentReadings
from cronaca.core.readings import Readings, Values
from cronaca.core.setup.whole import Setup
from cronaca.db import Store
from cronaca.history.read.curves import CurveReader
from cronaca.history.read.series import SeriesReader
from cronaca.history.tables import recent
from cronaca.recorder.live import LiveTable
from cronaca.recorder.outputs.queue import OutputQueue
from cronaca.recorder.stages.memory import UnrecordedMemory
from cronaca.recorder.stages.stage import StageContext
from cronaca.services.sink import StoreSink
from tests.support.builders import NOW, a_flush, a_logger, a_tag, plant_with

FLOAT = ValueType.FLOAT
TAGS = tuple(a_tag(f"t{i}", tag_id=i, scan_us=SECOND // 10) for i in (1, 2))


class Told:
    """A memory beside a table of present values, and what it leaves."""

    def __init__(self, *recorded: int) -> None:
        self.live = LiveTable(TAGS, NOW, 256)
        self.queue = OutputQueue(1000)
        self.stage = UnrecordedMemory(self.live)
        self.follow(*recorded)

    def follow(self, *recorded: int) -> None:
        logger = a_logger(1, "l", "all", 1, LoggerMode.ON_CHANGE, 0, recorded)
        context = StageContext(self.live, self.queue, {tag.tag_id: tag for tag in TAGS}, {})
        self.stage.follow(Setup((), TAGS, (logger,) if recorded else ()), context, NOW)

    def read(self, at_us: int, *values: float, quality: int = q.GOOD) -> list[tuple[int, int]]:
        """Tags and times that are left when all tags are read at once."""
        bits = np.array([to_bits(value, FLOAT) for value in values], np.int64)
        slots = self.live.slots_of([tag.tag_id for tag in TAGS])
        self.stage.on(Readings.of(slots, at_us, Values(bits, np.full(len(values), quality, np.uint16))))
        _, outputs = self.queue.drain()
        rows = [np.frombuffer(one.rows, RECENT_ROW) for one in outputs if isinstance(one, RecentReadings)]
        return [(int(row["tag"]), int(row["ts"])) for part in rows for row in part]


def test_changes_of_unrecorded_tags_are_left_and_what_stays_once_a_minute() -> None:
    told = Told(1)
    assert told.stage.wakes_on() == {2}
    assert told.read(NOW, 1.0, 5.0) == [(2, NOW)], "a first value; the other tag is recorded"
    assert told.read(NOW + 1, 2.0, 5.0) == []
    assert told.read(NOW + 2, 2.0, 5.0, quality=q.BAD_NO_DATA) == [(2, NOW + 2)]
    assert told.read(NOW + 3, 2.0, 6.0) == [(2, NOW + 3)]
    assert told.read(NOW + 3 + 60 * SECOND, 2.0, 6.0) == [(2, NOW + 3 + 60 * SECOND)]
    told.follow(1, 2)
    assert told.read(NOW + 4, 2.0, 7.0) == [], "it is recorded now"
    told.follow()
    assert told.read(NOW + 5, 2.0, 7.0) == [(1, NOW + 5), (2, NOW + 5)]


def rows_of(tag_id: int, samples: dict[int, float], value_type: ValueType = FLOAT) -> RecentReadings:
    rows = np.zeros(len(samples), RECENT_ROW)
    rows["tag"], rows["type"], rows["ts"] = tag_id, value_type, list(samples)
    rows["bits"] = [to_bits(value, value_type) for value in samples.values()]
    return RecentReadings(rows.tobytes())


def remembering(store: Store, *flushes: tuple[int, RecentReadings]) -> int:
    """A plant with a tag, and flushes of these times; its number."""
    epoch = StoreSink(store).open_epoch("test", NOW) or 0
    for seq, (at_us, output) in enumerate(flushes, 1):
        StoreSink(store).commit(a_flush(epoch, seq, {}, known_until_us=at_us, outputs=(output,)))
    return epoch


def read(store: Store, tag_id: int, start_us: int, end_us: int) -> dict[int, float]:
    (curve,) = CurveReader(store, SeriesReader(store)).read_many([tag_id], Window(start_us, end_us), 1000)
    good = ~q.is_bad(curve.series.quality)
    return dict(zip(curve.series.ts_us[good].tolist(), curve.series.values[good].tolist(), strict=True))


def test_every_server_reads_what_was_left_with_the_value_that_stood_before(store: Store) -> None:
    key = plant_with(store, [a_tag("t")])["t"]
    other = key.tag_id + 1
    remembering(
        store,
        (NOW + SECOND, rows_of(other, {NOW + SECOND // 2: 1.5, NOW + SECOND: 2.5})),
        (NOW + 20 * SECOND, rows_of(other, {NOW + 20 * SECOND: 3.5})),
    )
    whole = {NOW + SECOND // 2: 1.5, NOW + SECOND: 2.5, NOW + 20 * SECOND: 3.5}
    assert read(store, other, NOW, NOW + 60 * SECOND) == whole
    assert read(store, other, NOW + 10 * SECOND, NOW + 15 * SECOND) == {
        NOW + SECOND: 2.5, NOW + 20 * SECOND: 3.5,
    }  # fmt: skip
    assert read(store, other + 1, NOW, NOW + 60 * SECOND) == {}


def test_a_flush_that_is_committed_twice_is_remembered_once(store: Store) -> None:
    plant_with(store, [a_tag("t")])
    sink = StoreSink(store)
    epoch = sink.open_epoch("test", NOW) or 0
    flush = a_flush(epoch, 1, {}, known_until_us=NOW + 1, outputs=(rows_of(7, {NOW: 1.0}),))
    sink.commit(flush)
    sink.commit(flush)
    with store.snapshot() as tx:
        assert recent.read(tx, 7, NOW)["ts"].tolist() == [NOW]


def test_what_is_older_than_some_minutes_is_forgotten_also_what_waited_on_disk(store: Store) -> None:
    plant_with(store, [a_tag("t")])
    later = NOW + 2 * recent.KEPT_US
    remembering(
        store,
        (NOW + 1, rows_of(7, {NOW: 1.0})),
        (later, rows_of(7, {NOW + SECOND: 2.0, later - SECOND: 3.0})),
    )
    with store.snapshot() as tx:
        assert recent.read(tx, 7, 0)["ts"].tolist() == [later - SECOND]


def test_a_tag_that_became_of_another_type_is_read_as_what_it_is(store: Store) -> None:
    plant_with(store, [a_tag("t")])
    remembering(
        store,
        (NOW + 1, rows_of(7, {NOW: 1.5})),
        (NOW + 2 * SECOND, rows_of(7, {NOW + SECOND: 4}, ValueType.INTEGER)),
    )
    assert read(store, 7, NOW, NOW + 60 * SECOND) == {NOW + SECOND: 4}


def test_the_time_in_which_no_recorder_was_there_is_a_gap_of_what_is_remembered(store: Store) -> None:
    plant_with(store, [a_tag("t")])
    epoch = remembering(store, (NOW + SECOND, rows_of(7, {NOW: 1.0})))
    sink = StoreSink(store)
    sink.close_epoch(epoch, NOW + SECOND, "stopped")
    second = sink.open_epoch("next", NOW + 30 * SECOND) or 0
    sink.begin_epoch(second, NOW + 30 * SECOND)
    sink.commit(
        a_flush(
            second, 1, {}, known_until_us=NOW + 40 * SECOND, outputs=(rows_of(7, {NOW + 31 * SECOND: 2.0}),)
        )
    )
    reader = CurveReader(store, SeriesReader(store))
    (curve,) = reader.read_many([7], Window(NOW, NOW + 40 * SECOND), 1000)
    blanks = [(gap.start_us, gap.end_us) for gap in curve.answer.blanks]
    assert (NOW + SECOND, NOW + 30 * SECOND) in blanks
    (answer,) = reader.read_at([7], NOW + 20 * SECOND)
    assert q.is_bad(answer.series.quality)[answer.series.ts_us <= NOW + 20 * SECOND][-1]


@pytest.mark.parametrize(
    "damage", ["CONCAT(payload, 'x')", "CONCAT(payload, REPEAT(CHAR(0), 5))", "LEFT(payload, 12)"]
)
def test_damage_costs_what_is_remembered_of_its_tags_and_no_other_curve(store: Store, damage: str) -> None:
    key = plant_with(store, [a_tag("t")])["t"]
    remembering(store, (NOW + 1, rows_of(7 + 256, {NOW: 1.0})))
    store.run(lambda tx: tx.execute(f"UPDATE recent_reading SET payload = {damage}"))
    reader = CurveReader(store, SeriesReader(store))
    curves = reader.read_many([key.tag_id, 7 + 256], Window(NOW, NOW + SECOND), 100)
    assert len(curves) == 2 and not len(curves[1].series)

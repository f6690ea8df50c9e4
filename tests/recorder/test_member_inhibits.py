"""A member's own inhibit tag, a sample at an edge, and loggers that record on demand only: in every mode."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from cronaca.core import quality as q
from cronaca.core.bits import to_bits
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.loggers import EdgeSpec, Logger, TriggerSpec
from cronaca.core.model import SECOND, GapReason, Keeps, LoggerMode, ValueType
from cronaca.core.outputs import CoverageMark, Output, Record
from cronaca.core.readings import Readings, Values
from cronaca.core.setup.whole import Setup
from cronaca.recorder.live import LiveTable
from cronaca.recorder.outputs.queue import OutputQueue
from cronaca.recorder.stages.logger_set import LoggerSet
from cronaca.recorder.stages.stage import Moment, StageContext
from tests.support.builders import NOW, a_logger, a_tag, remade

BOOLEAN = ValueType.BOOLEAN
A, B = a_tag("a", tag_id=1, stepped=True), a_tag("b", tag_id=2, stepped=True)
STOP, EDGE = a_tag("stop", BOOLEAN, tag_id=3), a_tag("edge", BOOLEAN, tag_id=4)
TAGS = (A, B, STOP, EDGE)
MODES = (LoggerMode.PERIODIC, LoggerMode.ON_CHANGE, LoggerMode.ON_TRIGGER, LoggerMode.AROUND)


class Plant:
    """Loggers of a and b, fed by hand once a second."""

    def __init__(self, *loggers: Logger) -> None:
        self.live, self.queue, self.second = LiveTable(TAGS, NOW, 256), OutputQueue(10_000), 0
        self.loggers = LoggerSet(self.live)
        self.left: list[Output] = []
        self.kept: dict[int, list[tuple[float, float]]] = {1: [], 2: []}
        self.follow(*loggers)
        self.loggers.begin(NOW)
        self.move(0)

    def follow(self, *loggers: Logger) -> None:
        histories = {(1, t.tag_id): (HistoryKey(1, t.tag_id, 1), t.value_type) for t in TAGS}
        context = StageContext(self.live, self.queue, {t.tag_id: t for t in TAGS}, histories)
        self.loggers.follow(Setup((), TAGS, loggers), context, NOW + self.second * SECOND)

    def move(self, seconds: int, **values: float) -> None:
        """So many seconds in which the tags have values."""
        for _ in range(max(seconds, 1)):
            now_us = NOW + self.second * SECOND
            for tag in TAGS:
                value = values.get(tag.name, self.second * 10 + tag.tag_id if tag in (A, B) else None)
                if value is not None:
                    bits = np.array([to_bits(value, tag.value_type)], np.int64)
                    slots = self.live.slots_of([tag.tag_id])
                    readings = Readings.of(slots, now_us, Values(bits, np.zeros(1, np.uint16)))
                    self.live.update(readings)
                    self.loggers.on(readings)
            self.loggers.on_time(Moment(now_us + SECOND // 2, now_us + SECOND // 2, {}))
            self.second += 1
        batch, outputs = self.queue.drain()
        self.left += outputs
        for key, series in batch.series.items():
            rows = zip(series.ts_us.tolist(), series.values.tolist(), strict=True)
            self.kept[key.tag_id] += [((t - NOW) / SECOND, v) for t, v in rows]

    def marks(self, tag_id: int) -> list[tuple[float, GapReason | None]]:
        found = [mark for mark in self.left if isinstance(mark, CoverageMark)]
        return [
            ((mark.at_us - NOW) // SECOND, mark.reason)
            for mark in found
            if HistoryKey(1, tag_id, 1) in mark.keys
        ]


def logger(mode: LoggerMode, **fields: object) -> Logger:
    interval = SECOND if mode is LoggerMode.PERIODIC else 0
    if mode in (LoggerMode.ON_TRIGGER, LoggerMode.AROUND):
        fields = {"trigger": TriggerSpec(4), "after_us": 100 * SECOND, **fields}
    return a_logger(1, "l", "one", 1, mode, interval, (1, 2), inhibits=((2, 3),), **fields)  # type: ignore[arg-type]


@pytest.mark.parametrize("mode", MODES)
def test_a_member_that_its_own_tag_holds_off_has_a_gap_and_the_others_go_on(mode: LoggerMode) -> None:
    plant = Plant(logger(mode))
    plant.move(1, edge=0, stop=0)
    plant.move(2, edge=1)
    plant.move(4, stop=1, edge=0)
    plant.move(1, edge=1)
    plant.move(3, stop=0, edge=0)
    plant.move(1, edge=1)
    held = {second for second, _ in plant.kept[2] if 5 <= second <= 8}
    assert held == set()
    assert any(second > 8 for second, _ in plant.kept[2]), "it goes on by itself"
    assert any(5 <= second <= 8 for second, _ in plant.kept[1])
    assert (4, GapReason.LOGGER_INHIBITED) in plant.marks(2) or mode is LoggerMode.ON_TRIGGER
    reasons = [reason for _, reason in plant.marks(2)]
    assert reasons.count(GapReason.LOGGER_INHIBITED) == 1
    assert reasons[reasons.index(GapReason.LOGGER_INHIBITED) + 1] is None
    assert GapReason.LOGGER_INHIBITED not in [reason for _, reason in plant.marks(1)]


def test_in_a_record_it_has_no_value() -> None:
    plant = Plant(logger(LoggerMode.ON_TRIGGER))
    plant.move(2, edge=0, stop=1)
    plant.move(1, edge=1)
    (record,) = [output for output in plant.left if isinstance(output, Record)]
    assert record.quality == (q.GOOD, q.BAD_NO_DATA)
    assert record.bits[1] == 0


def test_a_tag_without_a_usable_value_neither_holds_off_nor_lets_go() -> None:
    plant = Plant(logger(LoggerMode.PERIODIC))
    plant.move(2, stop=1)
    slots = plant.live.slots_of([3])
    bad = Readings.of(slots, NOW + 3 * SECOND, Values(np.zeros(1, np.int64), np.array([q.BAD_NO_DATA])))
    plant.live.update(bad)
    plant.loggers.on(bad)
    plant.move(3)
    assert [second for second, _ in plant.kept[2] if second > 2] == []


def test_one_whose_inhibit_tag_is_taken_from_it_goes_on_and_a_changed_logger_forgets_nothing() -> None:
    setup = logger(LoggerMode.PERIODIC)
    plant = Plant(setup)
    plant.move(3, stop=1)
    plant.follow(replace(setup, name="another name"))
    plant.move(3)
    assert [second for second, _ in plant.kept[2] if second > 2] == []
    plant.follow(replace(setup, inhibits=()))
    plant.move(2)
    assert plant.marks(2)[-1][1] is None
    assert any(second > 6 for second, _ in plant.kept[2])


@pytest.mark.parametrize("mode", MODES)
def test_an_edge_takes_one_sample_in_any_mode(mode: LoggerMode) -> None:
    setup = remade(logger(mode), inhibits=(), trigger=TriggerSpec(), sample_on=EdgeSpec(4), interval_us=0)
    plant = Plant(setup)
    plant.move(2, a=5, b=6, edge=0)
    plant.move(1, a=5, b=6, edge=1)
    plant.move(2, a=5, b=6)
    at_edge = [second for second, _ in plant.kept[1]].count(3)
    assert at_edge == 1 and [second for second, _ in plant.kept[2]].count(3) == 1
    if mode is LoggerMode.PERIODIC:
        assert plant.kept[1] == [(3, 5)], "without an interval it records nothing else"
    if mode is LoggerMode.ON_TRIGGER:
        (record,) = [output for output in plant.left if isinstance(output, Record)]
        assert record.reason.startswith("edge = ")


def test_an_edge_is_seen_across_a_change_of_the_set_up() -> None:
    setup = remade(logger(LoggerMode.PERIODIC), interval_us=0, inhibits=(), sample_on=EdgeSpec(4))
    plant = Plant(setup)
    plant.move(2, edge=0)
    plant.follow(replace(setup, name="another name"))
    plant.move(1, edge=1)
    assert [second for second, _ in plant.kept[1]] == [3]


def test_on_demand_only_a_person_gets_a_sample_and_nothing_is_waited_for() -> None:
    plant = Plant(remade(logger(LoggerMode.PERIODIC), interval_us=0, inhibits=()))
    plant.move(5)
    assert plant.kept[1] == []
    assert plant.loggers.known_until(NOW + 10 * SECOND) == NOW + 10 * SECOND
    assert plant.loggers.ask_for_record(1, NOW + 5 * SECOND) == ""
    plant.move(1)
    assert [second for second, _ in plant.kept[1]] == [5]


def test_while_it_is_held_off_an_edge_takes_nothing() -> None:
    setup = remade(
        logger(LoggerMode.PERIODIC), interval_us=0, inhibits=(), inhibit_tag=3, sample_on=EdgeSpec(4)
    )
    plant = Plant(setup)
    plant.move(2, edge=0, stop=1)
    plant.move(2, edge=1)
    assert plant.kept[1] == []


def test_a_figure_of_an_interval_needs_one() -> None:
    with pytest.raises(ValueError, match="without an interval"):
        remade(logger(LoggerMode.PERIODIC), interval_us=0, keeps=Keeps.MEAN).checked()


@pytest.mark.parametrize("mode", MODES)
def test_a_sample_that_is_due_when_the_logger_stops_is_taken(mode: LoggerMode) -> None:
    setup = remade(logger(mode), inhibits=(), trigger=TriggerSpec(), sample_on=EdgeSpec(4), interval_us=0)
    plant = Plant(setup)
    plant.move(2, a=5, b=6, edge=0)
    slots = plant.live.slots_of([4])
    bits = np.array([1], np.int64)
    plant.loggers.on(Readings.of(slots, NOW + 3 * SECOND, Values(bits, np.zeros(1, np.uint16))))
    plant.loggers.finish()
    batch, _ = plant.queue.drain()
    times = batch.series[HistoryKey(1, 1, 1)].ts_us.tolist()
    assert NOW + 3 * SECOND in times

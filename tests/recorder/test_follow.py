"""Sources that report by themselves: order, signs of life, clocks that are off, outages that are filled."""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
import pytest

from cronaca.core import quality as q
from cronaca.core.bits import to_bits
from cronaca.core.edits import fill_outage
from cronaca.core.errors import SourceRefused, SourceUnreachable
from cronaca.core.logger_rules.backfill import backfilled
from cronaca.core.loggers import OnChange, Periodic
from cronaca.core.model import (
    SECOND,
    Keeps,
    LoggerMode,
    RuleSpec,
    Series,
    SourceSetup,
    SourceState,
    Tag,
    ValueType,
    Window,
)
from cronaca.core.ports import Heard
from cronaca.core.readings import Readings
from cronaca.recorder.devices.follow import SourceFollower
from cronaca.recorder.live import LiveTable
from tests.support.builders import NOW, FixedClock, a_logger, a_tag
from tests.support.fakes import FakeDriver

FLOAT = ValueType.FLOAT
SOURCE = SourceSetup(1, "u", "Line 2 server", "opc_ua", "{}", True)


class Reporter(FakeDriver):
    """Says what a test puts there; silence is a lost connection."""

    def __init__(self, clock: FixedClock) -> None:
        super().__init__()
        self.clock = clock
        self.says: list[tuple[float, Heard]] = []
        self.before: dict[int, Callable[[], None]] = {}
        """What happens when so many are left to say."""
        self.past: dict[int, Series] = {}
        self.asked: list[Window] = []

    async def follow(self, tags: Sequence[Tag]) -> None:
        del tags

    async def hear(self) -> Heard:
        for _ in range(5):
            await asyncio.sleep(0)  # others have their turn, as on a real connection
        if not self.says:
            raise SourceUnreachable("silent")
        self.before.get(len(self.says), lambda: None)()
        after_s, heard = self.says.pop(0)
        self.clock.time += round(after_s * SECOND)
        return heard

    async def read_past(self, tag: Tag, window: Window) -> Series | None:
        self.asked.append(window)
        return self.past.get(tag.tag_id)


def said(*samples: tuple[int, float, float]) -> Heard:
    """Tag, seconds since NOW, value."""
    return Heard(
        np.array([s[0] for s in samples], np.int64),
        np.array([NOW + round(s[1] * SECOND) for s in samples], np.int64),
        np.array([to_bits(s[2], FLOAT) for s in samples], np.int64),
        np.zeros(len(samples), np.uint16),
        np.zeros(len(samples), np.bool_),
    )


class Bench:
    """A follower of two tags with all that it hands on."""

    def __init__(self) -> None:
        self.clock = FixedClock()
        self.driver = Reporter(self.clock)
        self.tags = [a_tag(f"t{i}", tag_id=i) for i in (1, 2)]
        self.live = LiveTable(self.tags, NOW, 256)
        self.readings: list[tuple[int, float, float, int]] = []
        self.pasts: list[tuple[int, Window, Series]] = []
        self.follower = SourceFollower(
            SOURCE, self.driver, self.tags, self.live, self._take, self.clock, self._past, self._sleep
        )

    def _take(self, reading: Readings) -> None:
        slots = reading.slots
        assert len(set(slots.tolist())) == len(slots), "one of each tag"
        self.live.update(reading)
        seconds = (reading.ts_us - NOW) / SECOND
        values = reading.bits.view(np.float64).tolist()
        found = self.live.tag_ids[slots].tolist(), seconds.tolist(), values, reading.quality.tolist()
        self.readings += zip(*found, strict=True)

    async def _past(self, tag: Tag, window: Window, series: Series) -> None:
        self.pasts.append((tag.tag_id, window, series))

    async def _sleep(self, seconds: float) -> None:
        self.clock.time += round(seconds * SECOND)
        if not self.driver.says:
            await asyncio.Event().wait()
        await asyncio.sleep(0)

    async def hear(self, *says: tuple[float, Heard]) -> None:
        """Says all, then falls silent, once; what has been asked for meanwhile is done."""
        self.driver.says += says
        task = asyncio.create_task(self.follower.run())
        for _ in range(400):
            await asyncio.sleep(0)
        task.cancel()
        await asyncio.gather(task, return_exceptions=True)

    def of(self, tag_id: int) -> list[tuple[float, float, int]]:
        return [row[1:] for row in self.readings if row[0] == tag_id]


class TestHandingOn:
    async def test_samples_keep_their_times_and_are_handed_on_in_their_order(self) -> None:
        bench = Bench()
        await bench.hear(
            (0.1, said((1, 0.05, 1.0), (2, 0.06, 5.0))),
            (0.4, said((1, 0.3, 3.0), (2, 0.2, 6.0), (1, 0.4, 4.0), (2, 0.3, 7.0))),
        )
        assert [r[:2] for r in bench.of(1)[:3]] == [(0.05, 1.0), (0.3, 3.0), (0.4, 4.0)]
        assert [r[:2] for r in bench.of(2)[:3]] == [(0.06, 5.0), (0.2, 6.0), (0.3, 7.0)]

    async def test_an_old_first_value_says_what_holds_now(self) -> None:
        """Its own time lies before the connection, where nothing was recorded."""
        bench = Bench()
        await bench.hear(
            (0.2, said((1, -3600.0, 8.0), (2, 0.1, 1.0))), (0.3, said((2, 0.4, 2.0))), (2.7, said())
        )
        assert bench.of(1)[0] == (1.0, 8.0, q.GOOD)

    async def test_before_the_devices_clock_is_known_it_is_shown_but_not_recorded(self) -> None:
        bench = Bench()
        await bench.hear((0.2, said((1, -3600.0, 8.0))), *[(1.0, said()) for _ in range(9)])
        shown = bench.live.at(bench.live.slots_of([1]), NOW + SECOND)
        assert shown.bits.view(np.float64)[0] == 8.0
        assert [c for _, _, c in bench.of(1)] == [q.BAD_NO_COMMUNICATION]
        bench = Bench()
        await bench.hear((0.2, said((1, -3600.0, 8.0))), *[(1.0, said()) for _ in range(11)])
        assert bench.of(1)[0][1:] == (8.0, q.GOOD), "nothing changes for 10 s: it is taken for right"

    async def test_a_tag_that_joins_later_says_what_holds_when_it_joined(self) -> None:
        """Its last change may lie long before, when nobody recorded it."""
        bench = Bench()
        bench.follower.set_tags(bench.tags[:1])
        bench.driver.before = {1: lambda: bench.follower.set_tags(bench.tags)}
        await bench.hear(
            (0.1, said((1, 0.05, 1.0))), (5.0, said((1, 5.0, 2.0))), (0.2, said((1, 5.2, 3.0), (2, 3.0, 9.0)))
        )
        ((joined, value, _), _) = bench.of(2)
        assert (joined > 5.0, value) == (True, 9.0)

    async def test_unchanged_values_are_handed_on_at_each_scan_but_never_ahead_of_what_may_come(self) -> None:
        bench = Bench()
        quiet = [(0.5, said()) for _ in range(10)]
        await bench.hear((0.1, said((1, 0.05, 1.0))), (0.2, said((1, 0.25, 2.0))), *quiet)
        repeated = [t for t, value, _ in bench.of(1)[2:] if value == 2.0]
        assert repeated == [1.0, 2.0, 3.0], "at 5.3 s: a second and a half is left for what is under way"

    async def test_values_are_not_old_while_the_device_lives(self) -> None:
        bench = Bench()
        await bench.hear((0.1, said((1, 0.0, 1.0))), (0.2, said((2, 0.25, 2.0))), (3.5, said()))
        now_us = NOW + 4 * SECOND
        assert bench.live.at(bench.live.slots_of([1]), NOW + 3 * SECOND).quality[0] == q.GOOD
        assert bench.live.at(bench.live.slots_of([1]), now_us).quality[0] == q.BAD_NO_COMMUNICATION

    async def test_a_lost_device_makes_its_tags_bad_once_with_the_reason(self) -> None:
        bench = Bench()
        await bench.hear((0.1, said((1, 0.0, 1.0))))
        assert [c for _, _, c in bench.of(1)].count(q.BAD_NO_COMMUNICATION) == 1
        report = bench.follower.report
        assert (report.state, report.detail) == (SourceState.DOWN, "silent")


class TestClocks:
    @pytest.mark.parametrize("off_s", [-30.0, 30.0])
    async def test_a_clock_that_is_off_is_said_and_keeps_the_order(self, off_s: float) -> None:
        """The times stay those of the source; repeats and the mark of its loss lie on its clock."""
        bench = Bench()
        changes = [(0.5, said((1, 0.5 * i + off_s, float(i)))) for i in range(1, 20)]
        await bench.hear((0.1, said((2, off_s, 7.0))), *changes)
        word = "ahead of" if off_s > 0 else "behind"
        assert bench.follower._lags, "learnt from what came while it listened"
        times = [t for t, _, c in bench.of(1) if c == q.GOOD]
        assert times == sorted(times)
        assert times[-18:] == [0.5 * i + off_s for i in range(2, 20)]
        (lost,) = [t for t, _, c in bench.of(1) if c == q.BAD_NO_COMMUNICATION]
        assert times[-1] < lost < times[-1] + 1.5
        bench.driver.says = [(0.5, said((1, 10.0 + off_s, 50.0))), (0.5, said((1, 10.5 + off_s, 51.0)))]
        seen = []
        enter = bench.follower._enter

        def noting(state: SourceState, detail: str) -> None:
            seen.append(detail)
            enter(state, detail)

        bench.follower._enter = noting  # type: ignore[method-assign]
        await bench.hear()
        assert f"Its clock is 30 s {word} ours." in seen


class TestOutages:
    async def test_what_was_missed_is_asked_for_and_handed_on(self) -> None:
        bench = Bench()
        await bench.hear((0.1, said((1, 0.0, 1.0), (2, 0.0, 9.0))), (1.0, said((1, 1.0, 2.0))))
        past = Series.of(FLOAT, [NOW + s * SECOND for s in (1, 2, 3)], [2.0, 3.0, 4.0])
        bench.driver.past = {1: past}
        bench.clock.time = NOW + 60 * SECOND
        await bench.hear((0.5, said((1, 50.0, 5.0), (2, 0.0, 9.0))), (0.1, said()))
        ((tag_id, window, series),) = bench.pasts
        assert (tag_id, window) == (1, Window(NOW + SECOND + 1, NOW + 50 * SECOND))
        assert series.equals(past)
        asked_of_two = bench.driver.asked[0]
        assert asked_of_two.start_us == NOW
        assert asked_of_two.end_us > NOW + 60 * SECOND, "it did not change: until the connection is back"

    async def test_a_past_that_does_not_reach_back_fills_only_what_it_knows(self) -> None:
        """A device that was restarted knows nothing of the time between the cut and its start."""
        bench = Bench()
        await bench.hear((0.1, said((1, 0.0, 1.0))), (1.0, said((1, 1.0, 2.0))))
        bench.driver.past = {1: Series.of(FLOAT, [NOW + 30 * SECOND], [4.0])}
        bench.clock.time = NOW + 60 * SECOND
        await bench.hear((0.5, said((1, 50.0, 5.0))), (0.1, said()))
        ((_, window, _),) = bench.pasts
        assert window.start_us == NOW + 30 * SECOND

    async def test_a_past_that_could_not_be_read_is_read_after_the_next_connection(self) -> None:
        bench = Bench()
        await bench.hear((0.1, said((1, 0.0, 1.0))), (1.0, said((1, 1.0, 2.0))))
        broken = bench.driver.read_past

        async def refuse(tag: Tag, window: Window) -> Series | None:
            await broken(tag, window)
            raise SourceUnreachable("cut again")

        bench.driver.read_past = refuse  # type: ignore[method-assign]
        await bench.hear((0.5, said((1, 5.0, 5.0))), (0.1, said()))
        assert not bench.pasts
        bench.driver.read_past = broken  # type: ignore[method-assign]
        bench.driver.past = {1: Series.of(FLOAT, [NOW + SECOND, NOW + 2 * SECOND], [2.0, 3.0])}
        await bench.hear((0.5, said((1, 20.0, 6.0))), (0.1, said()))
        assert next(w.end_us - NOW for _, w, _ in bench.pasts) == 5 * SECOND

    async def test_a_past_that_is_refused_does_not_hold_the_others_up(self) -> None:
        bench = Bench()
        await bench.hear((0.1, said((1, 0.0, 1.0), (2, 0.0, 1.0))), (1.0, said((1, 1.0, 2.0), (2, 1.0, 2.0))))
        read = bench.driver.read_past

        async def refuse_one(tag: Tag, window: Window) -> Series | None:
            if tag.tag_id == 1:
                raise SourceRefused("no such node")
            return await read(tag, window)

        bench.driver.read_past = refuse_one  # type: ignore[method-assign]
        bench.driver.past = {2: Series.of(FLOAT, [NOW + SECOND], [2.0])}
        await bench.hear((0.5, said((1, 20.0, 6.0), (2, 20.0, 6.0))), (0.1, said()))
        assert [tag_id for tag_id, _, _ in bench.pasts] == [2]

    async def test_samples_that_the_device_dropped_are_asked_for(self) -> None:
        bench = Bench()
        torn = replace(said((1, 5.0, 9.0)), torn=np.ones(1, np.bool_))
        bench.driver.past = {1: Series.of(FLOAT, [NOW + s * SECOND for s in (1, 2, 3)], [2.0, 3.0, 4.0])}
        await bench.hear((0.1, said((1, 0.0, 1.0))), (1.0, said((1, 1.0, 2.0))), (4.0, torn), (0.1, said()))
        assert bench.driver.asked == [Window(NOW + SECOND, NOW + 5 * SECOND - 1)]
        assert [(tag_id, window.end_us) for tag_id, window, _ in bench.pasts] == [(1, NOW + 5 * SECOND)]


class TestKeptOfThePast:
    READINGS = Series.of(FLOAT, [NOW + i * SECOND // 2 for i in range(21)], [float(i) for i in range(21)])
    WINDOW = Window(NOW + 1, NOW + 10 * SECOND)

    def mode(self, mode: LoggerMode, **fields: object) -> Periodic[int] | OnChange[int]:
        made = a_logger(1, "l", "l", 1, mode, SECOND, (1,), **fields).mode  # type: ignore[arg-type]
        assert isinstance(made, Periodic | OnChange)
        return made

    def test_by_the_clock_the_value_that_held_at_each_tick(self) -> None:
        kept = backfilled(self.mode(LoggerMode.PERIODIC), a_tag("t"), self.READINGS, self.WINDOW)
        assert kept.ts_us.tolist() == [NOW + i * SECOND for i in range(1, 10)]
        assert kept.values.tolist() == [2.0 * i for i in range(1, 10)]

    def test_the_mean_of_the_readings_at_the_scans_of_each_interval(self) -> None:
        mode = self.mode(LoggerMode.PERIODIC, keeps=Keeps.MEAN)
        tag = a_tag("t", scan_us=SECOND // 2)
        kept = backfilled(mode, tag, self.READINGS, self.WINDOW)
        assert kept.values.tolist() == [2.0 * i - 1.5 for i in range(1, 10)]

    def test_on_change_by_the_rule(self) -> None:
        mode = self.mode(LoggerMode.ON_CHANGE, rule=RuleSpec(width=4.5))
        kept = backfilled(mode, a_tag("t", stepped=True), self.READINGS, self.WINDOW)
        assert kept.values.tolist() == [5.0, 10.0, 15.0], "0, where the window begins, was kept before"

    def test_what_stands_for_the_outage_goes_and_nothing_else(self) -> None:
        quality = [q.GOOD, q.UNCERTAIN_LAST_USABLE, q.BAD_NO_COMMUNICATION, q.BAD_SENSOR_FAILURE, q.GOOD]
        before = Series.of(FLOAT, [1, 2, 3, 4, 9], [1.0, 1.0, 0.0, 0.0, 5.0], quality)
        found = fill_outage(before, Series.of(FLOAT, [2, 5, 9], [2.0, 3.0, 6.0]))
        assert found.after.ts_us.tolist() == [1, 2, 4, 5, 9]
        assert found.after.values.tolist()[:2] == [1.0, 2.0]
        assert found.after.values.tolist()[-1] == 6.0
        assert found.replaced.ts_us.tolist() == [2, 3, 9]
        assert found.written == 3

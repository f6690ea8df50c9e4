"""Windows as people say them, in a zone whose days have 23, 24 or 25 hours."""

from __future__ import annotations

from datetime import datetime
from zoneinfo import ZoneInfo

import numpy as np
import pandas as pd
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cronaca.core.aggregates import Samples, process_all
from cronaca.core.errors import InvalidInput
from cronaca.core.model import HOUR, MINUTE, SECOND, Series, ValueType, Window
from cronaca.core.windows import (
    PlantCalendar,
    Shift,
    Unit,
    Which,
    WindowRequest,
    changes_at,
    earlier,
    is_whole,
    local_text,
    next_start,
    resolve,
    shift_name,
    split_by_duration,
    split_by_unit,
    start_of,
    stretches_of_shift,
    wish_before,
)

ROME = ZoneInfo("Europe/Rome")
PLANT = PlantCalendar(ROME, 1, (Shift("Early", 360), Shift("Late", 840), Shift("Night", 1320)))


def at(text: str, zone: str = "Europe/Rome") -> int:
    """A local time that exists once."""
    return int(datetime.fromisoformat(text).replace(tzinfo=ZoneInfo(zone)).timestamp()) * SECOND


def this(unit: Unit, now: str, which: Which = Which.THIS, calendar: PlantCalendar = PLANT) -> tuple[str, str]:
    found = resolve(WindowRequest(unit=unit, which=which), calendar, at(now))
    return local_text(found.start_us, ROME), local_text(found.end_us, ROME)


@pytest.mark.parametrize("unit,which,start,end", [
    (Unit.HOUR, Which.THIS, "2026-11-23 15:00:00+01:00", "2026-11-23 15:20:00+01:00"),
    (Unit.SHIFT, Which.THIS, "2026-11-23 14:00:00+01:00", "2026-11-23 15:20:00+01:00"),
    (Unit.SHIFT, Which.LAST, "2026-11-23 06:00:00+01:00", "2026-11-23 14:00:00+01:00"),
    (Unit.DAY, Which.THIS, "2026-11-23 00:00:00+01:00", "2026-11-23 15:20:00+01:00"),
    (Unit.DAY, Which.LAST, "2026-11-22 00:00:00+01:00", "2026-11-23 00:00:00+01:00"),
    (Unit.WEEK, Which.THIS, "2026-11-23 00:00:00+01:00", "2026-11-23 15:20:00+01:00"),
    (Unit.WEEK, Which.LAST, "2026-11-16 00:00:00+01:00", "2026-11-23 00:00:00+01:00"),
    (Unit.MONTH, Which.THIS, "2026-11-01 00:00:00+01:00", "2026-11-23 15:20:00+01:00"),
    (Unit.MONTH, Which.LAST, "2026-10-01 00:00:00+02:00", "2026-11-01 00:00:00+01:00"),
])  # fmt: skip
def test_this_and_last_of_each_unit(unit: Unit, which: Which, start: str, end: str) -> None:
    assert this(unit, "2026-11-23T15:20", which) == (start, end)


@pytest.mark.parametrize("unit,count,start,end", [
    (Unit.SHIFT, 7, "2026-11-21 06:00:00+01:00", "2026-11-23 14:00:00+01:00"),
    (Unit.MONTH, 2, "2026-09-01 00:00:00+02:00", "2026-11-01 00:00:00+01:00"),
    (Unit.DAY, 30, "2026-10-24 00:00:00+02:00", "2026-11-23 00:00:00+01:00"),
])  # fmt: skip
def test_the_last_several_of_a_unit(unit: Unit, count: int, start: str, end: str) -> None:
    """Over the change of clocks of 25 October, too."""
    wish = WindowRequest(unit=unit, which=Which.LAST, count=count)
    found = resolve(wish, PLANT, at("2026-11-23T15:20"))
    assert (local_text(found.start_us, ROME), local_text(found.end_us, ROME)) == (start, end)
    before = resolve(wish_before(wish, found), PLANT, at("2026-11-23T15:20"))
    assert before.end_us == found.start_us
    assert len(split_by_unit(before, unit, PLANT)) == count, "as many before it"


@pytest.mark.parametrize("wish", [
    WindowRequest(unit=Unit.SHIFT, count=2), WindowRequest(last_us=HOUR, count=2),
    WindowRequest(unit=Unit.SHIFT, which=Which.LAST, count=0),
    WindowRequest(unit=Unit.SHIFT, which=Which.LAST, count=401),
])  # fmt: skip
def test_several_of_what_is_not_over_are_refused(wish: WindowRequest) -> None:
    with pytest.raises(InvalidInput) as caught:
        resolve(wish, PLANT, at("2026-11-23T15:20"))
    assert caught.value.field == "count"


def test_the_week_begins_when_the_plant_says() -> None:
    sunday = PlantCalendar(ROME, 7)
    assert this(Unit.WEEK, "2026-11-23T15:20", calendar=sunday)[0] == "2026-11-22 00:00:00+01:00"


def test_the_night_shift_began_yesterday() -> None:
    assert this(Unit.SHIFT, "2026-11-23T03:00")[0] == "2026-11-22 22:00:00+01:00"
    assert [shift_name(at(t), PLANT) for t in ("2026-11-23T05:59", "2026-11-23T06:00")] == ["Night", "Early"]


def test_days_of_23_and_25_hours() -> None:
    spring = resolve(WindowRequest(unit=Unit.DAY, which=Which.LAST), PLANT, at("2026-03-30T08:00"))
    autumn = resolve(WindowRequest(unit=Unit.DAY, which=Which.LAST), PLANT, at("2026-10-26T08:00"))
    assert (spring.length_us / HOUR, autumn.length_us / HOUR) == (23, 25)
    hours = split_by_unit(autumn, Unit.HOUR, PLANT)
    assert len(hours) == 25
    assert set((hours.hi_us - hours.lo_us).tolist()) == {HOUR}
    nights = resolve(WindowRequest(unit=Unit.SHIFT, which=Which.LAST), PLANT, at("2026-10-25T06:30"))
    assert nights.length_us / HOUR == 9


def test_figures_of_a_day_of_25_hours_are_of_25_hours() -> None:
    day = resolve(WindowRequest(unit=Unit.DAY, which=Which.LAST), PLANT, at("2026-10-26T08:00"))
    ts = np.arange(day.start_us, day.end_us, MINUTE)
    samples = Samples(Series.of(ValueType.FLOAT, ts, np.full(len(ts), 4.0)), None, day.end_us)
    where = split_by_unit(day, Unit.DAY, PLANT)
    found = process_all(["DurationGood", "PercentGood", "Count", "Total2"], samples, where)
    assert {name: one.value(0) for name, one in found.items()} == {
        "DurationGood": 25 * 3_600_000, "PercentGood": 100, "Count": 1500, "Total2": 4 * 90_000}  # fmt: skip


def test_a_shift_that_starts_in_the_hour_that_is_skipped_keeps_its_name_and_its_day() -> None:
    odd = PlantCalendar(ROME, 1, (Shift("One", 150), Shift("Two", 870)))
    assert shift_name(at("2026-03-29T05:00"), odd) == "One"
    week = Window(at("2026-03-27T12:00"), at("2026-04-01T12:00"))
    found = stretches_of_shift(week, "One", odd)
    assert [local_text(one.start_us, ROME)[:16] for one in found] == [
        "2026-03-27 12:00", "2026-03-28 02:30", "2026-03-29 03:00", "2026-03-30 02:30", "2026-03-31 02:30",
        "2026-04-01 02:30",
    ]  # fmt: skip


def test_of_two_shifts_that_start_in_the_hour_that_is_skipped_the_later_one_is_at_work() -> None:
    odd = PlantCalendar(ROME, 1, (Shift("Day", 360), Shift("Early night", 135), Shift("Late night", 165)))
    assert shift_name(at("2026-03-29T05:00"), odd) == "Late night"
    assert shift_name(at("2026-03-28T05:00"), odd) == "Late night"
    assert shift_name(at("2026-03-28T02:30"), odd) == "Early night"


def test_a_first_interval_that_the_window_cuts_is_marked_as_the_last_one_is() -> None:
    window = Window(at("2026-03-27T05:30"), at("2026-03-27T08:15"))
    assert split_by_unit(window, Unit.HOUR, PLANT).cut.tolist() == [True, False, False, True]
    whole = Window(at("2026-03-27T05:00"), at("2026-03-27T07:00"))
    assert split_by_unit(whole, Unit.HOUR, PLANT).cut.tolist() == [False, False]
    part = Window(at("2026-03-27T05:30"), at("2026-03-27T06:00"))
    assert split_by_unit(part, Unit.HOUR, PLANT).cut.tolist() == [True]


def test_a_shift_that_starts_in_the_hour_that_is_skipped_starts_at_the_change() -> None:
    odd = PlantCalendar(ROME, 1, (Shift("A", 150), Shift("B", 870)))
    start = start_of(Unit.SHIFT, at("2026-03-29T05:00"), odd)
    assert local_text(start, ROME) == "2026-03-29 03:00:00+02:00"
    assert next_start(Unit.SHIFT, start, odd) == at("2026-03-29T14:30")


def test_weeks_and_months_are_split_where_they_begin() -> None:
    window = Window(at("2026-09-10T10:00"), at("2026-12-01T00:00"))
    months = split_by_unit(window, Unit.MONTH, PLANT)
    assert [local_text(int(t), ROME)[:10] for t in months.lo_us] == [
        "2026-09-10", "2026-10-01", "2026-11-01"]  # fmt: skip
    assert months.cut.tolist() == [True, False, False], "the last one ends where a month ends"
    cut = split_by_unit(Window(window.start_us, at("2026-11-20T00:00")), Unit.MONTH, PLANT)
    assert cut.cut.tolist() == [True, False, True]


@given(st.datetimes(datetime(2000, 1, 2), datetime(2040, 1, 1)), st.sampled_from([
    "Europe/Rome", "America/New_York", "Asia/Kolkata", "Australia/Lord_Howe", "UTC"]))  # fmt: skip
def test_days_and_hours_as_pandas_finds_them(moment: datetime, zone: str) -> None:
    """pandas (which reads the same zone data, by its own code) is the reference for the start of a day."""
    calendar = PlantCalendar(ZoneInfo(zone))
    at_us = int(pd.Timestamp(moment, tz="UTC").value) // 1000
    local = pd.Timestamp(at_us, unit="us", tz="UTC").tz_convert(zone)
    day = pd.Timestamp(local.date()).tz_localize(zone, ambiguous=True, nonexistent="shift_forward")
    assert start_of(Unit.DAY, at_us, calendar) == day.tz_convert("UTC").value // 1000
    start = start_of(Unit.DAY, at_us, calendar)
    assert start <= at_us < next_start(Unit.DAY, at_us, calendar)
    hour = start_of(Unit.HOUR, at_us, calendar)
    assert hour <= at_us < hour + HOUR


def test_last_and_from_to() -> None:
    now = at("2026-11-23T15:20")
    assert resolve(WindowRequest(last_us=30 * MINUTE), PLANT, now) == Window(now - 30 * MINUTE, now)
    assert resolve(WindowRequest(last_us=HOUR, end_us=now - HOUR), PLANT, now) == Window(
        now - 2 * HOUR, now - HOUR
    )
    assert resolve(WindowRequest(start_us=now - HOUR), PLANT, now) == Window(now - HOUR, now), (
        "a run that goes on"
    )
    assert len(split_by_duration(Window(now - HOUR, now), 25 * MINUTE)) == 3


def test_just_at_midnight_today_is_the_day_that_has_ended() -> None:
    assert this(Unit.DAY, "2026-11-23T00:00") == ("2026-11-22 00:00:00+01:00", "2026-11-23 00:00:00+01:00")


@pytest.mark.parametrize("spec,field", [
    (WindowRequest(), "window"), (WindowRequest(last_us=1, start_us=1), "window"),
    (WindowRequest(last_us=0), "last"),
    (WindowRequest(start_us=2, end_us=2), "end"),
])  # fmt: skip
def test_a_window_that_says_nothing_or_too_much_is_refused(spec: WindowRequest, field: str) -> None:
    with pytest.raises(InvalidInput) as error:
        resolve(spec, PLANT, at("2026-11-23T15:20"))
    assert error.value.field == field


def test_without_a_shift_calendar_there_are_no_shifts() -> None:
    with pytest.raises(InvalidInput, match="no shift calendar"):
        resolve(WindowRequest(unit=Unit.SHIFT), PlantCalendar(ROME), at("2026-11-23T15:20"))


class TestCompared:
    """Windows that stand beside each other."""

    def test_a_day_earlier_is_the_same_time_on_the_wall(self) -> None:
        shift = Window(at("2026-10-25 06:00"), at("2026-10-25 14:00"))
        day = earlier(shift, 1, ROME)
        assert (day.start_us, day.end_us) == (at("2026-10-24 06:00"), at("2026-10-24 14:00"))
        assert shift.start_us - day.start_us == 25 * HOUR, "clocks were set back that night"
        week = earlier(shift, 7, ROME)
        assert (week.start_us, week.length_us) == (at("2026-10-18 06:00"), 8 * HOUR)

    def test_what_is_finer_than_a_minute_stays(self) -> None:
        odd = Window(at("2026-11-20 06:00") + 12 * SECOND + 34, at("2026-11-20 06:01"))
        assert earlier(odd, 1, ROME).start_us == at("2026-11-19 06:00") + 12 * SECOND + 34

    def test_the_stretches_of_one_shift_with_those_at_the_ends_cut(self) -> None:
        window = Window(at("2026-11-20 10:00"), at("2026-11-22 07:00"))
        found = stretches_of_shift(window, "Early", PLANT)
        assert [(one.start_us, one.end_us) for one in found] == [
            (at("2026-11-20 10:00"), at("2026-11-20 14:00")),
            (at("2026-11-21 06:00"), at("2026-11-21 14:00")),
            (at("2026-11-22 06:00"), at("2026-11-22 07:00")),
        ]
        assert [is_whole(one, Unit.SHIFT, PLANT) for one in found] == [False, True, False]

    def test_a_shift_that_the_plant_does_not_have_is_refused(self) -> None:
        with pytest.raises(InvalidInput, match="Dawn"):
            stretches_of_shift(Window(at("2026-11-20"), at("2026-11-21")), "Dawn", PLANT)


class TestWeekdaysAndLengthsBeforeNow:
    NOW = at("2026-11-25 10:00")
    """A Wednesday."""

    @pytest.mark.parametrize("weekday,start", [
        (1, "2026-11-23"), (2, "2026-11-24"), (3, "2026-11-25"), (4, "2026-11-19"), (7, "2026-11-22"),
    ])  # fmt: skip
    def test_since_a_weekday(self, weekday: int, start: str) -> None:
        found = resolve(WindowRequest(weekday=weekday), PLANT, self.NOW)
        assert (found.start_us, found.end_us) == (at(start), self.NOW)

    def test_just_at_its_beginning_it_is_the_one_a_week_ago(self) -> None:
        found = resolve(WindowRequest(weekday=3), PLANT, at("2026-11-25"))
        assert (found.start_us, found.end_us) == (at("2026-11-18"), at("2026-11-25"))

    def test_a_length_that_ends_before_now(self) -> None:
        found = resolve(WindowRequest(last_us=8 * HOUR, ago_us=2 * HOUR), PLANT, self.NOW)
        assert (found.start_us, found.end_us) == (self.NOW - 10 * HOUR, self.NOW - 2 * HOUR)

    @pytest.mark.parametrize("request_,at_", [
        (WindowRequest(unit=Unit.SHIFT), "2026-11-25 14:00"),
        (WindowRequest(unit=Unit.SHIFT, which=Which.LAST), "2026-11-25 14:00"),
        (WindowRequest(unit=Unit.WEEK), "2026-11-30"), (WindowRequest(weekday=1), "2026-11-26"),
    ])  # fmt: skip
    def test_when_it_will_be_another(self, request_: WindowRequest, at_: str) -> None:
        changes_us = changes_at(request_, PLANT, self.NOW)
        assert changes_us == at(at_)
        before, after = (resolve(request_, PLANT, us) for us in (changes_us - 1, changes_us + SECOND))
        assert before.start_us <= after.start_us

    def test_a_length_or_a_fixed_one_never_changes_but_with_the_clock(self) -> None:
        for request in (WindowRequest(last_us=HOUR), WindowRequest(start_us=1, end_us=2)):
            assert changes_at(request, PLANT, self.NOW) is None

    @pytest.mark.parametrize("request_,field", [
        (WindowRequest(weekday=8), "weekday"), (WindowRequest(unit=Unit.DAY, ago_us=HOUR), "ago"),
        (WindowRequest(last_us=HOUR, ago_us=-1), "ago"), (WindowRequest(weekday=1, last_us=HOUR), "window"),
        (WindowRequest(last_us=400 * 366 * 24 * HOUR), "last"),
    ])  # fmt: skip
    def test_what_cannot_be_meant_is_refused(self, request_: WindowRequest, field: str) -> None:
        with pytest.raises(InvalidInput) as refused:
            resolve(request_, PLANT, self.NOW)
        assert refused.value.field == field

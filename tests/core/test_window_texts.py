"""Windows as people type them, and how they are read back to them. Zone Europe/Rome; its clocks change as in
Directive 2000/84/EC (last Sundays of March and October, 01:00 UTC)."""

from __future__ import annotations

from datetime import UTC, datetime
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cronaca.core.errors import InvalidInput
from cronaca.core.model import DAY, HOUR, MINUTE, SECOND, Window
from cronaca.core.window_texts import read_duration, read_window, window_text
from cronaca.core.windows import PlantCalendar, Shift, Unit, Which, WindowRequest, resolve

ROME = ZoneInfo("Europe/Rome")
PLANT = PlantCalendar(ROME, 1, (Shift("Early", 360), Shift("Late", 840), Shift("Night", 1320)))
NOW = int(datetime(2026, 11, 25, 9, 0, tzinfo=UTC).timestamp()) * SECOND
"""A Wednesday, 10:00 in Rome."""
SHOWN = Window(NOW - HOUR, NOW)


def read(text: str) -> WindowRequest:
    return read_window(text, PLANT, NOW, SHOWN)


def span(text: str) -> tuple[str, str]:
    """Both ends in UTC, to the second."""
    window = resolve(read(text), PLANT, NOW)
    start, end = (datetime.fromtimestamp(us // SECOND, UTC) for us in (window.start_us, window.end_us))
    return f"{start:%Y-%m-%dT%H:%M:%S}", f"{end:%Y-%m-%dT%H:%M:%S}"


@pytest.mark.parametrize("text,start,end", [
    ("24.11. 06:00 to 14:00", "2026-11-24T05:00:00", "2026-11-24T13:00:00"),
    ("06:00 to 07:30:15", "2026-11-25T05:00:00", "2026-11-25T06:30:15"),
    ("24.11. 06:00 – 14:00", "2026-11-24T05:00:00", "2026-11-24T13:00:00"),
    ("24.11.2026 22:00 to 06:00", "2026-11-24T21:00:00", "2026-11-25T05:00:00"),
    ("2026-11-23 to 2026-11-24", "2026-11-22T23:00:00", "2026-11-23T23:00:00"),
    ("2026-11-24 06:00 to 14:00", "2026-11-24T05:00:00", "2026-11-24T13:00:00"),
    ("2026-11-24T08:30:00Z/2026-11-24T09:00:00Z", "2026-11-24T08:30:00", "2026-11-24T09:00:00"),
    ("2026-11-24T08:30:00+01:00/PT90M", "2026-11-24T07:30:00", "2026-11-24T09:00:00"),
    ("P1D/2026-11-24T08:30:00Z", "2026-11-23T08:30:00", "2026-11-24T08:30:00"),
    ("2026-07-01 06:00 to 14:00", "2026-07-01T04:00:00", "2026-07-01T12:00:00"),
    ("Monday 06:00 to Tuesday 14:00", "2026-11-23T05:00:00", "2026-11-24T13:00:00"),
    ("monday to friday", "2026-11-22T23:00:00", "2026-11-26T23:00:00"),
    ("yesterday 06:00 to 14:00", "2026-11-24T05:00:00", "2026-11-24T13:00:00"),
    ("24.11. 06:00 until now", "2026-11-24T05:00:00", "2026-11-25T09:00:00"),
    ("since 06:00", "2026-11-25T05:00:00", "2026-11-25T09:00:00"),
])  # fmt: skip
def test_moments(text: str, start: str, end: str) -> None:
    assert span(text) == (start, end)


@pytest.mark.parametrize("text,start,end", [
    ("24.10.2026 22:00 to 06:00", "2026-10-24T20:00:00", "2026-10-25T05:00:00"),
    ("28.3.2026 22:00 to 06:00", "2026-03-28T21:00:00", "2026-03-29T04:00:00"),
    ("30.10.2027 22:00 to 06:00", "2027-10-30T20:00:00", "2027-10-31T05:00:00"),
    ("27.3.2027 22:00 to 06:00", "2027-03-27T21:00:00", "2027-03-28T04:00:00"),
    ("31.12.2026 22:00 to 06:00", "2026-12-31T21:00:00", "2027-01-01T05:00:00"),
])  # fmt: skip
def test_a_night_ends_at_its_hour_also_when_the_clocks_are_set_in_it(text: str, start: str, end: str) -> None:
    assert span(text) == (start, end)


def test_a_moment_alone_is_the_middle_of_a_window_as_long_as_the_one_shown() -> None:
    assert span("24.11. 12:00") == ("2026-11-24T10:30:00", "2026-11-24T11:30:00")


@pytest.mark.parametrize("text,request_", [
    ("this shift", WindowRequest(unit=Unit.SHIFT)),
    ("Last  Shift", WindowRequest(unit=Unit.SHIFT, which=Which.LAST)),
    ("today", WindowRequest(unit=Unit.DAY)),
    ("yesterday", WindowRequest(unit=Unit.DAY, which=Which.LAST)),
    ("previous week", WindowRequest(unit=Unit.WEEK, which=Which.LAST)),
    ("last 7 shifts", WindowRequest(unit=Unit.SHIFT, which=Which.LAST, count=7)),
    ("previous 2 months", WindowRequest(unit=Unit.MONTH, which=Which.LAST, count=2)),
    ("last 7 days", WindowRequest(last_us=7 * DAY)),
    ("8 h", WindowRequest(last_us=8 * HOUR)),
    ("last 1 h 30 min", WindowRequest(last_us=90 * MINUTE)),
    ("PT8H", WindowRequest(last_us=8 * HOUR)),
    ("8 h until 2 h ago", WindowRequest(last_us=8 * HOUR, ago_us=2 * HOUR)),
    ("last 3 days, 1 week ago", WindowRequest(last_us=3 * DAY, ago_us=7 * DAY)),
    ("Monday until now", WindowRequest(weekday=1)),
    ("since sunday", WindowRequest(weekday=7)),
])  # fmt: skip
def test_the_meaning_is_kept_not_the_instants(text: str, request_: WindowRequest) -> None:
    assert read(text) == request_


@pytest.mark.parametrize("text", [
    "", "nonsense", "25:00", "24.11. 06:00 to", "14:00 to 2026-11-24", "1 2 3", "31.2. 05:00", "2026",
    "20261124", "2026-W48-1", "PT1H/", "PT/06:00", "0 h", "8", "h", "last monday", "to now",
    "8 h until now ago", "9999-12-31 until now", "99999999999999999 h", "06:00 to 07:00 to 08:00",
    "2026-11-24T25:00Z to now",
])  # fmt: skip
def test_what_means_nothing_is_refused_with_what_to_write(text: str) -> None:
    with pytest.raises(InvalidInput) as refused:
        read(text)
    assert refused.value.field == "text"
    assert refused.value.remedy


@pytest.mark.parametrize("text,problem", [
    ("2026-03-29 02:30", "skip"), ("25.10.2026 02:30", "twice"), ("25.10.2026 01:00 to 02:15", "twice"),
])  # fmt: skip
def test_a_time_that_does_not_exist_or_exists_twice_is_refused(text: str, problem: str) -> None:
    with pytest.raises(InvalidInput, match=problem):
        read(text)


def test_the_next_day_is_meant_before_it_is_asked_whether_a_time_exists() -> None:
    # 02:30 exists twice on the 25th, but the window ends on the 26th.
    assert span("25.10.2026 22:00 to 02:30") == ("2026-10-25T21:00:00", "2026-10-26T01:30:00")
    assert span("29.3.2026 22:00 to 02:30") == ("2026-03-29T20:00:00", "2026-03-30T00:30:00")


def test_a_second_moment_is_by_the_plants_clock_also_behind_one_with_an_offset() -> None:
    assert span("2026-11-24T05:00:00Z to 14:00") == ("2026-11-24T05:00:00", "2026-11-24T13:00:00")
    assert span("2026-11-24T23:30:00Z to 02:00") == ("2026-11-24T23:30:00", "2026-11-25T01:00:00")


def test_without_a_shift_calendar_a_shift_is_refused_as_what_was_typed() -> None:
    with pytest.raises(InvalidInput, match="no shift calendar") as refused:
        read_window("this shift", PlantCalendar(ROME), NOW, SHOWN)
    assert refused.value.field == "text"


def test_with_its_offset_a_time_that_exists_twice_is_one() -> None:
    assert span("2026-10-25T02:30+02:00 to 2026-10-25T02:30+01:00") == (
        "2026-10-25T00:30:00", "2026-10-25T01:30:00",
    )  # fmt: skip


@pytest.mark.parametrize("text,words", [
    ("this shift", "this shift (Early): Wed 25.11.2026 06:00 until now"),
    ("last shift", "last shift (Night): Tue 24.11.2026 22:00 to Wed 25.11.2026 06:00"),
    ("last 7 shifts", "last 7 shifts: Sun 22.11.2026 22:00 to Wed 25.11.2026 06:00"),
    ("today", "today: Wed 25.11.2026 00:00 until now"),
    ("yesterday", "yesterday: Tue 24.11.2026 00:00 to Wed 25.11.2026 00:00"),
    ("Monday until now", "Monday until now: Mon 23.11.2026 00:00 until now"),
    ("90 min", "last 90 min: Wed 25.11.2026 08:30 until now"),
    ("8 h until 2 h ago", "last 8 h until 2 h ago: Wed 25.11.2026 00:00 to 08:00"),
    ("06:00 to 07:30:15", "Wed 25.11.2026 06:00:00 to 07:30:15"),
    ("24.11. 06:00 until now", "Tue 24.11.2026 06:00 until now"),
])  # fmt: skip
def test_it_is_read_back_with_the_plants_clock(text: str, words: str) -> None:
    assert window_text(read(text), PLANT, NOW) == words


@given(st.text(max_size=30))
def test_any_text_is_a_window_or_is_refused(text: str) -> None:
    try:
        request = read(text)
    except InvalidInput as refused:
        assert refused.field == "text"
    else:
        assert window_text(request, PLANT, NOW)


@given(st.integers(1, 400), st.sampled_from(["s", "min", "h", "d", "days", "weeks"]))
def test_durations(count: int, unit: str) -> None:
    widths = {"s": SECOND, "min": MINUTE, "h": HOUR, "d": DAY, "days": DAY, "weeks": 7 * DAY}
    assert read_duration(f"{count} {unit}") == read_duration(f"{count}{unit}") == count * widths[unit]

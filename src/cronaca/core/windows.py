"""Windows as people say them, resolved to UTC: last so long, from-to, since the start of the shift, day,
week or month in the plant's zone; and how they are split, by duration or by the calendar.

A local day has 23 to 25 hours where clocks change; every edge is found by its local time, never by adding
24 hours.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from datetime import time as clock_time
from enum import StrEnum
from typing import Final
from zoneinfo import ZoneInfo

from cronaca.core.aggregates.intervals import MOST, Intervals, by_duration, by_edges
from cronaca.core.errors import InvalidInput
from cronaca.core.model import EARLIEST, HOUR, LATEST, LONGEST_WINDOW, SECOND, Window

MOST_UNITS: Final = 400
"""So many shifts, days ... make a window at most."""
_EPOCH: Final = datetime(1970, 1, 1, tzinfo=UTC)


@dataclass(frozen=True, slots=True)
class Shift:
    """One shift of the plant's day: its name and the minute of the local day at which it starts."""

    name: str
    start_minute: int

    @classmethod
    def parse(cls, name: str, start: str) -> Shift:
        """From a local time such as 06:00; raises InvalidInput."""
        try:
            time_of_day = clock_time.fromisoformat(start)
        except ValueError as exc:
            raise InvalidInput(
                "shifts",
                "not-local-time",
                "{start!r} is not a local time",
                "Write it like 06:00.",
                start=start,
            ) from exc
        return cls(name, time_of_day.hour * 60 + time_of_day.minute)


@dataclass(frozen=True, slots=True)
class PlantCalendar:
    """The plant's zone, the first day of its week (1 Monday to 7 Sunday), and its shifts (none: no shifts
    are known)."""

    zone: ZoneInfo
    first_weekday: int = 1
    shifts: tuple[Shift, ...] = ()


class Unit(StrEnum):
    """A stretch of the calendar."""

    HOUR = "hour"
    SHIFT = "shift"
    DAY = "day"
    WEEK = "week"
    MONTH = "month"


class Which(StrEnum):
    """Which one of a unit is meant."""

    THIS = "this"
    """From its start until now."""
    LAST = "last"
    """The whole one before, or several."""


@dataclass(frozen=True, slots=True)
class WindowRequest:
    """A window as asked for. One of: `last_us`, which ends `ago_us` before now; `start_us` with `end_us`
    (None: now); `unit` with `which`, of the last ones `count`; `weekday` (1 Monday to 7 Sunday), from its
    last beginning until now. `end_us` beside all but `start_us` stands for now. A run is its from-to, open
    until now."""

    last_us: int | None = None
    start_us: int | None = None
    end_us: int | None = None
    unit: Unit | None = None
    which: Which = Which.THIS
    ago_us: int = 0
    weekday: int | None = None
    count: int = 1

    @property
    def goes_on(self) -> bool:
        """Whether it ends with the clock."""
        if self.start_us is not None:
            return self.end_us is None
        return self.unit is None or self.which is Which.THIS


def resolve(spec: WindowRequest, calendar: PlantCalendar, now_us: int) -> Window:
    """The window in UTC; raises InvalidInput when it says nothing, or too much."""
    said = (spec.last_us, spec.start_us, spec.unit, spec.weekday)
    if sum(one is not None for one in said) != 1:
        raise InvalidInput(
            "window", "say-one-thing", "exactly one of these is needed", "Give last, start, unit, or weekday."
        )
    if spec.ago_us != 0 and spec.last_us is None:
        raise InvalidInput(
            "ago", "goes-with-length", "it goes with a length", "Give last too, or leave ago out."
        )
    if not 1 <= spec.count <= MOST_UNITS:
        raise InvalidInput(
            "count",
            "count-not-possible",
            "{count} is not possible",
            "Give 1 to {most_units}.",
            count=spec.count,
            most_units=MOST_UNITS,
        )
    if spec.count > 1 and (spec.unit is None or spec.which is not Which.LAST):
        raise InvalidInput(
            "count",
            "goes-with-last-ones",
            "it goes with the last ones of a unit",
            "Give unit, and which as last.",
        )
    end_us = now_us if spec.end_us is None else spec.end_us
    if spec.last_us is not None:
        if spec.last_us <= 0:
            raise InvalidInput(
                "last", "last-window-no-length", "the window has no length", "Give a duration above zero."
            )
        if max(spec.last_us, spec.ago_us) > LONGEST_WINDOW:
            raise InvalidInput("last", "more-years", "that is more than 30 years", "Give a shorter duration.")
        if spec.ago_us < 0:
            raise InvalidInput(
                "ago", "lies-ahead", "it lies ahead", "Give how long before now the window ends."
            )
        return Window.parse(end_us - spec.ago_us - spec.last_us, end_us - spec.ago_us)
    if spec.start_us is not None:
        return Window.parse(spec.start_us, end_us)
    if spec.weekday is not None:
        return Window.parse(_start_of_weekday(spec.weekday, end_us, calendar.zone), end_us)
    return _calendar_window(spec, spec.unit or Unit.DAY, end_us, calendar)


def _calendar_window(spec: WindowRequest, unit: Unit, end_us: int, calendar: PlantCalendar) -> Window:
    start_us = start_of(unit, end_us, calendar)
    if spec.which is Which.LAST:
        first_us = start_us
        for _ in range(spec.count):
            first_us = start_of(unit, first_us - 1, calendar)
        return Window.parse(first_us, start_us)
    # Just at the start of a unit, nothing of it has passed yet: the one before has just ended.
    return Window.parse(start_us if start_us < end_us else start_of(unit, end_us - 1, calendar), end_us)


def changes_at(spec: WindowRequest, calendar: PlantCalendar, now_us: int) -> int | None:
    """When the beginning of such a window, or the end of a past one, will be another; None: never, or with
    the clock."""
    if spec.weekday is not None:
        return next_start(Unit.DAY, now_us, calendar)
    return None if spec.unit is None else next_start(spec.unit, now_us, calendar)


def _start_of_weekday(weekday: int, at_us: int, zone: ZoneInfo) -> int:
    if not 1 <= weekday <= 7:
        raise InvalidInput(
            "weekday",
            "weekday-none",
            "{weekday} is none",
            "Give 1 for Monday to 7 for Sunday.",
            weekday=weekday,
        )
    for just in (at_us, at_us - 1):
        today = _local(just, zone).date()
        start_us = _midnight(today - timedelta(days=(today.isoweekday() - weekday) % 7), zone)
        if start_us < at_us:
            break
    return start_us


def wish_before(spec: WindowRequest, window: Window) -> WindowRequest:
    """The window that ends where this one begins: as long as it, or as many units of the calendar."""
    if spec.unit is not None:
        # At the very start of a unit, the one before has just ended.
        return WindowRequest(unit=spec.unit, which=Which.LAST, end_us=window.start_us, count=spec.count)
    return WindowRequest(start_us=max(window.start_us - window.length_us, EARLIEST), end_us=window.start_us)


def earlier(window: Window, days: int, zone: ZoneInfo) -> Window:
    """The window so many days earlier by the clock on the wall: 06:00 stays 06:00 over a change of clocks."""
    return Window(_moved(window.start_us, days, zone), _moved(window.end_us, days, zone))


def _moved(at_us: int, days: int, zone: ZoneInfo) -> int:
    local = _local(at_us, zone)
    day = local.date() - timedelta(days=days)
    minute = local.hour * 60 + local.minute
    return _at_minute(day, minute, zone) + local.second * SECOND + at_us % SECOND


def split_by_unit(window: Window, unit: Unit, calendar: PlantCalendar) -> Intervals:
    """The window cut where units of the calendar start; the first and last may be cut by its ends."""
    edges = [window.start_us]
    while edges[-1] < window.end_us:
        if len(edges) > MOST:
            raise InvalidInput(
                "split",
                "makes-more-intervals",
                "it makes more than {most:,} intervals",
                "Choose a longer unit.",
                most=MOST,
            )
        edges.append(min(next_start(unit, edges[-1], calendar), window.end_us))
    whole = next_start(unit, edges[-2], calendar) == window.end_us
    begun = start_of(unit, edges[0], calendar) < edges[0]
    return by_edges(edges, cut_first=begun, cut_last=not whole)


def split_by_duration(window: Window, interval_us: int) -> Intervals:
    """The window cut into stretches counted from its start; 0 leaves it whole."""
    return by_duration(window.start_us, window.end_us, interval_us)


def start_of(unit: Unit, at_us: int, calendar: PlantCalendar) -> int:
    """When the hour, shift, day, week or month began in which an instant lies."""
    if unit is Unit.HOUR:
        return _hour_start(at_us, calendar.zone)
    if unit is Unit.SHIFT:
        return _shift_edges(at_us, calendar)[0]
    return _midnight(_first_day(unit, _local(at_us, calendar.zone).date(), calendar), calendar.zone)


def next_start(unit: Unit, at_us: int, calendar: PlantCalendar) -> int:
    """When the next one begins."""
    if unit is Unit.HOUR:
        return _hour_start(at_us, calendar.zone) + HOUR
    if unit is Unit.SHIFT:
        return _shift_edges(at_us, calendar)[1]
    first = _first_day(unit, _local(at_us, calendar.zone).date(), calendar)
    if unit is Unit.DAY:
        return _midnight(first + timedelta(days=1), calendar.zone)
    if unit is Unit.WEEK:
        return _midnight(first + timedelta(days=7), calendar.zone)
    return _midnight((first + timedelta(days=32)).replace(day=1), calendar.zone)


def is_whole(window: Window, unit: Unit, calendar: PlantCalendar) -> bool:
    """Whether a window is one whole unit of the calendar."""
    whole = start_of(unit, window.start_us, calendar), next_start(unit, window.start_us, calendar)
    return whole == (window.start_us, window.end_us)


def shift_name(at_us: int, calendar: PlantCalendar) -> str:
    """The shift in which an instant lies."""
    start_us = start_of(Unit.SHIFT, at_us, calendar)
    day = _local(start_us, calendar.zone).date()
    # In the hour that is skipped several may start at once: the last of them is at work.
    latest_first = sorted(calendar.shifts, key=lambda shift: -shift.start_minute)
    for one_day in (day, day - timedelta(days=1)):
        for shift in latest_first:
            if _at_minute(one_day, shift.start_minute, calendar.zone) == start_us:
                return shift.name
    return ""


def stretches_of_shift(window: Window, name: str, calendar: PlantCalendar) -> list[Window]:
    """The stretches of one shift in a window, day after day, for a comparison of like with like; those at its
    ends as far as they lie in it. Raises InvalidInput for a shift that the plant does not have."""
    names = [shift.name for shift in calendar.shifts]
    if name not in names:
        raise InvalidInput(
            "shift",
            "no-shift",
            "there is no shift {name!r}",
            "Choose among {names}.",
            name=name,
            names=", ".join(names),
        )
    cut = split_by_unit(window, Unit.SHIFT, calendar)
    ends = zip(cut.lo_us.tolist(), cut.hi_us.tolist(), strict=True)
    return [Window(lo, hi) for lo, hi in ends if shift_name(lo, calendar) == name]


def _first_day(unit: Unit, day: date, calendar: PlantCalendar) -> date:
    if unit is Unit.MONTH:
        return day.replace(day=1)
    if unit is Unit.WEEK:
        return day - timedelta(days=(day.isoweekday() - calendar.first_weekday) % 7)
    return day


def _shift_edges(at_us: int, calendar: PlantCalendar) -> tuple[int, int]:
    """The start of the shift at an instant, and of the one after it."""
    if not calendar.shifts:
        raise InvalidInput(
            "unit",
            "plant-no-shift-calendar",
            "the plant has no shift calendar",
            "Enter its shifts in the set-up.",
        )
    today = _local(at_us, calendar.zone).date()
    days = [today + timedelta(days=d) for d in (-1, 0, 1, 2)]
    minutes = sorted({shift.start_minute for shift in calendar.shifts})
    starts = sorted({_at_minute(day, minute, calendar.zone) for day in days for minute in minutes})
    after = next(i for i, start in enumerate(starts) if start > at_us)
    return starts[after - 1], starts[after]


def _hour_start(at_us: int, zone: ZoneInfo) -> int:
    """Hours begin at whole local hours; zones with odd offsets are whole minutes away from UTC's."""
    offset = _local(at_us, zone).utcoffset() or timedelta()
    offset_us = offset // timedelta(microseconds=1)
    return (at_us + offset_us) // HOUR * HOUR - offset_us


def _local(at_us: int, zone: ZoneInfo) -> datetime:
    if not EARLIEST <= at_us <= LATEST:
        raise InvalidInput(
            "end",
            "end-lies-outside",
            "{at_us} µs lies outside 1970 to 9999",
            "Give UTC microseconds.",
            at_us=at_us,
        )
    return datetime.fromtimestamp(at_us // SECOND, UTC).astimezone(zone)


def _midnight(day: date, zone: ZoneInfo) -> int:
    return _at_minute(day, 0, zone)


def instant_of(local: datetime, zone: ZoneInfo, field: str) -> int:
    """The instant at which the clocks show a time, µs. Raises InvalidInput for one that they skip, and for
    one that they show twice: an offset says which is meant."""
    first, second = (local.replace(tzinfo=zone, fold=fold) for fold in (0, 1))
    if first.astimezone(UTC).astimezone(zone).replace(tzinfo=None, fold=0) != local:
        raise InvalidInput(
            field, "clocks-skip", "the clocks skip {local:%d.%m.%Y %H:%M}", "Give another time.", local=local
        )
    if first.utcoffset() != second.utcoffset():
        one, two = (at.isoformat(timespec="minutes") for at in (first, second))
        raise InvalidInput(
            field,
            "clocks-show-twice-day",
            "the clocks show {local:%H:%M} twice that day",
            "Write {one} or {two}.",
            local=local,
            one=one,
            two=two,
        )
    return round((first.astimezone(UTC) - _EPOCH) / timedelta(microseconds=1))


def _at_minute(day: date, minute: int, zone: ZoneInfo) -> int:
    """The instant of a local time. One that is skipped when clocks go forward stands for the instant of the
    change; of one that exists twice the first is meant."""
    local = datetime.combine(day, clock_time(minute // 60, minute % 60), zone)
    moment = local.astimezone(UTC)
    if moment.astimezone(zone).replace(tzinfo=None) != local.replace(tzinfo=None):
        moment = _change_before(moment, zone)
    return int(moment.timestamp()) * SECOND


def _change_before(at: datetime, zone: ZoneInfo) -> datetime:
    """The instant at which the clocks changed, within the day before."""
    low, high = at - timedelta(days=1), at + timedelta(days=1)
    before = low.astimezone(zone).utcoffset()
    while high - low > timedelta(seconds=1):
        middle = low + (high - low) // 2
        if middle.astimezone(zone).utcoffset() == before:
            low = middle
        else:
            high = middle
    return high.replace(microsecond=0)


def local_text(at_us: int, zone: ZoneInfo) -> str:
    """An instant in the plant's zone with its offset, ISO 8601."""
    local = _local(at_us, zone) + timedelta(microseconds=at_us % SECOND)
    return local.isoformat(sep=" ")

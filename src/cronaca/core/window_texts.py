"""Windows as people type them, and in words: `this shift`, `last 7 shifts`, `8 h`, `8 h until 2 h ago`,
`Monday until now`, `24.11. 06:00 to 14:00`, an ISO 8601 interval. The day stands before the month, the clock
has 24 hours."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Final

from cronaca.core.errors import InvalidInput
from cronaca.core.logger_rules.words import duration_text
from cronaca.core.model import DAY, HOUR, MINUTE, SECOND, Window
from cronaca.core.windows import (
    PlantCalendar,
    Unit,
    Which,
    WindowRequest,
    instant_of,
    resolve,
    shift_name,
)

EXAMPLES: Final = "Write for instance: this shift, 8 h, Monday until now, 24.11. 06:00 to 14:00."
_DAYS: Final = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
_SAID: Final = {
    "today": (Unit.DAY, Which.THIS),
    "yesterday": (Unit.DAY, Which.LAST),
    **{f"{word} {unit}": (unit, Which.THIS) for word in ("this", "current") for unit in Unit},
    **{f"{word} {unit}": (unit, Which.LAST) for word in ("last", "previous") for unit in Unit},
}
_SEVERAL: Final = re.compile(r"(?:last|previous) (\d{1,3}) (shift|month)s?")
"""Several hours, days and weeks are lengths until now, not whole units."""
_TO: Final = re.compile(r"\s+(?:to|until|–|-)\s+|/")
_AGO: Final = re.compile(r"(?:last )?(.+?)(?: (?:until|to|ending)|,) (.+) ago")
_NOW: Final = re.compile(r"(?:(.+) (?:to|until) now|since (.+))")
_PART: Final = re.compile(r"(\d+(?:\.\d+)?) ?(ms|s|min|h|d|days?|weeks?|hours?|minutes?|seconds?)\b ?")
_WIDTHS: Final = {"ms": 1_000, "s": SECOND, "min": MINUTE, "h": HOUR, "d": DAY, "w": 7 * DAY, "m": MINUTE}
_ISO_DURATION: Final = re.compile(r"p(?:(\d+)d)?(?:t(?:(\d+)h)?(?:(\d+)m)?(?:(\d+(?:\.\d+)?)s)?)?")
_CLOCK: Final = re.compile(r"(\d{1,2}):(\d{2})(?::(\d{2}))?")
_DAY_FIRST: Final = re.compile(r"(\d{1,2})\.(\d{1,2})\.(\d{4})?")
_ISO_DAY: Final = re.compile(r"(\d{4})-(\d{2})-(\d{2})")
_ISO_MOMENT: Final = re.compile(r"\d{4}-\d{2}-\d{2}[t ]\d{2}:\d{2}.*[z+-]|\d{4}-\d{2}-\d{2}t")


def read_window(text: str, calendar: PlantCalendar, now_us: int, shown: Window) -> WindowRequest:
    """What a text means. What a first moment leaves out it takes from the end of the window `shown`, the
    second moment from the first one; a moment alone is the middle of a window as long as `shown`. Raises
    InvalidInput (field `text`) with what to write."""
    said = " ".join(text.lower().split())
    if not said:
        raise InvalidInput("text", "text-nothing", "it says nothing", EXAMPLES)
    request = _unit(said) or _Reader(calendar, now_us, shown).read(said)
    if request is None:
        raise InvalidInput("text", "not-window", "{text!r} is not a window", EXAMPLES, text=text.strip())
    try:
        resolve(request, calendar, now_us)
    except InvalidInput as exc:
        raise exc.at("text") from exc
    return request


def _unit(said: str) -> WindowRequest | None:
    several = _SEVERAL.fullmatch(said)
    if several is not None:
        return WindowRequest(unit=Unit(several[2]), which=Which.LAST, count=int(several[1]))
    unit, which = _SAID.get(said, (None, Which.THIS))
    return None if unit is None else WindowRequest(unit=unit, which=which)


@dataclass(frozen=True, slots=True)
class _Reader:
    calendar: PlantCalendar
    now_us: int
    shown: Window

    def read(self, said: str) -> WindowRequest | None:
        return self.length(said) or self.until_now(said) or self.moments(said)

    def length(self, said: str) -> WindowRequest | None:
        ago = _AGO.fullmatch(said)
        if ago is not None:
            last, before = read_duration(ago[1]), read_duration(ago[2])
            return None if last is None or before is None else WindowRequest(last_us=last, ago_us=before)
        last = read_duration(said.removeprefix("last "))
        return None if last is None else WindowRequest(last_us=last)

    def until_now(self, said: str) -> WindowRequest | None:
        found = _NOW.fullmatch(said)
        if found is None:
            return None
        first = found[1] or found[2]
        if first in _DAYS:
            return WindowRequest(weekday=_DAYS.index(first) + 1)
        start = self._moment(first, self._like(self.now_us))
        return None if start is None else WindowRequest(start_us=self._instant(start))

    def moments(self, said: str) -> WindowRequest | None:
        match _TO.split(said):
            case [only]:
                return self._around(only)
            case [first, second]:
                return self._between(first, second)
        return None

    def _around(self, text: str) -> WindowRequest | None:
        at = self._moment(text, self._like(self.shown.end_us))
        if at is None:
            return None
        middle_us = self._instant(at)
        start_us = middle_us - self.shown.length_us // 2
        return WindowRequest(start_us=start_us, end_us=start_us + self.shown.length_us)

    def _between(self, first: str, second: str) -> WindowRequest | None:
        before, after = read_duration(first), read_duration(second)
        start = None if before is not None else self._moment(first, self._like(self.shown.end_us))
        if before is not None:
            end = self._moment(second, self._like(self.shown.end_us))
            return None if end is None else self._fixed(self._instant(end) - before, self._instant(end))
        if start is None:
            return None
        start_us = self._instant(start)
        if after is not None:
            return self._fixed(start_us, start_us + after)
        shown = self._like(start_us)
        end = self._moment(second, shown, forward=True)
        if end is None:
            return None
        # 22:00 to 06:00 ends on the next day, at 06:00 also when the clocks are set in between.
        if _CLOCK.fullmatch(second) and end <= shown:
            end = end + timedelta(days=1)
        return self._fixed(start_us, self._instant(end))

    def _fixed(self, start_us: int, end_us: int) -> WindowRequest:
        if end_us <= start_us:
            raise InvalidInput(
                "text",
                "text-window-ends-before-starts",
                "the window ends before it starts",
                "Write the earlier moment first.",
            )
        return WindowRequest(start_us=start_us, end_us=end_us)

    def _like(self, at_us: int) -> datetime:
        """What the clocks show at an instant."""
        second = at_us // SECOND
        return datetime.fromtimestamp(second, self.calendar.zone).replace(tzinfo=None)

    def _instant(self, at: datetime) -> int:
        if at.tzinfo is None:
            return instant_of(at, self.calendar.zone, "text")
        return round(at.timestamp() * SECOND)

    def _moment(self, text: str, like: datetime, *, forward: bool = False) -> datetime | None:
        """A moment, with its offset where it says one; what it leaves out is as in `like`. A weekday is the
        last one until then, or the next one (`forward`)."""
        if _ISO_MOMENT.match(text):
            try:
                return datetime.fromisoformat(text.upper())
            except ValueError:
                return None
        at = like.replace(hour=0, minute=0, second=0)
        words = text.split()
        if not 1 <= len(words) <= 2:
            return None
        for word in words:
            following = self._with_word(at, word, forward=forward)
            if following is None:
                return None
            at = following
        return at

    def _with_word(self, at: datetime, word: str, *, forward: bool) -> datetime | None:
        try:
            if clock := _CLOCK.fullmatch(word):
                return at.replace(hour=int(clock[1]), minute=int(clock[2]), second=int(clock[3] or 0))
            if iso := _ISO_DAY.fullmatch(word):
                return at.replace(year=int(iso[1]), month=int(iso[2]), day=int(iso[3]))
            if day := _DAY_FIRST.fullmatch(word):
                return at.replace(year=int(day[3] or at.year), month=int(day[2]), day=int(day[1]))
        except ValueError as exc:
            raise InvalidInput(
                "text", "not-exist", "{word!r} does not exist", "Write another day or time.", word=word
            ) from exc
        if word in _DAYS:
            behind = (at.isoweekday() - 1 - _DAYS.index(word)) % 7
            return at + timedelta(days=-behind % 7) if forward else at - timedelta(days=behind)
        return {"today": self._today(at, 0), "yesterday": self._today(at, 1)}.get(word)

    def _today(self, at: datetime, before: int) -> datetime:
        day = self._like(self.now_us) - timedelta(days=before)
        return at.replace(year=day.year, month=day.month, day=day.day)


def read_duration(text: str) -> int | None:
    """µs of a duration such as `8 h`, `1 h 30 min`, `PT8H`; None where it is none, or not above zero."""
    said = text.strip().lower()
    iso = _ISO_DURATION.fullmatch(said)
    if iso is not None:
        days, hours, minutes, seconds = (float(one or 0) for one in iso.groups())
        total = days * DAY + hours * HOUR + minutes * MINUTE + seconds * SECOND
        return round(total) or None
    if _PART.sub("", said) or not said:
        return None
    total = 0.0
    for count, unit in _PART.findall(said):
        width = _WIDTHS[unit if unit in ("ms", "min") else unit[0]]
        total += float(count) * width
    return round(total) or None


def window_text(request: WindowRequest, calendar: PlantCalendar, now_us: int) -> str:
    """How a window was understood, with the plant's clock: for people to check what they typed."""
    window = resolve(request, calendar, now_us)
    span = _span_text(window, calendar, open_end=request.goes_on and request.ago_us == 0)
    if request.last_us is not None:
        ago = f" until {duration_text(request.ago_us)} ago" if request.ago_us else ""
        return f"last {duration_text(request.last_us)}{ago}: {span}"
    if request.weekday is not None:
        return f"{_DAYS[request.weekday - 1].capitalize()} until now: {span}"
    if request.count > 1:
        return f"last {request.count} {request.unit}s: {span}"
    if request.unit is Unit.DAY:
        return f"{'today' if request.which is Which.THIS else 'yesterday'}: {span}"
    if request.unit is not None:
        name = f" ({shift_name(window.start_us, calendar)})" if request.unit is Unit.SHIFT else ""
        return f"{request.which} {request.unit}{name}: {span}"
    return span


def _span_text(window: Window, calendar: PlantCalendar, *, open_end: bool) -> str:
    start, end = (_local(at, calendar) for at in (window.start_us, window.end_us))
    seconds = bool(start.second or (end.second and not open_end))
    clock = "%H:%M:%S" if seconds else "%H:%M"
    first = f"{start:%a %d.%m.%Y} {start:{clock}}"
    if open_end:
        return f"{first} until now"
    day = "" if start.date() == end.date() else f"{end:%a %d.%m.%Y} "
    return f"{first} to {day}{end:{clock}}"


def _local(at_us: int, calendar: PlantCalendar) -> datetime:
    return datetime.fromtimestamp(at_us // SECOND, calendar.zone)

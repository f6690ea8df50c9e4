"""Whether a moment lies within stretches of the week, in the plant's zone."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Final
from zoneinfo import ZoneInfo

from cronaca.core.errors import InvalidInput
from cronaca.core.model import SECOND, WeekSpan

_DAY: Final = 24 * 60
_FIELD: Final = "schedule"
MOST_SPANS: Final = 50


def is_within(spans: Sequence[WeekSpan], zone: ZoneInfo, now_us: int) -> bool:
    """By the clock on the plant's wall: a change to or from daylight saving moves nothing on it."""
    local = datetime.fromtimestamp(now_us // SECOND, UTC).astimezone(zone)
    today, minute = local.isoweekday(), local.hour * 60 + local.minute
    yesterday = today - 1 or 7
    return any(_holds(span, today, minute) or _holds(span, yesterday, minute + _DAY) for span in spans)


def _holds(span: WeekSpan, day: int, minute: int) -> bool:
    length = (span.end_minute - span.start_minute) % _DAY or _DAY
    return day in span.days and span.start_minute <= minute < span.start_minute + length


def checked_spans(spans: Sequence[WeekSpan]) -> tuple[WeekSpan, ...]:
    """The same, each day once; raises InvalidInput."""
    if len(spans) > MOST_SPANS:
        raise InvalidInput(
            _FIELD,
            "schedule-stretches",
            "it has {spans} stretches",
            "Give at most {most_spans}.",
            spans=len(spans),
            most_spans=MOST_SPANS,
        )
    for span in spans:
        if not span.days or not all(1 <= day <= 7 for day in span.days):
            raise InvalidInput(
                _FIELD, "stretch-no-usable-day", "a stretch has no usable day", "Give days 1 (Monday) to 7."
            )
        if not (0 <= span.start_minute < _DAY and 0 <= span.end_minute < _DAY):
            raise InvalidInput(
                _FIELD,
                "stretch-lies-outside-day",
                "a stretch lies outside the day",
                "Give minutes from 0 to 1439.",
            )
    return tuple(WeekSpan(tuple(sorted(set(s.days))), s.start_minute, s.end_minute) for s in spans)

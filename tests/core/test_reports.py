"""When reports are due, and how much of a period was recorded."""

from __future__ import annotations

from datetime import UTC, datetime
from zoneinfo import ZoneInfo

import pytest

from cronaca.core.errors import InvalidInput
from cronaca.core.model import HOUR, MINUTE, SECOND, Gap, GapReason, Window
from cronaca.core.reports import (
    MOST_LATE,
    Every,
    ReportSpec,
    checked_since,
    covered_percent,
    first_since,
    is_settled,
    mean,
    periods,
)
from cronaca.core.statistics.sheet import NormKind
from cronaca.core.statistics.words import written
from cronaca.core.windows import PlantCalendar, Shift

ROME = PlantCalendar(
    ZoneInfo("Europe/Rome"), 1, (Shift("Early", 360), Shift("Late", 840), Shift("Night", 1320))
)


def at(text: str) -> int:
    return int(datetime.fromisoformat(text).replace(tzinfo=UTC).timestamp()) * SECOND


def test_the_first_report_is_of_the_last_shift_that_is_over() -> None:
    now = at("2026-11-25 12:00")  # 13:00 in Rome, in the early shift
    since = first_since(Every.SHIFT, ROME, now)
    assert periods(Every.SHIFT, ROME, since, now) == [Window(at("2026-11-24 21:00"), at("2026-11-25 05:00"))]
    assert first_since(Every.RUN, ROME, now) == now


def test_after_a_downtime_every_period_is_made_oldest_first() -> None:
    found = periods(Every.DAY, ROME, at("2026-10-24 00:00"), at("2026-10-27 12:00"))
    assert [one.length_us // HOUR for one in found] == [25, 24], "the 25th has 25 hours; the 24th had begun"
    assert len(periods(Every.SHIFT, ROME, at("2026-01-01"), at("2026-11-25"))) == MOST_LATE


def test_of_a_beginning_long_ago_no_more_are_made_than_can_be_read() -> None:
    now = at("2026-11-25 12:00")
    assert checked_since(Every.SHIFT, ROME, at("2026-10-01"), now) == at("2026-10-01")
    with pytest.raises(InvalidInput) as caught:
        checked_since(Every.SHIFT, ROME, at("2026-08-01"), now)
    assert (caught.value.field, checked_since(Every.RUN, ROME, 0, now, MOST_LATE)) == ("since_us", 0)
    with pytest.raises(InvalidInput):
        checked_since(Every.RUN, ROME, 0, now, MOST_LATE + 1)


def test_a_period_is_waited_for_but_not_for_ever() -> None:
    assert not is_settled(100 * SECOND, 105 * SECOND, 111 * SECOND)
    assert is_settled(100 * SECOND, 110 * SECOND, 111 * SECOND)
    assert is_settled(0, 0, 10 * MINUTE)


def test_gaps_are_not_covered_and_bad_values_are() -> None:
    window = Window(0, 100)
    gaps = [
        Gap(-50, 10, GapReason.RECORDER_DOWN), Gap(20, 30, GapReason.BAD_VALUES),
        Gap(90, None, GapReason.NOT_YET_KNOWN), Gap(200, 300, GapReason.LOGGER_STOPPED),
    ]  # fmt: skip
    assert covered_percent(gaps, window) == pytest.approx(80.0)
    assert covered_percent([Gap(-1, 200, GapReason.SOURCE_DOWN)], window) == 0.0
    assert covered_percent([], window) == 100.0
    assert mean([None, 1.0, 2.0]) == 1.5
    assert mean([None]) is None


@pytest.mark.parametrize(
    ("changes", "field"),
    [
        ({"lines": ()}, "lines"),
        ({"lines": (("Damper", "Nonsense"),)}, "lines"),
        ({"lines": (("Damper", "Percentile 120"),)}, "lines"),
        ({"lines": (("Damper", "Travel often"),)}, "lines"),
        ({"every": Every.RUN}, "rule"),
        ({"norm": NormKind.FIXED}, "norm"),
        ({"name": " "}, "name"),
    ],
)
def test_what_cannot_be_reported_is_refused(changes: dict[str, object], field: str) -> None:
    fields = {"name": "Shift", "kind": "Line", "lines": (("Damper", "Travel"),), **changes}
    with pytest.raises(InvalidInput) as caught:
        ReportSpec(**fields).checked()  # type: ignore[arg-type]
    assert caught.value.field == field


def test_figures_are_written_in_their_digits() -> None:
    assert written("TimeAverage2", 71.23456, "°C", 1) == (71.23456, "71.235", "°C")
    assert written("Maximum", 71.26, "°C", 1)[1] == "71.3"
    assert written("DurationInStateNonZero", 61_250.0, "ms", 0) == (61.25, "61.2", "s")
    assert written("PercentGood", 99.97, "%", 1)[1:] == ("100.0", "")

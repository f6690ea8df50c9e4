"""Statistics over windows that move on: the very figures of recorded samples, at every tick."""

from __future__ import annotations

import json
from datetime import UTC, datetime
from zoneinfo import ZoneInfo

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cronaca.core import quality as q
from cronaca.core.addresses.calculated import Calculation, Kind, parse_calculation
from cronaca.core.aggregates import Configuration, Samples
from cronaca.core.aggregates.intervals import by_duration
from cronaca.core.errors import InvalidInput
from cronaca.core.figures import Figure, compute
from cronaca.core.formulas import Windowed
from cronaca.core.formulas.windowed import wish_of
from cronaca.core.model import DAY, HOUR, MINUTE, SECOND, Series, ValueType
from cronaca.core.windows import PlantCalendar, Shift

T0 = int(datetime(2026, 11, 25, 4, 0, tzinfo=UTC).timestamp()) * SECOND
"""05:00 in Rome: an hour before the early shift."""
SHIFTS = (Shift("Early", 360), Shift("Late", 840), Shift("Night", 1320))
ROME = PlantCalendar(ZoneInfo("Europe/Rome"), shifts=SHIFTS)
UID = "5f0c8a44-7b0f-5d3a-9c55-0123456789ab"
NUMBERS = (
    "TimeAverage2", "Average", "Minimum", "Maximum", "Range", "StandardDeviationPopulation", "Median",
    "Integral", "Delta", "Travel", "Count", "PercentGood", "Slope", "DurationGood",
)  # fmt: skip
CONTACTS = ("Starts", "RisingEdges", "FallingEdges", "DurationInStateNonZero", "NumberOfTransitions")


def place(figure: str, window: float | str = 60.0, percent: float = 50.0) -> Calculation:
    return Calculation(Kind.FIGURE, {"input": UID}, figure=figure, window=window, percent=percent)


def windowed(
    figure: str,
    window: float | str = 60.0,
    kind: ValueType = ValueType.FLOAT,
    scan_us: int = SECOND,
    *,
    stepped: bool = False,
) -> Windowed:
    return Windowed(place(figure, window), scan_us, kind, ROME, stepped=stepped)


def rows_of(series: Series) -> list[tuple[int, float, int]]:
    return list(
        zip(series.ts_us.tolist(), map(float, series.values.tolist()), series.quality.tolist(), strict=True)
    )


@st.composite
def histories(draw: st.DrawFn, kind: ValueType = ValueType.FLOAT) -> Series:
    """A few minutes of irregular samples, some Bad or Uncertain."""
    count = draw(st.integers(3, 60))
    steps = draw(st.lists(st.integers(1, 20_000_000), min_size=count, max_size=count))
    low, high = (0, 1) if kind is ValueType.BOOLEAN else (-50, 50)
    values = draw(st.lists(st.integers(low, high), min_size=count, max_size=count))
    codes = draw(st.lists(st.sampled_from([q.GOOD] * 6 + [q.UNCERTAIN, q.BAD_NO_DATA]), min_size=count,
                          max_size=count))  # fmt: skip
    return Series.of(kind, (T0 + np.cumsum(steps)).tolist(), values, codes)


def check_same(series: Series, figure: str, kind: ValueType, *, stepped: bool) -> None:
    running = windowed(figure, 60.0, kind, stepped=stepped)
    rows, heard = rows_of(series), 0
    first, last = int(series.ts_us[0]), int(series.ts_us[-1])
    for tick in range(first - first % SECOND + 60 * SECOND, last + 90 * SECOND, 7 * SECOND):
        until = int(series.ts_us.searchsorted(tick, side="right"))
        running.hear(rows[heard:until])
        heard = until
        said = running.at(tick)
        known = series.take(series.ts_us <= tick)
        (found,) = compute(
            [wish_of(place(figure))],
            Samples(known, known_until_us=tick),
            by_duration(tick - 60 * SECOND, tick),
            Configuration(treat_uncertain_as_bad=False, stepped=stepped),
        )
        assert isinstance(found, Figure)
        value = found.result.value(0)
        assert (said.quality[0] >= q.BAD) == (value is None)
        if value is None:
            assert np.isnan(said.values[0])
        else:
            assert said.values[0] == float(value)


@settings(deadline=None, max_examples=40)
@given(histories(), st.sampled_from(NUMBERS), st.booleans())
def test_it_is_the_figure_of_the_recorded_samples(series: Series, figure: str, stepped: bool) -> None:
    """What is forgotten does not matter: the whole history gives the same to the last bit."""
    check_same(series, figure, ValueType.FLOAT, stepped=stepped)


@settings(deadline=None, max_examples=40)
@given(histories(ValueType.BOOLEAN), st.sampled_from(CONTACTS))
def test_that_of_a_contact_too(series: Series, figure: str) -> None:
    check_same(series, figure, ValueType.BOOLEAN, stepped=True)


def test_starts_within_the_last_minute_by_hand() -> None:
    running = windowed("Starts", 60.0, ValueType.BOOLEAN, stepped=True)
    for second, value in ((0, 0), (10, 1), (20, 0), (50, 1), (55, 0), (65, 1)):
        running.hear([(T0 + second * SECOND, value, q.GOOD)])
    assert [running.at(T0 + second * SECOND).values[0] for second in (66, 75, 100, 120)] == [3, 2, 2, 1]


def test_until_the_window_has_passed_once_it_is_uncertain() -> None:
    running = windowed("TimeAverage2", 60.0)
    running.hear([(T0 + i * SECOND, 5.0, q.GOOD) for i in range(120)])
    early, late = running.at(T0 + 30 * SECOND), running.at(T0 + 90 * SECOND)
    assert (early.values[0], early.quality[0]) == (5.0, q.UNCERTAIN_DATA_SUB_NORMAL)
    assert (late.values[0], late.quality[0]) == (5.0, q.GOOD)


def test_nothing_usable_is_bad_and_never_zero() -> None:
    running = windowed("TimeAverage2", 10.0)
    running.hear([(T0, 1.0, q.GOOD), (T0 + SECOND, float("nan"), q.BAD_NO_COMMUNICATION)])
    said = running.at(T0 + 30 * SECOND)
    assert said.quality[0] >= q.BAD
    assert np.isnan(said.values[0])
    assert windowed("TimeAverage2").at(T0).quality[0] >= q.BAD, "before anything was heard"


def test_a_shift_begins_anew_and_at_its_very_start_the_one_before_is_told() -> None:
    running = windowed("Maximum", "shift", scan_us=MINUTE)
    early = T0 + HOUR
    running.hear([(T0 + i * MINUTE, float(i), q.GOOD) for i in range(180)])
    assert running.at(early).values[0] == 59, "the night, as far as it is known"
    assert running.at(early).quality[0] == q.UNCERTAIN_DATA_SUB_NORMAL
    assert running.at(early + 30 * MINUTE).values[0] == 89
    count = windowed("Count", "shift", scan_us=MINUTE)
    count.hear([(T0 + i * MINUTE, float(i), q.GOOD) for i in range(180)])
    said = count.at(early + 30 * MINUTE)
    assert (said.values[0], said.quality[0]) == (30, q.GOOD), "nothing of the night"


class TestPast:
    """What was recorded before the tag, or its recorder, began."""

    past = Series.of(ValueType.FLOAT, [T0 + i * SECOND for i in range(50)], [float(i) for i in range(50)])

    def test_it_counts_as_if_it_had_been_heard(self) -> None:
        running = windowed("Count", 60.0)
        running.hear([(T0 + i * SECOND, float(i), q.GOOD) for i in range(52, 61)])
        running.remember(self.past, T0 + 51 * SECOND)
        said = running.at(T0 + 60 * SECOND)
        assert (said.values[0], said.quality[0]) == (50 + 8, q.GOOD)

    def test_what_lies_between_is_not_known_where_it_is_long(self) -> None:
        running = windowed("TimeAverage2", 60.0)
        running.hear([(T0 + i * SECOND, 7.0, q.GOOD) for i in range(56, 60)])
        running.remember(self.past, T0 + 49 * SECOND)
        said = running.at(T0 + 60 * SECOND)
        assert said.quality[0] == q.UNCERTAIN_DATA_SUB_NORMAL
        # Sloped from 0 to 49 in 49 s, nothing for 7 s, 7 for 4 s.
        assert said.values[0] == pytest.approx((49 * 49 / 2 + 7 * 4) / 53, rel=0.02)

    def test_before_anything_was_heard_it_is_all_there_is(self) -> None:
        running = windowed("Maximum", 60.0)
        running.remember(self.past, T0 + 50 * SECOND)
        assert running.at(T0 + 50 * SECOND).values[0] == 49.0

    def test_of_another_type_it_is_left_out(self) -> None:
        running = windowed("Maximum", 60.0, ValueType.INTEGER)
        running.hear([(T0 + 55 * SECOND, 3, q.GOOD)])
        running.remember(self.past, T0 + 55 * SECOND)
        assert running.at(T0 + 60 * SECOND).values[0] == 3


def test_a_late_reading_tells_nothing() -> None:
    running = windowed("Maximum")
    running.hear([(T0 + 10 * SECOND, 1.0, q.GOOD), (T0 + 5 * SECOND, 99.0, q.GOOD)])
    running.hear([(T0 + 10 * SECOND, 98.0, q.GOOD)])
    assert running.at(T0 + 20 * SECOND).values[0] == 1.0


def test_a_long_window_is_not_summed_up_at_every_scan() -> None:
    assert windowed("Median", 60.0).every_us == SECOND
    assert windowed("Median", 8 * 3600.0).every_us == 29 * SECOND
    assert windowed("Median", "day", scan_us=10 * SECOND).every_us == 90 * SECOND
    assert windowed("Median", 60.0, scan_us=MINUTE).every_us == MINUTE


def test_afresh_it_knows_nothing_any_more() -> None:
    running = windowed("Maximum")
    running.hear([(T0, 1.0, q.GOOD)])
    assert running.afresh().at(T0 + SECOND).quality[0] >= q.BAD


@pytest.mark.parametrize("figure", ["Histogram", "TimeInStates", "Correlation", "CountWhile", "Nothing"])
def test_what_is_no_number_of_one_tag_is_refused(figure: str) -> None:
    with pytest.raises(InvalidInput):
        windowed(figure)


def test_a_figure_without_a_meaning_for_its_input_is_refused() -> None:
    with pytest.raises(InvalidInput):
        windowed("Median", kind=ValueType.STATE)


def test_without_a_shift_calendar_there_is_no_present_shift() -> None:
    with pytest.raises(InvalidInput, match="shift"):
        Windowed(place("Maximum", "shift"), SECOND, ValueType.FLOAT, PlantCalendar(ZoneInfo("UTC")),
                 stepped=False)  # fmt: skip


class TestAddress:
    def parse(self, **fields: object) -> Calculation:
        text = json.dumps({"kind": "figure", "inputs": {"input": UID}, "figure": "Travel", **fields})
        return parse_calculation(text, ValueType.FLOAT)

    def test_seconds_or_a_unit_of_the_calendar(self) -> None:
        assert self.parse(window=600).window == 600.0
        assert self.parse(window="shift", percent=90).percent == 90.0

    @pytest.mark.parametrize("window", [0, 5, 86_401, True, "week", "", None, [60]])
    def test_other_windows_are_refused(self, window: object) -> None:
        with pytest.raises(InvalidInput, match="window"):
            self.parse(window=window)

    def test_a_percentage_beyond_100_and_an_integer_are_refused(self) -> None:
        with pytest.raises(InvalidInput, match="percentage"):
            self.parse(window=60, percent=101)
        text = json.dumps({"kind": "figure", "inputs": {"input": UID}, "figure": "Travel", "window": 60})
        with pytest.raises(InvalidInput, match="float"):
            parse_calculation(text, ValueType.INTEGER)


def test_a_day_of_25_hours_begins_at_its_own_midnight() -> None:
    change = int(datetime(2026, 10, 24, 22, tzinfo=UTC).timestamp()) * SECOND
    running = windowed("Count", "day", scan_us=HOUR)
    running.hear([(change + i * HOUR, 0.0, q.GOOD) for i in range(-1, 26)])
    assert running.at(change + 25 * HOUR).values[0] == 25
    assert running.at(change + 25 * HOUR + DAY // 24).values[0] == 1

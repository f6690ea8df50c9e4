"""Aggregates where there is little, nothing, or too much: each case has a defined answer."""

from __future__ import annotations

import math

import numpy as np
import pytest

from cronaca.core import quality as q
from cronaca.core.aggregates import (
    AGGREGATES,
    Configuration,
    Processed,
    Samples,
    by_duration,
    process,
    status,
)
from cronaca.core.errors import InvalidInput
from cronaca.core.model import SECOND, Series, ValueType
from tests.core.aggregates.annex_a import (
    CONFIGURATION_1,
    CONFIGURATION_3,
    CONFIGURATION_4,
    HISTORIAN_1,
    HISTORIAN_2,
    HISTORIAN_4,
    START,
)

T0 = 1_790_000_000 * SECOND
STEPPED = Configuration(stepped=True)


def floats(*rows: tuple[float, float] | tuple[float, float, int], known: float | None = None) -> Samples:
    ts = [T0 + round(row[0] * SECOND) for row in rows]
    quality = [row[2] if len(row) > 2 else q.GOOD for row in rows]
    series = Series.of(ValueType.FLOAT, ts, [row[1] for row in rows], quality)
    return Samples(series, None, None if known is None else T0 + round(known * SECOND))


def over(name: str, samples: Samples, start: float, end: float, config: Configuration = STEPPED) -> Processed:
    return process(name, samples, by_duration(T0 + round(start * SECOND), T0 + round(end * SECOND)), config)


def severity(found: Processed) -> int:
    return int(found.codes[0]) >> 30


@pytest.mark.parametrize("name", AGGREGATES)
def test_an_empty_history_has_no_value_but_counts(name: str) -> None:
    found = over(name, floats(), 0, 60)
    if name in ("Count", "AnnotationCount"):
        assert (found.value(0), severity(found)) == (0, 0)
    else:
        assert (found.value(0), int(found.codes[0])) == (None, status.BAD_NO_DATA)


@pytest.mark.parametrize("name", AGGREGATES)
def test_a_window_before_the_first_sample_is_bad(name: str) -> None:
    found = over(name, floats((100, 5.0), known=200), 0, 60)
    if name in ("Count", "AnnotationCount", "DurationGood", "PercentGood"):
        assert found.value(0) == 0
    elif name in ("DurationBad", "PercentBad"):
        assert found.value(0) == {"DurationBad": 60_000, "PercentBad": 100}[name]
    elif name == "WorstQuality2":
        assert found.value(0) == status.BAD_NO_DATA
    else:
        assert (found.value(0), severity(found)) == (None, 2), name


@pytest.mark.parametrize("name", AGGREGATES)
def test_all_bad_has_no_value_but_durations_and_counts(name: str) -> None:
    samples = floats(*((t, 0.0, q.BAD_SENSOR_FAILURE) for t in range(0, 70, 10)), known=70)
    found = over(name, samples, 0, 60)
    if name in ("WorstQuality", "WorstQuality2"):
        assert found.value(0) == q.BAD_SENSOR_FAILURE << 16
    elif name in ("DurationBad", "PercentBad"):
        assert found.value(0) in (60_000, 100)
    elif name in ("DurationGood", "PercentGood", "Count", "AnnotationCount"):
        assert found.value(0) == 0
    else:
        assert (found.value(0), severity(found)) == (None, 2), name
    assert name != "Count" or severity(found) == 2


@pytest.mark.parametrize("value", [0.0, -7.25, 1e15 + 0.125, 1e-290, -1e290])
def test_all_equal_has_no_spread_and_that_very_mean(value: float) -> None:
    samples = floats(*((t, value) for t in range(0, 601)), known=601)
    for name in ("Average", "Minimum", "Maximum", "Minimum2", "Maximum2", "Interpolative", "StartBound"):
        assert over(name, samples, 0, 600).value(0) == value, name
    for name in ("TimeAverage", "TimeAverage2"):
        for config in (STEPPED, Configuration()):
            found = over(name, samples, 0, 600, config).value(0)
            assert found == pytest.approx(value, rel=4e-16 * 64, abs=0), name
    for name in ("Range", "Range2", "Delta", "DeltaBounds", "StandardDeviationSample", "VariancePopulation"):
        assert over(name, samples, 0, 600).value(0) == 0, name


def test_one_sample() -> None:
    samples = floats((30, 4.5), known=60)
    expected = {
        "Average": 4.5, "Minimum": 4.5, "Count": 1, "Delta": 0, "Range": 0, "StandardDeviationSample": 0,
        "TimeAverage": 4.5, "TimeAverage2": 4.5, "Total": 135, "PercentGood": 50, "Start": 4.5, "End": 4.5,
        "NumberOfTransitions": 0,
    }  # fmt: skip
    for name, value in expected.items():
        assert over(name, samples, 0, 60).value(0) == value, name


def test_a_result_beyond_float64_is_out_of_range_and_not_infinite() -> None:
    samples = floats((0, -1.7e308), (10, 1.7e308), known=20)
    for name in ("Range", "VarianceSample", "Total2", "DeltaBounds"):
        found = over(name, samples, 0, 20)
        assert found.value(0) is None, name
        assert int(found.codes[0]) == q.BAD_OUT_OF_RANGE << 16, name


def test_an_infinity_from_a_source_is_bad_before_it_gets_here() -> None:
    samples = floats((0, 1.0), (10, math.inf), (20, 3.0), known=30)
    assert over("Maximum", samples, 0, 30).value(0) == 3
    assert severity(over("Maximum", samples, 0, 30)) == 1
    assert over("TimeAverage2", samples, 0, 30).value(0) == 2


def test_a_large_offset_eats_no_digits() -> None:
    """The deviation of 0, 1, 0, 1 ... is the same on top of 1e12, to what float64 leaves of the values."""
    rng = np.random.default_rng(1)
    small = rng.integers(0, 1000, 5000) / 8
    plain = Samples(Series.of(ValueType.FLOAT, T0 + np.arange(5000) * SECOND, small))
    lifted = Samples(Series.of(ValueType.FLOAT, T0 + np.arange(5000) * SECOND, small + 1e12))
    for name in ("StandardDeviationSample", "VariancePopulation"):
        one, two = over(name, plain, 0, 5000).value(0), over(name, lifted, 0, 5000).value(0)
        assert one == pytest.approx(two, rel=1e-13)
    mean = over("Average", lifted, 0, 5000).value(0)
    assert mean == pytest.approx(1e12 + float(small.mean()), abs=2e-4)


def test_a_window_that_ends_in_the_future_counts_what_is_known() -> None:
    """Known until 60 s; of 100 s asked for, 60 are Good and the rest is not known, hence Bad."""
    samples = floats((0, 2.0), (30, 4.0), known=60)
    assert over("DurationGood", samples, 0, 100).value(0) == 60_000
    assert over("PercentBad", samples, 0, 100).value(0) == 40
    found = over("TimeAverage2", samples, 0, 100)
    assert found.value(0) == 3
    assert (severity(found), int(found.codes[0]) & status.PARTIAL) == (1, status.PARTIAL)
    assert over("TimeAverage2", samples, 70, 100).value(0) is None
    end = over("EndBound", samples, 0, 100)
    assert (end.value(0), severity(end)) == (4, 1)


def test_backward_in_time_the_later_end_belongs_to_the_interval() -> None:
    samples = floats(*((t, float(t)) for t in range(0, 61, 10)), known=60)
    back = process("Count", samples, by_duration(T0 + 60 * SECOND, T0, 20 * SECOND), STEPPED)
    assert [int(t - T0) // SECOND for t in back.begin_us] == [60, 40, 20]
    assert [int(t - T0) // SECOND for t in back.end_us] == [40, 20, 0]
    where = by_duration(T0 + 60 * SECOND, T0, 20 * SECOND)
    values = {n: [process(n, samples, where, STEPPED).value(i) for i in range(3)] for n in
              ("Minimum", "Maximum", "Start", "End", "StartBound", "EndBound", "Delta")}  # fmt: skip
    assert values == {
        "Minimum": [50, 30, 10], "Maximum": [60, 40, 20], "Start": [60, 40, 20], "End": [50, 30, 10],
        "StartBound": [60, 40, 20], "EndBound": [40, 20, 0], "Delta": [-10, -10, -10],
    }  # fmt: skip
    assert int(process("Minimum", samples, where, STEPPED).codes[0]) & status.CALCULATED
    forward = process("TimeAverage", samples, by_duration(T0, T0 + 60 * SECOND, 20 * SECOND))
    backward = process("TimeAverage", samples, where, Configuration())
    assert forward.values.tolist() == backward.values.tolist()[::-1]


def test_no_length_is_an_error() -> None:
    with pytest.raises(InvalidInput, match="no length"):
        by_duration(T0, T0)
    with pytest.raises(InvalidInput, match="percent_good"):
        Configuration.parse(percent_bad=80, percent_good=0)
    with pytest.raises(InvalidInput, match="percentage"):
        Configuration.parse(percent_bad=101)
    with pytest.raises(InvalidInput, match="not a standard aggregate"):
        over("Mean", floats(), 0, 1)


def test_a_sloped_extrapolation_goes_on_and_is_uncertain() -> None:
    samples = floats((0, 0.0), (10, 10.0))
    onward = Configuration(sloped_extrapolation=True)
    found = over("Interpolative", samples, 20, 30, onward)
    assert (found.value(0), int(found.codes[0])) == (20, 0x40A40402)
    assert over("Interpolative", samples, 20, 30, Configuration()).value(0) == 10
    assert over("Total", samples, 0, 20, onward).value(0) == 200
    assert over("Total", samples, 0, 20, Configuration()).value(0) == 150


@pytest.mark.parametrize("kind", list(ValueType))
@pytest.mark.parametrize("name", AGGREGATES)
def test_each_aggregate_has_a_meaning_for_a_type_or_is_refused(name: str, kind: ValueType) -> None:
    ts = T0 + np.arange(5) * 10 * SECOND
    samples = Samples(Series.of(kind, ts, [1, 0, 1, 1, 0]), None, int(ts[-1]) + 10 * SECOND)
    if kind in AGGREGATES[name].types:
        found = over(name, samples, 0, 50)
        assert severity(found) == 0, name
        assert found.value(0) is not None
    else:
        with pytest.raises(InvalidInput, match="is not defined for"):
            over(name, samples, 0, 50)


def test_boolean_tags_count_as_0_and_1_and_states_only_change() -> None:
    ts = T0 + np.arange(6) * 10 * SECOND
    contact = Samples(Series.of(ValueType.BOOLEAN, ts, [0, 1, 1, 0, 1, 1]), None, int(ts[-1]) + 10 * SECOND)
    found = {n: over(n, contact, 0, 60).value(0) for n in (
        "TimeAverage2", "DurationInStateNonZero", "DurationInStateZero", "NumberOfTransitions")}  # fmt: skip
    assert found == {"TimeAverage2": pytest.approx(4 / 6), "DurationInStateNonZero": 40_000,
                     "DurationInStateZero": 20_000, "NumberOfTransitions": 3}  # fmt: skip
    states = Samples(Series.of(ValueType.STATE, ts, [3, 3, 5, 4, 4, 3]), None, int(ts[-1]))
    assert over("NumberOfTransitions", states, 0, 60).value(0) == 3
    still = over("NumberOfTransitions", floats((0, 1.0), known=100), 50, 90)
    assert (still.value(0), severity(still)) == (0, 0), "a contact that did not move has none, not no data"


def test_whole_numbers_stay_exact() -> None:
    low, high = 2**62 + 1, 2**62 + 4
    series = Series.of(ValueType.INTEGER, [T0, T0 + SECOND], np.array([low, high]))
    samples = Samples(series, None, T0 + 10 * SECOND)
    for name, value in {"Minimum": low, "Maximum": high, "End": high, "Range": 3, "Delta": 3}.items():
        assert over(name, samples, 0, 10).value(0) == value, name
    wide = Samples(Series.of(ValueType.INTEGER, [T0, T0 + SECOND], np.array([-(2**63), 2**63 - 1])))
    assert over("Range", wide, 0, 10).value(0) == pytest.approx(2.0**64)


def test_historian_3_holds_its_values_and_is_good_from_half_on() -> None:
    """Historian 2's data, stepped, 50 / 50; worked out by hand from the definitions."""
    where = by_duration(START, START + 96 * SECOND, 16 * SECOND)
    mean = process("TimeAverage2", HISTORIAN_2, where, CONFIGURATION_3)
    # 12:00:32: 25 for 7 s, 30 for 3 s, Bad for 6 s of 16: 62.5 % Good, so Good.
    assert mean.value(2) == pytest.approx((25 * 7 + 30 * 3) / 10)
    assert int(mean.codes[2]) == 0x00000401
    # 12:00:00: Bad before 12:00:02.
    assert (mean.value(0), int(mean.codes[0])) == (10, 0x00000405)
    # 12:01:20: Bad to :23, 70 for 3 s, 80 for 4 s, then known no further than :30: 7 of 16 Good, 9 Bad.
    assert mean.value(5) is None
    held = process(
        "Interpolative", HISTORIAN_2, by_duration(START, START + 100 * SECOND, 5 * SECOND), CONFIGURATION_3
    )
    assert [held.value(i) for i in (1, 5, 6, 9)] == [10, 20, 25, 30]
    assert int(held.codes[9]) == 0x40A40402, "a Bad value was skipped"


def test_historian_4_is_a_contact() -> None:
    """By hand: 12:00:16 on until :25, off for 3 s, on from :28."""
    where = by_duration(START, START + 96 * SECOND, 16 * SECOND)
    on = process("DurationInStateNonZero", HISTORIAN_4, where, CONFIGURATION_4)
    assert [on.value(i) for i in (0, 1, 2, 3)] == [14_000, 13_000, 10_000, 4_000]
    changes = process("NumberOfTransitions", HISTORIAN_4, where, CONFIGURATION_4)
    assert [changes.value(i) for i in range(6)] == [0, 2, 0, 1, 0, 3]


def test_uncertain_counts_as_configured() -> None:
    where = by_duration(START + 64 * SECOND, START + 80 * SECOND)
    lenient = process("TimeAverage2", HISTORIAN_1, where, CONFIGURATION_1)
    strict = process("TimeAverage2", HISTORIAN_1, where, Configuration())
    assert lenient.value(0) == pytest.approx(72), "the line leads through the Uncertain 70"
    assert strict.value(0) == pytest.approx(60), "held before what counts as Bad, which is left out"

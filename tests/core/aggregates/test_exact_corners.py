"""Corners at which figures were wrong: edges backward in time, whole numbers beyond 2^53, overflow in one
interval of many, squares beyond float64. Expected values are worked out by hand or in exact fractions."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cronaca.core import quality as q
from cronaca.core.aggregates import Configuration, Processed, Samples, by_duration, process, status
from cronaca.core.aggregates.samples import away_from, differences
from cronaca.core.errors import InvalidInput
from cronaca.core.figures import Figure, check, compute
from cronaca.core.model import SECOND, Series, ValueType
from cronaca.core.statistics import StatSpec

T0 = 1_790_000_000 * SECOND
SLOPED, STEPPED = Configuration(), Configuration(stepped=True)
WHOLE = st.integers(-(2**63), 2**63 - 1)


def samples(kind: ValueType, *rows: tuple[float, float] | tuple[float, float, int]) -> Samples:
    ts = [T0 + round(row[0] * SECOND) for row in rows]
    quality = [row[2] if len(row) > 2 else q.GOOD for row in rows]
    values = np.array([row[1] for row in rows], kind.dtype)
    return Samples(Series.of(kind, ts, values, quality), None, ts[-1])


def over(
    name: str, of: Samples, start: float, end: float, config: Configuration = SLOPED, step_s: float = 0
) -> Processed:
    window = by_duration(T0 + round(start * SECOND), T0 + round(end * SECOND), round(step_s * SECOND))
    return process(name, of, window, config)


class TestBackward:
    """A sample on the edge at which an interval ends, backward in time, is its bound."""

    PAIR = samples(ValueType.FLOAT, (6, 5.0), (11, 3.0))

    @pytest.mark.parametrize(("name", "expected"), [
        ("Maximum2", 5.0), ("Minimum2", 3.0), ("Range2", 2.0), ("MaximumActualTime2", 5.0),
        ("MinimumActualTime2", 3.0),
    ])  # fmt: skip
    def test_the_bound_takes_part_in_extremes(self, name: str, expected: float) -> None:
        assert over(name, self.PAIR, 11, 6).value(0) == expected

    def test_forward_and_backward_agree_over_the_same_span(self) -> None:
        for name in ("Minimum2", "Maximum2", "Range2"):
            assert over(name, self.PAIR, 11, 6).value(0) == over(name, self.PAIR, 6, 11).value(0)

    def test_a_held_value_that_ended_there_takes_no_part(self) -> None:
        assert over("Maximum2", self.PAIR, 11, 6, STEPPED).value(0) == 3.0


class TestWorstQuality:
    def test_a_bad_sample_at_the_beginning_is_counted_once(self) -> None:
        found = over("WorstQuality2", samples(ValueType.FLOAT, (0, 0.0, 0x808C), (5, 1.0)), 0, 10)
        assert found.value(0) == 0x808C << 16
        assert int(found.codes[0]) & status.MULTI_VALUE == 0

    def test_a_bad_one_before_it_and_one_inside_are_two(self) -> None:
        found = over("WorstQuality2", samples(ValueType.FLOAT, (-5, 0.0, 0x808C), (5, 1.0, 0x808C)), 0, 10)
        assert int(found.codes[0]) & status.MULTI_VALUE


class TestWholeNumbers:
    BIG = samples(ValueType.INTEGER, (0, 2**53 + 1), (1, 2**53 + 3))

    @pytest.mark.parametrize(("name", "expected"), [
        ("VariancePopulation", 1.0), ("VarianceSample", 2.0), ("StandardDeviationPopulation", 1.0),
        ("Travel", 2.0), ("Slope", 2.0), ("RateOfChange", 1.0),
    ])  # fmt: skip
    def test_differences_are_taken_before_they_become_floats(self, name: str, expected: float) -> None:
        window = by_duration(T0, T0 + 2 * SECOND)
        (found,) = compute([StatSpec(name)], self.BIG, window, SLOPED)
        assert isinstance(found, Figure) and found.result.value(0) == expected

    @pytest.mark.parametrize("name", ["Range", "Delta", "Range2", "DeltaBounds"])
    def test_an_overflow_in_one_interval_costs_no_other_a_digit(self, name: str) -> None:
        rows = samples(ValueType.INTEGER, (0, 2**63 - 4), (5, 2**63 - 1), (10, -(2**63)), (15, 2**63 - 1))
        found = over(name, rows, 0, 20, step_s=10)
        # DeltaBounds: from 2^63 - 4 to what holds before the second interval, then from -2^63 to 2^63 - 1.
        assert found.value(0) == 3
        assert found.value(1) == 2.0**64

    @given(WHOLE, WHOLE)
    def test_a_difference_is_exact_or_rounded_once(self, a: int, b: int) -> None:
        one, other = np.array([a]), np.array([b])
        exact = a - b
        found = differences(one, other)
        if -(2**63) <= exact < 2**63:
            assert found.dtype == np.int64 and int(found[0]) == exact
        else:
            assert found.dtype == np.float64 and float(found[0]) == float(exact)
        assert float(away_from(one, other)[0]) == float(exact)

    @given(st.lists(WHOLE, min_size=1, max_size=12))
    def test_the_variance_is_that_of_exact_fractions(self, values: list[int]) -> None:
        of = samples(ValueType.INTEGER, *enumerate(values))
        mean = Fraction(sum(values), len(values))
        exact = sum((value - mean) ** 2 for value in values) / len(values)
        found = over("VariancePopulation", of, 0, len(values)).value(0)
        assert found == pytest.approx(float(exact), rel=1e-12, abs=0)


class TestPastTheLastSample:
    """Slopes go on past the end of data; up to there the last value is known to have held."""

    CONFIG = Configuration(sloped_extrapolation=True)

    def rising(self, *more: tuple[float, float, int]) -> Samples:
        of = samples(ValueType.FLOAT, (0, 0.0), (10, 10.0), *more)
        return Samples(of.series, None, T0 + 20 * SECOND)

    def test_what_is_known_to_hold_is_held_by_mean_and_value_alike(self) -> None:
        assert over("TimeAverage", self.rising(), 10, 20, self.CONFIG).value(0) == 10.0
        assert over("Interpolative", self.rising(), 15, 20, self.CONFIG).value(0) == 10.0

    def test_past_it_both_are_on_the_line_of_the_last_two(self) -> None:
        assert over("Interpolative", self.rising(), 25, 30, self.CONFIG).value(0) == 25.0
        # Ten seconds held at 10, then from 20 to 30 on the line.
        assert over("TimeAverage", self.rising(), 10, 30, self.CONFIG).value(0) == (10 * 10 + 10 * 25) / 20

    def test_after_a_bad_sample_nothing_is_known_to_hold(self) -> None:
        broken = self.rising((12, 0.0, q.BAD_NO_DATA))
        assert over("Interpolative", broken, 15, 20, self.CONFIG).value(0) == 15.0
        assert over("TimeAverage", broken, 14, 16, self.CONFIG).value(0) == 15.0


def test_time_in_states_is_refused_for_numbers_with_decimals() -> None:
    for kind in ValueType:
        if kind is ValueType.FLOAT:
            with pytest.raises(InvalidInput, match="TimeInStates"):
                check(StatSpec("TimeInStates"), kind, has_other=False)
        else:
            check(StatSpec("TimeInStates"), kind, has_other=False)


class TestSquares:
    @pytest.mark.parametrize(("low", "high"), [(1e160, 3e160), (1e-170, 3e-170)])
    def test_a_deviation_whose_square_leaves_float64_is_there(self, low: float, high: float) -> None:
        pair = samples(ValueType.FLOAT, (0, low), (1, high))
        found = over("StandardDeviationPopulation", pair, 0, 2).value(0)
        assert found == pytest.approx(low, rel=1e-14, abs=0)

    def test_its_variance_is_out_of_range(self) -> None:
        found = over("VariancePopulation", samples(ValueType.FLOAT, (0, 1e160), (1, 3e160)), 0, 2)
        assert (found.value(0), int(found.codes[0]) >> 16) == (None, q.BAD_OUT_OF_RANGE)

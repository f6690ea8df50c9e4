"""Pens that are calculated as they are looked at."""

from __future__ import annotations

import numpy as np
import pytest

from cronaca.core import quality as q
from cronaca.core.formulas import parse_formula
from cronaca.core.model import MINUTE, SECOND, Series, ValueType, Window
from cronaca.core.trends.calculated import calculated_curve, lookback_us

START = 1_795_000_000 * SECOND


def samples(seconds: list[int], values: list[float], quality: list[int] | None = None) -> Series:
    return Series.of(ValueType.FLOAT, [START + s * SECOND for s in seconds], np.array(values), quality)


def seconds(series: Series) -> list[float]:
    return [float(t - START) / SECOND for t in series.ts_us]


def test_a_sum_is_there_at_each_sample_of_both() -> None:
    inputs = {"a": samples([0, 2, 4], [1, 2, 3]), "b": samples([1, 4], [10, 20])}
    found = calculated_curve(parse_formula("a + b"), inputs, Window(START, START + 10 * SECOND), 100)
    assert seconds(found) == [0, 1, 2, 4]
    assert q.is_bad(found.quality).tolist() == [True, False, False, False], "b is not known yet"
    assert found.values[1:].tolist() == [11, 12, 23]


def test_a_bad_input_makes_it_bad() -> None:
    inputs = {"a": samples([0, 1, 2], [1, 0, 3], [q.GOOD, q.BAD_NO_DATA, q.GOOD])}
    found = calculated_curve(parse_formula("2 * a"), inputs, Window(START, START + 10 * SECOND), 100)
    assert q.is_bad(found.quality).tolist() == [False, True, False]


def test_one_instant_before_and_behind_the_window_is_kept() -> None:
    inputs = {"a": samples(list(range(10)), list(range(10)))}
    window = Window(START + 3 * SECOND, START + 6 * SECOND)
    assert seconds(calculated_curve(parse_formula("a"), inputs, window, 100)) == [2, 3, 4, 5, 6]


def test_a_running_mean_moves_between_the_samples() -> None:
    """A step from 0 to 10: its mean over 60 s by time rises evenly for a minute (by hand)."""
    inputs = {"a": samples([0, 100, 400], [0, 10, 10])}
    window = Window(START + 100 * SECOND, START + 200 * SECOND)
    found = calculated_curve(parse_formula("average(a, 60 s)"), inputs, window, 25)
    at = np.array(seconds(found))
    inside = (at >= 100) & (at < 200)
    expected = np.minimum((at[inside] - 100) / 60, 1) * 10
    assert len(expected) >= 100
    np.testing.assert_allclose(found.values[inside], expected, atol=1e-9)


@pytest.mark.parametrize(
    ("formula", "minutes"),
    [
        ("a + 1", 0),
        ("average(a, 5 min)", 5),
        ("average(ago(a, 10 min), 5 min) + lowest(a, 1 min)", 16),
        ("since(a > 1)", 0),
    ],
)
def test_how_far_it_looks_back(formula: str, minutes: int) -> None:
    assert lookback_us(parse_formula(formula)) == minutes * MINUTE

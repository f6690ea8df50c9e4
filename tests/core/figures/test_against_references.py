"""Statistics against the outside: certified data sets, general libraries, integrals with closed forms."""

from __future__ import annotations

import math
import statistics
from collections.abc import Callable
from fractions import Fraction

import numpy as np
import pandas as pd
import pytest
import scipy.integrate
import scipy.stats
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray
from statsmodels.stats.weightstats import DescrStatsW

from cronaca.core.aggregates import Configuration, Processed, Samples, by_duration, process
from cronaca.core.figures import Figure, Table, compute
from cronaca.core.model import SECOND, Series, ValueType
from cronaca.core.statistics import Base, Histogram, Other, StatSpec, Weight

T0 = 1_790_000_000 * SECOND
SLOPED, STEPPED = Configuration(), Configuration(stepped=True)


def history(values: NDArray[np.float64] | list[float], step_us: int = SECOND) -> Samples:
    """One sample a step; the last one is known to have held for one step more."""
    ts = T0 + np.arange(len(values)) * step_us
    return Samples(Series.of(ValueType.FLOAT, ts, values), None, int(ts[-1]) + step_us)


def whole(samples: Samples, known_us: int | None = None) -> tuple[int, int]:
    return T0, known_us or samples.known_until_us or 0


def figure(
    spec: StatSpec, samples: Samples, config: Configuration = SLOPED, other: Other | None = None
) -> Processed:
    (found,) = compute([spec], samples, by_duration(*whole(samples)), config, other=other)
    assert isinstance(found, Figure)
    return found.result


def value(
    spec: StatSpec, samples: Samples, config: Configuration = SLOPED, other: Other | None = None
) -> float:
    found = figure(spec, samples, config, other).value(0)
    assert found is not None
    return float(found)


def log_relative_error(found: float, certified: float) -> float:
    """Correct digits, as NIST's StRD counts them."""
    return 15.0 if found == certified else -math.log10(abs(found - certified) / abs(certified))


# NIST Statistical Reference Datasets (StRD), univariate summary statistics: NumAcc1 to NumAcc4, data and
# certified values from memory (they follow from the rule by which the data were made). Lew, Lottery, Mavro
# and Michelso are measured values and could not be restated.
NIST = {
    "NumAcc1": ([10_000_001.0, 10_000_003.0, 10_000_002.0], 10_000_002.0, 1.0, 15, 14.9),
    "NumAcc2": ([1.2] + [1.1, 1.3] * 500, 1.2, 0.1, 14, 13),
    "NumAcc3": ([1_000_000.2] + [1_000_000.1, 1_000_000.3] * 500, 1_000_000.2, 0.1, 14, 9),
    "NumAcc4": ([10_000_000.2] + [10_000_000.1, 10_000_000.3] * 500, 10_000_000.2, 0.1, 14, 8),
}


@pytest.mark.parametrize("name", NIST)
def test_nist_numerical_accuracy(name: str) -> None:
    """The digits of the deviation are those that float64 leaves of the data: 10,000,000.1 itself is only
    right to 1.9e-9, so NumAcc4's 0.1 can be right to about 8 digits. A naive sum of squares keeps none."""
    values, mean, deviation, mean_digits, deviation_digits = NIST[name]
    samples = history(values)
    found = {
        n: process(n, samples, by_duration(*whole(samples))) for n in ("Average", "StandardDeviationSample")
    }
    assert log_relative_error(found["Average"].values[0], mean) >= mean_digits
    assert log_relative_error(found["StandardDeviationSample"].values[0], deviation) >= deviation_digits


def test_a_naive_sum_of_squares_fails_on_numacc4() -> None:
    """What the two-pass form is for."""
    values, _, deviation, _, digits = NIST["NumAcc4"]
    x = np.array(values)
    naive = math.sqrt(abs(float((x * x).sum() - len(x) * x.mean() ** 2) / (len(x) - 1)))
    assert log_relative_error(naive, deviation) < digits / 2


def pi_digits(count: int) -> list[int]:
    """The first digits of pi, by Machin's formula in whole numbers."""
    one: int = 10 ** (count + 20)

    def arctan(inverse: int) -> int:
        term = total = one // inverse
        n, sign = 3, -1
        while term:
            term //= inverse * inverse
            total += sign * (term // n)
            n, sign = n + 2, -sign
        return total

    pi = 4 * (4 * arctan(5) - arctan(239))
    return [int(pi // 10 ** (count + 20 - i) % 10) for i in range(count)]


def test_digits_of_pi_as_exact_fractions_have_them() -> None:
    """The kind of data of StRD PiDigits. Its certified mean as remembered (4.5348) is not that of the first
    5,000 digits (4.5358), so the data set could not be restated; exact rational arithmetic stands in."""
    digits = pi_digits(5000)
    assert digits[:10] == [3, 1, 4, 1, 5, 9, 2, 6, 5, 3]
    samples = history([float(d) for d in digits])
    average = process("Average", samples, by_duration(*whole(samples))).values[0]
    deviation = process("StandardDeviationSample", samples, by_duration(*whole(samples))).values[0]
    assert log_relative_error(average, float(Fraction(sum(digits), 5000))) >= 15
    assert log_relative_error(deviation, statistics.stdev(digits)) >= 15


numbers = st.lists(st.integers(-10_000, 10_000).map(lambda n: n / 10), min_size=2, max_size=200)


@pytest.mark.filterwarnings("ignore:Precision loss:RuntimeWarning")
@given(numbers, st.integers(0, 100))
def test_plain_statistics_as_numpy_scipy_and_pandas_have_them(values: list[float], percent: int) -> None:
    samples, table = history(values), pd.Series(values)
    where = by_duration(*whole(samples))
    found = {n: process(n, samples, where).values[0] for n in (
        "Average", "Minimum", "Maximum", "Range", "Count", "VarianceSample", "VariancePopulation",
        "StandardDeviationSample", "StandardDeviationPopulation", "Delta")}  # fmt: skip
    scale = max(abs(v) for v in values) + 1
    assert found["Average"] == pytest.approx(table.mean(), abs=1e-13 * scale)
    assert (found["Minimum"], found["Maximum"]) == (table.min(), table.max())
    assert found["Range"] == pytest.approx(np.ptp(values), abs=1e-12)
    assert found["Count"] == table.count()
    assert found["VarianceSample"] == pytest.approx(scipy.stats.tvar(values), rel=1e-11, abs=1e-12)
    assert found["VariancePopulation"] == pytest.approx(np.var(values), rel=1e-11, abs=1e-12)
    assert found["StandardDeviationSample"] == pytest.approx(table.std(), rel=1e-9, abs=1e-9)
    assert found["StandardDeviationPopulation"] == pytest.approx(np.std(values), rel=1e-9, abs=1e-9)
    assert found["Delta"] == pytest.approx(values[-1] - values[0], abs=1e-12)
    percentile = value(StatSpec("Percentile", percent, Weight.SAMPLES), samples)
    assert percentile == pytest.approx(table.quantile(percent / 100), abs=1e-9)
    if np.std(values) > 0.01 and abs(np.mean(values)) > 0.01:
        variation = value(StatSpec("Variation", weight=Weight.SAMPLES), samples)
        assert variation == pytest.approx(abs(scipy.stats.variation(values, ddof=1)) * 100, rel=1e-7)


@given(numbers)
def test_held_values_weigh_as_long_as_they_stood_as_statsmodels_weighs_them(values: list[float]) -> None:
    rng = np.random.default_rng(len(values))
    lengths = rng.integers(1, 50, len(values)) * SECOND // 7
    ts = T0 + np.r_[0, np.cumsum(lengths)]
    samples = Samples(Series.of(ValueType.FLOAT, ts[:-1], values), None, int(ts[-1]))
    reference = DescrStatsW(np.array(values), weights=lengths.astype(float), ddof=0)
    where = by_duration(T0, int(ts[-1]))
    mean = process("TimeAverage2", samples, where, STEPPED).values[0]
    assert mean == pytest.approx(reference.mean, rel=1e-12, abs=1e-9)
    assert value(StatSpec("Deviation"), samples, STEPPED) == pytest.approx(reference.std, rel=1e-9, abs=1e-7)
    found = value(StatSpec("Percentile", 37.0), samples, STEPPED)
    at_most = lengths[np.array(values) <= found].sum() / lengths.sum()
    below = lengths[np.array(values) < found].sum() / lengths.sum()
    assert below < 0.37 + 1e-12 and at_most >= 0.37 - 1e-12


@pytest.mark.parametrize("name,function,integral", [
    ("sine", math.sin, lambda t: 1 - math.cos(t)),
    ("ramp", lambda t: 3 * t - 5, lambda t: 1.5 * t * t - 5 * t),
    ("exponential", lambda t: math.exp(-t / 3), lambda t: 3 * (1 - math.exp(-t / 3))),
])  # fmt: skip
def test_time_integrals_of_known_functions(
    name: str, function: Callable[[float], float], integral: Callable[[float], float]
) -> None:
    """Against the closed form, which scipy's general integrator confirms. The trapezoids' own error is at
    most h^2 / 12 * length * max |f''|; here h = 1 ms, length 10 s."""
    step = 1_000
    t = np.arange(0, 10 * SECOND + step, step) / SECOND
    ts = T0 + (t * SECOND).round().astype(np.int64)
    samples = Samples(Series.of(ValueType.FLOAT, ts, [function(x) for x in t]))
    where = by_duration(T0, T0 + 10 * SECOND)
    assert scipy.integrate.quad(function, 0, 10)[0] == pytest.approx(integral(10), rel=1e-9)
    for aggregate in ("Total", "Total2"):
        found = process(aggregate, samples, where, SLOPED).values[0]
        assert found == pytest.approx(integral(10), abs=1e-6), name
        assert found == pytest.approx(scipy.integrate.trapezoid([function(x) for x in t], t), rel=1e-12)
    hours = value_over(StatSpec("Integral", base=Base.HOUR), samples, 10)
    assert hours == pytest.approx(integral(10) / 3600, abs=1e-9)


def value_over(spec: StatSpec, samples: Samples, seconds: int) -> float:
    (found,) = compute([spec], samples, by_duration(T0, T0 + seconds * SECOND), SLOPED)
    assert isinstance(found, Figure)
    return float(found.result.values[0])


def test_spread_of_a_sine_and_a_ramp_weighted_by_time() -> None:
    """Over whole periods a sine has deviation a / sqrt(2) and median 0; a ramp is uniformly distributed, so
    its percentiles are straight and its deviation is range / sqrt(12). Mathematical facts."""
    t = np.linspace(0, 20 * math.pi, 200_001)
    sine = Samples(Series.of(ValueType.FLOAT, T0 + (t * SECOND).round().astype(np.int64), 5 * np.sin(t)))
    end = float(t[-1])
    (found,) = compute([StatSpec("Deviation")], sine, by_duration(T0, T0 + round(end * SECOND)), SLOPED)
    assert isinstance(found, Figure)
    assert found.result.values[0] == pytest.approx(5 / math.sqrt(2), rel=1e-6)
    ramp = Samples(Series.of(ValueType.FLOAT, [T0, T0 + 100 * SECOND], [1e9, 1e9 + 100]))
    for percent in (1, 25, 50, 99):
        assert value_over(StatSpec("Percentile", percent), ramp, 100) == pytest.approx(
            1e9 + percent, abs=1e-6
        )
    assert value_over(StatSpec("Deviation"), ramp, 100) == pytest.approx(100 / math.sqrt(12), rel=1e-9)
    assert value_over(StatSpec("Median"), ramp, 50) == pytest.approx(1e9 + 25, abs=1e-6)


def test_travel_is_the_length_of_the_way_up_and_down() -> None:
    """The total variation of the samples, as numpy has it."""
    x = np.random.default_rng(8).normal(50, 3, 600)
    assert value(StatSpec("Travel"), history(x)) == pytest.approx(np.abs(np.diff(x)).sum(), rel=1e-12)
    swing = history(5 * np.sin(np.arange(601) * math.tau / 100))
    assert value(StatSpec("Travel"), swing) == pytest.approx(6 * 4 * 5, rel=1e-9), (
        "six swings of 5 up and down"
    )
    assert value(StatSpec("Travel"), history(np.array([1.0]))) == 0.0


def test_slope_and_correlation_as_scipy_has_them() -> None:
    rng = np.random.default_rng(7)
    x = np.cumsum(rng.normal(0, 1, 600)) + 1e6
    y = 0.3 * x + rng.normal(0, 2, 600)
    one, two = history(x), history(y)
    line = scipy.stats.linregress(np.arange(600), x)
    assert value(StatSpec("Slope"), one) == pytest.approx(line.slope, rel=1e-9)
    assert value(StatSpec("Slope", base=Base.HOUR), one) == pytest.approx(line.slope * 3600, rel=1e-9)
    found = value(StatSpec("Correlation", base_us=SECOND), one, other=Other(two, stepped=False))
    assert found == pytest.approx(scipy.stats.pearsonr(x, y).statistic, rel=1e-9)


def test_histograms_as_numpy_has_them_and_all_time_is_in_one_of_the_bins() -> None:
    rng = np.random.default_rng(3)
    values = rng.normal(50, 5, 2000)
    samples = history(values)
    specs = [StatSpec("Histogram", weight=w, bins=15, low=40, high=60) for w in (Weight.SAMPLES, Weight.TIME)]
    counted, timed = (histogram_of(w, samples, STEPPED) for w in specs)
    amounts, edges = np.histogram(values, 15, (40, 60))
    assert counted.amounts.tolist() == amounts.tolist()
    assert counted.edges.tolist() == edges.tolist()
    # Held for a second each, so seconds are samples.
    assert timed.amounts == pytest.approx(amounts, abs=1e-9)
    sloped = histogram_of(specs[1], samples, SLOPED)
    assert sloped.amounts.sum() + sloped.below + sloped.above == pytest.approx(2000, abs=1e-6)


def histogram_of(spec: StatSpec, samples: Samples, config: Configuration) -> Histogram:
    (found,) = compute([spec], samples, by_duration(*whole(samples)), config)
    assert isinstance(found, Table) and isinstance(found.rows[0], Histogram)
    return found.rows[0]

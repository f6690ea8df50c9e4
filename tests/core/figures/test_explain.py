"""A figure is redone by hand from its explanation alone."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable

import numpy as np
import pytest

from cronaca.core import quality as q
from cronaca.core.aggregates import Configuration, Samples, by_duration
from cronaca.core.figures import Explanation, Figure, compute, explain
from cronaca.core.model import SECOND, Series, ValueType
from cronaca.core.statistics import StatSpec

T0 = 1_790_000_000 * SECOND
CONFIGURATIONS = [
    Configuration(), Configuration(stepped=True), Configuration(treat_uncertain_as_bad=False),
    Configuration(percent_good=60, percent_bad=60),
]  # fmt: skip


def humidity(count: int = 40) -> Samples:
    """Relative humidity in a dryer: a probe fails for a while, then doubts itself."""
    rng = np.random.default_rng(5)
    ts = T0 + np.cumsum(rng.integers(1, 9, count)) * SECOND
    quality = np.zeros(count, np.uint16)
    quality[count // 4 : count // 4 + 3] = q.BAD_SENSOR_FAILURE
    quality[count // 2] = q.UNCERTAIN
    return Samples(
        Series.of(ValueType.FLOAT, ts, 70 + rng.normal(0, 4, count), quality), None, int(ts[-1]) + 5 * SECOND
    )


def explained(name: str, samples: Samples, config: Configuration, i: int = 0) -> Explanation:
    where = by_duration(T0 + 20 * SECOND, T0 + 140 * SECOND, 60 * SECOND)
    (found,) = compute([StatSpec(name)], samples, where, config, unit="%")
    assert isinstance(found, Figure)
    return explain(StatSpec(name), samples, where, i, config, result=found.result, unit="%")


class ByHand:
    """What a person with paper does: only the explanation is at hand."""

    def __init__(self, made: Explanation) -> None:
        self.made = made
        assert made.samples is not None
        self.rows = [(s.ts_us, s.value, s.quality) for s in made.samples]

    def is_bad(self, quality: str) -> bool:
        bad = ("Bad", "Uncertain") if self.made.configuration.treat_uncertain_as_bad else ("Bad",)
        return quality.startswith(bad)

    def good(self) -> list[float]:
        return [v for _, v, quality in self.rows if quality == "Good" and v is not None]

    def points(self) -> list[tuple[int, float | None]]:
        """The bound at the start, the samples, the bound at the end; None where Bad."""
        inner = [(t, None if self.is_bad(quality) else v) for t, v, quality in self.rows]
        start, end = self.made.start_bound, self.made.end_bound
        first = [(start.at_us, start.value)] if not inner or inner[0][0] > start.at_us else []
        return [*first, *inner, (end.at_us, end.value)]

    def area_and_time(self) -> tuple[float, float]:
        area = time = 0.0
        points = self.points()
        for (t0, v0), (t1, v1) in itertools.pairwise(points):
            if v0 is None:
                continue
            height = v0 if self.made.stepped or v1 is None else (v0 + v1) / 2
            area += height * (t1 - t0) / SECOND
            time += (t1 - t0) / SECOND
        return area, time

    def bridged(self) -> tuple[float, float]:
        points = [(t, v) for t, v in self.points() if v is not None]
        area = sum(
            (v0 if self.made.stepped else (v0 + v1) / 2) * (t1 - t0) / SECOND
            for (t0, v0), (t1, v1) in itertools.pairwise(points)
        )
        return area, (points[-1][0] - points[0][0]) / SECOND


def redo(made: Explanation) -> float | None:
    hand = ByHand(made)
    good = hand.good()
    mean = sum(good) / len(good) if good else math.nan
    squares = sum((v - mean) ** 2 for v in good)
    area, time = hand.area_and_time()
    bridged, covered = hand.bridged()
    length = (made.window.end_us - made.window.start_us) / SECOND
    return {
        "Average": mean,
        "Count": len(good),
        "Minimum": min(good),
        "Range": max(good) - min(good),
        "StandardDeviationSample": math.sqrt(squares / (len(good) - 1)),
        "VariancePopulation": squares / len(good),
        "TimeAverage": bridged / covered,
        "Total": bridged,
        "TimeAverage2": area / time,
        "Total2": area,
        "Integral": area,
        "PercentGood": made.good_s / length * 100 if made.stepped else None,
        "DeltaBounds": None if None in (made.start_bound.value, made.end_bound.value)
        else (made.end_bound.value or 0) - (made.start_bound.value or 0),
    }[made.figure]  # fmt: skip


@pytest.mark.parametrize("config", CONFIGURATIONS)
@pytest.mark.parametrize("i", [0, 1])
@pytest.mark.parametrize("name", [
    "Average", "Count", "Minimum", "Range", "StandardDeviationSample", "VariancePopulation", "TimeAverage",
    "Total", "TimeAverage2", "Total2", "Integral", "PercentGood", "DeltaBounds",
])  # fmt: skip
def test_the_value_comes_out_again(name: str, i: int, config: Configuration) -> None:
    made = explained(name, humidity(), config, i)
    again = redo(made)
    if made.value is None:
        assert made.status.startswith("Bad")
    elif again is not None:
        assert again == pytest.approx(made.value, rel=1e-12)


def test_it_says_how_much_was_good_and_where_the_bounds_came_from() -> None:
    made = explained("TimeAverage2", humidity(), Configuration())
    assert made.samples is not None
    words = [s.quality.split(",")[0] for s in made.samples]
    assert (made.good, made.uncertain, made.bad) == tuple(
        words.count(w) for w in ("Good", "Uncertain", "Bad")
    )
    assert made.good_s + made.uncertain_s + made.bad_s == 60
    assert made.covered == pytest.approx((made.good_s + made.uncertain_s) / 60)
    start = made.start_bound
    assert start.how == "interpolated"
    (t0, v0), (t1, v1) = start.from_samples
    assert v0 is not None and v1 is not None
    assert start.value == pytest.approx(v0 + (v1 - v0) * (start.at_us - t0) / (t1 - t0))
    assert made.bounds_rule == "simple"
    assert "Part 13" in made.source


def test_of_many_samples_the_sums_are_given_instead() -> None:
    ts = T0 + np.arange(2000) * SECOND // 10
    samples = Samples(Series.of(ValueType.FLOAT, ts, np.sin(np.arange(2000) / 50)), None, int(ts[-1]))
    where = by_duration(T0, T0 + 199 * SECOND)
    formulas: dict[str, Callable[[dict[str, float]], float]] = {
        "Average": lambda x: x["mean"],
        "VarianceSample": lambda x: x["sum_of_squared_deviations"] / (x["n"] - 1),
        "TimeAverage2": lambda x: x["area"] / x["usable_s"],
        "TimeAverage": lambda x: x["bridged_area"] / x["covered_s"],
    }
    for name, formula in formulas.items():
        (found,) = compute([StatSpec(name)], samples, where, Configuration())
        assert isinstance(found, Figure)
        made = explain(StatSpec(name), samples, where, 0, Configuration(), result=found.result)
        assert made.samples is None
        assert formula(made.ingredients) == pytest.approx(made.value, rel=1e-12)

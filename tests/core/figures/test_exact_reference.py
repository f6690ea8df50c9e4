"""Every aggregate on random histories, forward and backward, beside a slow reference in exact fractions that
shares no code with it: values, times, status and bits. Whole numbers lie near 2^53 and 2^63, too."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from cronaca.core import quality as q
from cronaca.core.aggregates import AGGREGATES, Configuration, Processed, Samples, by_duration, process_all
from cronaca.core.figures import Table, all_figures, compute
from cronaca.core.model import SECOND, Series, ValueType
from cronaca.core.statistics import Comparison, Condition, Histogram, Other, StatSpec, Weight
from tests.support.exact.aggregates import Exact, Interval
from tests.support.exact.line import Line, Rules, Sample, Span
from tests.support.exact.statistics import Statistics, bins, grid, states

T0 = 1_790_000_000 * SECOND
ROUNDING = Fraction(1, 10**12)
"""Of the size of the values: some thousand times what one rounding costs."""
_QUALITIES = (q.GOOD, q.GOOD, q.GOOD, q.UNCERTAIN, q.UNCERTAIN_DATA_SUB_NORMAL, q.BAD, q.BAD_SENSOR_FAILURE)
_KINDS = (*ValueType, ValueType.FLOAT, ValueType.FLOAT)
_SHARES = (
    (True, 100, 100),
    (False, 100, 100),
    (True, 50, 60),
    (False, 0, 100),
    (True, 100, 0),
    (False, 30, 70),
    (False, 60, 80),
)
_BASES = (0, 2**53, -(2**53), 2**63 - 9, -(2**63))


class Case:
    """A random history with intervals over it, for both sides."""

    def __init__(self, rng: np.random.Generator) -> None:
        self.kind = _KINDS[int(rng.integers(len(_KINDS)))]
        count = int(rng.integers(0, 20))
        unit = int(rng.choice([1, 250_000, SECOND]))
        # Neighbours lie a power of two apart: then values on a slope are exact in floats, and ties are ties.
        steps = rng.choice([1, 2, 4, 8], count) * unit * 2
        times = [T0 + int(step) for step in np.cumsum(steps)]
        quality = [int(one) for one in rng.choice(_QUALITIES, count)]
        if rng.random() < 0.4:
            quality = [q.GOOD] * count
        marks = [one == q.BAD and bool(rng.random() < 0.5) for one in quality]
        # Neighbours beyond 2^53 differ by little, and now and then by more than 64 bits hold.
        self.base, self.mixed = int(rng.choice(np.array(_BASES, object))), bool(rng.random() < 0.3)
        values = [0 if one >= q.BAD else self._value(rng) for one in quality]
        last = times[-1] if times else T0
        known = (None, last, last + 7 * unit, last + 40 * unit)[int(rng.integers(4))]
        uncertain_is_bad, percent_bad, percent_good = _SHARES[int(rng.integers(len(_SHARES)))]
        go_on, stepped = bool(rng.random() < 0.3), bool(rng.random() < 0.3)
        notes = sorted(T0 + int(one) * unit for one in rng.integers(0, 60, 4))
        self.samples = Samples(
            Series.of(self.kind, times, values, quality), np.array(marks, np.bool_), known, np.array(notes)
        )
        self.configuration = Configuration(uncertain_is_bad, percent_bad, percent_good, go_on, stepped)
        self.line = Line(
            tuple(
                Sample(*one)
                for one in zip(times, [Fraction(one) for one in values], quality, marks, strict=True)
            ),
            known,
            Rules(uncertain_is_bad, percent_bad, percent_good, go_on, stepped),
            stepped or self.kind is not ValueType.FLOAT,
            tuple(notes),
        )
        edges = [T0 + int(one) * unit for one in rng.choice(60, 2, replace=False)]
        step = int(rng.integers(3, 30)) * unit
        self.step, self.window = step, by_duration(edges[0], edges[1], step)

    def _value(self, rng: np.random.Generator) -> float | int:
        match self.kind:
            case ValueType.FLOAT:
                return float(rng.integers(-20, 20)) / 4
            case ValueType.INTEGER:
                base = rng.choice(np.array(_BASES, object)) if self.mixed else self.base
                return int(base) + int(rng.integers(0, 9))
            case ValueType.BOOLEAN:
                return int(rng.integers(0, 2))
            case _:
                return int(rng.integers(0, 4))

    def names(self) -> list[str]:
        return [name for name, one in AGGREGATES.items() if self.kind in one.types]

    def spans(self) -> list[Span]:
        """The intervals in the direction of time."""
        where = self.window
        found = [
            Span(int(lo), int(hi), where.forward, int(hi - lo) < self.step)
            for lo, hi in zip(where.lo_us, where.hi_us, strict=True)
        ]
        return found if where.forward else found[::-1]


def differences(name: str, found: Processed, i: int, exact: Exact) -> list[str]:
    """What differs, in words; nothing where both agree."""
    value, said = found.value(i), []
    if (value is None) != (exact.value is None):
        said.append(f"value {value}, exact {exact.value}")
    elif value is not None and exact.value is not None:
        if exact.scale:
            allowed = exact.scale * ROUNDING
            off = abs(Fraction(value) - exact.value) > allowed
        else:
            off = value != (exact.value if isinstance(value, int) else float(exact.value))
        said += [f"value {value!r}, exact {float(exact.value)!r}"] if off else []
    code, t = int(found.codes[i]), int(found.ts_us[i])
    if not exact.tied:
        said += [f"status {code:08X}, exact {exact.code:08X}"] if code != exact.code else []
        said += [f"time {t - T0}, exact {exact.t - T0}"] if t != exact.t else []
    elif code >> 16 != exact.code >> 16:
        said.append(f"quality {code >> 16:04X}, exact {exact.code >> 16:04X}")
    return [f"{name}: {one}" for one in said]


STATISTICS = ("Percentile", "Median", "Deviation", "Variation", "Integral", "RateOfChange", "Slope", "Travel",
              "RisingEdges", "FallingEdges", "Starts", "OnTimeLongest", "OnTimeShortest", "OnTimeMean",
              "CountWhile", "Correlation")  # fmt: skip


def statistics_agree(seed: int) -> int:
    """Compares the statistics of one random history beside another one; the number of cells."""
    rng = np.random.default_rng(seed)
    case, other = Case(rng), Case(rng)
    percent, weight = Fraction(int(rng.integers(0, 101))), Weight(rng.choice(list(Weight)))
    beside = replace(other.line, rules=case.line.rules, stepped=True)
    above = Condition(Comparison.ABOVE, 0.0)
    said, cells = [], 0
    for span in case.spans():
        specs = [
            StatSpec(name, percent=float(percent), weight=weight, base_us=grid(span.length), condition=above)
            for name in (*STATISTICS, "Histogram", "TimeInStates")
            if case.kind in all_figures()[name].types
        ]
        # One interval at a time: the time base of the correlation goes by its length.
        window = by_duration(span.begin, span.end, case.step)
        figures = compute(specs, case.samples, window, case.configuration, other=Other(other.samples, True))
        interval = Statistics(case.line, span)
        for spec, figure in zip(specs, figures, strict=True):
            cells += 1
            if isinstance(figure, Table):
                said += table_differences(spec, figure, interval)
                continue
            weighted = weight is Weight.TIME
            exact = interval.statistic(spec.name, weighted=weighted, percent=percent, other=beside)
            said += [
                f"{one} in {span} of {case.line}" for one in differences(spec.name, figure.result, 0, exact)
            ]
    assert not said, f"seed {seed}, {len(said)} cells:\n" + "\n".join(said[:5])
    return cells


def table_differences(spec: StatSpec, found: Table, interval: Statistics) -> list[str]:
    (row,) = found.rows
    if isinstance(row, Histogram):
        if interval.size >= 2**43:
            return []  # bins are bounded by floats (docs/aggregates.md), which do not part such numbers
        exact = bins(interval, [Fraction(one) for one in row.edges], weighted=spec.weight is Weight.TIME)
        allowed = Fraction(interval.span.length, SECOND) * ROUNDING * 1000
        off = any(abs(Fraction(a) - b) > allowed for a, b in zip(row.amounts, exact, strict=True))
        return [f"Histogram {row}, exact {[float(one) for one in exact]}"] if off else []
    own = [(one.state, one.seconds, one.entries, one.longest) for one in row]
    exact_rows = [
        (s, float(seconds), entries, float(longest)) for s, seconds, entries, longest in states(interval)
    ]
    return [] if own == exact_rows else [f"TimeInStates {own}, exact {exact_rows}"]


def agree(seed: int) -> int:
    """Compares one random history; the number of cells."""
    case = Case(np.random.default_rng(seed))
    names, spans = case.names(), case.spans()
    found = process_all(names, case.samples, case.window, case.configuration)
    discrete = case.kind in (ValueType.STATE, ValueType.TEXT)
    said = []
    for i, span in enumerate(spans):
        interval = Interval(case.line, span, discrete=discrete)
        for name in names:
            said += [
                f"{one} in {span} of {case.line}"
                for one in differences(name, found[name], i, interval.aggregate(name))
            ]
    assert not said, f"seed {seed}, {len(said)} cells:\n" + "\n".join(said[:5])
    return len(spans) * len(names)


def test_every_aggregate_agrees_with_its_definition_in_fractions() -> None:
    assert sum(agree(seed) for seed in range(300)) > 10_000


def test_every_statistic_agrees_with_its_definition_in_fractions() -> None:
    assert sum(statistics_agree(seed) for seed in range(150)) > 3_000


@pytest.mark.slow
@pytest.mark.parametrize("compare", [agree, statistics_agree])
def test_a_hundred_thousand_cells_agree(compare: Callable[[int], int]) -> None:
    cells, seed = 0, 1_000
    while cells < 100_000:
        cells += compare(seed)
        seed += 1


def test_the_reference_covers_every_aggregate_and_sees_a_wrong_value() -> None:
    """The comparison itself: a value that is off by one part in a thousand million is told."""
    case = next(
        one for one in (Case(np.random.default_rng(s)) for s in range(50)) if one.kind is ValueType.FLOAT
    )
    assert set(case.names()) == set(AGGREGATES)
    found = process_all(["Average"], case.samples, case.window, case.configuration)["Average"]
    interval = Interval(case.line, case.spans()[0])
    exact = interval.aggregate("Average")
    wrong = Exact((exact.value or Fraction(0)) + Fraction(1, 10**9), exact.t, exact.code ^ 1, exact.scale)
    assert differences("Average", found, 0, wrong)

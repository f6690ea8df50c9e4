"""Contacts and states, rates and integrals: worked out by hand on the made-up plant's signals."""

from __future__ import annotations

import numpy as np
import pytest

from cronaca.core import quality as q
from cronaca.core.aggregates import Configuration, Samples, by_duration, status
from cronaca.core.errors import InvalidInput
from cronaca.core.figures import Figure, Table, compute
from cronaca.core.model import SECOND, Series, ValueType
from cronaca.core.statistics import (
    Base,
    Comparison,
    Condition,
    Other,
    StatSpec,
    integral_base,
    integral_unit,
)

T0 = 1_790_000_000 * SECOND


def door(*rows: tuple[int, int] | tuple[int, int, int], known: int = 100) -> Samples:
    """The dryer door: 1 is open."""
    quality = [row[2] if len(row) > 2 else q.GOOD for row in rows]
    series = Series.of(ValueType.BOOLEAN, [T0 + r[0] * SECOND for r in rows], [r[1] for r in rows], quality)
    return Samples(series, None, T0 + known * SECOND)


def one(spec: StatSpec, samples: Samples, start: int = 0, end: int = 100, other: Other | None = None,
        unit: str = "", config: Configuration | None = None) -> Figure:  # fmt: skip
    where = by_duration(T0 + start * SECOND, T0 + end * SECOND)
    (found,) = compute([spec], samples, where, config or Configuration(), unit=unit, other=other)
    assert isinstance(found, Figure)
    return found


DOOR = door((-5, 0), (10, 1), (25, 0), (40, 1), (41, 0), (90, 1))


@pytest.mark.parametrize("name,value,partial", [
    ("RisingEdges", 3, 0), ("FallingEdges", 2, 0), ("Starts", 3, 0),
    ("OnTimeLongest", 15, 1), ("OnTimeShortest", 1, 1), ("OnTimeMean", 26 / 3, 1),
])  # fmt: skip
def test_edges_and_stretches_of_on(name: str, value: float, partial: int) -> None:
    found = one(StatSpec(name), DOOR).result
    assert found.value(0) == pytest.approx(value)
    assert bool(int(found.codes[0]) & status.PARTIAL) == bool(partial), "the last stretch goes on"


def test_edges_are_counted_where_they_happen() -> None:
    assert one(StatSpec("RisingEdges"), DOOR, 10, 40).result.value(0) == 1, (
        "at the start: in; at the end: not"
    )
    assert one(StatSpec("RisingEdges"), DOOR, 11, 41).result.value(0) == 1
    assert one(StatSpec("FallingEdges"), DOOR, 42, 80).result.value(0) == 0
    assert one(StatSpec("OnTimeLongest"), DOOR, 42, 80).result.value(0) is None, "it never was open"


def test_a_failed_contact_parts_what_it_stands_between() -> None:
    failed = door((0, 1), (30, 0, q.BAD_SENSOR_FAILURE), (50, 1), (60, 0))
    longest = one(StatSpec("OnTimeLongest"), failed).result
    assert longest.value(0) == 30
    assert int(longest.codes[0]) & status.PARTIAL, "it may have been longer"
    assert int(longest.codes[0]) >> 30 == 1, "20 s of 100 are Bad"
    assert one(StatSpec("RisingEdges"), failed).result.value(0) == 0, "1, unknown, 1: no edge was seen"


def test_time_in_each_state_adds_up_to_the_usable_time() -> None:
    ts = [T0, T0 + 20 * SECOND, T0 + 50 * SECOND, T0 + 60 * SECOND, T0 + 70 * SECOND]
    quality = [q.GOOD, q.GOOD, q.BAD, q.GOOD, q.GOOD]
    for kind in (ValueType.STATE, ValueType.TEXT, ValueType.INTEGER):
        samples = Samples(Series.of(kind, ts, [2, 7, 0, 7, 2], quality), None, T0 + 100 * SECOND)
        where = by_duration(T0, T0 + 90 * SECOND)
        (found,) = compute([StatSpec("TimeInStates")], samples, where, Configuration())
        assert isinstance(found, Table)
        (row,) = found.rows
        assert isinstance(row, tuple)
        assert [(s.state, s.seconds, s.entries, s.longest) for s in row] == [(2, 40, 2, 20), (7, 40, 2, 30)]


@pytest.mark.parametrize("name,values", [
    ("TimeInState", [40, 40, 0]), ("StateEntries", [2, 2, 0]), ("StateLongest", [20, 30, 0]),
])  # fmt: skip
def test_one_state_has_the_row_that_the_table_of_states_has(name: str, values: list[int]) -> None:
    """As the table above: 2 and 7 for 40 s each, in two stretches; 3 never."""
    ts = [T0, T0 + 20 * SECOND, T0 + 50 * SECOND, T0 + 60 * SECOND, T0 + 70 * SECOND]
    series = Series.of(ValueType.STATE, ts, [2, 7, 0, 7, 2], [q.GOOD, q.GOOD, q.BAD, q.GOOD, q.GOOD])
    samples = Samples(series, None, T0 + 100 * SECOND)
    found = [one(StatSpec(name, state=state), samples, 0, 90).result.value(0) for state in (2, 7, 3)]
    assert found == values
    assert one(StatSpec(name, state=2), samples, 50, 60).result.value(0) is None, "nothing is known there"


def test_counting_while_a_condition_on_another_tag_holds() -> None:
    ts = T0 + np.arange(0, 100, 10) * SECOND
    moisture = Samples(Series.of(ValueType.FLOAT, ts, np.arange(10.0)), None, T0 + 100 * SECOND)
    spec = StatSpec("CountWhile", condition=Condition(Comparison.EQUAL, 1))
    assert one(spec, moisture, other=Other(DOOR, stepped=True)).result.value(0) == 4  # 10, 20, 40, 90 s
    with pytest.raises(InvalidInput, match="two tags"):
        one(spec, moisture)
    with pytest.raises(InvalidInput, match="comparison"):
        one(StatSpec("CountWhile"), moisture, other=Other(DOOR, stepped=True))


def test_rate_slope_and_integral_have_their_units() -> None:
    ts = T0 + np.array([0, 3600]) * SECOND
    flow = Samples(Series.of(ValueType.FLOAT, ts, [1000.0, 2000.0]), None, T0 + 3600 * SECOND)
    total = one(StatSpec("Integral"), flow, 0, 3600, unit="kg/h")
    assert total.result.value(0) == pytest.approx(1500)
    assert total.unit == "kg"
    rate = one(StatSpec("RateOfChange", base=Base.MINUTE), flow, 0, 3600, unit="kg/h")
    assert rate.result.value(0) == pytest.approx(1000 / 60)
    assert rate.unit == "kg/h/min"
    assert one(StatSpec("Slope", base=Base.HOUR), flow, 0, 3601, unit="kg/h").result.value(
        0
    ) == pytest.approx(1000)
    assert one(StatSpec("Slope"), flow, 0, 3600).result.value(0) is None, "one sample has no slope"


def test_travel_stops_at_what_is_not_good_and_at_the_edges_of_the_interval() -> None:
    ts = T0 + np.arange(6) * SECOND
    quality = [q.GOOD, q.GOOD, q.BAD_NO_COMMUNICATION, q.GOOD, q.GOOD, q.GOOD]
    valve = Samples(Series.of(ValueType.FLOAT, ts, [10.0, 20.0, 0.0, 90.0, 85.0, 95.0], quality))
    found = one(StatSpec("Travel"), valve, 0, 5, unit="%")
    assert found.result.value(0) == 10 + 5, "what happened beside the Bad sample is not known"
    assert found.unit == "%"
    assert one(StatSpec("Travel"), valve, 4, 6).result.value(0) == 10
    assert one(StatSpec("Travel"), valve, 2, 3).result.value(0) is None


@pytest.mark.parametrize("unit,base,result", [
    ("kg/h", None, "kg"), ("l/min", None, "l"), ("m3/s", None, "m3"), ("kW", None, "kWh"),
    ("°C", None, "°C·s"), ("°C", Base.HOUR, "°C·h"), ("", Base.MINUTE, "min"),
    ("kg/h", Base.SECOND, "kg/h·s"),
])  # fmt: skip
def test_the_unit_of_an_integral_is_worked_out(unit: str, base: Base | None, result: str) -> None:
    assert integral_unit(unit, integral_base(unit, base)) == result


@pytest.mark.parametrize("spec,field", [
    (StatSpec("Percentile", percent=101), "percent"), (StatSpec("Histogram", bins=0), "bins"),
    (StatSpec("Histogram", low=2, high=1), "high"), (StatSpec("Correlation", base_us=0), "base_us"),
    (StatSpec("Average of sorts"), "stat"), (StatSpec("Correlation"), "other"),
])  # fmt: skip
def test_a_wish_that_means_nothing_names_its_field(spec: StatSpec, field: str) -> None:
    samples = Samples(Series.of(ValueType.FLOAT, [T0], [1.0]))
    with pytest.raises(InvalidInput) as error:
        one(spec, samples)
    assert error.value.field == field


@pytest.mark.parametrize("name", ["Percentile", "Median", "Slope", "Histogram", "RateOfChange", "Variation"])
def test_figures_without_a_meaning_for_a_contact_are_refused(name: str) -> None:
    with pytest.raises(InvalidInput, match="is not defined for boolean values"):
        one(StatSpec(name), DOOR)


def test_a_figure_is_doubtful_where_much_of_its_time_is_missing_not_for_a_moment() -> None:
    """Known for 99.5 of 100 s, and for 90 of 100 s."""
    for known_s, doubtful in ((99.5, False), (90.0, True)):
        series = Series.of(ValueType.FLOAT, [T0], [5.0])
        known = Samples(series, None, T0 + round(known_s * SECOND))
        (found,) = compute(
            [StatSpec("TimeAverage2")], known, by_duration(T0, T0 + 100 * SECOND), Configuration()
        )
        assert isinstance(found, Figure)
        assert found.good[0] == pytest.approx(known_s)
        assert int(found.result.codes[0]) >> 30 == 1, "Uncertain either way"
        assert found.doubtful(0, 99.0) is doubtful

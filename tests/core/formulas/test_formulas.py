"""Formulas: what they mean, what is refused, that one instant at a time gives what thousands at once give."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping

import numpy as np
import psychrolib
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cronaca.core import quality as q
from cronaca.core.addresses.calculated import parse_calculation
from cronaca.core.errors import InvalidInput
from cronaca.core.formulas import Column, Formula, Instants, evaluate_history, order_of, parse_formula
from cronaca.core.formulas.references import check_formula
from cronaca.core.model import SECOND, Series, ValueType

FLOAT = ValueType.FLOAT
U1, U2, U3 = (f"00000000-0000-0000-0000-00000000000{i}" for i in (1, 2, 3))


def value_of(text: str, **inputs: float | None) -> tuple[float | None, int]:
    """Value and quality at one instant; an input that is None is Bad, no data."""
    columns = {
        name: Column(
            np.array([np.nan if one is None else one]),
            np.array([q.BAD_NO_DATA if one is None else q.GOOD], np.uint16),
        )
        for name, one in inputs.items()
    }
    found = Formula(parse_formula(text)).run(Instants(np.array([SECOND], np.int64), columns))
    quality = int(found.quality[0])
    return None if quality >= q.BAD else float(found.values[0]), quality


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("2 + 3 * 4", 14), ("(2 + 3) * 4", 20), ("2 ^ 3 ^ 2", 512), ("-2 ^ 2", -4), ("7 % 4", 3),
        ("-7 % 4", 1),
        ("10 - 4 - 3", 3), ("a / b", 2.5), ("a > b", 1), ("a = 5", 1), ("a != 5", 0), ("a <> b", 1),
        ("not a > b", 0), ("a > 1 and b > 1", 1), ("a < 1 or b < 1", 0), ("NOT (a = 5) OR b == 2", 1),
        ("if(a > b, a, b)", 5), ("min(a, b, 1)", 1), ("max(a, b)", 5), ("mean(a, b)", 3.5), ("abs(-a)", 5),
        ("round(2.344, 2)", 2.34), ("round(2.5)", 2), ("floor(-0.5)", -1), ("ceil(0.2)", 1),
        ("clamp(a, 0, 3)", 3), ("sqrt(16)", 4), ("exp(0)", 1), ("ln(exp(2))", 2), ("log10(1000)", 3),
        ("bit(5, 0)", 1), ("bit(5, 1)", 0), ("bit(5, 2)", 1), ("90 s + 2 min + 1 h + 1 d + 500 ms", 90210.5),
        ("1e3 + .5", 1000.5), ("true + false", 1), ("usable(a)", 1), ("good(a)", 1), ("or_else(a, 9)", 5),
    ],
)  # fmt: skip
def test_what_operators_and_functions_give(text: str, expected: float) -> None:
    value, quality = value_of(text, a=5, b=2)
    assert value == pytest.approx(expected, rel=1e-12)
    assert quality == q.GOOD


@pytest.mark.parametrize(
    ("text", "value", "quality"),
    [
        ("a + x", None, q.BAD_NO_DATA), ("a / 0", None, q.BAD_OUT_OF_RANGE),
        ("sqrt(-1)", None, q.BAD_OUT_OF_RANGE),
        ("ln(0)", None, q.BAD_OUT_OF_RANGE), ("exp(1000)", None, q.BAD_OUT_OF_RANGE),
        ("x > 1", None, q.BAD_NO_DATA), ("x = x", None, q.BAD_NO_DATA), ("not x", None, q.BAD_NO_DATA),
        ("a < 0 and x", 0, q.GOOD), ("x and a < 0", 0, q.GOOD), ("a > 0 and x", None, q.BAD_NO_DATA),
        ("a > 0 or x", 1, q.GOOD), ("x or a > 0", 1, q.GOOD), ("a < 0 or x", None, q.BAD_NO_DATA),
        ("if(a > 0, a, x)", 5, q.GOOD), ("if(a > 0, x, a)", None, q.BAD_NO_DATA),
        ("if(x, a, a)", None, q.BAD_NO_DATA),
        ("or_else(x, 7)", 7, q.GOOD), ("usable(x)", 0, q.GOOD), ("good(x)", 0, q.GOOD),
        ("clamp(a, 9, 1)", None, q.BAD_OUT_OF_RANGE), ("dew_point(60, 101)", None, q.BAD_OUT_OF_RANGE),
    ],
)  # fmt: skip
def test_what_is_bad_stays_bad_unless_it_does_not_matter(
    text: str, value: float | None, quality: int
) -> None:
    assert value_of(text, a=5, x=None) == (value, quality)


def test_the_worst_quality_of_the_inputs_is_that_of_the_result() -> None:
    columns = {
        "a": Column(np.array([1.0]), np.array([q.UNCERTAIN_LAST_USABLE], np.uint16)),
        "b": Column(np.array([2.0]), np.array([q.GOOD], np.uint16)),
    }
    found = Formula(parse_formula("a + b")).run(Instants(np.array([0], np.int64), columns))
    assert (found.values[0], found.quality[0]) == (3.0, q.UNCERTAIN_LAST_USABLE)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "empty"), ("a +", "ends too early"), ("(a", "ends too early"), ("a b", "at character 3"),
        ("a ; b", "at character 3"), ("frob(1)", "at character 1: there is no function"),
        ("1 + dew_point(2)", "at character 5"), ("average(a, b)", "needs a duration"),
        ("average(a, -5)", "needs a duration"), ("a" * 1001, "1001 characters"),
        ("(" * 200 + "a" + ")" * 200, None), ("-" * 200 + "a", "nested too deeply"), ("a..b", "at character"),
        ("a = b = c", "at character 7"), ("__import__('os')", "at character"), ("min(a)", "arguments"),
    ],
)  # fmt: skip
def test_a_formula_that_cannot_be_read_says_where_and_what_to_do(text: str, says: str | None) -> None:
    if says is None:
        parse_formula(text)
        return
    with pytest.raises(InvalidInput) as refused:
        parse_formula(text)
    assert says in refused.value.problem
    assert refused.value.field == "formula"
    assert refused.value.remedy


@pytest.mark.parametrize("celsius", [20.0, 45.0, 60.0, 80.0, 95.0])
@pytest.mark.parametrize("percent", [30.0, 50.0, 82.0, 100.0])
def test_moist_air_as_psychrolib_computes_it(celsius: float, percent: float) -> None:
    """psychrolib 2.5 (ASHRAE Handbook, Fundamentals, 2017, chapter 1), at 101,325 Pa; saturated air included.
    Its dew point is found to 0.001 K."""
    psychrolib.SetUnitSystem(psychrolib.SI)
    share = percent / 100
    expected = {
        "dew_point(t, rh)": psychrolib.GetTDewPointFromRelHum(celsius, share),
        "wet_bulb(t, rh)": psychrolib.GetTWetBulbFromRelHum(celsius, share, 101_325),
        "humidity_ratio(t, rh)": psychrolib.GetHumRatioFromRelHum(celsius, share, 101_325),
    }
    for text, value in expected.items():
        found, _ = value_of(text, t=celsius, rh=percent)
        assert found == pytest.approx(value, abs=2e-3 if "ratio" not in text else 1e-5), text


T = np.array([0, 1, 2, 4, 5, 9, 10, 11], np.int64) * SECOND
X = [1.0, 3.0, 2.0, None, 8.0, 8.0, 4.0, 5.0]


def over(text: str, values: list[float | None], ts: np.ndarray[tuple[int], np.dtype[np.int64]] = T) -> Series:
    quality = [q.BAD_NO_DATA if one is None else q.GOOD for one in values]
    series = Series.of(FLOAT, ts, [np.nan if one is None else one for one in values], quality)
    return evaluate_history(Formula(parse_formula(text)), {"x": series}, FLOAT)


def shown(series: Series) -> list[float | None]:
    return [None if math.isnan(v) else round(v, 6) for v in series.values.tolist()]


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        # Held between instants: over (t - 4 s, t] the mean at 5 s is (3*1 + 2*2) / 3 s, the Bad second left
        # out.
        ("average(x, 4 s)", [1.0, 1.0, 2.0, 2.0, 2.333333, 8.0, 8.0, 7.0]),
        ("lowest(x, 4 s)", [1.0, 1.0, 1.0, 1.0, 2.0, 8.0, 4.0, 4.0]),
        ("highest(x, 4 s)", [1.0, 3.0, 3.0, 3.0, 8.0, 8.0, 8.0, 8.0]),
        ("ago(x, 4 s)", [None, None, None, 1.0, 3.0, 8.0, 8.0, 8.0]),
        ("rate(x, 4 s)", [None, None, None, None, 1.25, 0.0, -1.0, -0.75]),
        # It held at 1 s and until 2 s, again from 5 s until it was found to be over at 10 s.
        ("since(x > 2.5)", [None, 0.0, 0.0, None, 0.0, 0.0, 0.0, 0.0]),
        ("held(x > 2.5)", [0.0, 0.0, 0.0, None, 0.0, 4.0, 5.0, 6.0]),
        ("held(x < 3)", [0.0, 0.0, 0.0, None, 0.0, 0.0, 0.0, 0.0]),
    ],
)
def test_looking_back_by_hand(text: str, expected: list[float | None]) -> None:
    assert shown(over(text, X)) == expected


def test_a_window_that_is_not_full_or_has_a_hole_is_uncertain() -> None:
    found = over("average(x, 4 s)", X)
    assert q.is_good(found.quality).tolist() == [*[False] * 5, True, True, True]
    whole = over("average(x, 2 s)", [1.0] * 8)
    assert q.is_good(whole.quality).tolist() == [False, False, *[True] * 6]


TEXTS = [
    "average(x, 3 s) + y", "lowest(x, 5 s)", "highest(y, 2 s)", "rate(x, 3 s)", "since(x > y)", "held(x > 0)",
    "if(ago(x, 2 s) > 0, average(y, 7 s), x)",
]  # fmt: skip


@st.composite
def series_of(draw: st.DrawFn) -> Series:
    count = draw(st.integers(1, 40))
    steps = draw(st.lists(st.integers(1, 4000), min_size=count, max_size=count))
    values = draw(st.lists(st.one_of(st.none(), st.integers(-9, 9)), min_size=count, max_size=count))
    quality = [q.BAD_NO_DATA if one is None else q.GOOD for one in values]
    ts = np.cumsum(np.array(steps, np.int64)) * 1000
    return Series.of(FLOAT, ts, [np.nan if v is None else float(v) for v in values], quality)


@given(st.sampled_from(TEXTS), series_of(), series_of())
def test_one_instant_at_a_time_gives_what_all_at_once_give(text: str, x: Series, y: Series) -> None:
    """The live rule and the one over history are the same; sums in another order differ by their last
    bits."""
    inputs = {"x": x, "y": y} if "y" in text else {"x": x}
    node = parse_formula(text)
    whole = evaluate_history(Formula(node), inputs, FLOAT)
    running = Formula(node)
    single = [running.run(_instant(inputs, at)) for at in whole.ts_us.tolist()]
    assert [int(one.quality[0]) for one in single] == whole.quality.tolist()
    found = np.array([one.values[0] for one in single])
    np.testing.assert_allclose(found, whole.values, rtol=1e-9, atol=1e-9, equal_nan=True)


def _instant(inputs: Mapping[str, Series], at: int) -> Instants:
    """What each input is at one instant, found by looking at its samples one after the other."""
    columns = {}
    for name, series in inputs.items():
        value, quality = np.nan, q.BAD_WAITING_FOR_INITIAL_DATA
        for t, v, code in zip(series.ts_us, series.values, series.quality, strict=True):
            if t <= at:
                value, quality = float(v), int(code)
        columns[name] = Column(np.array([value]), np.array([quality], np.uint16))
    return Instants(np.array([at], np.int64), columns)


@given(series_of(), st.integers(1, 9))
def test_the_moving_average_is_the_integral_over_its_window(x: Series, seconds: int) -> None:
    """Against sums over millisecond steps (all times are whole milliseconds), the plainest integration."""
    found = evaluate_history(Formula(parse_formula(f"average(x, {seconds} s)")), {"x": x}, FLOAT)
    first = int(x.ts_us[0])
    grid = np.arange(first, int(x.ts_us[-1]) + 1, 1000)
    held = x.values[np.searchsorted(x.ts_us, grid, side="right") - 1]
    for at, value in zip(found.ts_us.tolist(), found.values.tolist(), strict=True):
        inside = held[(grid >= max(at - seconds * SECOND, first)) & (grid < at)]
        usable = inside[~np.isnan(inside)]
        if len(usable):
            assert value == pytest.approx(float(usable.mean()), rel=1e-9, abs=1e-9)


class TestReferences:
    def test_each_comes_after_those_it_needs(self) -> None:
        needs = {U3: {"a": U2}, U2: {"a": U1}}
        assert order_of(needs, {U1: "t", U2: "d", U3: "e"}) == [U2, U3]

    def test_a_circle_is_named_with_its_path(self) -> None:
        needs = {U1: {"a": U2}, U2: {"b": U3}, U3: {"c": U1}}
        with pytest.raises(InvalidInput, match="Dew point → Ratio → Excess → Dew point"):
            order_of(needs, {U1: "Dew point", U2: "Ratio", U3: "Excess"})

    def test_a_tag_that_is_not_there_is_named(self) -> None:
        with pytest.raises(InvalidInput, match="'a' of Dew point is not there"):
            order_of({U1: {"a": U2}}, {U1: "Dew point"})

    @pytest.mark.parametrize(
        ("place", "says"),
        [
            ({"formula": "a * b", "inputs": {"a": U1}}, "the formula's 'b' has no tag"),
            ({"formula": "a", "inputs": {"a": U1, "b": U2}}, "'b' is not in the formula"),
            ({"formula": "a", "inputs": {"a b": U1}}, "cannot be a name"),
            ({"formula": "a", "inputs": {"not": U1}}, "cannot be a name"),
            ({"formula": "a", "inputs": {"a": "x"}}, "has no tag"),
            ({"formula": "a", "inputs": [], "kind": "formula"}, "cannot be read"),
            ({"kind": "frob"}, "unknown"),
            ({"kind": "counter", "inputs": {}}, "is missing"),
            ({"kind": "counter", "inputs": {"input": U1, "frob": U2}}, "no input 'frob'"),
            ({"kind": "counter", "inputs": {"input": U1}, "preset": -1}, "preset"),
            ({"kind": "counter", "inputs": {"input": U1}, "edge": "change"}, "edge"),
            ({"kind": "hours", "inputs": {"input": U1}, "per": "week"}, "unit of time"),
            ({"kind": "hours", "inputs": {"input": U1}, "formula": "a"}, "no 'formula'"),
        ],
    )
    def test_a_place_that_cannot_be_used_says_why(self, place: dict[str, object], says: str) -> None:
        with pytest.raises(InvalidInput) as refused:
            check_formula(parse_calculation(json.dumps(place), ValueType.INTEGER))
        assert says in refused.value.problem

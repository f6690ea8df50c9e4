"""Counters and meters: by hand, with resets, over Bad stretches, and against sums made another way."""

from __future__ import annotations

import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import trapezoid

from cronaca.core import quality as q
from cronaca.core.addresses.calculated import parse_calculation
from cronaca.core.formulas import Meter, evaluate_history, needs_of, running_for
from cronaca.core.model import HOUR, SECOND, Series, ValueType

FLOAT = ValueType.FLOAT
U1, U2 = (f"00000000-0000-0000-0000-00000000000{i}" for i in (1, 2))


def meter(kind: str, *, scan_us: int = SECOND, stepped: bool = True, **fields: object) -> Meter:
    place = parse_calculation(json.dumps({"kind": kind, "inputs": {"input": U1}, **fields}), FLOAT)
    found = running_for(place, needs_of(place, {}), scan_us, stepped=stepped)
    assert isinstance(found, Meter)
    return found


def series(*rows: tuple[float, float | None]) -> Series:
    ts = [round(t * SECOND) for t, _ in rows]
    quality = [q.BAD_NO_COMMUNICATION if v is None else q.GOOD for _, v in rows]
    return Series.of(FLOAT, ts, [np.nan if v is None else v for _, v in rows], quality)


def stands(running: Meter, x: Series, reset: Series | None = None) -> list[float]:
    inputs = {"input": x} if reset is None else {"input": x, "reset": reset}
    return [round(v, 9) for v in evaluate_history(running, inputs, FLOAT).values.tolist()]


JAM = series((0, 1), (1, 0), (2, 1), (3, None), (4, 1), (5, 0), (6, 1), (7, 1), (8, 0))


@pytest.mark.parametrize(
    ("edge", "expected"),
    [
        # The first value is no edge; across the Bad second the last usable value counts: 1 to 1 is none.
        ("rising", [0, 0, 1, 1, 1, 1, 2, 2, 2]),
        ("falling", [0, 1, 1, 1, 1, 2, 2, 2, 3]),
        ("either", [0, 1, 2, 2, 2, 3, 4, 4, 5]),
    ],
)
def test_edges_are_counted(edge: str, expected: list[float]) -> None:
    assert stands(meter("counter", edge=edge), JAM) == expected


def test_a_bad_input_leaves_a_counter_standing_and_uncertain() -> None:
    found = evaluate_history(meter("counter"), {"input": JAM}, FLOAT)
    assert found.quality[3] == q.UNCERTAIN_LAST_USABLE
    assert found.quality[4] == q.GOOD


def test_a_rising_edge_of_the_reset_sets_it_to_zero() -> None:
    reset = series((0, 0), (4.5, 1), (5.5, 0))
    assert stands(meter("counter", edge="either"), JAM, reset) == [0, 1, 2, 2, 2, 0, 1, 1, 2, 2, 3]


def test_it_goes_on_from_where_it_stood() -> None:
    running = meter("counter")
    running.value = 41.0
    assert stands(running, JAM)[-1] == 43.0


def test_a_reset_that_is_on_at_the_start_is_no_reset() -> None:
    running = meter("counter")
    running.value = 7.0
    assert stands(running, series((0, 0), (1, 0)), series((0, 1), (1, 1))) == [7.0, 7.0]


def test_running_time_counts_while_it_is_on_and_known() -> None:
    """On from 0 to 2 s and from 6 to 8 s; the Bad stretch from 2 to 4 s counts for nothing."""
    x = series((0, 1), (2, None), (4, 0), (6, 1), (8, 0), (9, 0))
    assert stands(meter("hours", per="s"), x) == [0, 2, 2, 2, 4, 4]
    assert stands(meter("hours", per="h"), x)[-1] == pytest.approx(4 / 3600, abs=1e-9)


def test_a_hole_is_not_bridged() -> None:
    """Three scans, and 3 s, at most: nobody saw what happened in a longer one."""
    x = series((0, 1), (3, 1), (10, 1), (11, 1))
    assert stands(meter("hours", per="s"), x) == [0, 3, 3, 4]
    assert stands(meter("hours", per="s", scan_us=5 * SECOND), x) == [0, 3, 10, 11]


def test_after_a_tear_the_time_until_the_next_instant_does_not_count() -> None:
    running = meter("hours", per="s")
    stands(running, series((0, 1), (1, 1)))
    running.tear()
    assert stands(running, series((2, 1), (3, 1))) == [1, 2]


def test_a_total_of_a_rate_by_hand() -> None:
    """3600 kg/h for 2 s are 2 kg, held; along a line to 0 they are 1 kg."""
    x = series((0, 3600), (2, 0), (3, 0))
    assert stands(meter("total", per="h"), x) == [0, 2, 2]
    assert stands(meter("total", per="h", stepped=False), x) == [0, 1, 1]


@given(st.lists(st.tuples(st.integers(1, 2500), st.integers(-50, 50)), min_size=2, max_size=60))
def test_a_total_is_scipys_trapezoid(rows: list[tuple[int, int]]) -> None:
    """scipy.integrate.trapezoid on the same samples."""
    ts = np.cumsum([step for step, _ in rows]) / 1000
    values = [float(v) for _, v in rows]
    found = stands(meter("total", per="s", stepped=False), series(*zip(ts.tolist(), values, strict=True)))
    assert found[-1] == pytest.approx(float(trapezoid(values, ts)), abs=1e-6)


@given(st.integers(1, 59))
def test_in_pieces_a_meter_gives_the_same(cut: int) -> None:
    times = np.arange(60) * SECOND
    x = Series.of(FLOAT, times, np.round(50 + 30 * np.sin(times / HOUR * 400)))
    whole = stands(meter("total", per="min", stepped=False), x)
    running = meter("total", per="min", stepped=False)
    parts = stands(running, x.take(slice(0, cut))) + stands(running, x.take(slice(cut, None)))
    assert parts == pytest.approx(whole, abs=1e-7)


def test_a_counter_has_reached_its_preset_and_counts_on() -> None:
    counter = parse_calculation(
        json.dumps({"kind": "counter", "inputs": {"input": U1}, "preset": 2}), ValueType.INTEGER
    )
    reached = parse_calculation(json.dumps({"kind": "reached", "inputs": {"counter": U2}}), ValueType.BOOLEAN)
    counts = evaluate_history(meter("counter", edge="either"), {"input": JAM}, FLOAT)
    running = running_for(reached, needs_of(reached, {U2: counter}), SECOND, stepped=True)
    found = evaluate_history(running, {"counter": counts}, ValueType.BOOLEAN)
    assert found.values.tolist() == [0, 0, 1, 1, 1, 1, 1, 1, 1]
    assert counts.values[-1] == 5

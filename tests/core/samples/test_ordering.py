"""Samples in the order of their values, in parts: the same as one sort of all."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from cronaca.core import quality as q
from cronaca.core.model import Series, ValueType
from cronaca.core.samples import SampleRow, merged, rows_of, sorted_run

_FLOATS = st.one_of(st.sampled_from([0.0, 1.0, 2.5]), st.floats(allow_nan=False, allow_infinity=False))
_WHOLE = st.one_of(st.sampled_from([0, 1]), st.integers(-(1 << 63), (1 << 63) - 1))
_STRETCHES = st.lists(
    st.tuples(st.lists(_FLOATS, max_size=12), st.lists(_WHOLE, max_size=12)), min_size=1, max_size=6
)


def series_of(kind: ValueType, first_us: int, values: Sequence[float | int]) -> Series:
    return Series.of(
        kind, list(range(first_us, first_us + len(values))), list(values), [q.GOOD] * len(values)
    )


@given(stretches=_STRETCHES, most=st.integers(1, 20), descending=st.booleans())
def test_merged_parts_are_one_sort_of_all(
    stretches: list[tuple[list[float], list[int]]], most: int, descending: bool
) -> None:
    runs, everything = [], []
    for i, (floats, whole) in enumerate(stretches):
        first_us = -100 * i  # the latest stretch comes first
        parts = [series_of(ValueType.FLOAT, first_us, floats), series_of(ValueType.INTEGER, first_us, whole)]
        runs.append(sorted_run(parts))
        everything += [(float(v), 0, first_us + j, v) for j, v in enumerate(floats)]
        everything += [(float(v), 1, first_us + j, v) for j, v in enumerate(whole)]
    expected = sorted(everything, key=lambda one: one[:3], reverse=descending)
    rows: list[SampleRow] = []
    for part in merged(runs, most, descending=descending):
        assert 0 < len(part.values) <= max(most, len(runs))
        rows += rows_of(part, [True, False])
    assert [(row.tag, row.ts_us, row.cells[0].value) for row in rows] == [one[1:] for one in expected]


def test_whole_numbers_alone_are_ordered_exactly() -> None:
    large = 1 << 53
    parts = [series_of(ValueType.INTEGER, 0, [large + 1, large, large + 2])]
    found = [part.bits for part in merged([sorted_run(parts)], 10)]
    assert np.concatenate(found).tolist() == [large, large + 1, large + 2]


def test_a_contact_of_two_values_needs_no_more_memory_than_one_part() -> None:
    values = np.arange(10_000) % 2
    runs = [
        sorted_run([Series.of(ValueType.BOOLEAN, list(range(at, at + 10_000)), values, [q.GOOD] * 10_000)])
        for at in (20_000, 10_000, 0)
    ]
    parts = list(merged(runs, 3_000))
    assert max(len(part.values) for part in parts) <= 3_000
    times = np.concatenate([part.ts_us for part in parts])
    assert times[:15_000].tolist() == list(range(0, 30_000, 2))
    assert times[15_000:].tolist() == list(range(1, 30_000, 2))


def test_nothing_is_nothing() -> None:
    assert list(merged([], 10)) == []
    assert list(merged([sorted_run([Series.empty(ValueType.FLOAT)])], 10)) == []

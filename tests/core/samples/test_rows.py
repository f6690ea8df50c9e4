"""The rows of a table of samples, beside plain sorting and numpy's interpolation."""

from __future__ import annotations

import numpy as np
import pytest

from cronaca.core import quality as q
from cronaca.core.model import SECOND, Series, ValueType, Window
from cronaca.core.samples import grid_times, instants, joined_row, newest_first
from cronaca.core.trends.reading import How


def floats(times: list[int], values: list[float]) -> Series:
    return Series.of(ValueType.FLOAT, times, values)


def test_rows_are_the_samples_of_all_tags_newest_first() -> None:
    rng = np.random.default_rng(7)
    parts = []
    for count in (0, 1, 50, 200):
        times = np.unique(rng.integers(0, 300, count))
        parts.append(Series.of(ValueType.FLOAT, times, [t + 0.5 for t in times.tolist()]))
    plain = sorted(
        (
            (int(t), tag, float(v))
            for tag, p in enumerate(parts)
            for t, v in zip(p.ts_us, p.values, strict=True)
        ),
        key=lambda row: (-row[0], row[1]),
    )
    rows = [(row.ts_us, row.tag, row.cells[0].value) for row in newest_first(parts, 1000)]
    assert rows == plain
    for limit in (1, 7, 60):
        page = [(row.ts_us, row.tag, row.cells[0].value) for row in newest_first(parts, limit)]
        # A page is the beginning of all rows, and no instant is parted.
        assert page == plain[: len(page)] and len(page) >= limit
        assert plain[len(page)][0] != page[-1][0]
        assert len(page) - limit < len(parts)


def test_no_tag_has_a_sample() -> None:
    nothing = Series.empty(ValueType.FLOAT)
    assert newest_first([nothing, nothing], 10) == []
    assert instants([nothing]).tolist() == []


def test_a_bad_sample_is_a_row_without_a_value() -> None:
    bad = Series.of(ValueType.FLOAT, [5], [1.0], [q.BAD_NO_COMMUNICATION])
    (row,) = newest_first([bad], 1)
    assert (row.cells[0].value, row.cells[0].quality) == (None, q.BAD_NO_COMMUNICATION)


@pytest.mark.parametrize(
    ("start", "end", "times"),
    [(0, 30, [20, 10, 0]), (1, 31, [30, 20, 10]), (1, 10, []), (10, 10, []), (-15, 1, [0, -10])],
)
def test_a_grid_holds_the_whole_multiples_of_its_step(start: int, end: int, times: list[int]) -> None:
    assert grid_times(Window(start, end), 10, 100).tolist() == times


def test_a_grid_of_a_very_long_window_is_as_long_as_asked() -> None:
    times = grid_times(Window(0, 30 * 366 * 86_400 * SECOND), 1000, 5)
    assert len(times) == 5 and times[0] == 30 * 366 * 86_400 * SECOND - 1000


def test_values_between_samples_are_those_of_numpy_s_interpolation() -> None:
    rng = np.random.default_rng(3)
    times = np.sort(rng.choice(10_000, 40, replace=False))
    values = rng.normal(80, 5, 40)
    series = floats(times.tolist(), values.tolist())
    for at in rng.integers(times[0], times[-1], 200).tolist():
        (cell,) = joined_row(at, [series], [False], [10_000]).cells
        assert cell.value == pytest.approx(float(np.interp(at, times, values)), rel=1e-12)
        (held,) = joined_row(at, [series], [True], [10_000]).cells
        assert held.value == values[int(np.flatnonzero(times <= at)[-1])]


def test_each_cell_says_how_its_value_came_about() -> None:
    one, other = floats([0, 10], [1.0, 2.0]), floats([5], [7.0])
    row = joined_row(5, [one, other], [False, True], [20, 20])
    assert [(cell.value, cell.how) for cell in row.cells] == [(1.5, How.INTERPOLATED), (7.0, How.RECORDED)]
    before = joined_row(4, [one, other], [True, True], [20, 20])
    assert [(cell.value, cell.how) for cell in before.cells] == [(1.0, How.HELD), (None, How.NONE)]
    # Later than is known nothing is held.
    later = joined_row(30, [one, other], [True, True], [20, 40])
    assert [cell.value for cell in later.cells] == [None, 7.0]


def test_instants_are_told_once() -> None:
    assert instants([floats([1, 3], [0, 0]), floats([3, 4], [0, 0])]).tolist() == [4, 3, 1]

"""M4: what is drawn from the reduced series is what is drawn from all of it.

Source of the claim: Jugel, Jerzak, Hackenbroich, Markl: M4, PVLDB 7(10), 2014, section 4.
"""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.errors import InvalidInput
from cronaca.core.model import Series, Times, ValueType, Window
from cronaca.core.trends import reduce_m4

WIDTH, HEIGHT = 40, 60


def column_of(ts_us: Times, window: Window, width: int) -> NDArray[np.int64]:
    """The pixel column, 0 to width - 1 inside the window, of each time."""
    return (ts_us - window.start_us) * width // window.length_us


def raster(series: Series, window: Window, width: int) -> NDArray[np.bool_]:
    """Pixels that the line through the samples covers, drawn one sample pair after the other: an
    independent, slow rasteriser. Between two samples of one column the line covers all rows between
    them; between columns it is walked pixel by pixel at the columns' edges."""
    picture = np.zeros((width, HEIGHT), np.bool_)
    x = (series.ts_us - window.start_us) * width / window.length_us
    y = series.values
    for i in range(len(series) - 1):
        if q.is_bad(series.quality[i : i + 2]).any():
            continue
        left, right = x[i], x[i + 1]
        edges = [left, *range(int(np.floor(left)) + 1, int(np.ceil(right))), right]
        for a, b in itertools.pairwise(edges):
            column = int(np.floor((a + b) / 2))
            if not 0 <= column < width or right == left:
                continue
            ends = [y[i] + (y[i + 1] - y[i]) * (edge - left) / (right - left) for edge in (a, b)]
            low, high = sorted(int(np.clip(round(end), 0, HEIGHT - 1)) for end in ends)
            picture[column, low : high + 1] = True
    return picture


def noisy(seed: int, count: int) -> Series:
    rng = np.random.default_rng(seed)
    ts = np.sort(rng.choice(1_000_000, count, replace=False))
    values = np.clip(30 + np.cumsum(rng.normal(0, 2, count)), 0, HEIGHT - 1)
    values[rng.integers(0, count, 5)] = rng.choice([0.0, HEIGHT - 1.0], 5)
    return Series.of(ValueType.FLOAT, ts, values)


@settings(deadline=None)
@given(st.integers(0, 10_000), st.integers(300, 2000))
def test_the_drawn_line_covers_the_same_pixels(seed: int, count: int) -> None:
    series, window = noisy(seed, count), Window(0, 1_000_000)
    reduced = reduce_m4(series, window, WIDTH)
    assert len(reduced) <= 4 * WIDTH < len(series)
    assert np.array_equal(raster(series, window, WIDTH), raster(reduced, window, WIDTH))


@given(st.integers(0, 10_000), st.integers(0, 400_000), st.integers(1_000, 500_000), st.integers(1, 90))
def test_every_column_keeps_first_last_lowest_and_highest(
    seed: int, start: int, length: int, width: int
) -> None:
    window = Window(start, start + length)
    whole = noisy(seed, 1500)
    series = whole.take((whole.ts_us >= start) & (whole.ts_us < start + length))
    reduced = reduce_m4(series, window, width)
    for column in np.unique(column_of(series.ts_us, window, width)):
        full = series.values[column_of(series.ts_us, window, width) == column]
        kept = reduced.values[column_of(reduced.ts_us, window, width) == column]
        assert (kept[0], kept[-1], kept.min(), kept.max()) == (full[0], full[-1], full.min(), full.max())


def test_a_single_spike_in_a_million_samples_is_kept() -> None:
    values = np.zeros(1_000_000)
    values[765_432] = 1.0
    reduced = reduce_m4(Series.of(ValueType.FLOAT, np.arange(1_000_000), values), Window(0, 1_000_000), 100)
    assert reduced.values.max() == 1.0
    assert 765_432 in reduced.ts_us


def test_a_gap_never_closes() -> None:
    quality = np.zeros(10_000, np.uint16)
    quality[5_000:5_003] = q.BAD_NO_COMMUNICATION
    series = Series.of(ValueType.FLOAT, np.arange(10_000), np.ones(10_000), quality)
    reduced = reduce_m4(series, Window(0, 10_000), 10)
    assert {5_000, 5_002} <= set(reduced.ts_us.tolist())


def test_integers_beyond_two_to_the_53_keep_their_extremes() -> None:
    values = np.full(1000, 2**62, np.int64)
    values[500] = 2**62 + 1
    series = Series.of(ValueType.INTEGER, np.arange(1000), values)
    assert int(reduce_m4(series, Window(0, 1000), 4).values.max()) == 2**62 + 1


def test_few_samples_are_left_alone_and_none_is_fine() -> None:
    few = Series.of(ValueType.FLOAT, [1, 2, 3], [1, 2, 3])
    assert reduce_m4(few, Window(0, 10), 100) is few
    assert len(reduce_m4(Series.empty(ValueType.FLOAT), Window(0, 10), 100)) == 0


def test_all_bad_keeps_the_ends_of_each_column() -> None:
    series = Series.of(ValueType.FLOAT, np.arange(100), np.ones(100), np.full(100, q.BAD, np.uint16))
    assert reduce_m4(series, Window(0, 100), 2).ts_us.tolist() == [0, 49, 50, 99]


@pytest.mark.parametrize("width", [0, -1, 8193])
def test_an_impossible_width_names_field_and_remedy(width: int) -> None:
    with pytest.raises(InvalidInput) as refused:
        reduce_m4(Series.empty(ValueType.FLOAT), Window(0, 10), width)
    assert refused.value.field == "width"
    assert "8192" in refused.value.remedy

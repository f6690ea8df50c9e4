"""Buckets merge exactly: a pyramid says what the samples say."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cronaca.core import quality as q
from cronaca.core.codec.buckets import decode_buckets, decode_shape, encode_buckets
from cronaca.core.errors import CorruptPayload
from cronaca.core.model import DAY, HOUR, MINUTE, SECOND, Series, ValueType, Window, concatenate
from cronaca.core.rollup import (
    LEVELS_US,
    Buckets,
    base_for,
    bucketise,
    buckets,
    coarsen,
    key_samples,
    level_for,
)
from cronaca.core.rollup.buckets import COUNTS, FIGURES, POINTS
from cronaca.core.rollup.buckets import concatenate as join
from cronaca.core.trends import reduce_m4
from tests.support.strategies import dense_series

WIDTHS = st.sampled_from(LEVELS_US)


def assert_same(one: Buckets, other: Buckets) -> None:
    assert np.array_equal(one.start_us, other.start_us)
    for name in COUNTS:
        assert one.counts[name].tolist() == other.counts[name].tolist(), name
    for name in POINTS:
        a, b = one.points[name], other.points[name]
        there = a.ts_us >= 0
        assert a.ts_us.tolist() == b.ts_us.tolist(), name
        assert np.array_equal(a.values[there], b.values[there], equal_nan=a.values.dtype.kind == "f"), name
        assert a.quality[there].tolist() == b.quality[there].tolist(), name
    # Sums in another order differ in the last bits: 1e-9 of the result, or 1e-11 of what was added where that
    # nearly cancels out. Squares of deviations have one sign.
    values = (np.nan_to_num(one.points[name].values.astype(float)) for name in POINTS)
    largest = max(float(np.abs(column).max(initial=0.0)) for column in values)
    terms = max(one.width_us / 1e6, *(float(one.counts[name].max(initial=0)) for name in COUNTS))
    for name in FIGURES:
        scale = max(1.0, float(np.nanmax(np.abs(one.figures[name]), initial=0.0)))
        added = 0.0 if name == "m2" else terms * largest
        atol = max(1e-9 * scale, 1e-11 * added)
        np.testing.assert_allclose(one.figures[name], other.figures[name], rtol=1e-9, atol=atol)


@given(dense_series(), st.integers(0, 4), st.integers(1, 5))
def test_coarse_buckets_from_fine_ones_are_those_of_the_samples(s: Series, fine: int, up: int) -> None:
    coarse = min(fine + up, len(LEVELS_US) - 1)
    assert_same(coarsen(bucketise(s, LEVELS_US[fine]), LEVELS_US[coarse]), bucketise(s, LEVELS_US[coarse]))


@given(dense_series(), WIDTHS)
def test_buckets_made_in_pieces_are_the_same(s: Series, width: int) -> None:
    whole = bucketise(s, width)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(buckets, "_PIECE", 3)
        assert_same(bucketise(s, width), whole)


@given(dense_series(), WIDTHS)
def test_buckets_come_back_from_bytes(s: Series, width: int) -> None:
    found = bucketise(s, width)
    back = decode_buckets(*encode_buckets(found))
    assert_same(back, found)
    for name in FIGURES:
        assert np.array_equal(back.figures[name], found.figures[name], equal_nan=True)
    assert decode_shape(encode_buckets(found)[0]).samples.tolist() == found.samples.tolist()


@given(dense_series(), st.integers(0, 7), st.data())
def test_one_flipped_bit_is_found(s: Series, bit: int, data: st.DataObject) -> None:
    shape, figures = encode_buckets(bucketise(s, MINUTE))
    for payload, decode in ((shape, decode_shape), (figures, lambda b: decode_buckets(shape, b))):
        broken = bytearray(payload)
        broken[data.draw(st.integers(0, len(broken) - 1))] ^= 1 << bit
        with pytest.raises(CorruptPayload):
            decode(bytes(broken))


@given(dense_series(least=2), st.integers(1, 30), st.sampled_from(LEVELS_US[:4]), st.data())
def test_a_curve_from_buckets_is_the_curve_of_all_samples(
    s: Series, width: int, grid: int, data: st.DataObject
) -> None:
    """Snapped columns of buckets beside raw edges give the very samples that M4 takes of all of them."""
    low, high = int(s.ts_us[0]) - 2 * grid, int(s.ts_us[-1]) + 2 * grid
    start = data.draw(st.integers(low, high - 1))
    window = Window(start, data.draw(st.integers(start + 1, high)))
    first, after = -(-window.start_us // grid) * grid, window.end_us // grid * grid
    middle = (s.ts_us >= first) & (s.ts_us < after)
    found = bucketise(s.take(middle), grid)
    mixed = concatenate([s.take(~middle), key_samples(s.value_type, found.points)], s.value_type)
    mixed = mixed.take(np.argsort(mixed.ts_us, kind="stable"))
    assert _columns(mixed, window, width, grid) == _columns(s, window, width, grid)


def _columns(s: Series, window: Window, width: int, grid: int) -> list[tuple[int, float, int]]:
    kept = reduce_m4(s.take((s.ts_us >= window.start_us) & (s.ts_us < window.end_us)), window, width, grid)
    values = np.where(q.is_bad(kept.quality), 0, kept.values)
    return list(zip(kept.ts_us.tolist(), values.tolist(), kept.quality.tolist(), strict=True))


def test_figures_of_a_bucket_by_hand() -> None:
    """Four samples: 1 for 10 s, 3 for 20 s, Bad for 5 s, 5 at the end."""
    ts = [0, 10 * SECOND, 30 * SECOND, 35 * SECOND]
    s = Series.of(ValueType.FLOAT, ts, [1, 3, 0, 5], [0, 0, q.BAD_NO_COMMUNICATION, 0])
    (b,) = [bucketise(s, MINUTE)]
    assert b.figures["mean"][0] == 3 and b.figures["m2"][0] == 8
    assert b.figures["held"][0] == (1 * 10 + 3 * 20) * SECOND
    assert b.figures["sloped"][0] == (2 * 10 + 3 * 20) * SECOND
    assert (b.counts["good_us"][0], b.counts["bad_us"][0]) == (30 * SECOND, 5 * SECOND)
    assert b.counts["transitions"][0] == 3, "1 to 3, usable to Bad, Bad to usable"


def test_a_large_offset_does_not_eat_the_digits() -> None:
    """Deviations of 0.5 on 1e9: m2 of n alternating samples is n / 4."""
    values = 1e9 + np.tile([0.0, 1.0], 500)
    s = Series.of(ValueType.FLOAT, np.arange(1000) * SECOND, values)
    day = coarsen(bucketise(s, 10 * SECOND), DAY)
    assert day.figures["m2"][0] == pytest.approx(250.0, rel=1e-12)
    assert day.figures["mean"][0] == 1e9 + 0.5


def test_int64_beyond_2_to_53_stays_exact() -> None:
    s = Series.of(ValueType.INTEGER, [0, 1, 2], [2**63 - 1, -(2**63), 2**53 + 1])
    back = decode_buckets(*encode_buckets(bucketise(s, MINUTE)))
    assert back.points["highest"].values.tolist() == [2**63 - 1]
    assert back.points["lowest"].values.tolist() == [-(2**63)]
    assert back.points["last"].values.tolist() == [2**53 + 1]


def test_levels_divide_each_other_and_a_day() -> None:
    assert all(b % a == 0 for a, b in itertools.pairwise(LEVELS_US)) and LEVELS_US[-1] == DAY


def test_which_level_is_kept_and_taken() -> None:
    assert base_for(86_400, DAY) == 5 * MINUTE, "a sample a second"
    assert base_for(864_000, DAY) == MINUTE, "ten a second"
    assert base_for(20, DAY) == 0, "a contact: its samples are as quick"
    assert level_for(4 * HOUR, 10 * MINUTE) == HOUR
    assert level_for(5 * MINUTE, 10 * MINUTE) == 0
    assert level_for(40 * DAY, 0) == 0


def test_joined_buckets_are_in_order() -> None:
    s = Series.of(ValueType.FLOAT, np.arange(300) * SECOND, np.arange(300.0))
    found = bucketise(s, MINUTE)
    halves = [found.take(found.start_us >= 120 * SECOND), found.take(found.start_us < 120 * SECOND)]
    assert_same(join(halves), found)

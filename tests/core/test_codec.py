"""Segments and batches come back to the bit, and say so when they cannot."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cronaca.core import quality as q
from cronaca.core.codec import (
    Batch,
    decode_batch,
    decode_segment,
    decode_segment_into,
    encode_batch,
    encode_segment,
)
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.codec.ints import pack_ints, unpack_ints
from cronaca.core.codec.merging import Extent, swallowed
from cronaca.core.codec.summary import summarise
from cronaca.core.errors import CorruptPayload
from cronaca.core.model import Series, ValueType
from tests.support import strategies


@given(st.lists(strategies.INT64, max_size=80), st.sampled_from([(0,), (0, 1), (1, 2), (0, 1, 2)]))
def test_any_column_of_int64_comes_back(column: list[int], orders: tuple[int, ...]) -> None:
    packed = pack_ints(np.array(column, np.int64), orders)
    found, rest = unpack_ints(memoryview(packed + b"tail"), len(column))
    assert found.tolist() == column
    assert bytes(rest) == b"tail"


@given(strategies.series())
def test_a_segment_comes_back_to_the_bit(series: Series) -> None:
    assert decode_segment(encode_segment(series)).equals(series)


@given(strategies.series())
def test_a_segment_decoded_in_place_is_the_same_and_leaves_its_neighbours_alone(series: Series) -> None:
    around = Series.unfilled(series.value_type, len(series) + 2)
    around.fill(Series.of(series.value_type, range(len(around)), [1] * len(around)))
    decode_segment_into(encode_segment(series), around.take(slice(1, -1)))
    assert around.take(slice(1, -1)).equals(series)
    assert around.take(slice(None, None, len(series) + 1)).values.tolist() == [1, 1]


@pytest.mark.parametrize(("value_type", "count"), [(ValueType.FLOAT, 2), (ValueType.INTEGER, 3)])
def test_a_segment_is_not_decoded_into_what_was_made_for_another(value_type: ValueType, count: int) -> None:
    data = encode_segment(Series.of(ValueType.FLOAT, [1, 2, 3], [1.0, 2.0, 3.0]))
    with pytest.raises(CorruptPayload, match="3 samples of type FLOAT, not"):
        decode_segment_into(data, Series.unfilled(value_type, count))


@given(strategies.series(), st.data())
def test_a_flipped_bit_or_a_cut_is_never_taken_for_data(series: Series, data: st.DataObject) -> None:
    whole = bytearray(encode_segment(series))
    if data.draw(st.booleans()):
        damaged = bytes(whole[: data.draw(st.integers(0, len(whole) - 1))])
    else:
        place = data.draw(st.integers(0, len(whole) - 1))
        whole[place] ^= 1 << data.draw(st.integers(0, 7))
        damaged = bytes(whole)
    try:
        found = decode_segment(damaged)
    except CorruptPayload:
        return
    # Only the header lies outside the checksum; what it says is either refused or does no harm.
    assert len(found) == len(series)
    assert found.ts_us.tolist() == series.ts_us.tolist()


@given(
    st.dictionaries(
        st.tuples(st.integers(1, 9), st.integers(1, 99), st.just(1)), strategies.series(20), max_size=6
    )
)
def test_a_batch_comes_back_without_its_empty_series(found: dict[tuple[int, int, int], Series]) -> None:
    batch = Batch({HistoryKey(*key): series for key, series in found.items()})
    back = decode_batch(encode_batch(batch))
    assert set(back.series) == {key for key, series in batch.series.items() if len(series)}
    assert all(back.series[key].equals(batch.series[key]) for key in back.series)
    assert back.sample_count == batch.sample_count


@pytest.mark.parametrize("damage", [b"", b"CB", b"XX\x01" + b"\0" * 30])
def test_a_damaged_batch_is_refused(damage: bytes) -> None:
    with pytest.raises(CorruptPayload):
        decode_batch(damage)


def test_a_flipped_byte_in_a_batch_is_found() -> None:
    series = Series.of(ValueType.FLOAT, [1, 2], [1.5, 2.5])
    data = bytearray(encode_batch(Batch({HistoryKey(1, 1, 1): series})))
    data[-1] ^= 0xFF
    with pytest.raises(CorruptPayload, match="checksum"):
        decode_batch(bytes(data))


def test_one_decimal_at_one_hertz_takes_less_than_a_byte_a_sample() -> None:
    """The kind of data the store is made for: noise of a few tenths, regular times."""
    rng = np.random.default_rng(3)
    count = 16_384
    values = np.round(70 + np.cumsum(rng.normal(0, 0.05, count)), 1)
    series = Series.of(ValueType.FLOAT, np.arange(count) * 1_000_000, values)
    assert len(encode_segment(series)) / count < 0.6


def test_values_from_a_float32_device_cost_no_more_than_their_decimals() -> None:
    values = np.round(70 + np.sin(np.arange(8192) / 100), 1)
    as_read = values.astype(np.float32).astype(np.float64)
    plain = encode_segment(Series.of(ValueType.FLOAT, np.arange(8192), values))
    from_device = encode_segment(Series.of(ValueType.FLOAT, np.arange(8192), as_read))
    assert len(from_device) <= len(plain) + 16


@pytest.mark.parametrize("value", [-0.0, 5e-324, 1.7976931348623157e308, 0.1 + 0.2, 2.0**53 + 2])
def test_awkward_floats_come_back(value: float) -> None:
    series = Series.of(ValueType.FLOAT, [0, 1, 2], [value, 1.0, value])
    assert decode_segment(encode_segment(series)).equals(series)


@pytest.mark.parametrize("edge", [-(2**63), 2**63 - 1])
def test_the_largest_integers_come_back(edge: int) -> None:
    series = Series.of(ValueType.INTEGER, [0, 1, 2], [edge, 0, edge])
    assert decode_segment(encode_segment(series)).values.tolist() == [edge, 0, edge]


def test_a_summary_counts_time_by_quality_and_ignores_bad_values() -> None:
    series = Series.of(ValueType.FLOAT, [0, 10, 30, 60], [5, 7, 99, 1], [q.GOOD, q.UNCERTAIN, q.BAD, q.GOOD])
    summary = summarise(series)
    assert (summary.low, summary.high, summary.samples) == (1, 7, 4)
    assert (summary.good_us, summary.uncertain_us, summary.bad_us) == (10, 20, 30)


def test_a_summary_of_bad_values_has_no_extremes() -> None:
    summary = summarise(Series.of(ValueType.FLOAT, [0, 1], [1, 2], [q.BAD, q.BAD]))
    assert (summary.low, summary.high) == (None, None)


class TestMerging:
    def test_a_small_predecessor_is_swallowed(self) -> None:
        assert swallowed([Extent(0, 9, 10)], Extent(10, 19, 10)) == 1

    def test_a_large_one_is_left_alone(self) -> None:
        assert swallowed([Extent(0, 9, 1000)], Extent(10, 19, 10)) == 0

    def test_what_does_not_fit_into_one_segment_is_left_alone(self) -> None:
        assert swallowed([Extent(0, 9, 10_000)], Extent(10, 19, 10_000)) == 0

    def test_late_data_swallow_nothing(self) -> None:
        assert swallowed([Extent(100, 200, 10)], Extent(10, 19, 10)) == 0

    def test_each_sample_is_rewritten_only_a_few_times(self) -> None:
        """Appending 20 samples 800 times: the rewriting grows with the logarithm, not the number."""
        extents: list[Extent] = []
        written = 0
        for i in range(800):
            new = Extent(20 * i, 20 * i + 19, 20)
            taken = swallowed(extents, new)
            count = 20 + sum(e.samples for e in extents[len(extents) - taken :])
            start = extents[-taken].start_us if taken else new.start_us
            extents = [*extents[: len(extents) - taken], Extent(start, new.end_us, count)]
            written += count
        assert written / 16_000 < 12
        assert len(extents) < 16

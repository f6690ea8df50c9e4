"""Curves as plain columns: what a reader that knows only the layout finds is what was written."""

from __future__ import annotations

import json
import struct

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from cronaca.core import quality as q
from cronaca.core.model import Series, ValueType
from cronaca.exchange.columns import to_columns


def read(body: bytes) -> tuple[dict[str, object], list[tuple[list[float], list[float], list[int]]]]:
    """By the layout in the module's docstring, with the standard library alone."""
    (length,) = struct.unpack_from("<I", body)
    head = json.loads(body[4 : 4 + length])
    at, found = 4 + length, []
    for rows in head["rows"]:
        assert at % 8 == 0
        times = struct.unpack_from(f"<{rows}d", body, at)
        values = struct.unpack_from(f"<{rows}d", body, at + 8 * rows)
        quality = struct.unpack_from(f"<{rows}H", body, at + 16 * rows)
        found.append((list(times), list(values), list(quality)))
        at += -(-18 * rows // 8) * 8
    assert at == len(body)
    return head, found


@given(st.lists(st.lists(st.integers(0, 2**53), max_size=9), max_size=4), st.text(max_size=9))
def test_columns_come_back_as_they_were(times: list[list[int]], name: str) -> None:
    series = [Series.of(ValueType.FLOAT, sorted(ts), [t / 7 for t in sorted(ts)]) for ts in times]
    head, found = read(to_columns(series, {"series": [name] * len(series)}))
    assert head["series"] == [name] * len(series)
    for one, (ts, values, quality) in zip(series, found, strict=True):
        assert ts == one.ts_us.tolist()
        assert values == one.values.tolist()
        assert quality == one.quality.tolist()


def test_a_bad_sample_has_no_value_and_keeps_its_quality() -> None:
    quality = np.array([q.GOOD, q.BAD, q.GOOD], np.uint16)
    floats = Series.of(ValueType.FLOAT, [1, 2, 3], [1.5, 2.5, -0.1], quality)
    integers = Series.of(ValueType.INTEGER, [1, 2, 3], [1, 2, 3], quality)
    _, ((_, a, of_a), (_, b, _)) = read(to_columns([floats, integers], {}))
    assert (a[0], a[2], b[0], b[2]) == (1.5, -0.1, 1, 3)
    assert np.isnan([a[1], b[1]]).all()
    assert of_a == quality.tolist()


def test_series_are_not_changed_by_being_written() -> None:
    series = Series(ValueType.FLOAT, np.array([1]), np.array([4.0]), np.array([q.BAD], np.uint16))
    to_columns([series], {})
    assert series.values.tolist() == [4.0]

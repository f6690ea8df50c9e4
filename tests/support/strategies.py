"""Hypothesis strategies for the nouns of the job."""

from __future__ import annotations

import numpy as np
from hypothesis import strategies as st

from cronaca.core import quality as q
from cronaca.core.model import Series, Times, ValueType

INT64 = st.integers(-(2**63), 2**63 - 1)
QUALITIES = st.sampled_from(
    [q.GOOD, q.GOOD, q.GOOD, q.UNCERTAIN, q.BAD_NO_COMMUNICATION, q.BAD_SENSOR_FAILURE]
)
DECIMALS = st.integers(-100_000, 100_000).map(lambda n: n / 100)
FLOAT32 = st.floats(width=32, allow_nan=False, allow_infinity=False)
ANY_FLOAT = st.floats(allow_nan=True, allow_infinity=True)
WIDE_FLOAT = st.floats(-1e100, 1e100, allow_nan=False)
"""Squares and sums of these do not overflow."""


@st.composite
def series(draw: st.DrawFn, most: int = 60) -> Series:
    """A series of any type: regular, jittered or far-apart times in order; any quality."""
    kind = draw(st.sampled_from(list(ValueType)))
    count = draw(st.integers(0, most))
    step = st.one_of(st.just(1_000_000), st.integers(1, 3_000_000), st.integers(1, 10**12))
    steps = draw(st.lists(step, min_size=count, max_size=count))
    start = draw(st.integers(0, 4 * 10**15))
    return _with_values(draw, kind, start + np.cumsum(np.array(steps, np.int64)), ANY_FLOAT)


@st.composite
def dense_series(draw: st.DrawFn, least: int = 1, most: int = 80) -> Series:
    """A series of some minutes to some days, dense enough that several samples share a bucket."""
    kind = draw(st.sampled_from(list(ValueType)))
    step = st.one_of(st.just(1_000_000), st.integers(1, 20_000_000), st.integers(1, 4 * 10**9))
    steps = draw(st.lists(step, min_size=least, max_size=most))
    start = draw(st.integers(0, 4 * 10**15))
    return _with_values(draw, kind, start + np.cumsum(np.array(steps, np.int64)), WIDE_FLOAT)


def _with_values(draw: st.DrawFn, kind: ValueType, ts_us: Times, wildest: st.SearchStrategy[float]) -> Series:
    count = len(ts_us)
    column = {
        ValueType.FLOAT: draw(st.sampled_from([DECIMALS, FLOAT32, wildest])),
        ValueType.INTEGER: INT64,
        ValueType.BOOLEAN: st.integers(0, 1),
        ValueType.STATE: st.integers(-(2**31), 2**31 - 1),
        ValueType.TEXT: st.integers(0, 10**6),
    }[kind]
    values = draw(st.lists(column, min_size=count, max_size=count))
    quality = draw(st.lists(QUALITIES, min_size=count, max_size=count))
    return Series.of(kind, ts_us, values, quality)

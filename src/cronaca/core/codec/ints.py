"""One column of int64 as few bytes: differences of order 0 to 2, narrowed, bit-shuffled, zstd.

Stream: order u8, width u8 (bytes per difference; 0 = all differences are zero), first values
(order x int64), length u32, compressed differences. Differences wrap around at 64 bits, so every
int64 column comes back exactly.
"""

from __future__ import annotations

import struct

import numpy as np
from numcodecs.blosc import BITSHUFFLE, Blosc
from numpy.typing import NDArray

from cronaca.core.errors import CorruptPayload

Ints = NDArray[np.int64]
_HEAD = struct.Struct("<BB")
_LENGTH = struct.Struct("<I")
_WIDTHS = (1, 2, 4, 8)


def _compressor() -> Blosc:
    return Blosc(cname="zstd", clevel=3, shuffle=BITSHUFFLE)


def _narrowest(column: Ints) -> int:
    """The fewest bytes that hold every value; 0 when all are zero."""
    if len(column) == 0:
        return 0
    low, high = int(column.min()), int(column.max())
    if low == 0 == high:
        return 0
    return next(w for w in _WIDTHS if -(1 << (8 * w - 1)) <= low and high < (1 << (8 * w - 1)))


def _spread(column: Ints) -> float:
    return float(np.abs(column.astype(np.float64)).mean()) if len(column) else 0.0


def _best_order(column: Ints, orders: tuple[int, ...]) -> tuple[int, Ints, int]:
    """The order of differences that is narrowest, then smallest on average."""
    best: tuple[int, float, int, Ints] | None = None
    for order in orders:
        if order > len(column):
            break
        rest = np.diff(column, n=order) if order else column
        candidate = (_narrowest(rest), _spread(rest), order, rest)
        if best is None or candidate[:3] < best[:3]:
            best = candidate
    if best is None:  # orders without 0 on a column shorter than each of them
        return 0, column, _narrowest(column)
    return best[2], best[3], best[0]


def pack_ints(column: Ints, orders: tuple[int, ...] = (0, 1, 2)) -> bytes:
    """The column as bytes; `orders` are the orders of differences to try."""
    order, rest, width = _best_order(np.ascontiguousarray(column, np.int64), orders)
    firsts = b"".join(np.diff(column[:order], n=k)[:1].astype("<i8").tobytes() for k in range(order))
    body = b"" if width == 0 else bytes(_compressor().encode(rest.astype(f"<i{width}")))
    return _HEAD.pack(order, width) + firsts + _LENGTH.pack(len(body)) + body


def unpack_ints(data: memoryview, count: int) -> tuple[Ints, memoryview]:
    """A column of `count` values and what follows it; raises CorruptPayload."""
    out = np.empty(count, np.int64)
    return out, unpack_ints_into(data, out)


def unpack_ints_into(data: memoryview, out: Ints) -> memoryview:
    """Fills `out` from a column of as many values, and returns what follows it; raises CorruptPayload.

    Into memory that is there already: for long histories, asking for new memory costs as much as decoding.
    """
    try:
        order, width = _HEAD.unpack_from(data)
        if order > 2 or width not in (0, *_WIDTHS) or order > len(out):
            raise CorruptPayload("integer column", f"order {order}, width {width} are unknown")
        data = data[_HEAD.size :]
        firsts = np.frombuffer(data[: 8 * order], "<i8")
        (length,) = _LENGTH.unpack_from(data, 8 * order)
        body = data[8 * order + _LENGTH.size :]
        if len(body) < length:
            raise CorruptPayload("integer column", "it is cut short")
        if width == 0:
            _fill_regular(firsts, out)
        else:
            _differences_into(body[:length], width, out[order:])
            for place in range(order - 1, -1, -1):
                out[place] = firsts[place]
                np.cumsum(out[place:], out=out[place:])
    except (struct.error, ValueError, RuntimeError) as exc:
        raise CorruptPayload("integer column", str(exc)) from exc
    return body[length:]


def _fill_regular(firsts: Ints, out: Ints) -> None:
    """A column whose differences are all zero: zeros, one value throughout, or steps of one size."""
    if len(firsts) < 2:
        out.fill(firsts[0] if len(firsts) else 0)
        return
    np.multiply(np.arange(len(out), dtype=np.int64), firsts[1], out=out)
    out += firsts[0]


def _differences_into(body: memoryview, width: int, out: Ints) -> None:
    column = np.frombuffer(_compressor().decode(bytes(body)), f"<i{width}")
    if len(column) != len(out):
        raise CorruptPayload("integer column", f"it holds {len(column)} values, not {len(out)}")
    out[:] = column

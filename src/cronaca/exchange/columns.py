"""Curves as plain columns, for readers that take no Arrow: a browser reads them in place, without a decoder.

Layout, all little-endian: the length of the head in bytes (uint32, a multiple of 8 less 4), the head (JSON in
UTF-8, padded with spaces), then for each series in the head's order, of `rows` samples: t (float64, µs UTC,
exact until the year 2255), v (float64, NaN where Bad), q (uint16, quality, padded with zeros to 8 bytes).
Every column begins at a multiple of 8 bytes.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import Any, Final

import numpy as np

from cronaca.core import quality as q
from cronaca.core.model import Series

MEDIA_TYPE: Final = "application/vnd.cronaca.columns"
ALIGNED: Final = 8


def to_columns(series: Sequence[Series], details: dict[str, Any]) -> bytes:
    """Curves of any types; `details` says what they are, and gets `rows`, the samples of each."""
    head = json.dumps({**details, "rows": [len(curve) for curve in series]}, ensure_ascii=False).encode()
    head += b" " * (-(4 + len(head)) % ALIGNED)
    parts = [np.uint32(len(head)).astype("<u4").tobytes(), head]
    for curve in series:
        values = curve.values.astype("<f8")
        values[q.is_bad(curve.quality)] = np.nan
        quality = curve.quality.astype("<u2").tobytes()
        parts += [curve.ts_us.astype("<f8").tobytes(), values.tobytes(), quality]
        parts.append(b"\0" * (-len(quality) % ALIGNED))
    return b"".join(parts)

"""Curves as an Arrow IPC stream: one record batch per series, in the order asked for.

Columns: t (int64, µs UTC), v (float64, null where Bad), q (uint16, quality). The schema's metadata
holds JSON: `cronaca` says what the series are, `cronaca_rows` how many rows each has, since some
readers drop batches without rows.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import Any, Final

import pyarrow as pa

from cronaca.core import quality as q
from cronaca.core.model import Series

MEDIA_TYPE: Final = "application/vnd.apache.arrow.stream"


def to_ipc(series: Sequence[Series], facts: dict[str, Any]) -> bytes:
    """The stream. Integers become floats here: curves may, figures and raw exports may not."""
    about = {"cronaca": json.dumps(facts), "cronaca_rows": json.dumps([len(one) for one in series])}
    schema = pa.schema([("t", pa.int64()), ("v", pa.float64()), ("q", pa.uint16())], metadata=about)
    sink = pa.BufferOutputStream()
    with pa.ipc.new_stream(sink, schema) as writer:
        for one in series:
            values = pa.array(one.values.astype("f8"), mask=q.is_bad(one.quality))
            columns = [pa.array(one.ts_us), values, pa.array(one.quality)]
            writer.write_batch(pa.record_batch(columns, schema=schema))
    return bytes(sink.getvalue())

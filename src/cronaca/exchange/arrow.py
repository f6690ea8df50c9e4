"""Series as an Arrow IPC stream: one record batch each, in the order asked for.

Columns: t (int64, µs UTC), v (float64 or int64, null where Bad), q (uint16, quality). The schema's metadata
holds JSON: `cronaca` says what the series are, `cronaca_rows` how many rows each has, since some
readers drop batches without rows.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import Any, Final

import pyarrow as pa

from cronaca.core import quality as q
from cronaca.core.model import Series, ValueType

MEDIA_TYPE: Final = "application/vnd.apache.arrow.stream"


def to_ipc(series: Sequence[Series], details: dict[str, Any]) -> bytes:
    """Curves of any types. Integers become floats here: curves may, raw samples may not."""
    return _stream(series, details, pa.float64())


def to_ipc_exact(series: Series, details: dict[str, Any]) -> bytes:
    """Raw samples of one series: v is int64 but for float tags."""
    return _stream([series], details, pa.float64() if series.value_type is ValueType.FLOAT else pa.int64())


def _stream(series: Sequence[Series], details: dict[str, Any], value_type: pa.DataType) -> bytes:
    about = {"cronaca": json.dumps(details), "cronaca_rows": json.dumps([len(curve) for curve in series])}
    schema = pa.schema([("t", pa.int64()), ("v", value_type), ("q", pa.uint16())], metadata=about)
    sink = pa.BufferOutputStream()
    with pa.ipc.new_stream(sink, schema) as writer:
        for curve in series:
            values = pa.array(curve.values, mask=q.is_bad(curve.quality)).cast(value_type, safe=False)
            columns = [pa.array(curve.ts_us), values, pa.array(curve.quality)]
            writer.write_batch(pa.record_batch(columns, schema=schema))
    return bytes(sink.getvalue())

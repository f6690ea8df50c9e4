"""Rollups: the pyramid of buckets, one row per history, month and width."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from cronaca.core.codec.batch import HistoryKey
from cronaca.core.codec.buckets import Shape, decode_buckets, decode_shape, encode_buckets
from cronaca.core.errors import CorruptPayload
from cronaca.core.rollup import Buckets
from cronaca.db.transaction import Transaction

_PUT: Final = """
REPLACE INTO rollup (archive_id, month, tag_id, version, width_us, bucket_count, shape, figures)
VALUES (%s, %s, %s, %s, %s, %s, %s, %s)
"""
_WHERE: Final = (
    "archive_id = %(archive_id)s AND month = %(month)s AND tag_id = %(tag_id)s AND version = %(version)s"
)
_FIND: Final = f"SELECT shape, figures FROM rollup WHERE {_WHERE} AND width_us = %(width_us)s"
_REMOVE: Final = f"DELETE FROM rollup WHERE {_WHERE}"
_READ_SHAPES: Final = """
SELECT month, shape FROM rollup
WHERE archive_id = %(archive_id)s AND month IN %(months)s AND tag_id = %(tag_id)s AND version = %(version)s
    AND width_us = %(width_us)s ORDER BY month
"""


def put_rollups(tx: Transaction, key: HistoryKey, month: int, levels: Sequence[Buckets]) -> None:
    """Writes all levels of a month anew; none removes what was there."""
    tx.execute(_REMOVE, **key._asdict(), month=month)
    rows = [
        (key.archive_id, month, key.tag_id, key.version, level.width_us, len(level), *encode_buckets(level))
        for level in levels
    ]
    tx.execute_many(_PUT, rows)


def find_buckets(tx: Transaction, key: HistoryKey, month: int, width_us: int) -> Buckets | None:
    """One level of a month with all figures."""
    row = tx.fetch_one(_FIND, **key._asdict(), month=month, width_us=width_us)
    if row is None:
        return None
    try:
        return decode_buckets(*row)
    except CorruptPayload as exc:
        raise exc.within(_name(key, month)) from exc


def read_shapes(tx: Transaction, key: HistoryKey, months: Sequence[int], width_us: int) -> dict[int, Shape]:
    """The shapes of one level by month."""
    if not months:
        return {}
    rows = tx.fetch(_READ_SHAPES, **key._asdict(), months=list(months), width_us=width_us)
    shapes = {}
    for month, shape in rows:
        try:
            shapes[int(month)] = decode_shape(shape)
        except CorruptPayload as exc:
            raise exc.within(_name(key, month)) from exc
    return shapes


def _name(key: HistoryKey, month: int) -> str:
    return f"rollup of tag {key.tag_id}, archive {key.archive_id}, month {month}"

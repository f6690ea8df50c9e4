"""Records of triggered loggers: tables, newest first."""

from __future__ import annotations

import io
from collections.abc import Iterable, Sequence
from datetime import UTC, datetime, timedelta
from typing import Annotated, Any, Final, Literal

from fastapi import Query, Response

from cronaca.api.deps import StoreDep
from cronaca.api.routing import api_router
from cronaca.api.schemas import Uid
from cronaca.api.schemas.records import ColumnOut, FiguresRow, RecordLoggerOut, RecordOut, RecordPage
from cronaca.core.errors import NotFound
from cronaca.core.model import ValueType, Window
from cronaca.db import Store
from cronaca.db.transaction import Transaction
from cronaca.exchange import sheets
from cronaca.logbook import records
from cronaca.logbook.records import RecordColumn, RecordRow
from cronaca.logbook.texts import texts_of

router = api_router("/records", "records")
_MOST: Final = 100_000
_EPOCH: Final = datetime(1970, 1, 1, tzinfo=UTC)
_XLSX: Final = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
Micros = Annotated[int | None, Query(description="UTC microseconds since 1970")]


@router.get("")
def list_record_loggers(store: StoreDep) -> list[RecordLoggerOut]:
    """The triggered loggers, and how many records each has."""
    with store.snapshot() as tx:
        return [
            RecordLoggerOut(uid=uid, name=name, records=_count(tx, number))
            for number, uid, name in records.list_loggers(tx)
        ]


def _count(tx: Transaction, logger_id: int) -> int:
    return records.count_records(tx, logger_id) if records.has_table(tx, logger_id) else 0


@router.get("/{logger}")
def list_records(
    store: StoreDep,
    logger: Uid,
    start: Micros = None,
    end: Micros = None,
    before: Annotated[int | None, Query(ge=1)] = None,
    limit: Annotated[int, Query(ge=1, le=1000)] = 200,
) -> RecordPage:
    """One page of a logger's records, newest first, with figures of each column over all that match."""
    window = None if start is None or end is None else Window.parse(start, end)
    logger_id = _logger_id(store, logger)
    with store.snapshot() as tx:
        columns = records.list_columns(tx, logger_id)
        if not records.has_table(tx, logger_id):
            return RecordPage(total=0, columns=[], records=[], figures=[])
        rows = records.read_records(tx, logger_id, columns, window=window, before=before, limit=limit)
        figures = records.column_figures(tx, logger_id, columns, window)
        return RecordPage(
            total=records.count_records(tx, logger_id, window),
            columns=[_column(c) for c in columns],
            records=[
                RecordOut(
                    number=row.number, t_us=str(row.ts_us), reason=row.reason, values=list(values),
                    quality=list(row.quality),
                )
                for row, values in zip(rows, _shown(tx, rows, columns), strict=True)
            ],
            figures=[FiguresRow(count=f.count, low=f.low, high=f.high, mean=f.mean) for f in figures],
        )  # fmt: skip


@router.get("/{logger}/export")
def export_records(
    store: StoreDep,
    logger: Uid,
    form: Literal["csv", "xlsx"] = "csv",
    start: Micros = None,
    end: Micros = None,
) -> Response:
    """The records as a file, newest first; times in UTC, a Bad value is empty."""
    window = None if start is None or end is None else Window.parse(start, end)
    logger_id = _logger_id(store, logger)
    with store.snapshot() as tx:
        columns = records.list_columns(tx, logger_id)
        rows = []
        if records.has_table(tx, logger_id):
            rows = records.read_records(tx, logger_id, columns, window=window, limit=_MOST)
        values = list(_shown(tx, rows, columns))
    header = ["Record", "Time (UTC)", "Trigger", *map(_title, columns)]
    lines = [[r.number, _time(r.ts_us), r.reason, *v] for r, v in zip(rows, values, strict=True)]
    data = sheets.write_csv(header, lines) if form == "csv" else _workbook(header, lines)
    kind = "text/csv; charset=utf-8" if form == "csv" else _XLSX
    headers = {"Content-Disposition": f'attachment; filename="records.{form}"'}
    return Response(data, media_type=kind, headers=headers)


def _logger_id(store: Store, uid: str) -> int:
    with store.snapshot() as tx:
        for number, known, _ in records.list_loggers(tx):
            if known == uid:
                return number
    raise NotFound("logger", uid)


def _shown(
    tx: Transaction, rows: Sequence[RecordRow], columns: Sequence[RecordColumn]
) -> Iterable[list[Any]]:
    """Values as people read them: texts for their codes, truth values for bits."""
    places = [i for i, c in enumerate(columns) if c.value_type is ValueType.TEXT]
    codes = {int(r.values[i] or 0) for r in rows for i in places if r.values[i] is not None}
    texts = texts_of(tx, sorted(codes)) if codes else {}
    for row in rows:
        yield [_one(value, c.value_type, texts) for value, c in zip(row.values, columns, strict=True)]


def _one(
    value: float | int | None, kind: ValueType, texts: dict[int, str]
) -> float | int | bool | str | None:
    if value is None:
        return None
    if kind is ValueType.TEXT:
        return texts.get(int(value), "")
    return bool(value) if kind is ValueType.BOOLEAN else value


def _column(column: RecordColumn) -> ColumnOut:
    return ColumnOut(
        number=column.column_no, name=column.name, tag=column.tag_uid,
        value_type=column.value_type.name.lower(), unit=column.unit, decimals=column.decimals,
        present=column.present,
    )  # fmt: skip


def _title(column: RecordColumn) -> str:
    return f"{column.name} ({column.unit})" if column.unit else column.name


def _time(ts_us: int) -> datetime:
    return (_EPOCH + timedelta(microseconds=ts_us)).replace(tzinfo=None)


def _workbook(header: list[str], lines: list[list[Any]]) -> bytes:
    data = io.BytesIO()
    sheets.write_workbook(data, [("Records", header, lines)])
    return data.getvalue()

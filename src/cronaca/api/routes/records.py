"""Records of triggered loggers: tables, newest first."""

from __future__ import annotations

import io
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Annotated, Any, Final, Literal

from fastapi import Depends, Query, Response
from pydantic import StringConstraints

from cronaca.api.deps import StoreDep
from cronaca.api.routing import api_router
from cronaca.api.schemas import Uid
from cronaca.api.schemas.records import ColumnOut, FiguresRow, RecordLoggerOut, RecordOut, RecordPage
from cronaca.core.errors import InvalidInput, NotFound
from cronaca.core.model import ValueType, Window
from cronaca.db import Store
from cronaca.db.transaction import Transaction
from cronaca.exchange import sheets
from cronaca.logbook import records
from cronaca.logbook.record_pages import RecordChoice, RecordOrder, column_figures, count_matches, read_page
from cronaca.logbook.records import RecordColumn, RecordRow
from cronaca.logbook.texts import texts_of

router = api_router("/records", "records")
_MOST: Final = 100_000
Head = Literal["number", "time", "reason"]
_HEADS: Final[dict[Head, str]] = {"number": "Record", "time": "Time (UTC)", "reason": "Trigger"}
"""What every record has, and what it is called in files."""
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


@dataclass(frozen=True, slots=True)
class Asked:
    """Which records are asked for, of all columns, and in which order; no choice: there are no records."""

    columns: tuple[RecordColumn, ...]
    choice: RecordChoice | None
    order: RecordOrder


def get_asked(
    store: StoreDep,
    logger: Uid,
    start: Micros = None,
    end: Micros = None,
    search: Annotated[str, Query(max_length=200, description="What a cell, number or trigger holds")] = "",
    order: Annotated[
        str, Query(max_length=20, description="number, time, reason, or the number of a column")
    ] = "number",
    descending: bool = True,
) -> Asked:
    """The records of a logger that an address names."""
    window = None if start is None or end is None else Window.parse(start, end)
    logger_id = _logger_id(store, logger)
    with store.snapshot() as tx:
        columns = tuple(records.list_columns(tx, logger_id))
        there = records.has_table(tx, logger_id)
    choice = RecordChoice(logger_id, columns, window, search.strip()) if there else None
    return Asked(columns, choice, RecordOrder(_named(order, columns, "order"), descending))


AskedDep = Annotated[Asked, Depends(get_asked)]


@router.get("/{logger}")
def list_records(
    store: StoreDep,
    asked: AskedDep,
    before: Annotated[int | None, Query(ge=1)] = None,
    skip: Annotated[int, Query(ge=0)] = 0,
    limit: Annotated[int, Query(ge=1, le=1000)] = 200,
) -> RecordPage:
    """One page of a logger's records, with figures of each column over all that match. Newest first, pages go
    on `before` a number; in another order, after the first ones (`skip`)."""
    choice, columns = asked.choice, asked.columns
    if choice is None:
        return RecordPage(total=0, columns=[], records=[], figures=[])
    with store.snapshot() as tx:
        rows = read_page(tx, choice, asked.order, before=before, skip=skip, limit=limit)
        figures = column_figures(tx, choice)
        return RecordPage(
            total=count_matches(tx, choice),
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
    asked: AskedDep,
    form: Literal["csv", "xlsx"] = "csv",
    column: Annotated[
        list[str] | None, Query(max_length=500, description="number, time, reason, or numbers of columns")
    ] = None,
    name: Annotated[
        list[Annotated[str, StringConstraints(max_length=200)]] | None,
        Query(max_length=500, description="Their names, one for each; empty: its own"),
    ] = None,
) -> Response:
    """The records as a file (at most 100,000), in their order; times in UTC, a Bad value is empty. Columns
    stand in the order they are named, by default all."""
    chosen = [_named(one, asked.columns, "column") for one in column or []] or [*_HEADS, *asked.columns]
    names = name or [""] * len(chosen)
    if len(names) != len(chosen):
        raise InvalidInput(
            "name",
            "name-columns",
            "there are {names} for {chosen} columns",
            "Give one for each.",
            names=len(names),
            chosen=len(chosen),
        )
    rows: list[RecordRow] = []
    with store.snapshot() as tx:
        if asked.choice is not None:
            rows = read_page(tx, asked.choice, asked.order, limit=_MOST)
        values = list(_shown(tx, rows, asked.columns))
    header = [given or _title(one) for given, one in zip(names, chosen, strict=True)]
    lines = [
        [_cell(row, cells, one, asked.columns) for one in chosen]
        for row, cells in zip(rows, values, strict=True)
    ]
    data = sheets.write_csv(header, lines) if form == "csv" else _workbook(header, lines)
    kind = "text/csv; charset=utf-8" if form == "csv" else _XLSX
    headers = {"Content-Disposition": f'attachment; filename="records.{form}"'}
    return Response(data, media_type=kind, headers=headers)


def _named(name: str, columns: Sequence[RecordColumn], field: str) -> Head | RecordColumn:
    for head in _HEADS:
        if name == head:
            return head
    for column in columns:
        if name == str(column.column_no):
            return column
    known = ", ".join([*_HEADS, *(str(column.column_no) for column in columns)])
    raise InvalidInput(
        field, "no-column", "there is no column {name!r}", "Choose among {known}.", name=name, known=known
    )


def _cell(
    row: RecordRow, cells: list[Any], of: Head | RecordColumn, columns: Sequence[RecordColumn]
) -> object:
    """What a record's line of a file holds in a column."""
    if isinstance(of, RecordColumn):
        return cells[columns.index(of)]
    return {"number": row.number, "time": _time(row.ts_us), "reason": row.reason}[of]


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


def _title(column: Head | RecordColumn) -> str:
    if not isinstance(column, RecordColumn):
        return _HEADS[column]
    return f"{column.name} ({column.unit})" if column.unit else column.name


def _time(ts_us: int) -> datetime:
    return (_EPOCH + timedelta(microseconds=ts_us)).replace(tzinfo=None)


def _workbook(header: list[str], lines: list[list[Any]]) -> bytes:
    data = io.BytesIO()
    sheets.write_workbook(data, [("Records", header, lines)])
    return data.getvalue()

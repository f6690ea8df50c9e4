"""Pages of records: those of a window that hold a text, in any order, with figures of each column."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Literal

from cronaca.core import quality as q
from cronaca.core.model import ValueType, Window
from cronaca.core.names import names_things
from cronaca.db.transaction import Transaction
from cronaca.logbook.records import (
    HEAD,
    RecordColumn,
    RecordRow,
    count_records,
    inside,
    quality_of,
    rows_of,
    table_of,
    value_of,
)

_NUMBERS: Final = (ValueType.FLOAT, ValueType.INTEGER)
_HEADS: Final = {"number": "record_no", "time": "ts_us", "reason": "reason"}


@dataclass(frozen=True, slots=True)
class RecordOrder:
    """By which column records are ordered: `number`, `time`, `reason`, or one of theirs. Records without a
    value come last either way, and of equal ones the newest first."""

    by: Literal["number", "time", "reason"] | RecordColumn = "number"
    descending: bool = True


NEWEST: Final = RecordOrder()


@dataclass(frozen=True, slots=True)
class RecordChoice:
    """Which records of a logger: all, or those of a window; those of which a cell, the number or the trigger
    holds a text (upper and lower case alike, values with the decimals of their tag)."""

    logger_id: int
    columns: tuple[RecordColumn, ...]
    window: Window | None = None
    search: str = ""

    @property
    def where(self) -> str:
        """The condition in SQL; the text is its parameter `search`."""
        if not self.search:
            return inside(self.window)
        cells = ["record_no", "reason", *map(_cell_text, self.columns)]
        holds = " OR ".join(f"INSTR(CONVERT({cell} USING utf8mb4), %(search)s)" for cell in cells)
        return f"{inside(self.window) or 'WHERE TRUE'} AND ({holds})"


@dataclass(frozen=True, slots=True)
class ColumnFigures:
    """Of the usable values of one column: how many, lowest, highest, mean; None where it has no meaning."""

    count: int
    low: float | None
    high: float | None
    mean: float | None


def count_matches(tx: Transaction, choice: RecordChoice) -> int:
    """How many records are chosen."""
    if not choice.search:
        return count_records(tx, choice.logger_id, choice.window)
    row = tx.fetch_one(f"SELECT COUNT(*) FROM {table_of(choice.logger_id)} {choice.where}", **_text(choice))
    return int(row[0]) if row else 0


def read_page(
    tx: Transaction, choice: RecordChoice, order: RecordOrder = NEWEST, *, before: int | None = None,
    skip: int = 0, limit: int = 200,
) -> list[RecordRow]:  # fmt: skip
    """A page of the chosen records in their order: those numbered below `before`, after the first `skip`."""
    names = [name for c in choice.columns for name in (value_of(c.column_no), quality_of(c.column_no))]
    where = choice.where
    if before is not None:
        where = f"{where or 'WHERE TRUE'} AND record_no < {int(before)}"
    rows = tx.fetch(
        f"SELECT {', '.join([HEAD, *names])} FROM {table_of(choice.logger_id)} {where} "
        f"ORDER BY {_order_by(order)} LIMIT {int(limit)} OFFSET {int(skip)}",
        **_text(choice),
    )
    return rows_of(rows)


def column_figures(tx: Transaction, choice: RecordChoice) -> list[ColumnFigures]:
    """Figures of each column over all chosen records. Numbers that are names have no mean."""
    if not choice.columns:
        return []
    selected = []
    for column in choice.columns:
        c = value_of(column.column_no)
        extremes = f"MIN({c}), MAX({c})" if column.value_type in _NUMBERS else "NULL, NULL"
        mean = "NULL" if names_things(column.value_type, column.unit) else f"AVG({c})"
        selected.append(f"COUNT({c}), {extremes}, {mean}")
    table = table_of(choice.logger_id)
    row = tx.fetch_one(f"SELECT {', '.join(selected)} FROM {table} {choice.where}", **_text(choice)) or ()
    figures = [None if value is None else float(value) for value in row]
    return [
        ColumnFigures(int(row[i]), figures[i + 1], figures[i + 2], figures[i + 3])
        for i in range(0, len(row), 4)
    ]


def _text(choice: RecordChoice) -> dict[str, object]:
    return {"search": choice.search} if choice.search else {}


def _order_by(order: RecordOrder) -> str:
    down = "DESC" if order.descending else "ASC"
    if isinstance(order.by, str):
        return f"{_HEADS[order.by]} {down}, record_no DESC"
    value = value_of(order.by.column_no)
    shown = _named(value) if order.by.value_type is ValueType.TEXT else value
    return f"{value} IS NULL, {shown} {down}, record_no DESC"


def _cell_text(column: RecordColumn) -> str:
    """What a cell shows, in SQL."""
    value, quality = value_of(column.column_no), quality_of(column.column_no)
    shown = {
        # The digits of its tag, without separators of thousands.
        ValueType.FLOAT: f"REPLACE(FORMAT({value}, {int(column.decimals)}), ',', '')",
        ValueType.BOOLEAN: f"IF({value}, 'on', 'off')",
        ValueType.TEXT: _named(value),
    }.get(column.value_type, value)
    return f"IF({value} IS NULL, IF({quality} >= {int(q.BAD)}, 'bad', ''), {shown})"


def _named(value: str) -> str:
    return f"(SELECT text_value.value FROM text_value WHERE text_value.code = {value})"

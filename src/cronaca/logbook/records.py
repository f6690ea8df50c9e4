"""Records of triggered loggers: a table for each logger, with typed columns. A column is bound to a tag and
its type for ever: another type gets another column, and nothing taken is reread as something else.

Table and column names are made of numbers alone (record_7, c1, q1): they are safe inside SQL.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, Final

from cronaca.core import quality as q
from cronaca.core.bits import from_bits
from cronaca.core.errors import InvalidInput
from cronaca.core.loggers import OnTrigger
from cronaca.core.model import Tag, ValueType, Window
from cronaca.core.outputs import Record, SafeRecord
from cronaca.core.topics import Topic
from cronaca.db.pool import Store
from cronaca.db.transaction import Row, Transaction
from cronaca.plant import loggers as set_up
from cronaca.plant.tags import list_tags

_COLUMNS: Final = """
SELECT c.logger_id, c.column_no, c.tag_id, c.value_type, c.name, c.position, c.present, t.unit, t.decimals,
    t.uid
FROM record_column c JOIN tag t ON t.tag_id = c.tag_id ORDER BY c.present DESC, c.position, c.column_no
"""
_PUT_COLUMN: Final = """
INSERT INTO record_column (logger_id, column_no, tag_id, value_type, name, position, present)
VALUES (%s, %s, %s, %s, %s, %s, %s)
ON DUPLICATE KEY UPDATE name = VALUES(name), position = VALUES(position), present = VALUES(present)
"""
_TYPES: Final = {
    ValueType.FLOAT: "DOUBLE",
    ValueType.INTEGER: "BIGINT",
    ValueType.BOOLEAN: "BOOLEAN",
    ValueType.STATE: "BIGINT",
    ValueType.TEXT: "BIGINT COMMENT 'code of text_value'",
}
_LOGGERS: Final = """
SELECT logger_id, uid, name FROM (
    SELECT logger_id, uid, name FROM logger WHERE mode = 'on_trigger'
    UNION ALL SELECT logger_id, uid, CONCAT(name, ' (removed)') FROM removed_logger) AS one
ORDER BY NATURAL_SORT_KEY(name), name
"""
_HAS_TABLE: Final = """
SELECT 1 FROM information_schema.tables WHERE table_schema = DATABASE() AND table_name = %(name)s
"""
_NARROW: Final = """
SELECT column_name FROM information_schema.columns
WHERE table_schema = DATABASE() AND table_name = %(name)s AND data_type = 'int'
"""
HEAD: Final = "record_no, ts_us, reason"
_NO_FLUSH: Final = (0, 0)
"""Epochs begin at 1."""


@dataclass(frozen=True, slots=True)
class RecordColumn:
    """A column of a logger's records."""

    logger_id: int
    column_no: int
    tag_id: int
    value_type: ValueType
    name: str
    position: int
    present: bool
    unit: str
    decimals: int
    tag_uid: str


@dataclass(frozen=True, slots=True)
class RecordRow:
    """A record: values in the order of the columns, None where Bad or not taken then; and qualities."""

    number: int
    ts_us: int
    reason: str
    values: tuple[float | int | None, ...]
    quality: tuple[int | None, ...]


def ensure_tables(store: Store) -> None:
    """Makes tables and columns for the triggered loggers as they are set up."""
    with store.snapshot() as tx:
        loggers = [logger for logger in set_up.list_loggers(tx) if isinstance(logger.mode, OnTrigger)]
        tags = {tag.tag_id: tag for tag in list_tags(tx)}
        known = list_columns(tx)
    for logger in loggers:
        names = dict(logger.mode.columns) if isinstance(logger.mode, OnTrigger) else {}
        members = [replace(tags[t], name=names.get(t, tags[t].name)) for t in logger.tags]
        _ensure_table(store, logger.logger_id, members, [c for c in known if c.logger_id == logger.logger_id])


def _ensure_table(
    store: Store, logger_id: int, members: Sequence[Tag], known: Sequence[RecordColumn]
) -> None:
    numbers = {(c.tag_id, c.value_type): c.column_no for c in known}
    rows, new = [], []
    for position, tag in enumerate(members):
        key = tag.tag_id, tag.value_type
        if key not in numbers:
            numbers[key] = max(numbers.values(), default=0) + 1
            new.append((numbers[key], tag.value_type))
        rows.append((logger_id, numbers[key], tag.tag_id, int(tag.value_type), tag.name, position, True))
    here = {row[1] for row in rows}
    rows += [
        (logger_id, c.column_no, c.tag_id, int(c.value_type), c.name, c.position, False)
        for c in known
        if c.column_no not in here
    ]
    table = table_of(logger_id)
    # A change of a table commits by itself: it comes first, and may be repeated.
    with store.transaction() as tx:
        tx.execute(
            f"CREATE TABLE IF NOT EXISTS {table} (record_no BIGINT NOT NULL PRIMARY KEY, "
            "ts_us BIGINT NOT NULL, reason VARCHAR(200) NOT NULL, epoch BIGINT NOT NULL, "
            "seq BIGINT NOT NULL, KEY by_time (ts_us), KEY by_flush (epoch, seq)) ENGINE = InnoDB"
        )
        for number, kind in new:
            tx.execute(
                f"ALTER TABLE {table} ADD COLUMN IF NOT EXISTS {value_of(number)} {_TYPES[kind]} NULL, "
                f"ADD COLUMN IF NOT EXISTS {quality_of(number)} SMALLINT UNSIGNED NULL"
            )
        # State columns were 32 bits wide once: a state of an unsigned register did not fit.
        for (name,) in tx.fetch(_NARROW, name=table):
            tx.execute(f"ALTER TABLE {table} MODIFY COLUMN {value_of(int(str(name)[1:]))} BIGINT NULL")
        tx.execute_many(_PUT_COLUMN, rows)


def list_columns(tx: Transaction, logger_id: int | None = None) -> list[RecordColumn]:
    """Columns of all loggers, or of one; those that are no longer taken last."""
    return [_column(row) for row in tx.fetch(_COLUMNS) if logger_id in (None, row[0])]


def add_records(tx: Transaction, flush: tuple[int, int], taken: Sequence[Record]) -> tuple[SafeRecord, ...]:
    """Puts the records of a flush (its epoch and number) into their tables, numbered one after the other."""
    tx.changes(Topic.RECORDS)
    columns = list_columns(tx)
    return tuple(_add(tx, flush, record, columns) for record in taken)


def add_past(tx: Transaction, records: Sequence[Record]) -> None:
    """Records of the past, in order of time, of loggers that have taken none yet (else InvalidInput): they
    are numbered as they were taken."""
    tx.changes(Topic.RECORDS)
    for logger_id in {record.logger_id for record in records}:
        if count_records(tx, logger_id):
            raise InvalidInput(
                "logger",
                "taken-records-already",
                "it has taken records already",
                "Past ones are added before its first one only.",
            )
    columns = list_columns(tx)
    for record in records:
        _add(tx, _NO_FLUSH, record, columns)


def _add(
    tx: Transaction, flush: tuple[int, int], record: Record, columns: Sequence[RecordColumn]
) -> SafeRecord:
    """`flush`: epoch and number of the one that it came with."""
    table = table_of(record.logger_id)
    row = tx.fetch_one(f"SELECT COALESCE(MAX(record_no), 0) + 1 FROM {table}")
    number = int(row[0]) if row else 1
    taken = dict(zip(record.tag_ids, zip(record.bits, record.quality, strict=True), strict=True))
    names = ["record_no", "ts_us", "reason", "epoch", "seq"]
    values: list[Any] = [number, record.ts_us, record.reason, *flush]
    for column in columns:
        if column.logger_id == record.logger_id and column.present and column.tag_id in taken:
            bits, quality = taken[column.tag_id]
            names += [value_of(column.column_no), quality_of(column.column_no)]
            values += [None if quality >= q.BAD else from_bits(bits, column.value_type), quality]
    marks = ", ".join(["%s"] * len(values))
    tx.execute_many(f"INSERT INTO {table} ({', '.join(names)}) VALUES ({marks})", [values])
    return SafeRecord(record.logger_id, record.ts_us, number)


def find_safe(tx: Transaction, flush: tuple[int, int], taken: Sequence[Record]) -> tuple[SafeRecord, ...]:
    """The numbers that the records of a flush (its epoch and number) got when it was committed before."""
    epoch, seq = flush
    safe: list[SafeRecord] = []
    for logger_id in dict.fromkeys(record.logger_id for record in taken):
        rows = tx.fetch(
            f"SELECT ts_us, record_no FROM {table_of(logger_id)} WHERE epoch = %(epoch)s AND seq = %(seq)s",
            epoch=epoch, seq=seq,
        )  # fmt: skip
        safe += [SafeRecord(logger_id, ts_us, number) for ts_us, number in rows]
    return tuple(safe)


def list_loggers(tx: Transaction) -> list[tuple[int, str, str]]:
    """Number, uid and name of each triggered logger; those that were removed say so, and keep their
    records."""
    return [(number, uid, name) for number, uid, name in tx.fetch(_LOGGERS)]


def has_table(tx: Transaction, logger_id: int) -> bool:
    """Whether a logger has taken or may take records."""
    return tx.fetch_one(_HAS_TABLE, name=table_of(logger_id)) is not None


def count_records(tx: Transaction, logger_id: int, window: Window | None = None) -> int:
    """How many records there are, of all time or inside a window."""
    # Numbers have no hole and no record is removed: the last one says how many there are.
    count = "COALESCE(MAX(record_no), 0)" if window is None else "COUNT(*)"
    row = tx.fetch_one(f"SELECT {count} FROM {table_of(logger_id)} {inside(window)}")
    return int(row[0]) if row else 0


def read_records(
    tx: Transaction,
    logger_id: int,
    columns: Sequence[RecordColumn],
    *,
    window: Window | None = None,
    before: int | None = None,
    limit: int = 200,
) -> list[RecordRow]:
    """Records, newest first; `before` a number: those before it."""
    names = [name for c in columns for name in (value_of(c.column_no), quality_of(c.column_no))]
    older = "" if before is None else f"{'AND' if window else 'WHERE'} record_no < {int(before)}"
    rows = tx.fetch(
        f"SELECT {', '.join([HEAD, *names])} FROM {table_of(logger_id)} {inside(window)} {older} "
        f"ORDER BY record_no DESC LIMIT {int(limit)}"
    )
    return rows_of(rows)


def rows_of(rows: Sequence[Row]) -> list[RecordRow]:
    """Rows of HEAD and of the value and the quality of each column."""
    return [RecordRow(row[0], row[1], row[2], row[3::2], row[4::2]) for row in rows]


def inside(window: Window | None) -> str:
    """The condition of a window, or nothing."""
    if window is None:
        return ""
    return f"WHERE ts_us >= {int(window.start_us)} AND ts_us < {int(window.end_us)}"


def table_of(logger_id: int) -> str:
    """The table of a logger's records."""
    return f"record_{int(logger_id)}"


def value_of(number: int) -> str:
    """The column of a record column's values."""
    return f"c{int(number)}"


def quality_of(number: int) -> str:
    """The column of their qualities."""
    return f"q{int(number)}"


def _column(row: Row) -> RecordColumn:
    number, column_no, tag_id, kind, name, position, present, unit, decimals, uid = row
    return RecordColumn(
        number, column_no, tag_id, ValueType(kind), name, position, bool(present), unit, decimals, uid
    )

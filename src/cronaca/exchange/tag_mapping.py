"""Tables of tags from elsewhere: which of their columns is which of ours, and what their words mean."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import islice
from typing import Any, Final

from cronaca.core.errors import InvalidInput
from cronaca.exchange.tag_table import NEEDED, PLACES, PLAIN

REFERENCE: Final = "address.reference"
"""A register as 40001 or 400001: the table in front, then the number from 1."""
FIELDS: Final = (*(name for name in PLAIN if name != "uid"), REFERENCE, *PLACES)
"""What a column can be."""
_TABLES: Final = {"0": "coil", "1": "discrete_input", "3": "input_register", "4": "holding_register"}
"""By the first digit: common practice, after the reference numbers of the Modbus protocol's first guide."""
_EXAMPLES: Final = 3
_MOST_WORDS: Final = 40
_LOOKED_AT: Final = 5000
_NAMES: Final[Mapping[str, tuple[str, ...]]] = {
    "name": ("tag", "tag name", "symbol", "symbolic name", "signal", "point", "variable", "item"),
    "description": ("comment", "text", "long name", "designation"),
    "value_type": ("type", "data type"),
    "address.data_type": ("type", "data type"),
    "unit": ("units", "eu", "uom", "engineering unit", "engineering units"),
    "range_low": ("low", "min", "minimum", "eu low", "lower limit", "range min"),
    "range_high": ("high", "max", "maximum", "eu high", "upper limit", "range max"),
    "decimals": ("digits", "precision"),
    "equipment": ("area", "line", "location", "system"),
    "source": ("device", "controller", "plc", "channel", "connection"),
    "scan_s": ("scan", "scan rate", "cycle"),
    "address.address": ("register", "offset"),
    REFERENCE: ("address", "modbus address", "reference"),
    "address.node": ("node", "node id", "nodeid", "opc item"),
    "address.scale": ("factor", "gain", "multiplier"),
}
"""How columns are often called. Common practice, no source."""
_VALUE_TYPES: Final = {
    "float": ("real", "lreal", "double", "single", "float32", "float64", "analog", "analogue"),
    "boolean": ("bool", "bit", "digital", "binary", "discrete"),
    "integer": (
        "sint", "int", "dint", "lint", "usint", "uint", "udint", "ulint", "byte", "word", "dword", "lword",
        "int16", "uint16", "int32", "uint32", "int64", "uint64", "short", "long",
    ),
    "text": ("string", "wstring"),
}  # fmt: skip
_DATA_TYPES: Final = {
    "bool": ("bit", "digital", "boolean"),
    "int16": ("int", "short"),
    "uint16": ("uint", "word"),
    "int32": ("dint", "long"),
    "uint32": ("udint", "dword"),
    "int64": ("lint",),
    "uint64": ("ulint", "lword"),
    "float32": ("real", "single", "float"),
    "float64": ("lreal", "double"),
}
"""Elementary data types of controllers after IEC 61131-3, by what they are to us (from memory)."""
KNOWN_WORDS: Final = {
    name: {word: ours for ours, words in known.items() for word in (ours, *words)}
    for name, known in (("value_type", _VALUE_TYPES), ("address.data_type", _DATA_TYPES))
}


@dataclass(frozen=True, slots=True)
class FromColumn:
    """Where a field comes from: a column of the file, or one value for all lines; what words become."""

    column: str = ""
    value: str = ""
    words: Mapping[str, str] = field(default_factory=dict)


Mapped = Mapping[str, FromColumn]


@dataclass(frozen=True, slots=True)
class Column:
    """A column of a file: some values, and all different ones where these are few."""

    name: str
    examples: tuple[str, ...]
    words: tuple[str, ...]


def columns_of(table: Iterable[Sequence[Any]]) -> list[Column]:
    """The columns of a table, its heading first. Raises InvalidInput where there is none."""
    rows = iter(table)
    header = [_said(cell) for cell in next(rows, [])]
    if not any(header):
        raise InvalidInput(
            "file", "file-no-heading", "it has no heading", "Put the columns' names into line 1."
        )
    seen: list[dict[str, None]] = [{} for _ in header]
    for row in islice(rows, _LOOKED_AT):
        for found, cell in zip(seen, row, strict=False):
            if (text := _said(cell)) and len(found) <= _MOST_WORDS:
                found[text] = None
    return [
        Column(name, tuple(islice(found, _EXAMPLES)), tuple(found) if len(found) <= _MOST_WORDS else ())
        for name, found in zip(header, seen, strict=True)
        if name
    ]


def is_ours(columns: Sequence[Column]) -> bool:
    """Whether a file has our own columns and needs no mapping."""
    names = {column.name for column in columns}
    return names.issuperset(NEEDED) and names <= {*PLAIN, *PLACES}


def suggest(columns: Sequence[Column]) -> dict[str, FromColumn]:
    """Which column is likely which field, by its name."""
    by_name = {column.name.casefold().replace("_", " "): column.name for column in reversed(columns)}
    found: dict[str, FromColumn] = {}
    for name in FIELDS:
        own = name.removeprefix("address.").replace("_", " ") if name != "address.address" else "register"
        called = (name, own, *_NAMES.get(name, ()))
        column = next((by_name[one] for one in called if one in by_name), None)
        if column is not None:
            found[name] = FromColumn(column)
    return found


def mapped(table: Iterable[Sequence[Any]], mapping: Mapped) -> Iterator[list[Any]]:
    """The table with our columns, its heading first. Raises InvalidInput where the mapping does not fit."""
    rows = iter(table)
    header = [_said(cell) for cell in next(rows, [])]
    _check(header, mapping)
    places = {name: header.index(one.column) for name, one in mapping.items() if one.column}
    yield [*(name for name in mapping if name != REFERENCE), *_of_reference(mapping)]
    for row in rows:
        if any(_said(cell) for cell in row):
            yield _line(row, mapping, places)


def _check(header: Sequence[str], mapping: Mapped) -> None:
    for name, one in mapping.items():
        if name not in FIELDS:
            raise InvalidInput(
                "mapping", "field-unknown", "{name!r} is not a field of a tag", "Use one of: {known}.",
                name=name, known=", ".join(FIELDS),
            )  # fmt: skip
        if one.column and one.column not in header:
            raise InvalidInput(
                "mapping", "mapped-column-missing", "the file has no column {column!r}",
                "Choose another column for {name}.", column=one.column, name=name,
            )  # fmt: skip
    for name in NEEDED:
        if name not in mapping:
            raise InvalidInput(
                "mapping", "field-not-mapped", "nothing is given for {name}",
                "Choose a column for it, or one value for all lines.", name=name,
            )  # fmt: skip


def _of_reference(mapping: Mapped) -> list[str]:
    return ["address.table", "address.address"] if REFERENCE in mapping else []


def _line(row: Sequence[Any], mapping: Mapped, places: Mapping[str, int]) -> list[Any]:
    cells = []
    for name, one in mapping.items():
        if name == REFERENCE:
            continue
        cells.append(_cell(row, name, one, places.get(name)))
    if REFERENCE in mapping:
        one = mapping[REFERENCE]
        cells += _reference(_said(_cell(row, REFERENCE, one, places.get(REFERENCE))))
    return cells


def _cell(row: Sequence[Any], name: str, one: FromColumn, place: int | None) -> Any:  # noqa: ANN401 - any cell
    if place is None:
        return one.value
    cell = row[place] if place < len(row) else None
    word = _said(cell)
    if word in one.words:
        return one.words[word]
    return KNOWN_WORDS.get(name, {}).get(word.casefold(), cell)


def _reference(text: str) -> tuple[str, Any]:
    """Table and address of a reference number; what is none is left to be refused with its line."""
    table = _TABLES.get(text[:1])
    if table is None or len(text) not in (5, 6) or not text.isdecimal() or int(text[1:]) == 0:
        return "", text
    return table, int(text[1:]) - 1


def _said(cell: object) -> str:
    """A cell as a text: a workbook has 40001.0 where a file has 40001."""
    if isinstance(cell, float) and cell.is_integer():
        return str(int(cell))
    return "" if cell is None else str(cell).strip()

"""Tags as a table: CSV and XLSX out and in. The place in a source is spread over columns `address.…`."""

from __future__ import annotations

import io
import json
import math
from collections.abc import Iterable, Mapping, Sequence
from typing import Any, Final

from cronaca.core.addresses import ADDRESS_FIELDS
from cronaca.core.errors import InvalidInput
from cronaca.core.model import SECOND, ValueType
from cronaca.core.setup import TagSpec
from cronaca.core.setup.importing import Line
from cronaca.exchange import sheets

PLAIN: Final = (
    "uid", "name", "description", "value_type", "unit", "range_low", "range_high", "decimals", "stepped",
    "equipment", "source", "scan_s", "colour", "states",
)  # fmt: skip
NEEDED: Final = ("name", "source")
_PLACE: Final = "address."
PLACES: Final = tuple(dict.fromkeys(_PLACE + field for fields in ADDRESS_FIELDS.values() for field in fields))
_INPUTS: Final = "inputs"
_TRUE: Final = frozenset({"true", "yes", "1", "wahr", "vero"})
_FALSE: Final = frozenset({"false", "no", "0", "", "falsch", "falso"})
_NOISE: Final = 1e-6
"""How far a decimal number times a million may lie from a whole one, only because it is stored in binary."""
Cells = Mapping[str, Any]


def write_csv(rows: Iterable[tuple[str, TagSpec]], names: Mapping[str, str]) -> bytes:
    """(uid, tag) as CSV in UTF-8; `names` gives those of sources and of inputs of calculated tags by uid."""
    return sheets.write_csv(*_table(list(rows), names))


def write_xlsx(rows: Iterable[tuple[str, TagSpec]], names: Mapping[str, str]) -> bytes:
    """The same as a workbook with one sheet."""
    data = io.BytesIO()
    sheets.write_workbook(data, [("Tags", *_table(list(rows), names))])
    return data.getvalue()


def _table(
    rows: Sequence[tuple[str, TagSpec]], names: Mapping[str, str]
) -> tuple[list[str], list[list[Any]]]:
    places = [_place_out(json.loads(tag.address), names) for _, tag in rows]
    keys = list(dict.fromkeys(key for place in places for key in place))
    header = [*PLAIN, *(_PLACE + key for key in keys)]
    lines = []
    for (uid, tag), place in zip(rows, places, strict=True):
        plain = [
            uid, tag.name, tag.description, tag.value_type.name.lower(), tag.unit, tag.range_low,
            tag.range_high, tag.decimals, "yes" if tag.stepped else "no", tag.equipment, names[tag.source],
            tag.scan_us / SECOND, tag.colour, tag.states,
        ]  # fmt: skip
        lines.append([*plain, *(place.get(key, "") for key in keys)])
    return header, lines


def _place_out(place: dict[str, Any], names: Mapping[str, str]) -> dict[str, Any]:
    """The inputs of a calculated tag are one cell, as JSON, with the names of their tags."""
    inputs = place.get(_INPUTS)
    if not isinstance(inputs, dict):
        return place
    named = {name: names.get(uid, uid) for name, uid in inputs.items()}
    return {**place, _INPUTS: json.dumps(named, ensure_ascii=False)}


def read_tags(
    table: Iterable[Sequence[Any]], sources: Mapping[str, str], tags: Mapping[str, str] | None = None
) -> list[Line]:
    """The lines of a table, its heading first; `sources` and `tags` give uids by name. Raises InvalidInput
    when the table as a whole cannot be used."""
    rows = iter(table)
    header = [str(cell or "").strip() for cell in next(rows, [])]
    _check_header(header)
    read = []
    for number, row in enumerate(rows, 2):
        cells = {name: cell for name, cell in zip(header, row, strict=False) if cell not in (None, "")}
        if cells:
            read.append(_line(number, cells, sources, tags or {}))
    return read


def _check_header(header: Sequence[str]) -> None:
    for name in NEEDED:
        if name not in header:
            raise InvalidInput(
                "file",
                "file-no-column",
                "it has no column {name!r}",
                "Give at least {needed}.",
                name=name,
                needed=", ".join(NEEDED),
            )
    for name in header:
        if name and name not in PLAIN and name not in PLACES:
            known = ", ".join((*PLAIN, *PLACES))
            raise InvalidInput(
                "file",
                "column-unknown",
                "the column {name!r} is unknown",
                "Use {known}.",
                name=name,
                known=known,
            )
        if name and header.count(name) > 1:
            raise InvalidInput(
                "file", "column-twice", "the column {name!r} is there twice", "Leave one out.", name=name
            )


def _line(number: int, cells: Cells, sources: Mapping[str, str], tags: Mapping[str, str]) -> Line:
    uid = str(cells.get("uid", ""))
    try:
        return Line(number, uid, _tag_spec(cells, sources, tags))
    except InvalidInput as exc:
        return Line(number, uid, None, exc)


def _tag_spec(cells: Cells, sources: Mapping[str, str], tags: Mapping[str, str]) -> TagSpec:
    source = _text(cells, "source")
    if source not in sources:
        raise InvalidInput(
            "source", "no-source", "there is no source {source!r}", "Add the source first.", source=source
        )
    kind = _text(cells, "value_type") or "float"
    if kind.upper() not in ValueType.__members__:
        known = ", ".join(name.lower() for name in ValueType.__members__)
        raise InvalidInput(
            "value_type",
            "value-type-unknown",
            "{kind!r} is unknown",
            "Use one of: {known}.",
            kind=kind,
            known=known,
        )
    place = {
        name.removeprefix(_PLACE): _plain(_text(cells, name) if isinstance(cell, str) else cell)
        for name, cell in cells.items()
        if name.startswith(_PLACE)
    }
    if _INPUTS in place:
        place[_INPUTS] = _inputs_in(place[_INPUTS], tags)
    return TagSpec(
        name=_text(cells, "name"), source=sources[source], address=json.dumps(place, sort_keys=True),
        description=_text(cells, "description"), value_type=ValueType[kind.upper()],
        unit=_text(cells, "unit"),
        range_low=_number(cells, "range_low", 0.0), range_high=_number(cells, "range_high", 100.0),
        decimals=_whole(cells, "decimals", 1.0), stepped=_flag(cells, "stepped"),
        equipment=_text(cells, "equipment"), scan_us=_whole(cells, "scan_s", 1.0, SECOND),
        colour=_text(cells, "colour"), states=_text(cells, "states"),
    )  # fmt: skip


def _inputs_in(cell: object, tags: Mapping[str, str]) -> dict[str, str]:
    """The inputs of a calculated tag by uid, from names or uids of tags that are there."""
    try:
        named = json.loads(str(cell))
        return {name: _input_in(str(item), tags) for name, item in named.items()}
    except (ValueError, AttributeError) as exc:
        raise InvalidInput(
            "address.inputs",
            "inputs-cannot-read",
            "{cell!r} cannot be read",
            'Give {"a": "Name of a tag"}.',
            cell=cell,
        ) from exc


def _input_in(text: str, tags: Mapping[str, str]) -> str:
    if text not in tags and text not in tags.values():
        raise InvalidInput(
            "address.inputs",
            "tag-table-inputs-no-tag",
            "there is no tag {text!r}",
            "Add that tag first.",
            text=text,
        )
    return tags.get(text, text)


def _text(cells: Cells, name: str) -> str:
    return str(cells.get(name, "")).strip()


def _number(cells: Cells, name: str, default: float) -> float:
    value = cells.get(name, default)
    try:
        number = float(str(value).replace(",", "."))
    except ValueError as exc:
        raise InvalidInput(
            name, "tag-table-not-number", "{value!r} is not a number", "Give a number.", value=value
        ) from exc
    if not math.isfinite(number):
        raise InvalidInput(
            name, "not-finite-number", "{value!r} is not a finite number", "Give a number.", value=value
        )
    return number


def _whole(cells: Cells, name: str, default: float, each: int = 1) -> int:
    """A number as a multiple of 1/`each`; one that would have to be rounded is refused."""
    exact = _number(cells, name, default) * each
    if not math.isfinite(exact) or abs(exact - round(exact)) > _NOISE:
        remedy = "Give a whole number." if each == 1 else "Give no more than six decimals."
        raise InvalidInput(
            name,
            "cannot-stored",
            "{cells!r} cannot be stored as it is",
            "{advice}",
            cells=cells[name],
            advice=remedy,
        )
    return round(exact)


def _flag(cells: Cells, name: str) -> bool:
    text = str(cells.get(name, "")).strip().casefold()
    if text not in _TRUE | _FALSE:
        raise InvalidInput(
            name, "neither-yes-nor-no", "{text!r} is neither yes nor no", "Give yes or no.", text=text
        )
    return text in _TRUE


def _plain(cell: object) -> object:
    """A number or truth value where the cell holds one: a spreadsheet keeps types, a CSV file does not."""
    if isinstance(cell, float) and cell.is_integer():
        return int(cell)
    if not isinstance(cell, str):
        return cell
    for kind in (int, float):
        try:
            return kind(cell)
        except ValueError:
            continue
    return {"true": True, "false": False}.get(cell.casefold(), cell)

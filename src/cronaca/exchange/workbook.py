"""Workbooks (XLSX) in and out, for `cronaca.exchange.sheets`: what needs their library."""

from __future__ import annotations

import io
from collections.abc import Iterable, Iterator, Sequence
from typing import IO, Any, Final
from xml.etree.ElementTree import ParseError
from zipfile import BadZipFile, ZipFile

import defusedxml
from openpyxl import Workbook, load_workbook
from openpyxl.cell import WriteOnlyCell
from openpyxl.styles import Font
from openpyxl.utils.exceptions import IllegalCharacterError, InvalidFileException

from cronaca.core.errors import InvalidInput
from cronaca.exchange.guarding import ALREADY, Cell

MOST_UNPACKED: Final = 200 << 20
"""A workbook of 40 MB may unpack to this; a bomb unpacks to more."""
MOST_CELLS: Final = 4_000_000
_NOT_A_WORKBOOK: Final = (
    BadZipFile, InvalidFileException, KeyError, ValueError, OSError, TypeError, AttributeError, IndexError,
    ParseError, defusedxml.DefusedXmlException, OverflowError, NotImplementedError, EOFError,
)  # fmt: skip


def write(stream: IO[bytes], sheets: Iterable[tuple[str, Sequence[Cell], Iterable[Sequence[Cell]]]]) -> None:
    """Sheets by name, heading (may be empty) and rows, written as they come: memory stays bounded."""
    book = Workbook(write_only=True)
    for name, header, rows in sheets:
        sheet = book.create_sheet(name)
        if header:
            sheet.freeze_panes = "A2"
            sheet.append([_cell(sheet, cell, bold=True) for cell in header])
        for row in rows:
            sheet.append([_cell(sheet, cell) for cell in row])
    book.save(stream)


def _cell(sheet: Any, value: Cell, *, bold: bool = False) -> Any:  # noqa: ANN401 - the library's own
    if not isinstance(value, str):
        return value
    value = f"'{value}" if value.startswith(ALREADY) else value
    try:
        cell = WriteOnlyCell(sheet, value)
    except IllegalCharacterError:  # control characters have no place in XML
        cell = WriteOnlyCell(sheet, "".join(c for c in value if c.isprintable()))
    cell.data_type = "s"
    if bold:
        cell.font = Font(bold=True)
    return cell


def read_rows(data: bytes) -> Iterator[list[Cell]]:
    """The rows of the first sheet. Raises InvalidInput when the file cannot be used."""
    try:
        with ZipFile(io.BytesIO(data)) as archive:
            unpacked = sum(entry.file_size for entry in archive.infolist())
        if unpacked > MOST_UNPACKED:
            raise InvalidInput(
                "file",
                "unpacks-mb",
                "it unpacks to {unpacked:,} MB",
                "Save it as CSV, or in parts.",
                unpacked=unpacked >> 20,
            )
        book = load_workbook(io.BytesIO(data), read_only=True, data_only=True)
        sheet = book.worksheets[0]
        sheet.reset_dimensions()  # what the file says of its size need not be so
        cells = 0
        for row in sheet.iter_rows(values_only=True):
            cells += len(row)
            if cells > MOST_CELLS:
                raise InvalidInput(
                    "file",
                    "more-cells",
                    "it has more than {most_cells:,} cells",
                    "Import it in parts.",
                    most_cells=MOST_CELLS,
                )
            yield list(row)
    except InvalidInput:
        raise
    except _NOT_A_WORKBOOK as exc:
        raise InvalidInput(
            "file", "cannot-read-workbook", "it cannot be read as a workbook", "Save it as XLSX, or as CSV."
        ) from exc

"""Tables for spreadsheets, out and in: the one door for CSV and XLSX that people open in such a program.

A text that a spreadsheet would take for a formula gets an apostrophe in CSV (OWASP, CSV Injection: = + - @,
tab and carriage return); in a workbook every text is marked as one, so that nothing has to be added. Numbers
stay numbers. Workbooks that come in are read without external entities and only up to a size when unpacked.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Iterator, Sequence
from datetime import datetime
from typing import IO, Any, Final
from xml.etree.ElementTree import ParseError
from zipfile import BadZipFile, ZipFile

import defusedxml
from openpyxl import Workbook, load_workbook
from openpyxl.cell import WriteOnlyCell
from openpyxl.styles import Font
from openpyxl.utils.exceptions import IllegalCharacterError, InvalidFileException

from cronaca.core.errors import InvalidInput

GUARDED: Final = ("=", "+", "-", "@", "\t", "\r")
_ALREADY: Final = tuple(f"'{sign}" for sign in GUARDED) + tuple(f"''{sign}" for sign in GUARDED)
MOST_UNPACKED: Final = 200 << 20
"""A workbook of 40 MB may unpack to this; a bomb unpacks to more."""
MOST_ROWS: Final = 200_000
MOST_CELLS: Final = 4_000_000
LONGEST_FIELD: Final = 32_767
"""What a cell of a workbook holds."""
_ZIP: Final = b"PK\x03\x04"
Cell = Any


def harmless(value: Cell) -> Cell:
    """A cell for CSV: a text that a spreadsheet would take for a formula gets an apostrophe; so does one that
    has it already, so that `plain` gives back the very text."""
    return f"'{value}" if isinstance(value, str) and value.startswith((*GUARDED, *_ALREADY)) else value


def plain(value: Cell) -> Cell:
    """The cell as it was before `harmless`."""
    return value[1:] if isinstance(value, str) and value.startswith(_ALREADY) else value


def write_csv(header: Sequence[Cell], rows: Iterable[Sequence[Cell]]) -> bytes:
    """RFC 4180 in UTF-8 with a byte order mark, as spreadsheets read it; moments in ISO 8601, UTC."""
    text = io.StringIO(newline="")
    writer = csv.writer(text, lineterminator="\r\n")
    writer.writerow([harmless(cell) for cell in header])
    for row in rows:
        writer.writerow([f"{c.isoformat()}Z" if isinstance(c, datetime) else harmless(c) for c in row])
    return text.getvalue().encode("utf-8-sig", "surrogatepass")


def write_workbook(
    stream: IO[bytes], sheets: Iterable[tuple[str, Sequence[Cell], Iterable[Sequence[Cell]]]]
) -> None:
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
    value = f"'{value}" if value.startswith(_ALREADY) else value
    try:
        cell = WriteOnlyCell(sheet, value)
    except IllegalCharacterError:  # control characters have no place in XML
        cell = WriteOnlyCell(sheet, "".join(c for c in value if c.isprintable()))
    cell.data_type = "s"
    if bold:
        cell.font = Font(bold=True)
    return cell


def read_rows(data: bytes) -> Iterator[list[Cell]]:
    """The rows of a CSV file or of the first sheet of a workbook, told by its first bytes. Raises
    InvalidInput when the file cannot be used."""
    rows = _workbook(data) if data.startswith(_ZIP) else _csv(data)
    for number, row in enumerate(rows, 1):
        if number > MOST_ROWS:
            raise InvalidInput("file", f"it has more than {MOST_ROWS:,} lines", "Import it in parts.")
        if any(isinstance(cell, str) and len(cell) > LONGEST_FIELD for cell in row):
            raise InvalidInput("file", f"line {number} has a cell that is too long", "Shorten it.")
        yield [plain(cell) for cell in row]


def _csv(data: bytes) -> Iterator[list[Cell]]:
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as exc:
        raise InvalidInput("file", "it is no text in UTF-8", "Save it as CSV in UTF-8, or as XLSX.") from exc
    head = text.partition("\n")[0]
    delimiter = max(",;\t", key=head.count)
    try:
        yield from csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    except csv.Error as exc:
        raise InvalidInput("file", f"it is no CSV: {exc}", "Save it again as CSV.") from exc


_NOT_A_WORKBOOK: Final = (
    BadZipFile, InvalidFileException, KeyError, ValueError, OSError, TypeError, AttributeError, IndexError,
    ParseError, defusedxml.DefusedXmlException, OverflowError, NotImplementedError, EOFError,
)  # fmt: skip


def _workbook(data: bytes) -> Iterator[list[Cell]]:
    try:
        with ZipFile(io.BytesIO(data)) as archive:
            unpacked = sum(entry.file_size for entry in archive.infolist())
        if unpacked > MOST_UNPACKED:
            raise InvalidInput("file", f"it unpacks to {unpacked >> 20:,} MB", "Save it as CSV, or in parts.")
        book = load_workbook(io.BytesIO(data), read_only=True, data_only=True)
        sheet = book.worksheets[0]
        sheet.reset_dimensions()  # what the file says of its size need not be so
        cells = 0
        for row in sheet.iter_rows(values_only=True):
            cells += len(row)
            if cells > MOST_CELLS:
                raise InvalidInput("file", f"it has more than {MOST_CELLS:,} cells", "Import it in parts.")
            yield list(row)
    except InvalidInput:
        raise
    except _NOT_A_WORKBOOK as exc:
        raise InvalidInput("file", "it cannot be read as a workbook", "Save it as XLSX, or as CSV.") from exc

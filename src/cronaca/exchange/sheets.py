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
from typing import IO, Final

from cronaca.core.errors import InvalidInput
from cronaca.exchange.guarding import Cell, harmless, plain

MOST_ROWS: Final = 200_000
MOST_SHEET_ROWS: Final = 1_048_575
"""What a sheet of a workbook holds below its heading."""
LONGEST_FIELD: Final = 32_767
"""What a cell of a workbook holds."""
_ZIP: Final = b"PK\x03\x04"


def write_csv(header: Sequence[Cell], rows: Iterable[Sequence[Cell]]) -> bytes:
    """RFC 4180 in UTF-8 with a byte order mark, as spreadsheets read it; moments in ISO 8601, UTC."""
    stream = io.BytesIO()
    file = CsvFile(stream, header)
    file.write(rows)
    file.finish()
    return stream.getvalue()


def _guarded(row: Sequence[Cell]) -> list[Cell]:
    return [f"{c.isoformat()}Z" if isinstance(c, datetime) else harmless(c) for c in row]


class CsvFile:
    """The same as `write_csv`, row by row into a stream of any length, which stays open."""

    def __init__(self, stream: IO[bytes], header: Sequence[Cell]) -> None:
        self._text = io.TextIOWrapper(stream, encoding="utf-8-sig", errors="surrogatepass", newline="")
        self._writer = csv.writer(self._text, lineterminator="\r\n")
        self._writer.writerow(_guarded(header))

    def write(self, rows: Iterable[Sequence[Cell]]) -> None:
        """Appends rows."""
        self._writer.writerows(map(_guarded, rows))

    def finish(self) -> None:
        """Hands all that was written to the stream."""
        self._text.detach()


def check_sheet(rows: int) -> None:
    """Raises InvalidInput for more rows than a sheet of a workbook holds."""
    if rows > MOST_SHEET_ROWS:
        raise InvalidInput(
            "form",
            "more-rows-all-sheet",
            "it would have more than {most_rows:,} rows, which is all that a sheet holds",
            "Take CSV or Parquet, or a shorter window.",
            most_rows=MOST_SHEET_ROWS,
        )


def write_workbook(
    stream: IO[bytes], sheets: Iterable[tuple[str, Sequence[Cell], Iterable[Sequence[Cell]]]]
) -> None:
    """Sheets by name, heading (may be empty) and rows, written as they come: memory stays bounded."""
    # Only now: a process that never sees a workbook does not wait for its library when it starts.
    from cronaca.exchange import workbook

    workbook.write(stream, sheets)


def read_rows(data: bytes) -> Iterator[list[Cell]]:
    """The rows of a CSV file or of the first sheet of a workbook, told by its first bytes. Raises
    InvalidInput when the file cannot be used."""
    rows = _workbook(data) if data.startswith(_ZIP) else _csv(data)
    for number, row in enumerate(rows, 1):
        if number > MOST_ROWS:
            raise InvalidInput(
                "file",
                "more-lines",
                "it has more than {most_rows:,} lines",
                "Import it in parts.",
                most_rows=MOST_ROWS,
            )
        if any(isinstance(cell, str) and len(cell) > LONGEST_FIELD for cell in row):
            raise InvalidInput(
                "file",
                "line-cell-too-long",
                "line {number} has a cell that is too long",
                "Shorten it.",
                number=number,
            )
        yield [plain(cell) for cell in row]


def _csv(data: bytes) -> Iterator[list[Cell]]:
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as exc:
        raise InvalidInput(
            "file", "no-text-utf", "it is not UTF-8 text", "Save it as CSV in UTF-8, or as XLSX."
        ) from exc
    head = text.partition("\n")[0]
    delimiter = max(",;\t", key=head.count)
    try:
        yield from csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    except csv.Error as exc:
        raise InvalidInput(
            "file", "no-csv", "it is not a CSV file: {exc}", "Save it again as CSV.", exc=exc
        ) from exc


def _workbook(data: bytes) -> Iterator[list[Cell]]:
    from cronaca.exchange import workbook

    return workbook.read_rows(data)

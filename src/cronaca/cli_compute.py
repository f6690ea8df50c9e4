"""`./cronaca compute`: standard aggregates of a file of samples, with no server and no database."""

from __future__ import annotations

import csv
import json
import re
import sys
from datetime import UTC, datetime, timedelta
from enum import StrEnum
from pathlib import Path
from typing import Annotated, Any, Final

import typer
from pydantic import TypeAdapter, ValidationError

from cronaca.core.aggregates import (
    AGGREGATES,
    Configuration,
    Processed,
    Samples,
    by_duration,
    process_all,
    status,
)
from cronaca.core.errors import InvalidInput
from cronaca.core.model import SECOND, ValueType
from cronaca.exchange.samples_file import read_samples

_CALENDAR: Final = re.compile(r"P[^T]*[YM]")
_SPANS: Final = TypeAdapter(timedelta)
_COLUMNS: Final = ("stat", "start", "end", "time", "value", "quality", "status_code")
Row = dict[str, Any]
app = typer.Typer(add_completion=False, pretty_exceptions_enable=False)


class Kind(StrEnum):
    """What the values of the file are."""

    FLOAT = "float"
    INTEGER = "integer"
    BOOLEAN = "boolean"
    TEXT = "text"


class Format(StrEnum):
    """How results are printed."""

    JSON = "json"
    CSV = "csv"


@app.command()
def compute(
    file: Annotated[Path, typer.Option("--csv", help="Samples: time,value[,quality]; or Parquet.")],
    stat: Annotated[list[str], typer.Option(help="A standard aggregate, e.g. TimeAverage; may be repeated.")],
    start: Annotated[str, typer.Option(help="ISO 8601 with a zone, e.g. 2026-03-01T06:00:00Z.")],
    end: Annotated[str, typer.Option(help="The same; before the start, time runs backward.")],
    interval: Annotated[str, typer.Option(help="ISO 8601 duration, e.g. PT16S; none: one interval.")] = "",
    stepped: Annotated[bool, typer.Option("--stepped/--sloped", help="Between samples.")] = False,
    treat_uncertain_as_bad: Annotated[bool, typer.Option(help="Whether Uncertain counts as Bad.")] = True,
    percent_good: Annotated[int, typer.Option(help="From this share of Good on, Good.")] = 100,
    percent_bad: Annotated[int, typer.Option(help="From this share of Bad on, Bad.")] = 100,
    sloped_extrapolation: Annotated[
        bool, typer.Option(help="Continue the slope past the last value.")
    ] = False,
    zone: Annotated[str, typer.Option(help="Of times in the file without one, e.g. Europe/Rome.")] = "",
    kind: Annotated[
        Kind | None, typer.Option("--type", help="What its values are; seen from them by default.")
    ] = None,
    output: Annotated[Format, typer.Option("--format", help="How to print.")] = Format.JSON,
) -> None:
    """Compute standard aggregates (OPC UA Part 13) of a file; print CSV or JSON with status and bits."""
    configuration = Configuration.parse(
        treat_uncertain_as_bad=treat_uncertain_as_bad, percent_bad=percent_bad, percent_good=percent_good,
        sloped_extrapolation=sloped_extrapolation, stepped=stepped,
    )  # fmt: skip
    intervals = by_duration(_instant("start", start), _instant("end", end), _length(interval))
    series, texts = read_samples(file, zone, None if kind is None else ValueType[kind.name])
    results = process_all(stat, Samples(series), intervals, configuration)
    rows = [row for name in stat for row in _rows(name, results[name], series.value_type, texts)]
    if output is Format.JSON:
        typer.echo(json.dumps(rows, indent=1, allow_nan=False))
    else:
        writer = csv.DictWriter(sys.stdout, _COLUMNS, lineterminator="\n")
        writer.writeheader()
        writer.writerows(rows)


def _instant(field: str, text: str) -> int:
    try:
        moment = datetime.fromisoformat(text)
    except ValueError as exc:
        raise InvalidInput(
            field, "not-time", "{text!r} is not a time", "Write it like 2026-03-01T06:00:00Z.", text=text
        ) from exc
    if moment.tzinfo is None:
        raise InvalidInput(
            field, "no-zone", "{text!r} has no zone", "Add Z, or an offset such as +01:00.", text=text
        )
    since = moment - datetime(1970, 1, 1, tzinfo=UTC)
    return (since.days * 86_400 + since.seconds) * SECOND + since.microseconds


def _length(text: str) -> int:
    if not text:
        return 0
    problem = InvalidInput(
        "interval",
        "not-duration",
        "{text!r} is not a duration",
        "Write it like PT16S, PT1H or P1D.",
        text=text,
    )
    if not text.startswith("P"):
        raise problem
    if _CALENDAR.match(text):
        raise InvalidInput(
            "interval",
            "calendar-whose-months-years",
            "{text!r} is of the calendar, whose months and years differ in length",
            "Write days: P30D, P365D.",
            text=text,
        )
    try:
        length = _SPANS.validate_python(text)
    except ValidationError as exc:
        raise problem from exc
    if length <= timedelta(0):
        raise problem
    return length // timedelta(microseconds=1)


def _rows(name: str, results: Processed, kind: ValueType, texts: list[str]) -> list[Row]:
    rows = []
    for i, code in enumerate(results.codes.tolist()):
        times = [_text(int(column[i])) for column in (results.begin_us, results.end_us, results.ts_us)]
        value = _shown(name, results.value(i), kind, texts)
        cells = (name, *times, value, status.severity_name(code), f"{code:08X}")
        rows.append(dict(zip(_COLUMNS, cells, strict=True)))
    return rows


def _shown(name: str, value: float | None, kind: ValueType, texts: list[str]) -> float | str | None:
    result = AGGREGATES[name].result
    if value is None:
        return None
    if result == "status":
        return status.code_name(int(value))
    return texts[int(value)] if kind is ValueType.TEXT and result == "source" else value


def _text(us: int) -> str:
    moment = datetime(1970, 1, 1, tzinfo=UTC) + timedelta(microseconds=us)
    return moment.replace(tzinfo=None).isoformat() + "Z"

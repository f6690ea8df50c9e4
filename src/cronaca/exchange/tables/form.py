"""What a table looks like: the columns, what has to be told because it cannot be seen, and bad lines."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Final
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from cronaca.core.errors import InvalidInput
from cronaca.core.model import ValueType

TIME: Final = frozenset({"time", "timestamp", "datetime", "date", "ts", "zeit", "zeitstempel", "data", "ora"})
TAG: Final = frozenset({"tag", "name", "signal", "variable", "point"})
VALUE: Final = frozenset({"value", "val", "wert", "valore"})
QUALITY: Final = frozenset({"quality", "status", "status_code", "statuscode"})
LISTED: Final = 20


class OnBad(StrEnum):
    """What a line that cannot be used does."""

    STOP = "stop"
    """Nothing is written at all."""
    SKIP = "skip"
    """It is left out, and listed."""


@dataclass(frozen=True, slots=True)
class BadLine:
    """A line of the file, counted from 1, and why it cannot be used."""

    line: int
    reason: str

    def __str__(self) -> str:
        return f"line {self.line}: {self.reason}"


@dataclass(slots=True)
class Rejects:
    """Lines that could not be used."""

    on_bad: OnBad
    lines: list[BadLine] = field(default_factory=list)

    def add(self, lines: Sequence[BadLine]) -> None:
        """Takes bad lines; raises InvalidInput that names the first one when they have to stop all."""
        self.lines += lines
        if lines and self.on_bad is OnBad.STOP:
            raise InvalidInput(
                "file",
                "file-refused",
                "{lines}",
                "Correct the line, or let bad lines be skipped: --on-bad skip.",
                lines=str(lines[0]),
            )


@dataclass(frozen=True, slots=True)
class TableOptions:
    """What a file does not say itself.

    `zone` holds for times without one. `time_format` is a strptime format, or epoch_s, epoch_ms, epoch_us.
    `tag` names the tag of a file that has no column for it. `kinds` are the types of the tags by name.
    """

    kinds: Mapping[str, ValueType]
    zone: str = ""
    time_format: str = ""
    tag: str = ""

    def zone_info(self) -> ZoneInfo:
        """The zone of times without one; raises InvalidInput."""
        if not self.zone:
            raise InvalidInput(
                "zone",
                "times-file-no-zone",
                "times in the file have no zone",
                "Say which one holds, e.g. --zone Europe/Rome.",
            )
        try:
            return ZoneInfo(self.zone)
        except (ZoneInfoNotFoundError, ValueError) as exc:
            raise InvalidInput(
                "zone",
                "not-zone",
                "{zone} is not a zone",
                "Give an IANA name, e.g. Europe/Rome.",
                zone=self.zone,
            ) from exc


@dataclass(frozen=True, slots=True)
class Columns:
    """The places of the columns; `tags` by name in the wide form."""

    time: str
    tag: str | None
    value: str | None
    quality: str | None
    tags: tuple[str, ...]


def find_columns(names: Sequence[str], options: TableOptions) -> Columns:
    """Which column is what; raises InvalidInput that says what is missing."""
    plain = {name: name.strip().strip('"').lower() for name in names}
    if len(set(names)) != len(names):
        raise InvalidInput(
            "file", "two-columns-same-name", "two columns have the same name", "Name each column once."
        )
    time = next((n for n, low in plain.items() if low in TIME), None)
    if time is None:
        raise InvalidInput(
            "file",
            "none-columns-time",
            "none of the columns {names} is the time",
            "Name one of them `time`.",
            names=", ".join(names),
        )
    value = next((n for n, low in plain.items() if low in VALUE), None)
    tag = next((n for n, low in plain.items() if low in TAG), None)
    quality = next((n for n, low in plain.items() if low in QUALITY), None)
    if value is None:
        return Columns(time, None, None, None, _wide(names, time, options))
    if tag is None and not options.tag:
        raise InvalidInput(
            "tag", "file-not-say-tag", "the file does not say of which tag it is", "Name it: --tag."
        )
    if tag is None:
        check_tags([options.tag], options.kinds)
    return Columns(time, tag, value, quality, ())


def _wide(names: Sequence[str], time: str, options: TableOptions) -> tuple[str, ...]:
    columns = tuple(name for name in names if name != time)
    if not columns:
        raise InvalidInput(
            "file",
            "no-column-beside-time",
            "there is no column beside the time",
            "Add a column `value`, or one per tag.",
        )
    check_tags(columns, options.kinds)
    return columns


def check_tags(names: Sequence[str], kinds: Mapping[str, ValueType]) -> None:
    """Raises InvalidInput that lists the names that are no tags."""
    unknown = [name for name in names if name not in kinds]
    if unknown:
        listed = ", ".join(unknown[:LISTED]) + (" ..." if len(unknown) > LISTED else "")
        raise InvalidInput(
            "file",
            "no-tags-named",
            "there are no tags named {listed}",
            "Add the tags, or correct the names.",
            listed=listed,
        )

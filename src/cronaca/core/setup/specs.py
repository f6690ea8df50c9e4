"""What people say of the plant, sources, tags, archives and rules for runs. `checked` returns the same, made
regular, or raises InvalidInput that names the field."""

from __future__ import annotations

import json
import math
import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, Final
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from cronaca.core.addresses import (
    NO_SETTINGS,
    SourceSettings,
    check_address,
    parse_settings,
    settings_to_plain,
)
from cronaca.core.errors import InvalidInput
from cronaca.core.model import (
    DAY,
    HOUR,
    SECOND,
    SHORTEST_SCAN_US,
    RunOrigin,
    ValueType,
)
from cronaca.core.names import check_duration, check_name, check_text
from cronaca.core.windows import Shift

MOST_ATTRIBUTES: Final = 20
_DIRECTORY: Final = re.compile(r"(/[A-Za-z0-9._-]+){1,20}")
_COLOUR: Final = re.compile(r"#[0-9a-fA-F]{6}")
_NUMBERS: Final = (ValueType.FLOAT, ValueType.INTEGER)


@dataclass(frozen=True, slots=True)
class PlantSpec:
    """Where the plant lives; `first_weekday` as in ISO 8601: 1 Monday to 7 Sunday."""

    name: str
    zone: str
    first_weekday: int = 1
    shifts: tuple[Shift, ...] = ()

    def checked(self) -> PlantSpec:
        """The same, its shifts in the order of the day."""
        try:
            zone = ZoneInfo(self.zone).key
        except (ZoneInfoNotFoundError, ValueError, OSError) as exc:
            raise InvalidInput(
                "zone",
                "not-time-zone",
                "{zone!r} is not a time zone",
                "Give an IANA name like Europe/Rome.",
                zone=self.zone,
            ) from exc
        if not 1 <= self.first_weekday <= 7:
            raise InvalidInput(
                "first_weekday",
                "not-weekday",
                "{first_weekday} is not a weekday",
                "Give 1 to 7.",
                first_weekday=self.first_weekday,
            )
        starts = [shift.start_minute for shift in self.shifts]
        if not all(0 <= start < 24 * 60 for start in starts):
            raise InvalidInput(
                "shifts",
                "one-starts-outside-day",
                "one starts outside the day",
                "Give minutes from 0 to 1439.",
            )
        if len(set(starts)) != len(starts):
            raise InvalidInput(
                "shifts", "two-start-same-minute", "two start at the same minute", "Give each its own start."
            )
        named = [Shift(check_name(s.name, 50, "shifts"), s.start_minute) for s in self.shifts]
        ordered = tuple(sorted(named, key=lambda shift: shift.start_minute))
        return replace(self, name=check_name(self.name, 100), zone=zone, shifts=ordered)


@dataclass(frozen=True, slots=True)
class SourceSpec:
    """A device or server that values come from."""

    name: str
    protocol: str
    settings: SourceSettings = NO_SETTINGS
    enabled: bool = True

    @classmethod
    def from_plain(cls, name: str, protocol: str, config: Mapping[str, Any], *, enabled: bool) -> SourceSpec:
        """From what a person or a file says; raises InvalidInput that names the field."""
        return cls(name, protocol, parse_settings(protocol, config), enabled)

    def to_plain(self) -> dict[str, Any]:
        """As set-up files and the record of changes have it."""
        config = settings_to_plain(self.settings)
        return {"name": self.name, "protocol": self.protocol, "config": config, "enabled": self.enabled}

    def checked(self) -> SourceSpec:
        """The same with all settings of its protocol."""
        settings = parse_settings(self.protocol, settings_to_plain(self.settings))
        return replace(self, name=check_name(self.name, 100), settings=settings)


def secret_belongs(settings: SourceSettings, kept: SourceSettings) -> bool:
    """Whether a password that is kept for one connection may be used for another: only with the very
    endpoint, security, trust and user that it was given for. Otherwise whoever names another endpoint would
    be told it."""
    return type(settings) is type(kept) and settings.destination == kept.destination


@dataclass(frozen=True, slots=True)
class TagSpec:
    """A tag; `source` is the uid of the one it is read from, `address` its place there as JSON."""

    name: str
    source: str
    address: str
    description: str = ""
    value_type: ValueType = ValueType.FLOAT
    unit: str = ""
    range_low: float = 0.0
    range_high: float = 100.0
    decimals: int = 1
    stepped: bool = False
    equipment: str = ""
    scan_us: int = SECOND
    colour: str = ""
    states: str = ""

    def checked(self, protocol: str) -> TagSpec:
        """The same, made regular, for a source of this protocol."""
        if not all(map(math.isfinite, (self.range_low, self.range_high))):
            raise InvalidInput(
                "range_low", "range-not-finite", "the range is not finite", "Give two numbers."
            )
        if self.value_type in _NUMBERS and self.range_low >= self.range_high:
            raise InvalidInput(
                "range_low",
                "range-low-not-below",
                "{range_low:g} is not below {range_high:g}",
                "Give a low end below the high.",
                range_low=self.range_low,
                range_high=self.range_high,
            )
        if not 0 <= self.decimals <= 9:
            raise InvalidInput(
                "decimals",
                "cannot-shown",
                "{decimals} cannot be shown",
                "Give 0 to 9.",
                decimals=self.decimals,
            )
        check_duration(self.scan_us, SHORTEST_SCAN_US, HOUR, "scan_us")
        if self.colour and not _COLOUR.fullmatch(self.colour):
            raise InvalidInput(
                "colour",
                "not-colour",
                "{colour!r} is not a colour",
                "Give #RRGGBB, or nothing.",
                colour=self.colour,
            )
        check_address(protocol, self.address, self.value_type)
        parts = [part.strip() for part in self.equipment.split("/") if part.strip()]
        return replace(
            self,
            name=check_name(self.name, 200),
            description=check_text(self.description, 500, "description"),
            unit=check_text(self.unit, 32, "unit"),
            equipment=check_text("/".join(parts), 200, "equipment"),
            stepped=self.stepped or self.value_type is not ValueType.FLOAT,
            address=json.dumps(json.loads(self.address), sort_keys=True),
            states=self._checked_states(),
        )

    def _checked_states(self) -> str:
        if not self.states.strip():
            return ""
        if self.value_type is not ValueType.STATE:
            raise InvalidInput(
                "states",
                "only-state-tag-names",
                "only a state tag has names for its values",
                "Leave them out.",
            )
        try:
            names = {int(value): str(name).strip() for value, name in json.loads(self.states).items()}
        except (ValueError, AttributeError) as exc:
            raise InvalidInput(
                "states", "states-cannot-read", "they cannot be read", 'Give {"0": "Idle", "1": "Runs"}.'
            ) from exc
        if not all(names.values()) or not all(-(1 << 31) <= value < 1 << 31 for value in names):
            raise InvalidInput(
                "states",
                "value-no-bit-number",
                "a value is not a 32-bit number, or has no name",
                "Name each value.",
            )
        return json.dumps({str(value): names[value] for value in sorted(names)})


@dataclass(frozen=True, slots=True)
class ArchiveSpec:
    """A place where history is kept; None: for ever, or without a limit."""

    name: str
    keep_us: int | None = None
    keep_bytes: int | None = None
    thin: bool = False
    live_only: bool = False
    """Scratch work: emptied when a recorder starts."""
    directory: str = ""
    """On the host of the database; empty: where the database lies."""

    def checked(self) -> ArchiveSpec:
        """The same, made regular."""
        if self.keep_us is not None and self.keep_us < DAY:
            raise InvalidInput("keep_us", "less-day", "it is less than a day", "Keep at least one day.")
        if self.keep_bytes is not None and self.keep_bytes < 1_000_000:
            raise InvalidInput("keep_bytes", "less-mb", "it is less than 1 MB", "Allow at least 1 MB.")
        if self.live_only and self.thin:
            raise InvalidInput(
                "thin",
                "live-only-archive-keeps",
                "a live-only archive keeps no summaries",
                "Leave one of them out.",
            )
        if self.live_only and self.directory:
            raise InvalidInput(
                "directory",
                "live-only-archive-lies",
                "a live-only archive lies with the database",
                "Leave it out.",
            )
        directory = checked_directory(self.directory)
        return replace(self, name=check_name(self.name, 100), directory=directory)


def checked_directory(directory: str) -> str:
    """An absolute path of plain letters, without an end stroke; or nothing. Raises InvalidInput."""
    directory = directory.strip().rstrip("/")
    if directory and (not _DIRECTORY.fullmatch(directory) or "/.." in directory):
        raise InvalidInput(
            "directory",
            "directory-unusable",
            "{directory!r} cannot be used",
            "Give an absolute path of letters, digits and . _ -, on the host of the database.",
            directory=directory,
        )
    return directory


@dataclass(frozen=True, slots=True)
class RunRuleSpec:
    """How runs are found; tags and loggers by uid."""

    name: str
    origin: RunOrigin
    tag: str | None = None
    logger: str | None = None
    attributes: tuple[str, ...] = ()
    """Tags whose values are kept at start and end."""
    enabled: bool = True

    def checked(self) -> RunRuleSpec:
        """The same, made regular: what the origin does not use is left out."""
        if self.origin is RunOrigin.PERSON:
            raise InvalidInput(
                "origin",
                "people-mark-runs-without",
                "people mark runs without a rule",
                "Take logger, tag or change.",
            )
        of_logger = self.origin is RunOrigin.LOGGER
        needed = "logger" if of_logger else "tag"
        if getattr(self, needed) is None:
            raise InvalidInput(needed, "specs-missing", "it is missing", "Choose one.")
        if len(self.attributes) > MOST_ATTRIBUTES:
            raise InvalidInput(
                "attributes",
                "attributes-there-are",
                "there are {attributes}",
                "Take at most {most_attributes} tags.",
                attributes=len(self.attributes),
                most_attributes=MOST_ATTRIBUTES,
            )
        return replace(
            self, name=check_name(self.name, 100), tag=None if of_logger else self.tag,
            logger=self.logger if of_logger else None, attributes=tuple(dict.fromkeys(self.attributes)),
        )  # fmt: skip

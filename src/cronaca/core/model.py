"""The nouns of the job: windows, series, gaps, tags. Times are UTC, int64 microseconds since 1970."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from enum import IntEnum, StrEnum
from typing import Any, ClassVar, Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.errors import InvalidInput

SECOND: Final = 1_000_000
MINUTE: Final = 60 * SECOND
HOUR: Final = 60 * MINUTE
DAY: Final = 24 * HOUR
LONGEST_WINDOW: Final = 30 * 366 * DAY
"""Thirty years: keeps (time x columns) inside int64 and catches absurd requests."""
EARLIEST: Final = 0
SHORTEST_SCAN_US: Final = SECOND // 20
LATEST: Final = 253_402_300_799 * SECOND
"""The last second of the year 9999, where ISO 8601's four-digit year ends."""

Times = NDArray[np.int64]
Values = NDArray[np.float64] | NDArray[np.int64]


class ValueType(IntEnum):
    """What a tag's values are. All but FLOAT are held exactly in int64 columns."""

    FLOAT = 1
    INTEGER = 2
    BOOLEAN = 3
    STATE = 4
    TEXT = 5

    @property
    def dtype(self) -> np.dtype[Any]:
        """The column type of values in memory."""
        return np.dtype(np.float64 if self is ValueType.FLOAT else np.int64)

    @property
    def discrete(self) -> bool:
        """True for values that are drawn as states, never interpolated."""
        return self in (ValueType.BOOLEAN, ValueType.STATE, ValueType.TEXT)


@dataclass(frozen=True, slots=True)
class Window:
    """A stretch of time [start_us, end_us), both in µs."""

    start_us: int
    end_us: int

    @classmethod
    def parse(cls, start_us: int, end_us: int, start: str = "start", end: str = "end") -> Window:
        """A window from outside, whose fields are called so; raises InvalidInput when it is inverted, empty
        or absurd."""
        for name, value in ((start, start_us), (end, end_us)):
            if not EARLIEST <= value <= LATEST:
                raise InvalidInput(
                    name,
                    "intervals-lies-outside",
                    "{value} µs lies outside 1970 to 9999",
                    "Give UTC microseconds.",
                    value=value,
                )
        if end_us <= start_us:
            raise InvalidInput(
                end,
                "window-ends-before-starts",
                "the window ends before it starts",
                "Give an end after the start.",
            )
        if end_us - start_us > LONGEST_WINDOW:
            raise InvalidInput(
                end, "window-longer-years", "the window is longer than 30 years", "Ask for a shorter window."
            )
        return cls(start_us, end_us)

    @property
    def length_us(self) -> int:
        """How long the window is, in µs."""
        return self.end_us - self.start_us


@dataclass(frozen=True, slots=True)
class Series:
    """Samples of one tag as columns, in order of time: `ts_us`, `values`, `quality`, all of one length.

    A Bad sample carries no value: NaN in float columns, 0 in integer columns.
    """

    value_type: ValueType
    ts_us: Times
    values: Values
    quality: q.QualityArray

    @classmethod
    def empty(cls, value_type: ValueType) -> Series:
        """A series without samples."""
        none = np.empty(0, np.int64)
        return cls(value_type, none, np.empty(0, value_type.dtype), np.empty(0, np.uint16))

    @classmethod
    def of(
        cls,
        value_type: ValueType,
        ts_us: Sequence[int] | Times,
        values: Sequence[float] | Sequence[int] | Values,
        quality: Sequence[int] | q.QualityArray | None = None,
    ) -> Series:
        """A series from plain sequences, made regular: what is Bad loses its value, NaN and infinity
        become Bad, no data (a source has no business sending them)."""
        ts = np.asarray(ts_us, np.int64)
        vals = np.array(values, value_type.dtype)
        qual = np.zeros(len(ts), np.uint16) if quality is None else np.array(quality, np.uint16)
        if not len(ts) == len(vals) == len(qual):
            raise InvalidInput(
                "series",
                "columns-differ-length",
                "columns differ in length",
                "Give one value and quality per time.",
            )
        if value_type is ValueType.FLOAT:
            qual[~np.isfinite(vals) & ~q.is_bad(qual)] = q.BAD_NO_DATA
            vals[q.is_bad(qual)] = np.nan
        else:
            vals[q.is_bad(qual)] = 0
        return cls(value_type, ts, vals, qual)

    @classmethod
    def unfilled(cls, value_type: ValueType, count: int) -> Series:
        """Memory for `count` samples whose content is yet to be written, every one of them."""
        return cls(
            value_type,
            np.empty(count, np.int64),
            np.empty(count, value_type.dtype),
            np.empty(count, np.uint16),
        )

    def __len__(self) -> int:
        return len(self.ts_us)

    def take(self, index: NDArray[Any] | slice) -> Series:
        """The samples at these positions (indices, a mask or a slice)."""
        return Series(self.value_type, self.ts_us[index], self.values[index], self.quality[index])

    def fill(self, other: Series) -> None:
        """Overwrites the samples with those of another series of the same length and type."""
        self.ts_us[:] = other.ts_us
        self.values[:] = other.values
        self.quality[:] = other.quality

    def equals(self, other: Series) -> bool:
        """Equal to the last bit, NaN included."""
        return (
            self.value_type == other.value_type
            and np.array_equal(self.ts_us, other.ts_us)
            and np.array_equal(self.values.view(np.int64), other.values.view(np.int64))
            and np.array_equal(self.quality, other.quality)
        )


def concatenate(parts: Sequence[Series], value_type: ValueType) -> Series:
    """The parts behind each other, unsorted."""
    if not parts:
        return Series.empty(value_type)
    if len(parts) == 1:
        return parts[0]
    return Series(
        value_type,
        np.concatenate([p.ts_us for p in parts]),
        np.concatenate([p.values for p in parts]),
        np.concatenate([p.quality for p in parts]),
    )


def merge(parts: Sequence[Series], value_type: ValueType) -> Series:
    """One series in order of time from parts in the order in which they were written.

    Of samples with the same time the first written stands.
    """
    whole = concatenate(parts, value_type)
    if bool((whole.ts_us[1:] > whole.ts_us[:-1]).all()):
        return whole
    ordered = whole.take(np.argsort(whole.ts_us, kind="stable"))
    first = np.ones(len(ordered), np.bool_)
    np.not_equal(ordered.ts_us[1:], ordered.ts_us[:-1], out=first[1:])
    return ordered.take(first)


class GapReason(StrEnum):
    """Why there is no data in a stretch of time."""

    NOT_YET_RECORDED = "not_yet_recorded"
    RECORDER_STOPPED = "recorder_stopped"
    RECORDER_DOWN = "recorder_down"
    SOURCE_DOWN = "source_down"
    LOGGER_STOPPED = "logger_stopped"
    LOGGER_PAUSED = "logger_paused"
    LOGGER_INHIBITED = "logger_inhibited"
    LOGGER_FAILED = "logger_failed"
    WAITING_FOR_TRIGGER = "waiting_for_trigger"
    NOT_RECORDED = "not_recorded"
    QUEUE_OVERFLOW = "queue_overflow"
    SPOOL_OVERFLOW = "spool_overflow"
    CLOCK_STEP = "clock_step"
    RECORDER_LATE = "recorder_late"
    NOT_STORABLE = "not_storable"
    """The database refused the samples; they are in the recorder's quarantine on disk."""
    DAMAGED = "damaged"
    """What was recorded can no longer be read."""
    BAD_VALUES = "bad_values"
    NOT_YET_KNOWN = "not_yet_known"
    REMOVED = "removed_by_retention"
    FUTURE = "in_the_future"


@dataclass(frozen=True, slots=True)
class Gap:
    """A stretch [start_us, end_us) without usable data, and why; `end_us` None while it lasts. `histories`
    are those that have it, as (archive, tag, version); none: all of them. The recorder's stages leave it as
    one of their outputs (core/outputs.py)."""

    kind: ClassVar[str] = "gap"
    outlives_samples: ClassVar[bool] = True

    start_us: int
    end_us: int | None
    reason: GapReason
    detail: str = ""
    histories: tuple[tuple[int, int, int], ...] = ()

    @property
    def tag_ids(self) -> tuple[int, ...]:
        """The tags of its histories."""
        return tuple(tag_id for _, tag_id, _ in self.histories)


@dataclass(frozen=True, slots=True)
class Covered:
    """A stretch [start_us, end_us) in which a tag was recorded (or its history brought in); `end_us`
    None while a logger records it. `after` says why nothing follows."""

    start_us: int
    end_us: int | None
    after: GapReason = GapReason.NOT_RECORDED


@dataclass(frozen=True, slots=True)
class Tag:
    """One named value, and what is said of it; `tag_id` is never reused, `uid` travels in files and links."""

    tag_id: int
    uid: str
    name: str
    description: str
    value_type: ValueType
    unit: str
    range_low: float
    range_high: float
    decimals: int
    stepped: bool
    equipment: str
    source_id: int
    address: str
    """What the source's driver needs to read the tag, as JSON."""
    scan_us: int
    colour: str = ""
    """The tag's own colour as #RRGGBB; empty: by the pen's number."""
    states: str = ""
    """Names of the values of a state tag, as JSON: {"0": "Idle", "1": "Runs"}."""


class LoggerMode(StrEnum):
    """When a logger records."""

    PERIODIC = "periodic"
    ON_CHANGE = "on_change"
    ON_TRIGGER = "on_trigger"
    AROUND = "around"
    """Full detail from a time before a trigger to a time after it."""


class Edge(StrEnum):
    """What of a trigger tag makes a logger take a record."""

    RISING = "rising"
    FALLING = "falling"
    EITHER = "either"
    CHANGE = "change"
    """Any other value, for instance a lot number."""


class Keeps(StrEnum):
    """What a logger by the clock keeps: the value at the tick, or a figure of the readings since the last."""

    VALUE = "value"
    MEAN = "mean"
    LOW = "low"
    HIGH = "high"


class RuleKind(StrEnum):
    """What an on-change logger asks of a reading."""

    CHANGE = "change"
    """It differs by more than the width from the one kept last."""
    LINE = "line"
    """A straight line cannot tell it within the width."""


@dataclass(frozen=True, slots=True)
class RuleSpec:
    """A rule as it is set up, for tags of any unit. `width` is the deadband or the largest error of a line,
    in the tag's unit, or in % of its range when `of_range`. Durations in µs, 0: none."""

    kind: RuleKind = RuleKind.CHANGE
    width: float = 0.0
    of_range: bool = False
    rate_limit_us: int = 0
    keep_extremes: bool = False
    stamp_kept: bool = False
    longest_silence_us: int = 0


@dataclass(frozen=True, slots=True)
class WeekSpan:
    """A stretch of some days of the week in the plant's zone: `days` as in ISO 8601 (1 Monday), minutes of
    the day; one that ends at or before its start ends on the next day."""

    days: tuple[int, ...]
    start_minute: int
    end_minute: int


NO_RULE: Final = RuleSpec()
"""Every change is kept."""


class RunOrigin(StrEnum):
    """What begins and ends a run."""

    LOGGER = "logger"
    """It is wanted."""
    TAG = "tag"
    """Its tag is not zero."""
    CHANGE = "change"
    """Its tag has another value, for instance a lot number: one run after the other."""
    PERSON = "person"


@dataclass(frozen=True, slots=True)
class RunRule:
    """How the recorder finds runs; `attributes` are tags whose values are kept at start and end."""

    rule_id: int
    uid: str
    name: str
    origin: RunOrigin
    tag_id: int | None = None
    logger_id: int | None = None
    attributes: tuple[int, ...] = ()
    enabled: bool = True


@dataclass(frozen=True, slots=True)
class SourceSetup:
    """A device that values come from: protocol and its own settings as JSON, and the password of its user."""

    source_id: int
    uid: str
    name: str
    protocol: str
    config: str
    enabled: bool
    secret: str = field(default="", repr=False)


class SourceState(StrEnum):
    """The life of a connection."""

    CONNECTING = "connecting"
    UP = "up"
    DOWN = "down"
    DISABLED = "disabled"

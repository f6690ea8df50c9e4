"""Loggers over the wire: what all have in common, and for each mode the fields of its own."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from cronaca.api.schemas import Model, Uid
from cronaca.core.model import Edge, Keeps, RuleKind

MOST_AT_ONCE = 20_000


class RuleIn(Model):
    """A rule of an on-change logger. `width` is the deadband or the largest error of a line."""

    kind: RuleKind = RuleKind.CHANGE
    width: float = 0.0
    of_range: bool = False
    rate_limit_us: int = 0
    keep_extremes: bool = False
    stamp_kept: bool = False
    longest_silence_us: int = 0


class TriggerIn(Model):
    """What makes a logger take a record (no tag: only people do), and what the plant is then told."""

    tag: Uid | None = None
    edge: Edge = Edge.RISING
    number_tag: Uid | None = None
    """The record's number is written there."""
    reset: bool = False
    """The trigger bit is reset."""


class EdgeIn(Model):
    """An edge of a tag."""

    tag: Uid
    edge: Edge = Edge.RISING


class WeekSpanIn(Model):
    """A stretch of some days of the week in the plant's zone."""

    days: list[int] = Field(min_length=1, max_length=7)
    """As in ISO 8601: 1 Monday."""
    start_minute: int = Field(ge=0, lt=1440)
    end_minute: int = Field(ge=0, lt=1440)
    """At or before the start: on the next day."""


class WhenIn(Model):
    """What a logger's wanted state and interval follow beside a person."""

    tag: Uid | None = None
    """It records while this one is not zero."""
    spans: list[WeekSpanIn] = Field([], max_length=50)
    interval_tag: Uid | None = None
    """Its value is the interval, in seconds."""


class LoggerBaseIn(Model):
    """Which tags are recorded into which archive: what loggers of all modes have in common."""

    name: str = Field(max_length=200)
    archive: Uid
    tags: list[Uid] = Field([], max_length=MOST_AT_ONCE)
    wanted: bool = True
    inhibit_tag: Uid | None = None
    when: WhenIn = WhenIn()
    inhibits: dict[Uid, Uid] = Field(default_factory=dict)
    """By member: the tag that holds it off while it is not zero; the other members go on."""
    sample_on: EdgeIn | None = None
    """One sample of all members is taken at this edge, in any mode."""


class PeriodicIn(Model):
    """Records at each tick of a clock."""

    mode: Literal["periodic"]
    interval_us: int = 0
    """0: it records on demand only."""
    phase_us: int = 0
    keeps: Keeps = Keeps.VALUE
    """The value at the tick, or a figure of the readings since the last one."""
    late_us: int = 0
    """Ticks missed for no longer are Uncertain, not a gap; 0: for no longer than three intervals, at least
    five seconds."""


class OnChangeIn(Model):
    """Records what differs from the sample before."""

    mode: Literal["on_change"]
    rule: RuleIn = RuleIn()
    overrides: dict[Uid, RuleIn] = Field(default_factory=dict)
    """By member: a rule of its own."""


class OnTriggerIn(Model):
    """Takes a record of all members at its trigger."""

    mode: Literal["on_trigger"]
    trigger: TriggerIn = TriggerIn()
    columns: dict[Uid, str] = Field(default_factory=dict)
    """Names of a record's columns that differ from those of their tags."""


class PrePostTriggerIn(Model):
    """Records in full detail from a time before its trigger to a time after it."""

    mode: Literal["around"]
    trigger: TriggerIn = TriggerIn()
    before_us: int = 0
    after_us: int = 0


class ChangedLogger(LoggerBaseIn):
    """A logger as it is to be."""

    revision: int | None = None
    """The one that was seen; another one in the database refuses the change."""


class PeriodicLoggerIn(ChangedLogger, PeriodicIn):
    """A periodic logger as it is to be."""


class OnChangeLoggerIn(ChangedLogger, OnChangeIn):
    """An on-change logger as it is to be."""


class OnTriggerLoggerIn(ChangedLogger, OnTriggerIn):
    """A triggered logger as it is to be."""


class PrePostTriggerLoggerIn(ChangedLogger, PrePostTriggerIn):
    """A logger around a trigger as it is to be."""


LoggerIn = Annotated[
    PeriodicLoggerIn | OnChangeLoggerIn | OnTriggerLoggerIn | PrePostTriggerLoggerIn,
    Field(discriminator="mode"),
]


class LoggerRowOut(LoggerBaseIn):
    """A logger as it is set up; of many members the names are asked for apart."""

    uid: Uid
    revision: int
    text: str
    """The rule in words."""


class PeriodicLoggerOut(LoggerRowOut, PeriodicIn):
    """A periodic logger as it is set up."""


class OnChangeLoggerOut(LoggerRowOut, OnChangeIn):
    """An on-change logger as it is set up."""


class OnTriggerLoggerOut(LoggerRowOut, OnTriggerIn):
    """A triggered logger as it is set up."""


class PrePostTriggerLoggerOut(LoggerRowOut, PrePostTriggerIn):
    """A logger around a trigger as it is set up."""


LoggerOut = Annotated[
    PeriodicLoggerOut | OnChangeLoggerOut | OnTriggerLoggerOut | PrePostTriggerLoggerOut,
    Field(discriminator="mode"),
]


class MembersIn(Model):
    """Tags that join or leave a logger."""

    add: list[Uid] = Field([], max_length=MOST_AT_ONCE)
    remove: list[Uid] = Field([], max_length=MOST_AT_ONCE)

"""What a logger is: the one place where its fields are defined, checked, and read and written as plain data.

A logger is what all have in common, and a mode: one of four types with fields of their own. The same classes
serve people, who name tags and archives by uid, and the recorder, which knows them by number: fields that
hold such a reference say so (`_ONE`, `_MANY`, `_BY_MEMBER`), and everything else follows from that. A new
field is a line here (with its check), a line in the schema of the API, and what the recorder does with it.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping
from dataclasses import dataclass, field, fields, is_dataclass, replace
from typing import Any, ClassVar, Final, Generic, TypeVar

import msgspec

from cronaca.core.errors import InvalidInput
from cronaca.core.logger_rules import check_rule_spec, rule_for
from cronaca.core.logger_rules.interval import check_keeps
from cronaca.core.logger_rules.schedule import checked_spans
from cronaca.core.model import (
    DAY,
    HOUR,
    NO_RULE,
    SECOND,
    SHORTEST_SCAN_US,
    Edge,
    Keeps,
    LoggerMode,
    RuleSpec,
    Tag,
    WeekSpan,
)
from cronaca.core.names import check_duration, check_name

LONGEST_INTERVAL_US: Final = 31 * DAY
LONGEST_BEFORE_US: Final = HOUR
LONGEST_AFTER_US: Final = DAY
MOST_COLUMNS: Final = 200

Ref = TypeVar("Ref", int, str)
"""How a tag or an archive is named: by uid outside the recorder, by number inside."""
_ONE: Final = {"ref": "one"}
_MANY: Final = {"ref": "many"}
_BY_MEMBER: Final = {"ref": "by member"}
"""Pairs of a member and what is its own."""
_TAG_BY_MEMBER: Final = {"ref": "by member", "own": "ref"}
"""Pairs of a member and a tag."""


@dataclass(frozen=True, slots=True)
class TriggerSpec(Generic[Ref]):
    """What makes a logger take a record (without a tag only people do), and what the plant is told when it is
    safe: the record's number is written to a tag, the trigger bit is reset."""

    tag: Ref | None = field(default=None, metadata=_ONE)
    edge: Edge = Edge.RISING
    number_tag: Ref | None = field(default=None, metadata=_ONE)
    reset: bool = False


@dataclass(frozen=True, slots=True)
class EdgeSpec(Generic[Ref]):
    """A tag whose edge has a logger take one sample of its members."""

    tag: Ref = field(metadata=_ONE)
    edge: Edge = Edge.RISING


@dataclass(frozen=True, slots=True)
class WhenSpec(Generic[Ref]):
    """What a logger's wanted state and interval follow beside a person: it records while the tag is not zero,
    and within one of the spans. The interval is the value of its tag, in seconds."""

    tag: Ref | None = field(default=None, metadata=_ONE)
    spans: tuple[WeekSpan, ...] = ()
    interval_tag: Ref | None = field(default=None, metadata=_ONE)

    @property
    def always(self) -> bool:
        """Whether it follows nothing."""
        return self.tag is None and self.interval_tag is None and not self.spans


@dataclass(frozen=True, slots=True)
class Periodic(Generic[Ref]):
    """Records at each tick of a clock; ticks lie `phase_us` behind the grid. Without an interval it records
    on demand only."""

    kind: ClassVar[LoggerMode] = LoggerMode.PERIODIC

    interval_us: int = 0
    phase_us: int = 0
    keeps: Keeps = Keeps.VALUE
    late_us: int = 0
    """Ticks missed for no longer than this are an Uncertain stretch, not a gap; 0: the larger of three
    intervals and five seconds."""

    def tolerance_us(self, interval_us: int) -> int:
        """How long ticks may be missed before it is a gap, in µs."""
        return self.late_us or max(3 * interval_us, 5 * SECOND)

    def checked(self, _tags: tuple[Ref, ...]) -> Periodic[Ref]:
        """The same; raises InvalidInput that names the field."""
        if not self.interval_us:
            if self.keeps is not Keeps.VALUE:
                raise InvalidInput(
                    "keeps",
                    "without-interval-no-figure",
                    "without an interval there is no figure of one",
                    "Keep the value.",
                )
            return Periodic()
        check_duration(self.interval_us, SHORTEST_SCAN_US, LONGEST_INTERVAL_US, "interval_us")
        if not 0 <= self.phase_us < self.interval_us:
            raise InvalidInput(
                "phase_us",
                "not-within-interval",
                "it is not within the interval",
                "Give less than the interval.",
            )
        if self.late_us:
            check_duration(self.late_us, SHORTEST_SCAN_US, DAY, "late_us")
        return self


@dataclass(frozen=True, slots=True)
class OnChange(Generic[Ref]):
    """Records what differs from the sample before; `overrides` are rules of single members."""

    kind: ClassVar[LoggerMode] = LoggerMode.ON_CHANGE

    rule: RuleSpec = NO_RULE
    overrides: tuple[tuple[Ref, RuleSpec], ...] = field(default=(), metadata=_BY_MEMBER)

    def rule_of(self, tag: Ref) -> RuleSpec:
        """The rule for a member: its own, or the logger's."""
        return dict(self.overrides).get(tag, self.rule)

    def checked(self, tags: tuple[Ref, ...]) -> OnChange[Ref]:
        """The same; raises InvalidInput that names the field."""
        check_rule_spec(self.rule)
        for tag, rule in self.overrides:
            if tag not in tags:
                raise InvalidInput(
                    "overrides",
                    "one-tag-not-member",
                    "one is of a tag that is not a member",
                    "Add the tag first.",
                )
            check_rule_spec(rule)
        return self


@dataclass(frozen=True, slots=True)
class OnTrigger(Generic[Ref]):
    """Takes a record of all members, one row, at its trigger."""

    kind: ClassVar[LoggerMode] = LoggerMode.ON_TRIGGER

    trigger: TriggerSpec[Ref] = field(default_factory=TriggerSpec)
    columns: tuple[tuple[Ref, str], ...] = field(default=(), metadata=_BY_MEMBER)
    """Names of a record's columns that differ from those of their tags."""

    def checked(self, tags: tuple[Ref, ...]) -> OnTrigger[Ref]:
        """The same, columns in the order of the members; raises InvalidInput that names the field."""
        if self.trigger.reset and self.trigger.tag is None:
            raise InvalidInput(
                "reset",
                "no-trigger-tag-reset",
                "there is no trigger tag to reset",
                "Name one, or leave it out.",
            )
        if len(tags) > MOST_COLUMNS:
            raise InvalidInput(
                "tags",
                "record-most-columns",
                "a record has at most {most_columns} columns",
                "Take fewer tags.",
                most_columns=MOST_COLUMNS,
            )
        columns = {tag: check_name(text, 100, "columns") for tag, text in self.columns if text.strip()}
        names = [text.casefold() for text in columns.values()]
        if len(set(names)) != len(names):
            raise InvalidInput(
                "columns", "two-same-name", "two have the same name", "Give each a name of its own."
            )
        return replace(self, columns=tuple((tag, columns[tag]) for tag in tags if tag in columns))


@dataclass(frozen=True, slots=True)
class PrePostTrigger(Generic[Ref]):
    """Records in full detail from a time before its trigger to a time after it."""

    kind: ClassVar[LoggerMode] = LoggerMode.AROUND

    trigger: TriggerSpec[Ref] = field(default_factory=TriggerSpec)
    before_us: int = 0
    after_us: int = 0

    def checked(self, _tags: tuple[Ref, ...]) -> PrePostTrigger[Ref]:
        """The same; raises InvalidInput that names the field."""
        if self.trigger.number_tag is not None or self.trigger.reset:
            raise InvalidInput(
                "trigger", "takes-no-records", "it takes no records", "Leave the number and the reset out."
            )
        check_duration(self.before_us, 0, LONGEST_BEFORE_US, "before_us")
        check_duration(self.after_us, 0, LONGEST_AFTER_US, "after_us")
        if not self.before_us + self.after_us:
            raise InvalidInput(
                "after_us", "record-nothing", "it would record nothing", "Give a time before or after."
            )
        return self


Mode = Periodic[Ref] | OnChange[Ref] | OnTrigger[Ref] | PrePostTrigger[Ref]
"""When a logger records: one of four kinds, each with fields of its own."""
ModeT = TypeVar("ModeT", bound=Mode[int])
MODES: Final[Mapping[LoggerMode, type[Mode[Any]]]] = {
    mode.kind: mode for mode in (Periodic, OnChange, OnTrigger, PrePostTrigger)
}


@dataclass(frozen=True, slots=True)
class LoggerBase(Generic[Ref]):
    """What loggers of all modes have in common. Without `wanted` one stands still; while its inhibit tag is
    not zero it holds off."""

    name: str
    archive: Ref = field(metadata=_ONE)
    tags: tuple[Ref, ...] = field(default=(), metadata=_MANY)
    wanted: bool = True
    inhibit_tag: Ref | None = field(default=None, metadata=_ONE)
    when: WhenSpec[Ref] = field(default_factory=WhenSpec)
    inhibits: tuple[tuple[Ref, Ref], ...] = field(default=(), metadata=_TAG_BY_MEMBER)
    """Of a member, the tag that holds it off while it is not zero; the others go on."""
    sample_on: EdgeSpec[Ref] | None = None
    """One sample is taken at this edge, in any mode."""


@dataclass(frozen=True, slots=True, kw_only=True)
class LoggerSpec(LoggerBase[Ref]):
    """Which tags are recorded into which archive, and when."""

    mode: Mode[Ref]

    def named_tags(self) -> list[Ref]:
        """All tags that it names beside its members."""
        named: dict[Ref, None] = {}
        with_tags(replace(self, tags=()), lambda tag: named.setdefault(tag, None) or tag)
        return [tag for tag in named if tag not in set(self.tags)]

    def checked(self) -> LoggerSpec[Ref]:
        """The same, made regular; raises InvalidInput that names the field."""
        name, tags = check_name(self.name, 100), tuple(dict.fromkeys(self.tags))
        when = replace(self.when, spans=checked_spans(self.when.spans))
        if not isinstance(self.mode, Periodic):
            when = replace(when, interval_tag=None)
        elif when.interval_tag is not None and not self.mode.interval_us:
            raise InvalidInput(
                "interval_us", "interval-us-missing", "it is missing", "Give the interval to begin with."
            )
        if any(member not in tags for member, _ in self.inhibits):
            raise InvalidInput(
                "inhibits", "one-tag-not-member", "one is of a tag that is not a member", "Add the tag first."
            )
        mode: Mode[Ref] = self.mode.checked(tags)
        return replace(self, name=name, tags=tags, when=when, mode=mode)


@dataclass(frozen=True, slots=True, kw_only=True)
class Logger(LoggerSpec[int]):
    """A logger as the recorder knows it: tags and archive by number."""

    logger_id: int
    uid: str

    def mode_as(self, kind: type[ModeT]) -> ModeT:
        """The mode, which the caller knows to be of this kind."""
        if not isinstance(self.mode, kind):
            raise TypeError(f"logger {self.name} is not of the kind {kind.__name__}")
        return self.mode


def check_members(mode: Mode[int], tags: Iterable[Tag]) -> None:
    """Raises InvalidInput where the rule of a logger has no meaning for one of its tags."""
    if isinstance(mode, Periodic):
        for tag in tags:
            check_keeps(mode.keeps, tag)
    elif isinstance(mode, OnChange):
        own = dict(mode.overrides)
        for tag in tags:
            rule_for(own.get(tag.tag_id, mode.rule), tag)


def without_members(spec: LoggerSpec[Ref], leaving: Collection[Ref]) -> LoggerSpec[Ref]:
    """The spec without some of its members, and without what is their own."""
    left = _without_own(spec, leaving)
    tags = tuple(tag for tag in spec.tags if tag not in leaving)
    kept: LoggerSpec[Ref] = replace(left, tags=tags, mode=_without_own(spec.mode, leaving))
    return kept


def _without_own(part: Any, leaving: Collection[Any]) -> Any:  # noqa: ANN401 - a spec or a mode
    own = [column.name for column in fields(part) if column.metadata.get("ref") == "by member"]
    return replace(part, **{n: tuple(p for p in getattr(part, n) if p[0] not in leaving) for n in own})


def with_tags(spec: Any, change: Callable[[Any], Any]) -> Any:  # noqa: ANN401 - int and str, both ways
    """The spec with another name for each tag (the archive is not touched). A tag that `change` knows no name
    of (None: it was removed) is left out."""
    changed: dict[str, Any] = {}
    for column in fields(spec):
        value, ref = getattr(spec, column.name), column.metadata.get("ref")
        if column.name == "archive" or value is None:
            continue
        if ref == "one":
            changed[column.name] = change(value)
        elif ref == "many":
            changed[column.name] = tuple(new for new in map(change, value) if new is not None)
        elif ref == "by member":
            names = column.metadata.get("own") == "ref"
            pairs = ((change(tag), change(own) if names else own) for tag, own in value)
            changed[column.name] = tuple((tag, own) for tag, own in pairs if None not in (tag, own))
        elif isinstance(value, EdgeSpec) and change(value.tag) is None:
            changed[column.name] = None
        elif is_dataclass(value):
            changed[column.name] = with_tags(value, change)
    return replace(spec, **changed)


_PARTS: Final[Mapping[str, type]] = {
    "rule": RuleSpec, "trigger": TriggerSpec, "when": WhenSpec, "sample_on": EdgeSpec,
}  # fmt: skip
_OF_MODES: Final = {name: {one.name for one in fields(mode)} for name, mode in MODES.items()}
_ALL_MODES: Final = frozenset[str]().union(*_OF_MODES.values())
_SHARED: Final = frozenset(one.name for one in fields(LoggerBase))
BY_MEMBER: Final = tuple(
    one.name
    for kind in (LoggerBase, *MODES.values())
    for one in fields(kind)
    if one.metadata.get("ref") == "by member"
)
"""Fields that are a member's own."""


def to_plain(spec: LoggerSpec[Any]) -> dict[str, Any]:
    """A spec as JSON knows it, for set-up files, the record of changes and the store: the fields of the mode
    beside the others, what is a member's own by member, of rules what differs from the default."""
    plain: dict[str, Any] = msgspec.json.decode(msgspec.json.encode(spec))  # tuples become lists
    own = plain.pop("mode")
    plain |= {"mode": spec.mode.kind.value, **own}
    if isinstance(spec.mode, OnChange):
        plain["rule"] = rule_to_plain(spec.mode.rule)
    for name in BY_MEMBER:
        if name in plain:
            owner = spec.mode if name in own else spec
            plain[name] = {tag: _own_to_plain(value) for tag, value in getattr(owner, name)}
    return plain


def from_plain(plain: Mapping[str, Any]) -> LoggerSpec[str]:
    """A spec from a set-up file or a record of changes; fields of other modes, which older versions wrote,
    are passed over. Raises ValueError for what is none."""
    _refuse_unknown("field", plain, {"mode", *_SHARED, *_ALL_MODES})
    for part, kind in _PARTS.items():
        _refuse_unknown(part, plain.get(part) or {}, {column.name for column in fields(kind)})
    if plain.get("mode") == LoggerMode.PERIODIC.value and "interval_us" not in plain:
        raise InvalidInput(
            "interval_us",
            "loggers-interval-us-missing",
            "it is missing",
            "Give it; with 0 it records on demand only.",
        )
    try:
        return LoggerSpec(**_converted(plain, str))
    except msgspec.ValidationError as exc:
        raise ValueError(str(exc)) from exc


def own_fields(plain: Mapping[str, Any]) -> dict[str, Any]:
    """A plain logger without the fields of other modes than its own."""
    mode = plain.get("mode")
    own = _OF_MODES[LoggerMode(mode)] if mode in list(LoggerMode) else _ALL_MODES
    return {name: value for name, value in plain.items() if name in own or name not in _ALL_MODES}


def logger_from_plain(plain: Mapping[str, Any]) -> Logger:
    """A logger from the store."""
    return Logger(**_converted(plain, int), logger_id=plain["logger_id"], uid=plain["uid"])


def rule_to_plain(rule: RuleSpec) -> dict[str, Any]:
    """A rule as JSON knows it: what differs from the default."""
    plain: dict[str, Any] = msgspec.to_builtins(rule)
    usual = msgspec.to_builtins(NO_RULE)
    return {name: value for name, value in plain.items() if value != usual[name]}


def _refuse_unknown(part: str, content: Mapping[str, Any], known: Collection[str]) -> None:
    for name in sorted(set(content) - set(known)):
        raise ValueError(f"a logger has no {part} {name!r}")


def _own_to_plain(own: object) -> Any:  # noqa: ANN401 - any JSON
    return rule_to_plain(own) if isinstance(own, RuleSpec) else msgspec.to_builtins(own)


def _converted(plain: Mapping[str, Any], ref: type) -> dict[str, Any]:
    """The fields by their types: which type the mode has is said by its name."""
    given = _as_pairs(plain)
    mode = given.get("mode")
    if mode not in list(LoggerMode):
        raise ValueError(f"a logger has no mode {mode!r}")
    name = LoggerMode(mode)
    own = {column: given[column] for column in _OF_MODES[name] if column in given}
    shared = {column: given[column] for column in _SHARED if column in given}
    strict = ref is str  # names of members that are numbers are texts in JSON
    base = msgspec.convert(shared, LoggerBase[ref], strict=strict)  # type: ignore[valid-type]
    columns = {column.name: getattr(base, column.name) for column in fields(LoggerBase)}
    return {**columns, "mode": msgspec.convert(own, MODES[name][ref], strict=strict)}  # type: ignore[index]


def _as_pairs(plain: Mapping[str, Any]) -> dict[str, Any]:
    """In records of changes of older versions names of columns are pairs already."""
    given = {name: value for name, value in plain.items() if value is not None}
    for name in BY_MEMBER:
        if isinstance(given.get(name), Mapping):
            given[name] = list(given[name].items())
    return given

"""What a logger is: the one place where its fields are defined, checked, and read and written as plain data.

The same class serves people, who name tags and archives by uid, and the recorder, which knows them by
number: fields that hold such a reference say so (`_ONE`, `_MANY`, `_BY_MEMBER`), and everything else follows
from that. A new field is a line here (with its check), a line in the schema of the API, and what the recorder
does with it.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, fields, is_dataclass, replace
from typing import Any, Final, Generic, TypeVar

import msgspec

from cronaca.core.errors import InvalidInput
from cronaca.core.logger_rules import check_rule_spec
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
class LoggerSpec(Generic[Ref]):
    """Which tags are recorded into which archive, and when. `interval_us` is 0 unless periodic, and of a
    periodic logger that records on demand only; ticks lie `phase_us` behind the grid. `overrides` are rules
    of single members. Without `wanted` it stands still; while the inhibit tag is not zero it holds off."""

    name: str
    archive: Ref = field(metadata=_ONE)
    mode: LoggerMode
    interval_us: int = 0
    phase_us: int = 0
    rule: RuleSpec = NO_RULE
    tags: tuple[Ref, ...] = field(default=(), metadata=_MANY)
    overrides: tuple[tuple[Ref, RuleSpec], ...] = field(default=(), metadata=_BY_MEMBER)
    wanted: bool = True
    inhibit_tag: Ref | None = field(default=None, metadata=_ONE)
    trigger: TriggerSpec[Ref] | None = None
    columns: tuple[tuple[Ref, str], ...] = field(default=(), metadata=_BY_MEMBER)
    """Names of a record's columns that differ from those of their tags."""
    keeps: Keeps = Keeps.VALUE
    when: WhenSpec[Ref] = field(default_factory=WhenSpec)
    before_us: int = 0
    after_us: int = 0
    """Of a logger around a trigger: how much of the time before and after is recorded."""
    late_us: int = 0
    """A periodic logger that misses ticks for no longer than this has an Uncertain stretch, not a gap; 0: the
    larger of three intervals and five seconds."""
    inhibits: tuple[tuple[Ref, Ref], ...] = field(default=(), metadata=_TAG_BY_MEMBER)
    """Of a member, the tag that holds it off while it is not zero; the others go on."""
    sample_on: EdgeSpec[Ref] | None = None
    """One sample is taken at this edge, in any mode."""

    def tolerance_us(self, interval_us: int) -> int:
        """How long ticks may be missed before it is a gap, in µs."""
        return self.late_us or max(3 * interval_us, 5 * SECOND)

    def rule_of(self, tag: Ref) -> RuleSpec:
        """The rule for a member: its own, or the logger's."""
        return dict(self.overrides).get(tag, self.rule)

    def named_tags(self) -> list[Ref]:
        """All tags that it names beside its members."""
        found: dict[Ref, None] = {}
        with_tags(replace(self, tags=()), lambda tag: found.setdefault(tag, None) or tag)
        return [tag for tag in found if tag not in set(self.tags)]

    def checked(self) -> LoggerSpec[Ref]:
        """The same, made regular: what the mode does not use is left out."""
        when = replace(self.when, spans=checked_spans(self.when.spans))
        if self.mode is not LoggerMode.PERIODIC:
            when = replace(when, interval_tag=None)
        if any(member not in self.tags for member, _ in self.inhibits):
            raise InvalidInput("inhibits", "one is of a tag that is no member", "Add the tag first.")
        plain = replace(
            self, name=check_name(self.name, 100), tags=tuple(dict.fromkeys(self.tags)), when=when
        )
        checked: LoggerSpec[Ref] = _CHECKS[self.mode](plain)
        return checked


@dataclass(frozen=True, slots=True, kw_only=True)
class Logger(LoggerSpec[int]):
    """A logger as the recorder knows it: tags and archive by number."""

    logger_id: int
    uid: str


def _checked_periodic(spec: LoggerSpec[Ref]) -> LoggerSpec[Ref]:
    if not spec.interval_us:
        return _checked_on_demand(spec)
    check_duration(spec.interval_us, SHORTEST_SCAN_US, LONGEST_INTERVAL_US, "interval_us")
    if not 0 <= spec.phase_us < spec.interval_us:
        raise InvalidInput("phase_us", "it is not within the interval", "Give less than the interval.")
    if spec.late_us:
        check_duration(spec.late_us, SHORTEST_SCAN_US, DAY, "late_us")
    return replace(spec, trigger=None, columns=(), before_us=0, after_us=0, rule=NO_RULE, overrides=())


def _checked_on_demand(spec: LoggerSpec[Ref]) -> LoggerSpec[Ref]:
    """A periodic logger without an interval: it records when it is asked to, or at an edge."""
    if spec.keeps is not Keeps.VALUE:
        raise InvalidInput("keeps", "without an interval there is no figure of one", "Keep the value.")
    if spec.when.interval_tag is not None:
        raise InvalidInput("interval_us", "it is missing", "Give the interval to begin with.")
    return replace(
        spec, phase_us=0, late_us=0, trigger=None, columns=(), before_us=0, after_us=0, rule=NO_RULE,
        overrides=(),
    )  # fmt: skip


def _checked_on_change(spec: LoggerSpec[Ref]) -> LoggerSpec[Ref]:
    check_rule_spec(spec.rule)
    for tag, rule in spec.overrides:
        if tag not in spec.tags:
            raise InvalidInput("overrides", "one is of a tag that is no member", "Add the tag first.")
        check_rule_spec(rule)
    return replace(
        spec, trigger=None, columns=(), before_us=0, after_us=0, interval_us=0, phase_us=0,
        keeps=Keeps.VALUE, late_us=0,
    )  # fmt: skip


def _checked_around(spec: LoggerSpec[Ref]) -> LoggerSpec[Ref]:
    trigger: TriggerSpec[Ref] = spec.trigger or TriggerSpec()
    if trigger.number_tag is not None or trigger.reset:
        raise InvalidInput("trigger", "it takes no records", "Leave the number and the reset out.")
    check_duration(spec.before_us, 0, LONGEST_BEFORE_US, "before_us")
    check_duration(spec.after_us, 0, LONGEST_AFTER_US, "after_us")
    if not spec.before_us + spec.after_us:
        raise InvalidInput("after_us", "it would record nothing", "Give a time before or after.")
    return replace(
        spec, trigger=trigger, columns=(), rule=NO_RULE, overrides=(), interval_us=0, phase_us=0,
        keeps=Keeps.VALUE, late_us=0,
    )  # fmt: skip


def _checked_on_trigger(spec: LoggerSpec[Ref]) -> LoggerSpec[Ref]:
    trigger: TriggerSpec[Ref] = spec.trigger or TriggerSpec()
    if trigger.reset and trigger.tag is None:
        raise InvalidInput("reset", "there is no trigger tag to reset", "Name one, or leave it out.")
    if len(spec.tags) > MOST_COLUMNS:
        raise InvalidInput("tags", f"a record has at most {MOST_COLUMNS} columns", "Take fewer tags.")
    columns = {tag: check_name(text, 100, "columns") for tag, text in spec.columns if text.strip()}
    names = [text.casefold() for text in columns.values()]
    if len(set(names)) != len(names):
        raise InvalidInput("columns", "two have the same name", "Give each a name of its own.")
    return replace(
        spec, trigger=trigger, columns=tuple((tag, columns[tag]) for tag in spec.tags if tag in columns),
        rule=NO_RULE, overrides=(), interval_us=0, phase_us=0, keeps=Keeps.VALUE, before_us=0, after_us=0,
        late_us=0,
    )  # fmt: skip


_CHECKS: Final[Mapping[LoggerMode, Callable[[Any], Any]]] = {
    LoggerMode.PERIODIC: _checked_periodic,
    LoggerMode.ON_CHANGE: _checked_on_change,
    LoggerMode.ON_TRIGGER: _checked_on_trigger,
    LoggerMode.AROUND: _checked_around,
}


def with_tags(spec: Any, change: Callable[[Any], Any]) -> Any:  # noqa: ANN401 - int and str, both ways
    """The spec with another name for each tag (the archive is not touched). A tag that `change` knows no name
    of (None: it was removed) is left out."""
    changed: dict[str, Any] = {}
    for one in fields(spec):
        value, ref = getattr(spec, one.name), one.metadata.get("ref")
        if one.name == "archive" or value is None:
            continue
        if ref == "one":
            changed[one.name] = change(value)
        elif ref == "many":
            changed[one.name] = tuple(new for new in map(change, value) if new is not None)
        elif ref == "by member":
            names = one.metadata.get("own") == "ref"
            pairs = ((change(tag), change(own) if names else own) for tag, own in value)
            changed[one.name] = tuple((tag, own) for tag, own in pairs if None not in (tag, own))
        elif isinstance(value, EdgeSpec) and change(value.tag) is None:
            changed[one.name] = None
        elif is_dataclass(value):
            changed[one.name] = with_tags(value, change)
    return replace(spec, **changed)


_PARTS: Final = {
    "": LoggerSpec, "rule": RuleSpec, "trigger": TriggerSpec, "when": WhenSpec, "sample_on": EdgeSpec,
}  # fmt: skip
BY_MEMBER: Final = tuple(one.name for one in fields(LoggerSpec) if one.metadata.get("ref") == "by member")
"""Fields that are a member's own."""


def to_plain(spec: LoggerSpec[Any]) -> dict[str, Any]:
    """A spec as JSON knows it, for set-up files, the record of changes and the store: what is a member's own
    by member, of rules what differs from the default."""
    plain: dict[str, Any] = msgspec.json.decode(msgspec.json.encode(spec))  # tuples become lists
    plain["rule"] = rule_to_plain(spec.rule)
    for name in BY_MEMBER:
        plain[name] = {tag: _own_to_plain(own) for tag, own in getattr(spec, name)}
    return plain


def from_plain(plain: Mapping[str, Any]) -> LoggerSpec[str]:
    """A spec from a set-up file or a record of changes. Raises ValueError for what is none."""
    for part, kind in _PARTS.items():
        content = plain if part == "" else plain.get(part)
        unknown = sorted(set(content) - {one.name for one in fields(kind)}) if content else []
        if unknown:
            raise ValueError(f"a logger has no {part or 'field'} {unknown[0]!r}")
    if plain.get("mode") == LoggerMode.PERIODIC.value and "interval_us" not in plain:
        raise InvalidInput("interval_us", "it is missing", "Give it; with 0 it records on demand only.")
    try:
        return msgspec.convert(_as_pairs(plain), LoggerSpec[str])
    except msgspec.ValidationError as exc:
        raise ValueError(str(exc)) from exc


def logger_from_plain(plain: Mapping[str, Any]) -> Logger:
    """A logger from the store."""
    return msgspec.convert(_as_pairs(plain), Logger)


def rule_to_plain(rule: RuleSpec) -> dict[str, Any]:
    """A rule as JSON knows it: what differs from the default."""
    plain: dict[str, Any] = msgspec.to_builtins(rule)
    usual = msgspec.to_builtins(NO_RULE)
    return {name: value for name, value in plain.items() if value != usual[name]}


def _own_to_plain(own: object) -> Any:  # noqa: ANN401 - any JSON
    return rule_to_plain(own) if isinstance(own, RuleSpec) else msgspec.to_builtins(own)


def _as_pairs(plain: Mapping[str, Any]) -> dict[str, Any]:
    """In records of changes of older versions names of columns are pairs already."""
    found = {name: value for name, value in plain.items() if value is not None}
    for name in BY_MEMBER:
        if isinstance(found.get(name), Mapping):
            found[name] = list(found[name].items())
    return found

"""What an equipment class says, and a piece of equipment of it.

A class is written in patterns: what differs from piece to piece stands in braces. `{name}` is the name of the
piece, `{number}` the last number in it, `{base}` a parameter, `{base+12}` a whole number counted from one,
`{tag:Zone 1 temperature}` the uid of the piece's tag for that member.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import MISSING, asdict, dataclass, field, fields, replace
from typing import Any, Final, Self

from cronaca.core.errors import InvalidInput
from cronaca.core.figures import all_figures
from cronaca.core.names import check_name
from cronaca.core.setup import TagSpec
from cronaca.core.setup.document import as_named_now
from cronaca.core.statistics.spec import StatSpec
from cronaca.core.statistics.texts import read_figure, with_options

Settings = dict[str, Any]
LIMITS: Final = "limits"
_TAG_FACTS: Final = {one.name for one in fields(TagSpec)} - {"source", "address"}
_DEFAULTS: Final = {
    one.name: one.default for one in fields(TagSpec) if one.name in _TAG_FACTS and one.default is not MISSING
} | {"value_type": "float"}
_RESERVED: Final = frozenset({"name", "number", "tag"})
MOST_MEMBERS: Final = 500
Limits = tuple[float | None, float | None]


@dataclass(frozen=True, slots=True)
class Slot:
    """A place for a source: each piece names its own, but for one that all share (by uid)."""

    name: str
    source: str | None = None


@dataclass(frozen=True, slots=True)
class Member:
    """A tag that each piece has: `settings` as in a set-up file, in patterns; where it is read, by the
    protocol of the slot's source; the limits between which its value works."""

    key: str
    slot: str
    settings: Settings
    addresses: dict[str, Settings]
    limits: Limits = (None, None)


@dataclass(frozen=True, slots=True)
class Pattern:
    """A logger or a rule for runs of each piece's own; `settings` as in a set-up file, in patterns."""

    key: str
    settings: Settings


@dataclass(frozen=True, slots=True)
class Join:
    """Members that one logger of the plant records for all pieces, with rules of their own by member."""

    logger: str
    members: tuple[str, ...]
    overrides: dict[str, Settings] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class CardFigure:
    """A figure of the statistics card."""

    member: str
    stat: str
    parameters: Settings = field(default_factory=dict)

    @property
    def spec(self) -> StatSpec:
        """The figure with its options; raises InvalidInput."""
        return with_options(read_figure(self.stat), self.parameters).checked()


@dataclass(frozen=True, slots=True)
class ClassSpec:
    """An equipment class. `trend` names the members on its trend sheet, in order."""

    name: str
    members: tuple[Member, ...]
    slots: tuple[Slot, ...] = (Slot("device"),)
    parameters: dict[str, int | str] = field(default_factory=dict)
    """Names and defaults."""
    loggers: tuple[Pattern, ...] = ()
    runs: tuple[Pattern, ...] = ()
    joins: tuple[Join, ...] = ()
    trend: tuple[str, ...] = ()
    card: tuple[CardFigure, ...] = ()

    def member(self, key: str) -> Member | None:
        """The member of this key."""
        return next((member for member in self.members if member.key == key), None)

    def checked(self) -> ClassSpec:
        """The same, made regular; raises InvalidInput that names the place."""
        if not 1 <= len(self.members) <= MOST_MEMBERS:
            raise InvalidInput(
                "members",
                "members-there-are",
                "there are {members}",
                "Give 1 to {most_members}.",
                members=len(self.members),
                most_members=MOST_MEMBERS,
            )
        _check_once("members", (member.key.casefold() for member in self.members))
        _check_once("slots", (slot.name for slot in self.slots))
        for name in self.parameters:
            if not name.isidentifier() or name in _RESERVED:
                raise InvalidInput(
                    "parameters",
                    "parameters-unusable",
                    "{name!r} cannot be used",
                    "Give one word of letters.",
                    name=name,
                )
        slots = {slot.name for slot in self.slots}
        members = tuple(
            _checked_member(member, slots, f"members[{i}]") for i, member in enumerate(self.members)
        )
        keys = {member.key for member in members}
        for place, named in self._named():
            if named not in keys:
                raise InvalidInput(
                    place,
                    "no-member",
                    "there is no member {named!r}",
                    "Add it, or leave this out.",
                    named=named,
                )
        for i, entry in enumerate(self.card):
            _check_card_figure(entry, f"card[{i}]")
        for part in (self.loggers, self.runs):
            _check_once("loggers" if part is self.loggers else "runs", (entry.key for entry in part))
        return replace(self, name=check_name(self.name, 100), members=members)

    def _named(self) -> Iterable[tuple[str, str]]:
        yield from ((f"trend[{i}]", key) for i, key in enumerate(self.trend))
        yield from ((f"card[{i}].member", entry.member) for i, entry in enumerate(self.card))
        for i, join in enumerate(self.joins):
            yield from ((f"joins[{i}].members", key) for key in join.members)

    def to_json(self) -> Settings:
        """As it is kept and sent."""
        plain = asdict(self)
        for part in ("members", "slots", "loggers", "runs", "joins", "trend", "card"):
            plain[part] = list(plain[part])
        for member in plain["members"]:
            member[LIMITS] = list(member[LIMITS])
        for join in plain["joins"]:
            join["members"] = list(join["members"])
        return plain

    @classmethod
    def from_json(cls, plain: Mapping[str, Any]) -> Self:
        """From what `to_json` gave."""
        low_high = [member.get(LIMITS) or (None, None) for member in plain["members"]]
        return cls(
            name=plain["name"],
            members=tuple(
                Member(**{**_as_named_now(member), LIMITS: (limits[0], limits[1])})
                for member, limits in zip(plain["members"], low_high, strict=True)
            ),
            slots=tuple(Slot(**slot) for slot in plain.get("slots", [{"name": "device"}])),
            parameters=dict(plain.get("parameters", {})),
            loggers=tuple(Pattern(**_as_named_now(logger)) for logger in plain.get("loggers", [])),
            runs=tuple(_run_pattern(run) for run in plain.get("runs", [])),
            joins=tuple(
                Join(**{**join, "members": tuple(join["members"])}) for join in plain.get("joins", [])
            ),
            trend=tuple(plain.get("trend", [])),
            card=tuple(CardFigure(**entry) for entry in plain.get("card", [])),
        )


def _as_named_now(plain: Mapping[str, Any]) -> dict[str, Any]:
    """With the name that older versions had for settings read as that."""
    return {"settings" if name == "facts" else name: value for name, value in plain.items()}


def _run_pattern(plain: Mapping[str, Any]) -> Pattern:
    pattern = Pattern(**_as_named_now(plain))
    return replace(pattern, settings=as_named_now("runs", pattern.settings))


def _check_once(place: str, names: Iterable[str]) -> None:
    seen: set[str] = set()
    for name in names:
        if name in seen:
            raise InvalidInput(
                place, "classes-twice", "{name!r} is there twice", "Give each a name of its own.", name=name
            )
        seen.add(name)


def _check_card_figure(entry: CardFigure, place: str) -> None:
    try:
        name = entry.spec.name
    except InvalidInput as exc:
        raise exc.at(f"{place}.{exc.field}") from exc
    if name not in all_figures():
        raise InvalidInput(
            f"{place}.stat",
            "not-statistic",
            "{stat!r} is not a statistic",
            "Choose another.",
            stat=entry.stat,
        )


def _checked_member(member: Member, slots: set[str], place: str) -> Member:
    if member.slot not in slots:
        raise InvalidInput(
            f"{place}.slot",
            "no-slot",
            "there is no slot {slot!r}",
            "Choose one of the class.",
            slot=member.slot,
        )
    for name in member.settings:
        if name not in _TAG_FACTS:
            raise InvalidInput(
                f"{place}.settings", "tag-no", "a tag has no {name!r}", "Leave it out.", name=name
            )
    if "name" not in member.settings:
        raise InvalidInput(
            f"{place}.settings.name", "classes-missing", "it is missing", "Give a pattern like {name} speed."
        )
    low, high = member.limits
    if low is not None and high is not None and low >= high:
        raise InvalidInput(
            f"{place}.{LIMITS}",
            "not-below",
            "{low:g} is not below {high:g}",
            "Give a low one below the high.",
            low=low,
            high=high,
        )
    key = check_name(member.key, 150, f"{place}.key")
    return replace(member, key=key, settings={**_DEFAULTS, **member.settings})


@dataclass(frozen=True, slots=True)
class EquipmentSpec:
    """A piece of equipment: its sources by slot, its parameters, what it has otherwise than its class says
    (by part, object and field), and the uids of objects that were there before it was gathered."""

    name: str
    equipment_class: str
    sources: dict[str, str] = field(default_factory=dict)
    parameters: dict[str, int | str] = field(default_factory=dict)
    overrides: dict[str, dict[str, Settings]] = field(default_factory=dict)
    objects: dict[str, dict[str, str]] = field(default_factory=dict)
    without: tuple[str, ...] = ()
    """Members that it does not have."""

    def checked(self, of: ClassSpec) -> EquipmentSpec:
        """The same, made regular, as a piece of this class; raises InvalidInput."""
        slots = {slot.name for slot in of.slots if slot.source is None}
        for name in self.sources:
            if name not in slots:
                raise InvalidInput(
                    "sources", "class-no-slot", "its class has no slot {name!r}", "Leave it out.", name=name
                )
        for name in slots - self.sources.keys():
            raise InvalidInput("sources", "sources-none", "{name} has none", "Name a source.", name=name)
        for name in self.parameters:
            if name not in of.parameters:
                raise InvalidInput(
                    "parameters", "class-no", "its class has no {name!r}", "Leave it out.", name=name
                )
        return replace(self, name=check_name(self.name, 100))

    def limits_of(self, member: Member) -> Limits:
        """The limits of a member: its own, or those of the class."""
        own = self.overrides.get("tags", {}).get(member.key, {}).get(LIMITS)
        return member.limits if own is None else (own[0], own[1])

    def to_json(self) -> Settings:
        """As it is kept and sent."""
        return {**asdict(self), "without": list(self.without)}

    @classmethod
    def from_json(cls, plain: Mapping[str, Any]) -> Self:
        """From what `to_json` gave."""
        own = dict(plain.get("overrides", {}))
        if "runs" in own:
            own["runs"] = {key: as_named_now("runs", fields) for key, fields in own["runs"].items()}
        return cls(**{**plain, "overrides": own, "without": tuple(plain.get("without", ()))})

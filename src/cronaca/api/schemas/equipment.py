"""Equipment classes and their pieces over the wire. Patterns: what differs from piece to piece stands in
braces, `{name}`, `{number}`, `{base+12}`, `{tag:Zone 1 temperature}`."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import Field

from cronaca.api.schemas import Model, Uid
from cronaca.api.schemas.figures import Number
from cronaca.api.schemas.setup import DifferenceOut

Name = Annotated[str, Field(max_length=200)]
Word = int | Annotated[str, Field(max_length=200)]
Settings = dict[str, Any]


class SlotModel(Model):
    """A place for a source: each piece names its own, but for one that all share."""

    name: Name
    source: Uid | None = None


class MemberModel(Model):
    """A tag that each piece has: its settings in patterns, where it is read by protocol, its limits."""

    key: Name
    slot: Name
    settings: Settings
    addresses: dict[str, Settings]
    limits: list[Number | None] = Field([None, None], min_length=2, max_length=2)
    """The low and the high one; none where there is none."""


class PatternModel(Model):
    """A logger or a rule for runs of each piece's own, in patterns."""

    key: Name
    settings: Settings


class JoinModel(Model):
    """Members that one logger of the plant records for all pieces."""

    logger: Uid
    members: list[Name]
    overrides: dict[str, Settings] = Field({})


class CardFigureModel(Model):
    """A figure of the statistics card; `parameters` as those of a figure."""

    member: Name
    stat: Name
    parameters: Settings = Field({})


class ClassSpecModel(Model):
    """An equipment class."""

    name: Name
    members: list[MemberModel] = Field(max_length=500)
    slots: list[SlotModel] = Field([SlotModel(name="device")], max_length=50)
    parameters: dict[str, Word] = Field({})
    loggers: list[PatternModel] = Field([], max_length=100)
    runs: list[PatternModel] = Field([], max_length=100)
    joins: list[JoinModel] = Field([], max_length=100)
    trend: list[Name] = Field([], max_length=32)
    """Members on the trend sheet, in order."""
    card: list[CardFigureModel] = Field([], max_length=60)


class ClassIn(ClassSpecModel):
    """A class as it should be; `revision`: the one that was seen."""

    revision: int | None = None


class ClassOut(ClassSpecModel):
    """A class as it is."""

    uid: Uid
    revision: int
    equipment: int


class GatherIn(Model):
    """Equipment that is there and is alike becomes a class."""

    kind: Name
    """As /api/statistics/kinds calls it."""
    name: Name
    """Of the class."""


class EquipmentIn(Model):
    """A piece of equipment. Slots without a source of their own take `source`."""

    name: Name
    source: Uid | None = None
    sources: dict[str, Uid] = Field({})
    parameters: dict[str, Word] = Field({})
    overrides: dict[str, dict[str, Settings]] = Field({})
    """What it has otherwise than its class says: by part (tags, loggers, runs), object and field."""
    without: list[Name] = Field([])
    revision: int | None = None


class EquipmentOfClassOut(Model):
    """A piece as it is; `trend` is the query of the link that shows its trend sheet."""

    uid: Uid
    revision: int
    name: str
    sources: dict[str, Uid]
    parameters: dict[str, Word]
    overrides: dict[str, dict[str, Settings]]
    without: list[str]
    trend: str


class EquipmentChangeOut(Model):
    """What becomes different for one piece; `removed` names what goes (its history stays)."""

    uid: Uid
    name: str
    differences: list[DifferenceOut]
    removed: list[str]


class PlanOut(Model):
    """What a change would do, or did."""

    equipment: list[EquipmentChangeOut]

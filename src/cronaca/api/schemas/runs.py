"""Runs and their rules over the wire."""

from __future__ import annotations

from pydantic import Field

from cronaca.api.schemas import Micros, Model, Scalar, Uid
from cronaca.core.model import RunOrigin


class RunAttributeOut(Model):
    """What a tag was when a run began or ended; no value where it was Bad."""

    tag: Uid
    name: str
    unit: str
    decimals: int
    value: Scalar
    quality: int


class RunOut(Model):
    """A named stretch of time."""

    uid: Uid
    name: str
    origin: RunOrigin
    rule: str
    """The name of the rule that found it, or nothing."""
    start_us: Micros
    end_us: Micros | None
    """None while it lasts."""
    cut: bool
    """It ended with the recorder, not by itself."""
    start_attributes: list[RunAttributeOut]
    end_attributes: list[RunAttributeOut]
    person: str


class RunPage(Model):
    """Runs, newest first."""

    runs: list[RunOut]
    before: str | None
    """Where the next page begins; none: this is the last one."""


class RunIn(Model):
    """A run that a person marks."""

    name: str = Field(max_length=300)
    start_us: Micros | None = None
    """Left out: it begins now, by the server's clock."""
    end_us: Micros | None = None


class RunChange(Model):
    """Another name, and for a run that a person marked another end."""

    name: str = Field(max_length=300)
    end_us: Micros | None = None
    ends_now: bool = False
    """It ends now, by the server's clock."""


class RunRuleSpecIn(Model):
    """How the recorder finds runs."""

    name: str = Field(max_length=200)
    origin: RunOrigin
    tag: Uid | None = None
    logger: Uid | None = None
    attributes: list[Uid] = Field([], max_length=50)
    """Tags whose values are kept at start and end."""
    enabled: bool = True


class RunRuleIn(RunRuleSpecIn):
    """A rule as it is wanted."""

    revision: int | None = None


class RunRuleOut(RunRuleIn):
    """A rule as it is set up."""

    uid: Uid
    revision: int

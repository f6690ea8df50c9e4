"""Reports over the wire."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from cronaca.api.schemas import Micros, Model, Uid
from cronaca.core.model import EARLIEST, LATEST
from cronaca.core.reports import MOST_LINES, Every
from cronaca.core.statistics.sheet import NormKind


class ReportLine(Model):
    """A figure of what each piece has."""

    member: Annotated[str, Field(max_length=200)]
    stat: Annotated[str, Field(max_length=60)]


class ReportSpecIn(Model):
    """A report: the figures of all equipment of a kind, made when a shift, a day or a run is over."""

    name: Annotated[str, Field(max_length=200)]
    kind: Annotated[str, Field(max_length=200)]
    """As /api/statistics/kinds calls it."""
    lines: list[ReportLine] = Field(max_length=MOST_LINES)
    norm: NormKind = NormKind.FLEET
    every: Every = Every.SHIFT
    rule: Uid | None = None
    """Of a report of runs: the rule that finds them."""
    enabled: bool = True


class ReportIn(ReportSpecIn):
    """A report as it should be; `revision`: the one that was seen."""

    revision: int | None = None
    since_us: int | None = Field(None, ge=EARLIEST, le=LATEST)
    """Shifts, days and runs that began then or later are reported, past ones too; by default from the one
    that has just ended on, or as before."""


class ReportOut(ReportSpecIn):
    """A report as it is set up."""

    uid: Uid
    revision: int
    since_us: Micros
    problem: str
    """Why it cannot be made at present; empty where it can."""


class IssueOut(Model):
    """A report that was made. Percent of its window: recorded, and Good."""

    uid: Uid
    report: Uid
    name: str
    period: str
    start_us: Micros
    end_us: Micros
    created_us: Micros
    late: bool
    covered: float | None
    good: float | None


class ReportsMadeOut(Model):
    """How many were made."""

    made: int

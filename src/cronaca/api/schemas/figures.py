"""Figures over the wire: what is asked for, what comes, how it was made."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, StringConstraints

from cronaca.api.schemas import FieldProblem, Micros, MicrosOut, Model, Scalar, ScalarOut, Uid
from cronaca.core.statistics import Base, Comparison, Weight
from cronaca.core.windows import MOST_UNITS, Unit, Which

Number = Annotated[float, Field(allow_inf_nan=False)]


class ConditionIn(Model):
    """Holds while the other tag's value compares so."""

    comparison: Comparison
    threshold: Number


class FigureIn(Model):
    """A figure by its name, with the options that it uses."""

    stat: str = Field(max_length=60)
    """A standard aggregate (OPC UA Part 13) or one of the statistics of /api/figures/catalogue."""
    percent: Number = 50.0
    weight: Weight = Weight.TIME
    base: Base | None = None
    """Time base of an integral or a rate; by default the one of the tag's unit."""
    bins: int = 20
    low: Number | None = None
    high: Number | None = None
    other: Uid | None = None
    """The second tag of a figure of two."""
    base_us: int = Field(60_000_000, gt=0)
    """Common time base of a correlation, µs."""
    condition: ConditionIn | None = None
    state: int | None = Field(None, ge=-(2**53), le=2**53)
    """The state of TimeInState, StateEntries and StateLongest."""


class SplitIn(Model):
    """How a window is cut into intervals: by a duration from its start, or by the calendar."""

    interval_us: int = Field(0, ge=0)
    unit: Unit | None = None


class WindowIn(Model):
    """A window: `last_us` (which ends `ago_us` before now), or `start_us` (until `end_us` or now), or `unit`
    with `which`, or `weekday` (1 Monday to 7 Sunday) until now. An end before the start runs backward."""

    last_us: int | None = Field(None, gt=0)
    start_us: int | None = None
    end_us: int | None = None
    unit: Unit | None = None
    which: Which = Which.THIS
    split: SplitIn = SplitIn()
    ago_us: int = Field(0, ge=0)
    weekday: int | None = Field(None, ge=1, le=7)
    count: int = Field(1, ge=1, le=MOST_UNITS)
    """So many of the last units, where `which` is last."""


class ConfigurationIn(Model):
    """The standard's aggregate configuration; `stepped` by default as each tag has it."""

    treat_uncertain_as_bad: bool = True
    percent_good: int = 100
    percent_bad: int = 100
    sloped_extrapolation: bool = False
    stepped: bool | None = None


class FiguresIn(Model):
    """Figures of many tags over many windows."""

    tags: list[Uid] = Field(min_length=1, max_length=500)
    figures: list[FigureIn] = Field(min_length=1, max_length=40)
    windows: list[WindowIn] = Field(min_length=1, max_length=40)
    configuration: ConfigurationIn = ConfigurationIn()
    archive: str = Field("", max_length=100)
    """Which archive to read; by default the one that fits."""
    archives: dict[Uid, Annotated[str, StringConstraints(max_length=100)]] = Field({}, max_length=100)
    """By tag, where another archive is to be read."""
    exact: bool = False
    """True leaves rollups aside: all samples are read."""


class ExplainIn(Model):
    """One figure of one tag over one interval of a window."""

    tag: Uid
    figure: FigureIn
    window: WindowIn
    interval: int = Field(0, ge=0)
    """Which interval of the window, in the direction of time."""
    configuration: ConfigurationIn = ConfigurationIn()
    archive: str = Field("", max_length=100)
    exact: bool = False


class WindowOut(Model):
    """A window as it was resolved."""

    start_us: MicrosOut
    end_us: MicrosOut
    start_local: str
    end_local: str
    """In the plant's zone, with the offset that held then."""


class ValueOut(Model):
    """A figure over one interval."""

    start_us: MicrosOut
    end_us: MicrosOut
    time_us: MicrosOut
    """When it was so (extremes with their times), else where the interval begins."""
    value: ScalarOut
    quality: str
    """Good, Uncertain or Bad."""
    status_code: str
    """8 hex digits, with the bits that say how it was made."""
    good: float
    """For what share of the interval's time a Good value is known, percent."""
    doubtful: bool
    """It is not Good, and rests on less of its time than the setting CRONACA_DOUBT_BELOW asks for."""


class BinOut(Model):
    """One bin of a histogram, [low, high)."""

    low: float
    high: float
    amount: float


class StateOut(Model):
    """How long and how often a state was."""

    state: ScalarOut
    seconds: float
    entries: int
    longest: float


class TableOut(Model):
    """A figure that is a table, over one interval."""

    start_us: MicrosOut
    end_us: MicrosOut
    bins: list[BinOut] = Field(default_factory=list)
    below: float = 0.0
    above: float = 0.0
    states: list[StateOut] = Field(default_factory=list)


class PathOut(Model):
    """Where the samples came from."""

    name: str
    width_us: int
    read_samples: int
    summed_samples: int
    thinned: bool


class FigureOut(Model):
    """One figure of one tag over one window; `refused` says why there is none."""

    stat: str
    unit: str = ""
    values: list[ValueOut] = Field(default_factory=list)
    tables: list[TableOut] = Field(default_factory=list)
    path: PathOut | None = None
    refused: FieldProblem | None = None


class TagFiguresOut(Model):
    """The figures of one tag over one window (its place in the request), in the order asked for."""

    tag: Uid
    window: int
    figures: list[FigureOut]


class FiguresOut(Model):
    """Figures seen at one instant of the database."""

    now_us: MicrosOut
    windows: list[WindowOut]
    results: list[TagFiguresOut]


class CatalogueEntry(Model):
    """What a figure means and for which tags; `label`: what it is called on screens and in reports."""

    name: str
    label: str
    formula: str
    source: str
    types: list[str]
    kind: str
    standard: bool


class BoundOut(Model):
    """A bounding value and the samples it came from."""

    at_us: Micros
    value: Scalar
    status: str
    how: str
    from_samples: list[tuple[Micros, Scalar]]


class SampleOut(Model):
    """A sample of the interval; a mark is the start of a hole."""

    time_us: Micros
    value: Scalar
    quality: str
    is_mark: bool


class ExplanationOut(Model):
    """How a figure was made: enough to redo it by hand. Durations in seconds."""

    figure: str
    formula: str
    source: str
    unit: str
    value: Scalar
    status_code: str
    status: str
    window: WindowOut
    forward: bool
    configuration: ConfigurationIn
    options: dict[str, str | float]
    good: int
    uncertain: int
    bad: int
    good_s: float
    uncertain_s: float
    bad_s: float
    covered: float
    """Share of the window that was not Bad."""
    known_until_us: Micros
    bounds_rule: str
    start_bound: BoundOut
    end_bound: BoundOut
    ingredients: dict[str, float]
    samples: list[SampleOut] | None
    path: PathOut

"""Statistics over the wire: kinds of equipment, sheets of figures with their bands, control charts."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from cronaca.api.schemas import FieldProblem, MicrosOut, Model, ScalarOut, Uid
from cronaca.api.schemas.figures import ConfigurationIn, FigureIn, Number, StateOut, WindowIn, WindowOut
from cronaca.core.statistics.norms import WIDTHS, Verdict
from cronaca.core.statistics.sheet import LEAST, NormKind


class MemberOut(Model):
    """What equipment of a kind has: its name, and the tag of each piece."""

    name: str
    unit: str
    value_type: str
    decimals: int
    tags: list[Uid | None]


class CardOut(Model):
    """A figure of a class's statistics card."""

    member: str
    figure: FigureIn


class KindOut(Model):
    """Equipment of one kind: of a class, or alike by its names."""

    name: str
    equipment: list[str]
    members: list[MemberOut]
    equipment_class: Uid | None
    card: list[CardOut]


class NormIn(Model):
    """What is normal for a column: learnt from the column (fleet), fixed, each tag's range, the limits of
    its equipment class, or learnt from stretches of a reference window (earlier)."""

    kind: NormKind = NormKind.FLEET
    low: Number | None = None
    high: Number | None = None
    widths: Number = WIDTHS
    """k of median ± k MAD."""
    least: float = Field(LEAST, ge=0.0, le=100.0, allow_inf_nan=False)
    """Percent of a tag's range that a learnt band reaches at least, for figures in its unit."""


class ColumnIn(Model):
    """A figure and what is normal for it."""

    figure: FigureIn
    norm: NormIn = NormIn()


class RowIn(Model):
    """The tag of each column; none where a piece of equipment has none."""

    name: Annotated[str, Field(max_length=200)]
    tags: list[Uid | None] = Field(max_length=240)


class StatisticsIn(Model):
    """A sheet of figures."""

    rows: list[RowIn] = Field(min_length=1, max_length=500)
    columns: list[ColumnIn] = Field(min_length=1, max_length=240)
    window: WindowIn
    reference: WindowIn | Literal["before"] | None = None
    """Split into the stretches that columns of the kind `earlier` learn from; `before`: twelve stretches as
    long as the window, before it."""
    beside: WindowIn | Literal["before", "day", "week"] | None = None
    """Another window, for the difference; `before`: the one that ends where the window begins; `day` and
    `week`: the same by the plant's clock a day or a week earlier."""
    configuration: ConfigurationIn = ConfigurationIn()
    exact: bool = False


class BandOut(Model):
    """What is normal; `learnt_from`: how many figures it was learnt from, 0 where it is set."""

    low: float
    centre: float
    high: float
    learnt_from: int


class LimitMarksOut(Model):
    """The limits of the tag's equipment class, for a figure on its scale; `low_at`, `high_at`: where they
    lie, in half widths from the centre of what is normal; `broken`: which one the figure breaks."""

    low: float | None
    high: float | None
    low_at: float | None
    high_at: float | None
    broken: Literal["low", "high", ""]


class CellOut(Model):
    """A figure beside what is normal. `position`: half widths from the band's centre."""

    tag: Uid | None
    value: ScalarOut = None
    unit: str = ""
    quality: str = ""
    good: float | None = None
    """For what share of its time a Good value is known, percent."""
    doubtful: bool = False
    """It rests on less of its time than the setting CRONACA_DOUBT_BELOW asks for."""
    refused: FieldProblem | None = None
    band: BandOut | None = None
    position: float | None = None
    place: Verdict
    beside: ScalarOut = None
    difference: float | None = None
    limits: LimitMarksOut | None = None


class StatRowOut(Model):
    """A row; `oddness`: how far its farthest figure lies from what is normal, in half widths."""

    name: str
    cells: list[CellOut]
    oddness: float


class StatisticsOut(Model):
    """The sheet as it was computed, all at one instant."""

    now_us: MicrosOut
    window: WindowOut
    beside: WindowOut | None
    rows: list[StatRowOut]


class DrilldownIn(Model):
    """A figure of the same tag of several pieces, looked at more closely."""

    tags: list[Uid] = Field(min_length=1, max_length=50)
    figure: FigureIn
    window: WindowIn
    per: Literal["auto", "hour", "shift", "day"] = "auto"
    """Into what the window is cut; `auto`: at most 24 stretches of a round length."""
    norm: NormIn = NormIn()
    configuration: ConfigurationIn = ConfigurationIn()


class OverTimeOut(Model):
    """The figure of each stretch, and where it lies beside what is normal for that stretch."""

    tag: Uid
    values: list[float | None]
    places: list[Verdict]


class BoxOut(Model):
    """How the values of a tag were spread by time: least, quartiles, greatest."""

    tag: Uid
    low: float
    lower_quartile: float
    median: float
    upper_quartile: float
    high: float


class SharesOut(Model):
    """Percent of the time with values in each bin."""

    tag: Uid
    percent: list[float]


class PartOut(Model):
    """What a piece adds to the sum of all; percent, and with those before it."""

    tag: Uid
    value: float
    percent: float
    cumulative: float


class StretchOut(Model):
    """What a tag was in, from start to end; none: no value that can be used."""

    start_us: MicrosOut
    end_us: MicrosOut
    state: int | None


class TimelineOut(Model):
    """When a discrete tag was in what; `whole`: whether all of it is here (of much, the newest is)."""

    tag: Uid
    stretches: list[StretchOut]
    whole: bool
    states: list[StateOut]


class DrilldownOut(Model):
    """Pictures of a figure; those that have no meaning for its tags are empty. `edges` are of the bins."""

    window: WindowOut
    unit: str
    starts_us: list[MicrosOut]
    over_time: list[OverTimeOut]
    bands: list[BandOut | None]
    low: float
    high: float
    boxes: list[BoxOut]
    edges: list[float]
    shares: list[SharesOut]
    parts: list[PartOut]
    timelines: list[TimelineOut]


class PairIn(Model):
    """Two tags, one against the other."""

    x: Uid
    y: Uid


class ScatterIn(Model):
    """Pairs of tags, at so many instants of a window."""

    pairs: list[PairIn] = Field(min_length=1, max_length=50)
    window: WindowIn
    points: int = Field(300, ge=10, le=2_000)
    configuration: ConfigurationIn = ConfigurationIn()


class ScatterPairOut(Model):
    """The values of both at each instant, and Pearson's r (none where one does not move)."""

    x: Uid
    y: Uid
    xs: list[float | None]
    ys: list[float | None]
    correlation: float | None


class ScatterOut(Model):
    """Scatter pictures on common scales."""

    window: WindowOut
    times_us: list[MicrosOut]
    unit_x: str
    unit_y: str
    low_x: float
    high_x: float
    low_y: float
    high_y: float
    pairs: list[ScatterPairOut]


class ControlIn(Model):
    """A control chart of a figure over the stretches of a window."""

    tag: Uid
    figure: FigureIn
    window: WindowIn
    reference: WindowIn | Literal["before"] | None = None
    """Where the limits come from, split as the window; `before`: the window that ends where this one begins,
    split alike; by default the window itself."""
    chart: Literal["individuals", "means", "ewma", "cusum"] = "individuals"
    size: int = Field(5, ge=2, le=10)
    """Stretches that make a subgroup of a chart of means."""
    rules: list[Annotated[int, Field(ge=1, le=8)]] = Field([1, 2], max_length=8)
    weight: Number = 0.3
    """Of the newest value of an EWMA."""
    allowance: Number = 0.5
    """Of a CUSUM: half the shift to be found, in standard deviations of the reference."""
    limit: Number = 4.0
    """Of a CUSUM, in standard deviations of the reference."""
    configuration: ConfigurationIn = ConfigurationIn()


class ChartOut(Model):
    """One chart: a point a stretch or subgroup, with the numbers of the rules that are broken there."""

    name: str
    points: list[float | None]
    centre: float
    lower: list[float]
    upper: list[float]
    broken: list[list[int]]


class RuleOut(Model):
    """A run rule."""

    number: int
    words: str


class ControlOut(Model):
    """The charts; `starts_us`: where the stretch of each point begins."""

    window: WindowOut
    reference: WindowOut
    unit: str
    starts_us: list[MicrosOut]
    charts: list[ChartOut]
    rules: list[RuleOut]

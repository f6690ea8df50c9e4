"""What may be asked of statistics, and what comes: typed frozen values, times in µs."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Literal

from cronaca.core.errors import InvalidInput
from cronaca.core.statistics.norms import Band, Verdict
from cronaca.core.statistics.sheet import LimitMarks, Norm
from cronaca.services.figures import (
    ConfigurationSpec,
    FigureSpec,
    ResolvedWindow,
    Scalar,
    StateRow,
    WindowSpec,
)

_BY_FLEET: Final = Norm()
_USUAL: Final = ConfigurationSpec()


@dataclass(frozen=True, slots=True)
class KindMember:
    """What equipment of a kind has: its name, and the tag of each piece."""

    name: str
    unit: str
    value_type: str
    decimals: int
    tags: tuple[str | None, ...]


@dataclass(frozen=True, slots=True)
class CardLine:
    """A figure of a class's statistics card."""

    member: str
    figure: FigureSpec


@dataclass(frozen=True, slots=True)
class EquipmentKind:
    """Equipment of one kind: of a class, or alike by its names."""

    name: str
    equipment: tuple[str, ...]
    members: tuple[KindMember, ...]
    equipment_class: str | None
    card: tuple[CardLine, ...]


@dataclass(frozen=True, slots=True)
class ColumnSpec:
    """A figure and what is normal for it."""

    figure: FigureSpec
    norm: Norm = _BY_FLEET


@dataclass(frozen=True, slots=True)
class RowSpec:
    """The tag of each column; none where a piece of equipment has none."""

    name: str
    tags: tuple[str | None, ...]


@dataclass(frozen=True, slots=True)
class SheetSpec:
    """A sheet of figures."""

    rows: tuple[RowSpec, ...]
    columns: tuple[ColumnSpec, ...]
    window: WindowSpec
    reference: WindowSpec | Literal["before"] | None = None
    """Split into the stretches that columns of the kind `earlier` learn from; `before`: twelve stretches as
    long as the window, before it."""
    beside: WindowSpec | Literal["before", "day", "week"] | None = None
    """Another window, for the difference; `before`: the one that ends where the window begins; `day` and
    `week`: the same by the plant's clock a day or a week earlier."""
    configuration: ConfigurationSpec = _USUAL
    exact: bool = False


@dataclass(frozen=True, slots=True)
class Cell:
    """A figure beside what is normal. `position`: half widths from the band's centre."""

    tag: str | None
    place: Verdict
    value: Scalar = None
    unit: str = ""
    quality: str = ""
    good: float | None = None
    """For what share of its time a Good value is known, percent."""
    doubtful: bool = False
    """It rests on less of its time than the setting CRONACA_DOUBT_BELOW asks for."""
    refused: InvalidInput | None = None
    band: Band | None = None
    position: float | None = None
    beside: Scalar = None
    difference: float | None = None
    limits: LimitMarks | None = None


@dataclass(frozen=True, slots=True)
class SheetRow:
    """A row; `oddness`: how far its farthest figure lies from what is normal, in half widths."""

    name: str
    cells: tuple[Cell, ...]
    oddness: float


@dataclass(frozen=True, slots=True)
class SheetFound:
    """The sheet as it was computed, all at one instant."""

    now_us: int
    window: ResolvedWindow
    beside: ResolvedWindow | None
    rows: tuple[SheetRow, ...]


@dataclass(frozen=True, slots=True)
class DrilldownSpec:
    """A figure of the same tag of several pieces, looked at more closely."""

    tags: tuple[str, ...]
    figure: FigureSpec
    window: WindowSpec
    per: Literal["auto", "hour", "shift", "day"] = "auto"
    """Into what the window is cut; `auto`: at most 24 stretches of a round length."""
    norm: Norm = _BY_FLEET
    configuration: ConfigurationSpec = _USUAL


@dataclass(frozen=True, slots=True)
class OverTime:
    """The figure of each stretch, and where it lies beside what is normal for that stretch."""

    tag: str
    values: tuple[float | None, ...]
    places: tuple[Verdict, ...]


@dataclass(frozen=True, slots=True)
class Box:
    """How the values of a tag were spread by time: least, quartiles, greatest."""

    tag: str
    low: float
    lower_quartile: float
    median: float
    upper_quartile: float
    high: float


@dataclass(frozen=True, slots=True)
class Shares:
    """Percent of the time with values in each bin."""

    tag: str
    percent: tuple[float, ...]


@dataclass(frozen=True, slots=True)
class Part:
    """What a piece adds to the sum of all; percent, and with those before it."""

    tag: str
    value: float
    percent: float
    cumulative: float


@dataclass(frozen=True, slots=True)
class StateStretch:
    """What a tag was in, from start to end; none: no value that can be used."""

    start_us: int
    end_us: int
    state: int | None


@dataclass(frozen=True, slots=True)
class Timeline:
    """When a discrete tag was in what; `whole`: whether all of it is here (of much, the newest is)."""

    tag: str
    stretches: tuple[StateStretch, ...]
    whole: bool
    states: tuple[StateRow, ...]


@dataclass(frozen=True, slots=True)
class DrilldownFound:
    """Pictures of a figure; those that have no meaning for its tags are empty. `edges` are of the bins."""

    window: ResolvedWindow
    unit: str
    starts_us: tuple[int, ...]
    over_time: tuple[OverTime, ...]
    bands: tuple[Band | None, ...]
    low: float
    high: float
    boxes: tuple[Box, ...]
    edges: tuple[float, ...]
    shares: tuple[Shares, ...]
    parts: tuple[Part, ...]
    timelines: tuple[Timeline, ...]


@dataclass(frozen=True, slots=True)
class PairSpec:
    """Two tags, one against the other."""

    x: str
    y: str


@dataclass(frozen=True, slots=True)
class ScatterSpec:
    """Pairs of tags, at so many instants of a window."""

    pairs: tuple[PairSpec, ...]
    window: WindowSpec
    points: int = 300
    configuration: ConfigurationSpec = _USUAL


@dataclass(frozen=True, slots=True)
class ScatterPair:
    """The values of both at each instant, and Pearson's r (none where one does not move)."""

    x: str
    y: str
    xs: tuple[float | None, ...]
    ys: tuple[float | None, ...]
    correlation: float | None


@dataclass(frozen=True, slots=True)
class ScatterFound:
    """Scatter pictures on common scales."""

    window: ResolvedWindow
    times_us: tuple[int, ...]
    unit_x: str
    unit_y: str
    low_x: float
    high_x: float
    low_y: float
    high_y: float
    pairs: tuple[ScatterPair, ...]


@dataclass(frozen=True, slots=True)
class ControlSpec:
    """A control chart of a figure over the stretches of a window."""

    tag: str
    figure: FigureSpec
    window: WindowSpec
    reference: WindowSpec | Literal["before"] | None = None
    """Where the limits come from, split as the window; `before`: the window that ends where this one begins,
    split alike; by default the window itself."""
    chart: Literal["individuals", "means", "ewma", "cusum"] = "individuals"
    size: int = 5
    """Stretches that make a subgroup of a chart of means."""
    rules: tuple[int, ...] = (1, 2)
    weight: float = 0.3
    """Of the newest value of an EWMA."""
    allowance: float = 0.5
    """Of a CUSUM: half the shift to be found, in standard deviations of the reference."""
    limit: float = 4.0
    """Of a CUSUM, in standard deviations of the reference."""
    configuration: ConfigurationSpec = _USUAL


@dataclass(frozen=True, slots=True)
class ControlChart:
    """One chart: a point a stretch or subgroup, with the numbers of the rules that are broken there."""

    name: str
    points: tuple[float | None, ...]
    centre: float
    lower: tuple[float, ...]
    upper: tuple[float, ...]
    broken: tuple[tuple[int, ...], ...]


@dataclass(frozen=True, slots=True)
class RuleText:
    """A run rule."""

    number: int
    words: str


@dataclass(frozen=True, slots=True)
class ControlFound:
    """The charts; `starts_us`: where the stretch of each point begins."""

    window: ResolvedWindow
    reference: ResolvedWindow
    unit: str
    starts_us: tuple[int, ...]
    charts: tuple[ControlChart, ...]
    rules: tuple[RuleText, ...]


@dataclass(frozen=True, slots=True)
class StretchRowSpec:
    """A figure of a tag."""

    name: str
    tag: str
    figure: FigureSpec


@dataclass(frozen=True, slots=True)
class StretchesSpec:
    """Figures in rows, stretches in columns."""

    rows: tuple[StretchRowSpec, ...]
    window: WindowSpec
    per: Literal["auto", "hour", "shift", "day"] = "auto"
    """Into what the window is cut; `auto`: at most 24 stretches of a round length."""
    shift: str = ""
    """Only the stretches of this shift, day after day."""
    runs: tuple[str, ...] = ()
    """These runs, instead of stretches of the window; one that lasts ends now."""
    norm: Norm = _BY_FLEET
    """`fleet`: learnt for each row from its own stretches."""
    configuration: ConfigurationSpec = _USUAL


@dataclass(frozen=True, slots=True)
class StretchColumn:
    """A stretch; `name`: of its shift or run, where it is one. `cut`: the window holds only a part of it, or
    it still lasts."""

    name: str
    start_us: int
    end_us: int
    cut: bool


@dataclass(frozen=True, slots=True)
class StretchesFound:
    """The table, all of it computed until one moment."""

    now_us: int
    columns: tuple[StretchColumn, ...]
    rows: tuple[SheetRow, ...]

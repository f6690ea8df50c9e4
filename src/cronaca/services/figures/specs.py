"""What may be asked of figures, and what comes: typed frozen values, times in µs."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Final

from cronaca.core import figures as core
from cronaca.core.errors import InvalidInput
from cronaca.core.model import Tag
from cronaca.core.statistics import Base, Condition, StatSpec, Weight
from cronaca.core.statistics.texts import read_figure
from cronaca.core.windows import PlantCalendar, Unit, Which, WindowRequest

Scalar = float | int | bool | str | None


@dataclass(frozen=True, slots=True)
class FigureSpec:
    """A figure by its name, with the options that it uses; `other`: uid of the second tag of a figure of two,
    `base_us`: common time base of a correlation."""

    stat: str
    percent: float = 50.0
    weight: Weight = Weight.TIME
    base: Base | None = None
    bins: int = 20
    low: float | None = None
    high: float | None = None
    other: str | None = None
    base_us: int = 60_000_000
    condition: Condition | None = None
    state: int | None = None

    @classmethod
    def read(cls, text: str) -> FigureSpec:
        """From a figure and its options in one line. Raises InvalidInput."""
        return cls.of(read_figure(text))

    @classmethod
    def of(cls, spec: StatSpec) -> FigureSpec:
        """A figure of one tag as the core has it."""
        return cls(spec.name, spec.percent, spec.weight, spec.base, state=spec.state)

    @property
    def spec(self) -> StatSpec:
        """The same as the core takes it."""
        return StatSpec(
            self.stat, self.percent, self.weight, self.base, self.bins, self.low, self.high, self.base_us,
            self.condition, self.state,
        )  # fmt: skip


@dataclass(frozen=True, slots=True)
class SplitSpec:
    """How a window is cut into intervals: by a duration from its start, or by the calendar."""

    interval_us: int = 0
    unit: Unit | None = None


@dataclass(frozen=True, slots=True)
class WindowSpec:
    """A window: `last_us` (which ends `ago_us` before now), or `start_us` (until `end_us` or now), or `unit`
    with `which` (of the last ones `count`), or `weekday` until now. An end before the start runs backward in
    time."""

    last_us: int | None = None
    start_us: int | None = None
    end_us: int | None = None
    unit: Unit | None = None
    which: Which = Which.THIS
    split: SplitSpec = SplitSpec()
    ago_us: int = 0
    weekday: int | None = None
    count: int = 1

    def request(self) -> WindowRequest:
        """What is asked of the calendar."""
        return WindowRequest(
            self.last_us, self.start_us, self.end_us, self.unit, self.which, self.ago_us, self.weekday,
            self.count,
        )  # fmt: skip


@dataclass(frozen=True, slots=True)
class ConfigurationSpec:
    """The standard's aggregate configuration; `stepped` by default as each tag has it."""

    treat_uncertain_as_bad: bool = True
    percent_good: int = 100
    percent_bad: int = 100
    sloped_extrapolation: bool = False
    stepped: bool | None = None


AS_SHOWN: Final = ConfigurationSpec(treat_uncertain_as_bad=False)
"""As on the screen: uncertain values count, and are marked."""


@dataclass(frozen=True, slots=True)
class FiguresSpec:
    """Figures of many tags (by uid) over many windows. `archive`: which one to read, "" the one that fits;
    `archives`: by tag, where another one is to be read; `exact`: rollups are left aside."""

    tags: tuple[str, ...]
    figures: tuple[FigureSpec, ...]
    windows: tuple[WindowSpec, ...]
    configuration: ConfigurationSpec = ConfigurationSpec()
    archive: str = ""
    archives: Mapping[str, str] = field(default_factory=dict)
    exact: bool = False


@dataclass(frozen=True, slots=True)
class ExplainSpec:
    """One figure of one tag over one interval of a window, in the direction of time."""

    tag: str
    figure: FigureSpec
    window: WindowSpec
    interval: int = 0
    configuration: ConfigurationSpec = ConfigurationSpec()
    archive: str = ""
    exact: bool = False


@dataclass(frozen=True, slots=True)
class ResolvedWindow:
    """A window as it was resolved; the local texts are in the plant's zone, with the offset that held."""

    start_us: int
    end_us: int
    start_local: str
    end_local: str


@dataclass(frozen=True, slots=True)
class FigureValue:
    """A figure over one interval. `time_us`: when it was so (extremes with their times), else where the
    interval begins; `good`: percent of the interval's time for which a Good value is known."""

    start_us: int
    end_us: int
    time_us: int
    value: Scalar
    quality: str
    status_code: str
    good: float
    doubtful: bool


@dataclass(frozen=True, slots=True)
class Bin:
    """One bin of a histogram, [low, high)."""

    low: float
    high: float
    amount: float


@dataclass(frozen=True, slots=True)
class StateRow:
    """How long and how often a state was; durations in seconds."""

    state: Scalar
    seconds: float
    entries: int
    longest: float


@dataclass(frozen=True, slots=True)
class FigureTable:
    """A figure that is a table, over one interval."""

    start_us: int
    end_us: int
    bins: tuple[Bin, ...] = ()
    below: float = 0.0
    above: float = 0.0
    states: tuple[StateRow, ...] = ()


@dataclass(frozen=True, slots=True)
class FigureResult:
    """One figure of one tag over one window; `refused` says why there is none."""

    stat: str
    unit: str = ""
    values: tuple[FigureValue, ...] = ()
    tables: tuple[FigureTable, ...] = ()
    path: core.Path | None = None
    refused: InvalidInput | None = None


@dataclass(frozen=True, slots=True)
class TagFigures:
    """The figures of one tag over one window (its place in the request), in the order asked for."""

    tag: str
    window: int
    figures: tuple[FigureResult, ...]


@dataclass(frozen=True, slots=True)
class FiguresFound:
    """Figures seen at one instant of the database."""

    now_us: int
    windows: tuple[ResolvedWindow, ...]
    results: tuple[TagFigures, ...]


@dataclass(frozen=True, slots=True)
class Explained:
    """How a figure was made, with what is needed to show it: `names` are the texts of a text tag's codes."""

    explanation: core.Explanation
    tag: Tag
    calendar: PlantCalendar
    names: Mapping[int, str]

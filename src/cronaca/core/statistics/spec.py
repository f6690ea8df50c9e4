"""What is asked for: a figure by its name, with what it needs to know."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from cronaca.core.aggregates.samples import Samples
from cronaca.core.errors import InvalidInput
from cronaca.core.model import HOUR, MINUTE, SECOND

MOST_BINS: Final = 500
OF_ONE_STATE: Final = frozenset({"TimeInState", "StateEntries", "StateLongest"})
"""Figures of one state of a tag, which is chosen."""


class Weight(StrEnum):
    """What counts: each sample once, or each value as long as it stood."""

    SAMPLES = "samples"
    TIME = "time"


class Base(StrEnum):
    """The unit of time of a rate or an integral."""

    SECOND = "second"
    MINUTE = "minute"
    HOUR = "hour"

    @property
    def us(self) -> int:
        """Its length."""
        return {Base.SECOND: SECOND, Base.MINUTE: MINUTE, Base.HOUR: HOUR}[self]

    @property
    def symbol(self) -> str:
        """As units are written."""
        return {Base.SECOND: "s", Base.MINUTE: "min", Base.HOUR: "h"}[self]


class Comparison(StrEnum):
    """How a value is compared in a condition."""

    ABOVE = "above"
    AT_LEAST = "at_least"
    BELOW = "below"
    AT_MOST = "at_most"
    EQUAL = "equal"
    NOT_EQUAL = "not_equal"


@dataclass(frozen=True, slots=True)
class Condition:
    """Holds while the value of another tag compares so."""

    comparison: Comparison
    threshold: float


@dataclass(frozen=True, slots=True)
class StatSpec:
    """A figure and its options; those it does not use are ignored. `percent` is the percentile's, `base_us`
    the common time base of a correlation, `low` and `high` the ends of a histogram (None: of the values),
    `state` the one whose time is asked for."""

    name: str
    percent: float = 50.0
    weight: Weight = Weight.TIME
    base: Base | None = None
    bins: int = 20
    low: float | None = None
    high: float | None = None
    base_us: int = MINUTE
    condition: Condition | None = None
    state: int | None = None

    def checked(self) -> StatSpec:
        """The same; raises InvalidInput for options that mean nothing."""
        if not 0 <= self.percent <= 100:
            raise InvalidInput(
                "percent",
                "percent-not-percentage",
                "{percent} is not a percentage",
                "Give a number from 0 to 100.",
                percent=self.percent,
            )
        if not 1 <= self.bins <= MOST_BINS:
            raise InvalidInput(
                "bins",
                "not-possible",
                "{bins} is not possible",
                "Give 1 to {most_bins}.",
                bins=self.bins,
                most_bins=MOST_BINS,
            )
        if self.low is not None and self.high is not None and self.low >= self.high:
            raise InvalidInput(
                "high",
                "histogram-ends-before-begins",
                "the histogram ends before it begins",
                "Give a value above low.",
            )
        if self.base_us <= 0:
            raise InvalidInput(
                "base_us", "time-base-no-length", "the time base has no length", "Give a duration above zero."
            )
        if self.name in OF_ONE_STATE and self.state is None:
            raise InvalidInput(
                "state", "one-state", "{name} is of one state", "Give its number.", name=self.name
            )
        return self


@dataclass(frozen=True, slots=True)
class Other:
    """The second tag of a figure of two, and whether its values are held between samples."""

    samples: Samples
    stepped: bool

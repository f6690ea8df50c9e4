"""A statistics sheet: figures in rows and columns, each placed beside what is normal for its column."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Final, Literal

from cronaca.core.errors import InvalidInput
from cronaca.core.model import Tag
from cronaca.core.statistics.norms import WIDTHS, Band, Judged, fixed_band, learnt_band, place

LEAST: Final = 0.5
"""Percent of a tag's range (a choice of ours: less can hardly be seen on a trend of the range)."""


ON_SCALE: Final = frozenset({
    "Interpolative", "Average", "TimeAverage", "TimeAverage2", "Minimum", "Maximum", "Minimum2", "Maximum2",
    "Start", "End", "StartBound", "EndBound", "Median", "Percentile",
})  # fmt: skip
"""Figures that lie where the tag's values lie: only these can be compared with its range."""


LimitsByTag = Mapping[str, tuple[float | None, float | None]]
"""Low and high limits of tags, by uid."""
NO_LIMITS: Final[LimitsByTag] = {}


class NormKind(StrEnum):
    """Where a column's band of what is normal comes from."""

    NONE = "none"
    FLEET = "fleet"
    """Learnt from the column itself: the equipment of the kind."""
    FIXED = "fixed"
    RANGE = "range"
    """The range of each tag, for figures on its scale."""
    LIMITS = "limits"
    """The limits of each tag's equipment class, for figures on its scale; where one end has none, the end of
    its range."""
    EARLIER = "earlier"
    """Learnt for each tag from the same figure over stretches of a reference window."""


@dataclass(frozen=True, slots=True)
class Norm:
    """What is normal for a column; `low` and `high` where it is fixed. A learnt band reaches at least `least`
    percent of a tag's range to either side, for figures in the tag's own unit, and one for counts."""

    kind: NormKind = NormKind.FLEET
    low: float | None = None
    high: float | None = None
    widths: float = WIDTHS
    least: float = LEAST

    def bands(
        self, tags: Sequence[Tag | None], column: Sequence[float | None],
        earlier: Sequence[Sequence[float | None]], *, stat: str, result: str, limits: LimitsByTag,
    ) -> list[Band | None]:  # fmt: skip
        """The band of each tag of a column of figures; `earlier` are each tag's figures of the reference;
        `stat` names the figures, `result` says what they are (source, number, count ...). None: there is
        none to be had. Raises InvalidInput."""
        if self.kind is NormKind.NONE:
            return [None] * len(tags)
        if self.kind is NormKind.FIXED:
            if self.low is None or self.high is None:
                raise InvalidInput(
                    "low", "fixed-band-two-ends", "a fixed band has two ends", "Give low and high."
                )
            return [fixed_band(self.low, self.high)] * len(tags)
        if self.kind is NormKind.RANGE:
            comparable = stat in ON_SCALE
            return [_range_of(tag) if tag is not None and comparable else None for tag in tags]
        if self.kind is NormKind.LIMITS:
            comparable = stat in ON_SCALE
            return [_limits_of(tag, limits) if tag is not None and comparable else None for tag in tags]
        if self.kind is NormKind.FLEET:
            widest = max((self._floor(tag, result) for tag in tags), default=0.0)
            return [_learnt(column, self.widths, widest)] * len(tags)
        return [
            _learnt(past, self.widths, self._floor(tag, result))
            for tag, past in zip(tags, earlier, strict=True)
        ]

    def _floor(self, tag: Tag | None, result: str) -> float:
        """What differs by less matters to nobody: one more or less, or a small part of the range."""
        if tag is None:
            return 0.0
        if result == "count":
            return 1.0
        in_unit = result in ("source", "number")
        return max(tag.range_high - tag.range_low, 0.0) * self.least / 100.0 if in_unit else 0.0


def _range_of(tag: Tag) -> Band | None:
    return fixed_band(tag.range_low, tag.range_high) if tag.range_low < tag.range_high else None


def _limits_of(tag: Tag, limits: LimitsByTag) -> Band | None:
    low, high = limits.get(tag.uid, (None, None))
    if low is None and high is None:
        return None
    ends = tag.range_low if low is None else low, tag.range_high if high is None else high
    return fixed_band(*ends) if ends[0] < ends[1] else None


def _learnt(values: Sequence[float | None], widths: float, least: float) -> Band | None:
    return learnt_band([x for x in values if x is not None], widths, least)


def place_column(
    norm: Norm, tags: Sequence[Tag | None], values: Sequence[float | None],
    earlier: Sequence[Sequence[float | None]], *, stat: str, result: str, limits: LimitsByTag = NO_LIMITS,
) -> list[tuple[Band | None, Judged]]:  # fmt: skip
    """Each figure of a column with its band and its place, as `Norm.bands`."""
    bands = norm.bands(tags, values, earlier, stat=stat, result=result, limits=limits)
    return [(band, place(value, band)) for value, band in zip(values, bands, strict=True)]


@dataclass(frozen=True, slots=True)
class LimitMarks:
    """The limits of a tag's equipment class beside a figure on its scale. `low_at`, `high_at`: where they
    lie, in half widths from the centre of what is normal; None where there is no such limit, or no band.
    `broken`: low, high, or nothing."""

    low: float | None
    high: float | None
    low_at: float | None
    high_at: float | None
    broken: Literal["low", "high", ""]


def mark_limits(
    tag: Tag | None, stat: str, value: float | None, band: Band | None, limits: LimitsByTag
) -> LimitMarks | None:
    """None: the tag has no limits, or the figure does not lie on its scale."""
    low, high = (None, None) if tag is None else limits.get(tag.uid, (None, None))
    if stat not in ON_SCALE or (low is None and high is None):
        return None
    broken: Literal["low", "high", ""] = ""
    if value is not None and low is not None and value < low:
        broken = "low"
    if value is not None and high is not None and value > high:
        broken = "high"
    return LimitMarks(low, high, place(low, band).position, place(high, band).position, broken)


def oddness(placed: Sequence[Judged]) -> float:
    """How far a row's farthest figure lies from what is normal, in half widths; rows are sorted by it."""
    known = [abs(place.position) for place in placed if place.position is not None]
    return max(known, default=0.0)

"""A statistics sheet: figures in rows and columns, each placed beside what is normal for its column."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from cronaca.core.errors import InvalidInput
from cronaca.core.model import Tag
from cronaca.core.statistics.norms import WIDTHS, Band, Placed, fixed_band, learnt_band, place


class NormKind(StrEnum):
    """Where a column's band of what is normal comes from."""

    NONE = "none"
    FLEET = "fleet"
    """Learnt from the column itself: the equipment of the kind."""
    FIXED = "fixed"
    RANGE = "range"
    """The range of each tag."""
    EARLIER = "earlier"
    """Learnt for each tag from the same figure over stretches of a reference window."""


@dataclass(frozen=True, slots=True)
class Norm:
    """What is normal for a column; `low` and `high` where it is fixed."""

    kind: NormKind = NormKind.FLEET
    low: float | None = None
    high: float | None = None
    widths: float = WIDTHS

    def band_of(
        self, tag: Tag | None, column: Sequence[float | None], earlier: Sequence[float | None]
    ) -> Band | None:
        """The band for a tag in a column of figures; `earlier` are its own of the reference. None: there is
        none to be had. Raises InvalidInput."""
        if self.kind is NormKind.NONE or tag is None:
            return None
        if self.kind is NormKind.FIXED:
            if self.low is None or self.high is None:
                raise InvalidInput("low", "a fixed band has two ends", "Give low and high.")
            return fixed_band(self.low, self.high)
        if self.kind is NormKind.RANGE:
            return fixed_band(tag.range_low, tag.range_high) if tag.range_low < tag.range_high else None
        learnt_from = column if self.kind is NormKind.FLEET else earlier
        return learnt_band([x for x in learnt_from if x is not None], self.widths)


def place_column(
    norm: Norm, tags: Sequence[Tag | None], values: Sequence[float | None],
    earlier: Sequence[Sequence[float | None]],
) -> list[tuple[Band | None, Placed]]:  # fmt: skip
    """Each figure of a column with its band and its place; `earlier` are figures of the reference by row."""
    bands = [norm.band_of(tag, values, past) for tag, past in zip(tags, earlier, strict=True)]
    return [(band, place(value, band)) for value, band in zip(values, bands, strict=True)]


def oddness(placed: Sequence[Placed]) -> float:
    """How far a row's farthest figure lies from what is normal, in half widths; rows are sorted by it."""
    known = [abs(one.position) for one in placed if one.position is not None]
    return max(known, default=0.0)

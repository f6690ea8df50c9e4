"""What a series says at one instant: the recorded sample, or the value in between and how it came."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from cronaca.core import quality as q
from cronaca.core.model import Series, ValueType


class How(StrEnum):
    """How a value at an instant came about."""

    RECORDED = "recorded"
    INTERPOLATED = "interpolated"
    HELD = "held"
    NONE = "none"


@dataclass(frozen=True, slots=True)
class ReadingAt:
    """A value at `at_us`; `sample_us` is the time of the sample at or before it; no value when Bad."""

    at_us: int
    value: float | int | None
    quality: int
    how: How
    sample_us: int | None


def read_at(series: Series, at_us: int, *, stepped: bool, known_until_us: int) -> ReadingAt:
    """The value at an instant, by the line that a trend draws: sloped between two usable samples,
    held for stepped tags and behind the last sample as far as the series is known."""
    before = int(np.searchsorted(series.ts_us, at_us, side="right")) - 1
    if before < 0:
        return ReadingAt(at_us, None, q.BAD_NO_DATA, How.NONE, None)
    sample_us, quality = int(series.ts_us[before]), int(series.quality[before])
    if quality >= q.BAD:
        return ReadingAt(at_us, None, quality, How.NONE, sample_us)
    value = series.values[before].item()
    if sample_us == at_us:
        return ReadingAt(at_us, value, quality, How.RECORDED, sample_us)
    if at_us > known_until_us:
        return ReadingAt(at_us, None, q.BAD_NO_DATA, How.NONE, sample_us)
    after = before + 1
    sloped = series.value_type is ValueType.FLOAT and not stepped
    if not sloped or after >= len(series) or series.quality[after] >= q.BAD:
        return ReadingAt(at_us, value, quality, How.HELD, sample_us)
    share = (at_us - sample_us) / (int(series.ts_us[after]) - sample_us)
    between = value + share * (series.values[after].item() - value)
    worst = max(quality, int(series.quality[after]))
    return ReadingAt(at_us, between, worst, How.INTERPOLATED, sample_us)

"""Which widths of bucket there are, which a history keeps, and which one a plot takes.

Every width divides the next one and a day, so buckets never cross a day or a month (UTC).
"""

from __future__ import annotations

from typing import Final

from cronaca.core.model import DAY, HOUR, MINUTE, SECOND

LEVELS_US: Final = (10 * SECOND, MINUTE, 5 * MINUTE, 10 * MINUTE, HOUR, 6 * HOUR, DAY)
WORTH: Final = 300
"""A level is kept where its buckets hold at least this many samples on average: below that the samples
themselves are as quick to read, and take less room."""


def base_for(samples: int, recorded_us: int) -> int:
    """The finest width worth keeping for so many samples in so long; 0 when none is."""
    for width in LEVELS_US:
        if samples * width >= WORTH * recorded_us:
            return width
    return 0


def level_for(column_us: float, base_us: int) -> int:
    """The widest kept level whose buckets are no wider than a pixel column; 0 when there is none."""
    fit = [width for width in LEVELS_US if base_us and base_us <= width <= column_us]
    return fit[-1] if fit else 0


def kept_levels(base_us: int) -> tuple[int, ...]:
    """The levels a history with this base keeps."""
    return tuple(width for width in LEVELS_US if base_us and width >= base_us)

"""Which small segments of one history are written anew as one larger segment.

Segments are looked at in the order in which they were written, newest last. A new one swallows its
predecessor while that is not much larger (a geometric rule: each sample is rewritten only
O(log n) times), while both fit into one segment, and while the predecessor ends before it: late data
stay in segments of their own, so that a far-away sample never makes a segment span years.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final, NamedTuple

from cronaca.core.codec.segment import MAX_SAMPLES

_GROWTH: Final = 2


class Extent(NamedTuple):
    """What the rule needs to know of a segment."""

    start_us: int
    end_us: int
    samples: int


def swallowed(before: Sequence[Extent], new: Extent) -> int:
    """How many of the last segments in `before` are merged with `new` into one."""
    count, start = new.samples, new.start_us
    taken = 0
    for extent in reversed(before):
        fits = count + extent.samples <= MAX_SAMPLES
        if not fits or extent.samples > _GROWTH * count or extent.end_us > start:
            break
        count, start, taken = count + extent.samples, extent.start_us, taken + 1
    return taken

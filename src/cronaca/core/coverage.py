"""Where a series has no usable data, and why; and the Bad samples that say so inside the series.

Knowledge comes from four places: the stretches in which a tag was recorded at all, the gaps on record
(recorder down, spool overflow, ...), the time until which everything is committed (`known_until`), and
the Bad stretches of the series itself. An unchanged value of a recorded tag is known, not missing.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import zip_longest
from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.model import Covered, Gap, GapReason, Series, Times, ValueType, Window


def with_gaps_marked(series: Series, gaps: Sequence[Gap]) -> Series:
    """The series with a Bad, no data, sample where each gap on record begins, so that nothing bridges it. A
    real sample at that very instant stands; then the mark follows one µs later. Marking twice changes
    nothing. Samples that lie inside of a gap (a recorder that died had committed them, its knowledge of
    slower sources ended before) do not end it: a mark stands behind the last of them too."""
    starts = np.array(sorted(places_of_marks(series, gaps)), np.int64)
    if not len(starts):
        return series
    # Times are in order: looking them up beats every set operation on millions of them.
    starts = starts + _stands_at(series, starts)
    starts = np.unique(starts[~_at(series, starts)])
    places = np.searchsorted(series.ts_us, starts)
    values = np.insert(series.values, places, np.nan if series.value_type is ValueType.FLOAT else 0)
    return Series(
        series.value_type,
        np.insert(series.ts_us, places, starts),
        values.astype(series.value_type.dtype, copy=False),
        np.insert(series.quality, places, q.BAD_NO_DATA),
    )


_OF_THE_RECORDER: Final = frozenset(
    {GapReason.RECORDER_DOWN, GapReason.RECORDER_STOPPED, GapReason.CLOCK_STEP}
)
"""Of these gaps nothing is missing before the last sample inside: what was known until then was committed."""


def places_of_marks(series: Series, gaps: Sequence[Gap]) -> set[int]:
    """Where values are missing: at the start of each gap, and behind the last real sample inside it."""
    result = set()
    for gap in gaps:
        first, after = series.ts_us.searchsorted([gap.start_us + 1, gap.end_us or gap.start_us])
        real = np.flatnonzero(series.quality[first:after] != q.BAD_NO_DATA)
        # Where a mark stands behind the last of them it needs no other: so it is in what rollups kept, too,
        # which need not have kept that last sample.
        if len(real) and real[-1] == after - first - 1 and series.ts_us[after - 1] + 1 < (gap.end_us or 0):
            result.add(int(series.ts_us[after - 1]) + 1)
        if not len(real) or gap.reason not in _OF_THE_RECORDER:
            result.add(gap.start_us)
    return result


def _at(series: Series, times: Times) -> NDArray[np.bool_]:
    """Whether a sample has the very time."""
    places = np.searchsorted(series.ts_us, times)
    there = places < len(series)
    there[there] = series.ts_us[places[there]] == times[there]
    return there


def _stands_at(series: Series, times: Times) -> NDArray[np.bool_]:
    """Whether a sample that is no mark itself has the very time."""
    there = _at(series, times)
    places = np.searchsorted(series.ts_us, times[there])
    there[there] = series.quality[places] != q.BAD_NO_DATA
    return there


def bad_stretches(series: Series, end_us: int) -> list[Gap]:
    """The stretches of one Bad quality, each to the next sample of another one (or to `end_us`)."""
    bad = q.is_bad(series.quality)
    if not bad.any():
        return []
    codes = np.where(bad, series.quality, q.GOOD)
    starts = np.flatnonzero(np.r_[True, codes[1:] != codes[:-1]])
    stretches = []
    for first, after in zip(starts.tolist(), [*starts[1:].tolist(), len(series)], strict=True):
        code = int(codes[first])
        if code == q.GOOD:
            continue
        reason = GapReason.SOURCE_DOWN if code == q.BAD_NO_COMMUNICATION else GapReason.BAD_VALUES
        end = int(series.ts_us[after]) if after < len(series) else end_us
        stretches.append(Gap(int(series.ts_us[first]), end, reason, q.describe(code)))
    return stretches


@dataclass(frozen=True, slots=True)
class Knowledge:
    """What is known of one tag's history: `covered` in order of time and apart from each other, the gaps
    on record, until when a running logger's samples are committed, and why nothing is known later."""

    covered: tuple[Covered, ...]
    gaps: tuple[Gap, ...] = ()
    known_until_us: int = 0
    silence: GapReason = GapReason.NOT_YET_KNOWN
    removed_until_us: int = 0
    """Retention has deleted what lay before."""
    now_us: int | None = None
    """Behind it lies the future; None: nobody asks."""

    @property
    def until_us(self) -> int:
        """Later than this nothing is known."""
        ends = [self.known_until_us if stretch.end_us is None else stretch.end_us for stretch in self.covered]
        return max(ends, default=self.known_until_us)

    @property
    def since_us(self) -> int | None:
        """When the history begins; None when there is none."""
        return self.covered[0].start_us if self.covered else None

    def holes(self) -> list[Gap]:
        """The stretches inside and behind the history in which it was not recorded or not kept."""
        result = list(self.gaps)
        starts = [stretch.start_us for stretch in self.covered[1:]]
        for stretch, following_us in zip_longest(self.covered, starts):
            if stretch.end_us is not None:
                result.append(Gap(stretch.end_us, following_us, stretch.after))
        return result


def normalised(covered: Sequence[Covered], recording_began_us: int | None) -> tuple[Covered, ...]:
    """Coverage in order of time, overlapping and touching stretches joined. A logger covers nothing before
    the first recorder ran."""
    result: list[Covered] = []
    for stretch in sorted(_as_recorded(covered, recording_began_us), key=lambda c: c.start_us):
        last = result[-1] if result else None
        if last is None or (last.end_us is not None and last.end_us < stretch.start_us):
            result.append(stretch)
        elif last.end_us is not None and (stretch.end_us is None or stretch.end_us > last.end_us):
            result[-1] = Covered(last.start_us, stretch.end_us, stretch.after)
    return tuple(result)


def _as_recorded(covered: Sequence[Covered], recording_began_us: int | None) -> Iterator[Covered]:
    """The stretches that have a length, those of loggers from where a recorder ran."""
    for stretch in covered:
        if stretch.end_us is not None:
            if stretch.end_us > stretch.start_us:
                yield stretch
        elif recording_began_us is not None:
            yield Covered(max(stretch.start_us, recording_began_us), None, stretch.after)


def blanks(series: Series, known: Knowledge, window: Window, marked: Series | None = None) -> list[Gap]:
    """All stretches of the window without usable data, each with its reason, in order of time. `series` is
    without marks; `marked`, when it is at hand, has those of the holes in the window."""
    holes = [g for g in known.holes() if _covers(g, window)]
    # Where a gap is on record, its own reason stands; a Bad value before it ends there.
    if marked is None:
        marked = with_gaps_marked(series, holes)
    stretches = bad_stretches(marked, min(window.end_us, known.until_us))
    begins = {g.start_us for g in holes} | places_of_marks(series, holes)
    marks = {begin + late for begin in begins for late in (0, 1)}
    holes += [g for g in stretches if g.start_us not in marks and _covers(g, window)]
    first_known = window.end_us if known.since_us is None else known.since_us
    if first_known > window.start_us:
        removed = known.since_us is not None and known.since_us == known.removed_until_us
        reason = GapReason.REMOVED if removed else GapReason.NOT_YET_RECORDED
        holes.append(Gap(window.start_us, min(first_known, window.end_us), reason))
    if known.covered and known.covered[-1].end_us is None and known.known_until_us < window.end_us:
        holes += _silence(known, Window(max(known.known_until_us, window.start_us), window.end_us))
    return sorted(holes, key=lambda g: (g.start_us, g.reason))


def _silence(known: Knowledge, behind: Window) -> list[Gap]:
    """What lies behind all that is known: the last moments, and the future."""
    if known.now_us is None or known.now_us >= behind.end_us:
        return [Gap(behind.start_us, behind.end_us, known.silence)]
    now_us = max(known.now_us, behind.start_us)
    future = Gap(now_us, behind.end_us, GapReason.FUTURE)
    return [future] if now_us == behind.start_us else [Gap(behind.start_us, now_us, known.silence), future]


def _end(gap: Gap, window: Window) -> int:
    return window.end_us if gap.end_us is None else gap.end_us


def _covers(gap: Gap, window: Window) -> bool:
    return gap.start_us < window.end_us and _end(gap, window) > window.start_us

"""Tables of samples over the wire."""

from __future__ import annotations

from cronaca.api.schemas import GapOut, Micros, Model, Scalar, Uid


class SampleCell(Model):
    """A value and its quality; no value where it is Bad or there is none."""

    value: Scalar
    quality: int
    quality_text: str
    how: str
    """recorded, held, interpolated or none."""


class SampleRowOut(Model):
    """What the tags say at a time; `tag`: the one that the row is of, null for all of them in their order."""

    t_us: Micros
    tag: Uid | None
    cells: list[SampleCell]


class SampleGap(GapOut):
    """A stretch in which a tag has no samples, and why."""

    tag: Uid


class SamplesOut(Model):
    """One page of rows, newest first."""

    tags: list[Uid]
    rows: list[SampleRowOut]
    next_end_us: Micros | None
    """The next page has this as its `end`; null: this was the last page. A page may hold fewer rows than
    asked for, or none: it looked through as many samples as one page may."""
    gaps: list[SampleGap]
    """Those that begin within the page, where nothing is filtered."""


class SampleFiguresOut(Model):
    """Of the samples of a tag that match; the values of usable ones, null where there is none or the values
    are states or texts."""

    tag: Uid
    count: int
    low: Scalar
    high: Scalar
    mean: float | None

"""Tables of samples: the rows that people see, page by page from the newest on, of any length of history."""

from __future__ import annotations

import json
from collections.abc import Generator, Mapping, Sequence
from contextlib import closing
from dataclasses import dataclass, field, replace
from enum import StrEnum
from typing import Final

import numpy as np

from cronaca.core import quality as q
from cronaca.core.errors import InvalidInput
from cronaca.core.model import Gap, GapReason, Series, Tag, ValueType, Window, concatenate
from cronaca.core.samples import (
    QualityChoice,
    SampleRow,
    ValueCondition,
    grid_times,
    instants,
    joined_row,
    matching,
    newest_first,
    sample_row,
)
from cronaca.db import Store
from cronaca.db.transaction import Transaction
from cronaca.history.read.series import SeriesReader, Stretch
from cronaca.logbook.texts import texts_of

MOST_TABLE_TAGS: Final = 32
MOST_LOOKED_AT: Final = 2_000_000
"""Samples that one page looks through for those that match; the next page goes on from there."""
MOST_ORDERED: Final = 1_000_000
MOST_SUMMED: Final = 5_000_000
_STRETCH: Final = 200_000
_MOST_GRID: Final = 5_000
"""Times of a grid that are looked at in one stretch for those that match."""
_NOT_A_GAP: Final = (GapReason.NOT_YET_KNOWN, GapReason.FUTURE)


class Layout(StrEnum):
    """What a row is: one sample; a time at which any of the tags was recorded; a time of a grid."""

    SAMPLE = "sample"
    TIME = "time"
    GRID = "grid"


class RowOrder(StrEnum):
    """Newest first; or by value, which needs all that matches in memory."""

    NEWEST = "newest"
    LARGEST = "largest"
    SMALLEST = "smallest"


@dataclass(frozen=True, slots=True)
class Selection:
    """Which samples a table shows. `archives`: by tag, where not the fitting one."""

    tags: tuple[Tag, ...]
    window: Window
    condition: ValueCondition | None = None
    quality: QualityChoice = QualityChoice.ANY
    archives: Mapping[int, int] = field(default_factory=dict)

    @property
    def is_filtered(self) -> bool:
        """Whether some samples of the window are left out."""
        return self.condition is not None or self.quality is not QualityChoice.ANY

    @property
    def numbers(self) -> list[int]:
        """The numbers of the tags."""
        return [tag.tag_id for tag in self.tags]


@dataclass(frozen=True, slots=True)
class PageSpec:
    """How the rows of one page are made: the interval of a grid in µs, whether values between samples are
    interpolated (else held), how many rows at least, and how many are left out where they are by value."""

    layout: Layout = Layout.SAMPLE
    step_us: int = 1_000_000
    interpolated: bool = False
    limit: int = 200
    order: RowOrder = RowOrder.NEWEST
    offset: int = 0


@dataclass(frozen=True, slots=True)
class SamplesPage:
    """Rows, newest first. `next_end_us`: the next page is that of the window until then; None: this was the
    last one. `gaps`: by place of the tag, those that begin within the page, where nothing is filtered."""

    rows: list[SampleRow]
    next_end_us: int | None
    gaps: list[tuple[int, Gap]]
    texts: Mapping[int, str]


@dataclass(frozen=True, slots=True)
class SampleFigures:
    """Of the samples of one tag that match; of usable values. None: there is none, or the values are states
    or texts."""

    count: int
    low: float | int | None
    high: float | int | None
    mean: float | None


class SampleTables:
    """Reads tables of samples."""

    def __init__(self, store: Store, reader: SeriesReader) -> None:
        self._store = store
        self._reader = reader

    def page(self, of: Selection, spec: PageSpec) -> SamplesPage:
        """One page. Raises InvalidInput for an order that needs more than a million samples."""
        if spec.order is not RowOrder.NEWEST:
            return self._by_value(of, spec)
        rows: list[SampleRow] = []
        gaps: list[tuple[int, Gap]] = []
        reached_us = of.window.end_us
        about = _STRETCH if of.is_filtered else 2 * spec.limit
        with closing(self._stretches(of, about)) as stretches:
            for stretch in stretches:
                found, reached_us = _rows(of, spec, stretch, spec.limit - len(rows))
                rows += found
                gaps += [] if of.is_filtered else _gaps(stretch, of.window)
                if len(rows) >= spec.limit or reached_us > stretch.window.start_us:
                    break
        is_last = reached_us <= of.window.start_us
        gaps = [(tag, gap) for tag, gap in gaps if is_last or gap.start_us >= reached_us]
        return SamplesPage(rows, None if is_last else reached_us, gaps, self._texts(of.tags, rows))

    def whole(self, of: Selection, spec: PageSpec, most: int) -> SamplesPage:
        """All rows, in the order of their pages. Raises InvalidInput for more than so many."""
        page = self.page(of, replace(spec, limit=most + 1))
        rows, texts = page.rows, dict(page.texts)
        while page.next_end_us is not None and len(rows) <= most and spec.order is RowOrder.NEWEST:
            earlier = replace(of, window=Window(of.window.start_us, page.next_end_us))
            page = self.page(earlier, replace(spec, limit=most + 1 - len(rows)))
            rows, texts = rows + page.rows, texts | dict(page.texts)
        if len(rows) > most:
            raise InvalidInput(
                "end",
                "more-rows",
                "there are more than {most:,} rows",
                "Choose a shorter window, or have the file prepared in the background.",
                most=most,
            )
        return SamplesPage(rows, None, [], texts)

    def figures(self, of: Selection) -> list[SampleFigures]:
        """Of each tag, over all its samples that match. Raises InvalidInput for more than can be read at
        once."""
        return [_figures(part) for part in self._all(of, MOST_SUMMED, "end")]

    def matching_back(self, of: Selection) -> Generator[tuple[Window, list[Series]]]:
        """Of each tag the samples that match, a large stretch at a time from the end of the window
        on, however many there are. Nothing of the database is held between two stretches."""
        end_us = of.window.end_us
        while end_us > of.window.start_us:
            rest = replace(of, window=Window(of.window.start_us, end_us))
            found: list[list[Series]] = [[] for _ in of.tags]
            reached_us = end_us
            with closing(self._stretches(rest, _STRETCH)) as stretches:
                for stretch in stretches:
                    reached_us = stretch.window.start_us
                    for mine, series in zip(found, _matching(of, stretch), strict=True):
                        mine.append(series)
            yield Window(reached_us, end_us), _joined(of.tags, found)
            end_us = reached_us

    def _by_value(self, of: Selection, spec: PageSpec) -> SamplesPage:
        check_order(of, spec)
        found = [part.take(~q.is_bad(part.quality)) for part in self._all(of, MOST_ORDERED, "order")]
        lengths = [len(part) for part in found]
        values = np.concatenate([part.values for part in found])
        ordered = np.argsort(values, kind="stable")[:: -1 if spec.order is RowOrder.LARGEST else 1]
        starts = np.cumsum([0, *lengths])
        rows = []
        for place in ordered[spec.offset : spec.offset + spec.limit].tolist():
            tag = int(np.searchsorted(starts, place, side="right")) - 1
            rows.append(sample_row(found[tag], tag, place - int(starts[tag])))
        is_last = spec.offset + len(rows) >= sum(lengths)
        return SamplesPage(rows, None if is_last else of.window.end_us, [], {})

    def _stretches(self, of: Selection, about: int) -> Generator[Stretch]:
        """Stretches of the window from its end on, until enough samples were looked at."""
        looked = 0
        with closing(self._reader.read_back(of.numbers, of.window, about, of.archives)) as stretches:
            for stretch in stretches:
                yield stretch
                looked += sum(answer.samples for answer in stretch.answers)
                if looked >= MOST_LOOKED_AT:
                    return

    def _all(self, of: Selection, most: int, named: str) -> list[Series]:
        """Of each tag all samples that match, newest stretch last."""
        found: list[list[Series]] = [[] for _ in of.tags]
        looked = 0
        with closing(self._reader.read_back(of.numbers, of.window, _STRETCH, of.archives)) as stretches:
            for stretch in stretches:
                looked += sum(answer.samples for answer in stretch.answers)
                if looked > most:
                    raise InvalidInput(
                        named,
                        "window-holds-more-samples",
                        "the window holds more than {most:,} samples of these tags",
                        "Choose a shorter window or fewer tags; a file in the background takes any number.",
                        most=most,
                    )
                for mine, series in zip(found, _matching(of, stretch), strict=True):
                    mine.append(series)
        return _joined(of.tags, found)

    def _texts(self, tags: Sequence[Tag], rows: Sequence[SampleRow]) -> Mapping[int, str]:
        codes = set()
        for row in rows:
            mine = tags if row.tag is None else [tags[row.tag]]
            for tag, cell in zip(mine, row.cells, strict=True):
                if tag.value_type is ValueType.TEXT and cell.value is not None:
                    codes.add(int(cell.value))
        with self._store.snapshot() as tx:
            return texts_of(tx, codes)


def check_order(of: Selection, spec: PageSpec) -> None:
    """Raises InvalidInput where rows cannot be in the order that is asked for."""
    if spec.order is RowOrder.NEWEST:
        return
    if spec.layout is not Layout.SAMPLE:
        raise InvalidInput(
            "order",
            "only-single-samples-ordered",
            "only single samples are ordered by value",
            "Choose one row per sample.",
        )
    if any(tag.value_type is ValueType.TEXT for tag in of.tags):
        raise InvalidInput(
            "order", "texts-no-order-value", "texts have no order by value", "Leave out tags of texts."
        )


def _rows(of: Selection, spec: PageSpec, stretch: Stretch, limit: int) -> tuple[list[SampleRow], int]:
    """The newest rows of a stretch, and back to which moment they are all."""
    part, answers = stretch.window, stretch.answers
    if spec.layout is Layout.SAMPLE:
        rows = newest_first(_matching(of, stretch), limit)
        return rows, rows[-1].ts_us if len(rows) >= limit else part.start_us
    if spec.layout is Layout.TIME:
        times = instants(_matching(of, stretch))
        most = limit
    else:
        known_us = max(answer.known_until_us for answer in answers) + 1
        until_us = max(min(part.end_us, known_us), part.start_us)
        most = _MOST_GRID if of.is_filtered else limit
        times = grid_times(Window(part.start_us, until_us), spec.step_us, most + 1)
    series = [answer.series for answer in answers]
    known = [answer.known_until_us for answer in answers]
    holds = [not spec.interpolated or tag.stepped or tag.value_type is not ValueType.FLOAT for tag in of.tags]
    rows = [joined_row(at, series, holds, known) for at in times[:most].tolist()]
    reached_us = int(times[most - 1]) if len(times) > most else part.start_us
    if spec.layout is Layout.GRID:
        rows = _matching_rows(of, rows, stretch.tx)
    if len(rows) > limit:
        rows = rows[:limit]
        reached_us = rows[-1].ts_us
    return rows, reached_us


def _joined(tags: Sequence[Tag], found: Sequence[Sequence[Series]]) -> list[Series]:
    """Of each tag what was found from the latest stretch on, in order of time."""
    return [concatenate(mine[::-1], tag.value_type) for tag, mine in zip(tags, found, strict=True)]


def _matching(of: Selection, stretch: Stretch) -> list[Series]:
    found = []
    part = stretch.window
    for tag, answer in zip(of.tags, stretch.answers, strict=True):
        times = answer.recorded.ts_us
        inside = answer.recorded.take((times >= part.start_us) & (times < part.end_us))
        names = _names(stretch.tx, tag, inside) if of.condition is not None else {}
        found.append(matching(inside, of.condition, of.quality, names))
    return found


def _matching_rows(of: Selection, rows: list[SampleRow], tx: Transaction) -> list[SampleRow]:
    """Rows of which a cell matches."""
    if not of.is_filtered or not rows:
        return rows
    kept: set[int] = set()
    for place, tag in enumerate(of.tags):
        cells = [row.cells[place] for row in rows]
        column = Series.of(
            tag.value_type, [row.ts_us for row in rows], [cell.value or 0 for cell in cells],
            [cell.quality for cell in cells],
        )  # fmt: skip
        found = matching(column, of.condition, of.quality, _names(tx, tag, column))
        kept |= set(found.ts_us.tolist())
    return [row for row in rows if row.ts_us in kept]


def _names(tx: Transaction, tag: Tag, series: Series) -> Mapping[int, str]:
    if tag.value_type is ValueType.TEXT:
        return texts_of(tx, np.unique(series.values).tolist())
    return state_names(tag)


def state_names(tag: Tag) -> dict[int, str]:
    """What the numbers of a tag are called."""
    return {int(number): name for number, name in json.loads(tag.states or "{}").items()}


def _gaps(stretch: Stretch, window: Window) -> list[tuple[int, Gap]]:
    """The gaps that begin in a stretch; at the start of the window those too that began before it. Bad
    samples are rows of their own."""
    part = stretch.window
    since_us = part.start_us if part.start_us > window.start_us else 0
    return [
        (place, gap)
        for place, answer in enumerate(stretch.answers)
        for gap in answer.blanks
        if gap.reason not in _NOT_A_GAP
        and since_us <= gap.start_us < part.end_us
        and not _has_sample(answer.recorded, gap.start_us)
    ]


def _has_sample(series: Series, at_us: int) -> bool:
    place = int(series.ts_us.searchsorted(at_us))
    return place < len(series) and int(series.ts_us[place]) == at_us


def _figures(series: Series) -> SampleFigures:
    usable = series.values[~q.is_bad(series.quality)]
    if not len(usable) or series.value_type.discrete:
        return SampleFigures(len(series), None, None, None)
    mean = float(usable.mean(dtype=np.float64))
    return SampleFigures(len(series), usable.min().item(), usable.max().item(), mean)

"""Pictures of a figure: over time, spread, shares, states; all from one request."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from cronaca.core.errors import InvalidInput
from cronaca.core.model import Tag, ValueType, Window
from cronaca.core.statistics.drilldown import common_scale, drawn_band, pareto, stretch_length, timeline
from cronaca.core.statistics.norms import Band, Judged
from cronaca.core.statistics.sheet import NormKind, place_column
from cronaca.core.windows import Unit
from cronaca.db import Store
from cronaca.history.read.series import SeriesReader
from cronaca.plant import equipment_changes
from cronaca.plant.tags import find_tags
from cronaca.services import figures as f
from cronaca.services.figures import FigureService
from cronaca.services.statistics import specs as s
from cronaca.services.statistics.cells import first_number, number_of, result_of

BINS: Final = 24
MOST_STRETCHES: Final = 2_000
_FIVE: Final = (
    f.FigureSpec("Minimum"),
    *(f.FigureSpec(stat="Percentile", percent=percent) for percent in (25.0, 50.0, 75.0)),
    f.FigureSpec(stat="Maximum"),
)
_ADDS: Final = frozenset({"count", "ms", "seconds", "integral"})
"""Results that make sense as parts of a sum."""
_Column = Sequence[tuple[Band | None, Judged]]


class DrilldownService:
    """A figure of several pieces, looked at more closely."""

    def __init__(self, figures: FigureService, store: Store, reader: SeriesReader) -> None:
        self._figures = figures
        self._store = store
        self._reader = reader

    def look(self, spec: s.DrilldownSpec) -> s.DrilldownFound:
        """All pictures. Raises InvalidInput."""
        if spec.norm.kind is NormKind.EARLIER:
            raise InvalidInput(
                "norm",
                "stretches-compared-with-like",
                "stretches are compared with similar ones",
                "Choose another.",
            )
        tags = self._tags(spec.tags)
        window, whole = self._figures.compute_each(
            {tag.uid: [spec.figure] for tag in tags}, spec.window, spec.configuration
        )
        span = Window(window.start_us, window.end_us)
        results = self._compute(spec, tags, [spec.figure], span, cut=True)
        first = results[tags[0].uid][0]
        for refused in (results[tag.uid][0].refused for tag in tags):
            if refused is not None:
                raise refused
        values = [[number_of(value.value) for value in results[tag.uid][0].values] for tag in tags]
        placed = self._placed(spec, tags, values)
        bands = [drawn_band(column[0][0], spec.figure.stat) for column in placed]
        low, high = common_scale(values, bands)
        numbers = [tag for tag in tags if tag.value_type in (ValueType.FLOAT, ValueType.INTEGER)]
        edges, shares = self._shares(spec, span, numbers)
        return s.DrilldownFound(
            window=window, unit=first.unit, starts_us=tuple(value.start_us for value in first.values),
            over_time=tuple(
                s.OverTime(tag.uid, tuple(values[i]), tuple(column[i][1].place for column in placed))
                for i, tag in enumerate(tags)
            ),
            bands=tuple(bands), low=low, high=high,
            boxes=tuple(self._boxes(spec, span, numbers)), edges=tuple(edges), shares=tuple(shares),
            parts=_parts([(tag.uid, first_number(whole[tag.uid][0])) for tag in tags], spec.figure.stat),
            timelines=tuple(self._timelines(spec, span, tags)),
        )  # fmt: skip

    def _tags(self, uids: Sequence[str]) -> list[Tag]:
        with self._store.snapshot() as tx:
            known = find_tags(tx, sorted(set(uids)))
        if len(set(uids)) < len(uids):
            raise InvalidInput("tags", "tag-named-twice", "a tag is named twice", "Name each tag once.")
        for uid in uids:
            if uid not in known:
                raise InvalidInput(
                    "tags", "tags-no-tag", "there is no tag {uid}", "Take a uid from /api/tags.", uid=uid
                )
        return [known[uid] for uid in uids]

    def _compute(
        self, spec: s.DrilldownSpec, tags: Sequence[Tag], figures: Sequence[f.FigureSpec], span: Window,
        *, cut: bool = False,
    ) -> dict[str, list[f.FigureResult]]:  # fmt: skip
        split = _split(spec, span) if cut else f.SplitSpec()
        window = f.WindowSpec(start_us=span.start_us, end_us=span.end_us, split=split)
        asked = {tag.uid: figures for tag in tags}
        return self._figures.compute_each(asked, window, spec.configuration)[1] if asked else {}

    def _placed(
        self, spec: s.DrilldownSpec, tags: Sequence[Tag], values: Sequence[Sequence[float | None]]
    ) -> list[_Column]:
        """Each stretch beside what is normal for it."""
        norm, stat = spec.norm, spec.figure.stat
        with self._store.snapshot() as tx:
            limits = equipment_changes.list_limits(tx) if norm.kind is NormKind.LIMITS else {}
        return [
            place_column(
                norm, tags, list(column), [[]] * len(tags), stat=stat, result=result_of(stat), limits=limits
            )
            for column in zip(*values, strict=True)
        ]

    def _boxes(self, spec: s.DrilldownSpec, span: Window, tags: Sequence[Tag]) -> list[s.Box]:
        results = self._compute(spec, tags, list(_FIVE), span)
        boxes = []
        for uid, figures in results.items():
            five = [value for figure in figures if (value := first_number(figure)) is not None]
            if len(five) == len(_FIVE):
                low, lower, median, upper, high = five
                boxes.append(s.Box(
                    tag=uid, low=low, lower_quartile=lower, median=median, upper_quartile=upper, high=high
                ))  # fmt: skip
        return boxes

    def _shares(
        self, spec: s.DrilldownSpec, span: Window, tags: Sequence[Tag]
    ) -> tuple[list[float], list[s.Shares]]:
        """Histograms by time over bins that all share."""
        ends = self._compute(spec, tags, [_FIVE[0], _FIVE[-1]], span)
        known = [
            value for both in ends.values() for side in both if (value := first_number(side)) is not None
        ]
        if not known or min(known) == max(known):
            return [], []
        figure = f.FigureSpec(stat="Histogram", bins=BINS, low=min(known), high=max(known))
        counted = self._compute(spec, tags, [figure], span)
        tables = {uid: figures[0].tables[0] for uid, figures in counted.items() if figures[0].tables}
        bins: Sequence[f.Bin] = next((table.bins for table in tables.values()), ())
        shares = []
        for uid, table in tables.items():
            whole = sum(part.amount for part in table.bins)
            if whole > 0.0:
                percent = [100.0 * part.amount / whole for part in table.bins]
                shares.append(s.Shares(uid, tuple(percent)))
        return [part.low for part in bins] + [part.high for part in bins[-1:]], shares

    def _timelines(self, spec: s.DrilldownSpec, span: Window, tags: Sequence[Tag]) -> list[s.Timeline]:
        discrete = [tag for tag in tags if tag.value_type in (ValueType.BOOLEAN, ValueType.STATE)]
        if not discrete:
            return []
        results = self._compute(spec, discrete, [f.FigureSpec(stat="TimeInStates")], span)
        answers = self._reader.read_many([tag.tag_id for tag in discrete], span)
        lines = []
        for tag, answer in zip(discrete, answers, strict=True):
            known_us = max(min(span.end_us, answer.known_until_us), span.start_us + 1)
            stretches = timeline(answer.series, Window(span.start_us, known_us))
            tables = results[tag.uid][0].tables
            lines.append(s.Timeline(
                tag=tag.uid, whole=len(stretches) <= MOST_STRETCHES,
                stretches=tuple(
                    s.StateStretch(stretch.start_us, stretch.end_us, stretch.value)
                    for stretch in stretches[-MOST_STRETCHES:]
                ),
                states=tables[0].states if tables else (),
            ))  # fmt: skip
        return lines


def _parts(values: Sequence[tuple[str, float | None]], stat: str) -> tuple[s.Part, ...]:
    if result_of(stat) not in _ADDS:
        return ()
    return tuple(
        s.Part(
            tag=values[part.index][0], value=part.value, percent=100.0 * part.share,
            cumulative=100.0 * part.cumulative,
        )
        for part in pareto([value for _, value in values])
    )  # fmt: skip


def _split(spec: s.DrilldownSpec, span: Window) -> f.SplitSpec:
    if spec.per == "auto":
        return f.SplitSpec(interval_us=stretch_length(span))
    return f.SplitSpec(unit=Unit(spec.per))

"""Two tags against each other: their values at the same instants, and how closely they go together."""

from __future__ import annotations

from collections.abc import Sequence

from cronaca.core.errors import InvalidInput
from cronaca.core.model import SECOND, Window
from cronaca.core.statistics.drilldown import common_scale
from cronaca.services import figures as f
from cronaca.services.figures import FigureService
from cronaca.services.statistics import specs as s
from cronaca.services.statistics.cells import first_number, number_of


class ScatterService:
    """Scatter pictures of pairs of tags."""

    def __init__(self, figures: FigureService) -> None:
        self._figures = figures

    def look(self, spec: s.ScatterSpec) -> s.ScatterFound:
        """The values of both at instants that all pairs share, interpolated as each tag is between samples;
        Pearson's r on the same instants. Raises InvalidInput."""
        uids = sorted({uid for pair in spec.pairs for uid in (pair.x, pair.y)})
        value = [f.FigureSpec("Interpolative")]
        whole, _ = self._figures.compute_each({uids[0]: value}, spec.window, spec.configuration)
        span = Window(whole.start_us, whole.end_us)
        step_us = max(span.length_us // spec.points, SECOND)
        grid = f.WindowSpec(
            start_us=span.start_us, end_us=span.end_us, split=f.SplitSpec(interval_us=step_us)
        )
        _, results = self._figures.compute_each(dict.fromkeys(uids, value), grid, spec.configuration)
        figures = {uid: _usable(results[uid][0]) for uid in uids}
        values = {uid: [number_of(value.value) for value in figure.values] for uid, figure in figures.items()}
        first = figures[spec.pairs[0].x]
        low_x, high_x = common_scale([values[pair.x] for pair in spec.pairs], [])
        low_y, high_y = common_scale([values[pair.y] for pair in spec.pairs], [])
        return s.ScatterFound(
            window=whole, times_us=tuple(value.start_us for value in first.values), unit_x=first.unit,
            unit_y=figures[spec.pairs[0].y].unit, low_x=low_x, high_x=high_x, low_y=low_y, high_y=high_y,
            pairs=tuple(
                s.ScatterPair(pair.x, pair.y, tuple(values[pair.x]), tuple(values[pair.y]), r)
                for pair, r in zip(spec.pairs, self._correlations(spec, span, step_us), strict=True)
            ),
        )  # fmt: skip

    def _correlations(self, spec: s.ScatterSpec, span: Window, step_us: int) -> Sequence[float | None]:
        whole = f.WindowSpec(start_us=span.start_us, end_us=span.end_us)
        asked: dict[str, list[f.FigureSpec]] = {}
        for pair in spec.pairs:
            figure = f.FigureSpec(stat="Correlation", other=pair.y, base_us=step_us)
            asked.setdefault(pair.x, []).append(figure)
        _, results = self._figures.compute_each(asked, whole, spec.configuration)
        left = {uid: iter(figures) for uid, figures in results.items()}
        return [first_number(next(left[pair.x])) for pair in spec.pairs]


def _usable(figure: f.FigureResult) -> f.FigureResult:
    if figure.refused is not None:
        raise InvalidInput(
            "pairs", "pairs-refused", "{reason}", "Choose tags with numbers.", reason=figure.refused.problem
        )
    return figure

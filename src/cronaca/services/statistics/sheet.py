"""From a request for a statistics sheet or a control chart to its answer."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from typing import Final
from zoneinfo import ZoneInfo

import numpy as np

from cronaca.core import control
from cronaca.core.aggregates.samples import Floats
from cronaca.core.equipment import ClassSpec
from cronaca.core.errors import InvalidInput
from cronaca.core.model import Tag, Window
from cronaca.core.statistics import kinds_of
from cronaca.core.statistics.norms import Judged
from cronaca.core.statistics.sheet import LimitsByTag, NormKind, mark_limits, oddness, place_column
from cronaca.core.windows import WindowRequest, earlier, wish_before
from cronaca.db import Store
from cronaca.plant import equipment, equipment_changes
from cronaca.plant.site import find_plant
from cronaca.plant.tags import find_tags, list_tags
from cronaca.services import figures as f
from cronaca.services.figures import FigureService, Scalar
from cronaca.services.statistics import specs as s
from cronaca.services.statistics.cells import first_cell, number_of, result_of

MOST_CELLS: Final = 20_000
MOST_POINTS: Final = 5_000
STRETCHES: Final = 12
"""So many earlier windows are learnt from."""
_DAYS: Final = {"day": 1, "week": 7}


class StatisticsService:
    """Figures beside what is normal for them."""

    def __init__(self, figures: FigureService, store: Store) -> None:
        self._figures = figures
        self._store = store

    def kinds(self) -> list[s.EquipmentKind]:
        """Equipment of one kind, and what it has."""
        with self._store.snapshot() as tx:
            groups = kinds_of(list_tags(tx), equipment_changes.list_kinds(tx))
            classes = {row.spec.name: row for row in equipment.list_classes(tx)}
        return [
            s.EquipmentKind(
                name=kind.name, equipment=tuple(kind.equipment),
                members=tuple(_member(name, tags) for name, tags in kind.members.items()),
                equipment_class=None if kind.name not in classes else classes[kind.name].uid,
                card=() if kind.name not in classes else _card(classes[kind.name].spec),
            )
            for kind in groups
        ]  # fmt: skip

    def sheet(self, spec: s.SheetSpec) -> s.SheetFound:
        """All figures of the sheet, each placed beside what is normal for its column. Raises InvalidInput."""
        _check(spec)
        tags = self._tags({uid for row in spec.rows for uid in row.tags if uid is not None})
        now_us = self._figures.now_us()
        asked = _asked(spec.rows, spec.columns)
        window, computed = self._compute(spec, asked, _until(spec.window, now_us))
        beside = None
        others: dict[str, list[f.FigureResult]] = {}
        if spec.beside is not None:
            other = self._other(spec, window)
            beside, others = self._compute(spec, asked, _until(other, now_us))
        past = self._past(spec, window, now_us)
        limits = self._limits()
        columns = [
            _column(spec, i, tags, _Figures(asked, computed), _Figures(asked, others), past, limits)
            for i in range(len(spec.columns))
        ]
        rows = [
            s.SheetRow(
                name=row.name, cells=tuple(column[i][0] for column in columns),
                oddness=oddness([column[i][1] for column in columns]),
            )
            for i, row in enumerate(spec.rows)
        ]  # fmt: skip
        return s.SheetFound(now_us, window, beside, tuple(rows))

    def control(self, spec: s.ControlSpec) -> s.ControlFound:
        """A control chart of a figure. Raises InvalidInput."""
        now_us = self._figures.now_us()
        window, values = self._stretches(spec, _until(spec.window, now_us))
        known, reference = window, values
        if spec.reference is not None:
            given = spec.reference
            other = given if isinstance(given, f.WindowSpec) else _before(spec.window, window)
            known, reference = self._stretches(spec, _until(other, now_us))
        points, normal = _numbers(values), _numbers(reference)
        charts, every = _charts(spec, points, normal)
        starts = [value.start_us for value in values.values][: len(values.values) // every * every : every]
        rules = [s.RuleText(n, control.RULES[n].words) for n in sorted({1, *spec.rules})]
        return s.ControlFound(window, known, values.unit, tuple(starts), tuple(charts), tuple(rules))

    def _compute(
        self, spec: s.SheetSpec, asked: _Asked, window: f.WindowSpec
    ) -> tuple[f.ResolvedWindow, dict[str, list[f.FigureResult]]]:
        return self._figures.compute_each(asked.figures, window, spec.configuration, exact=spec.exact)

    def _other(self, spec: s.SheetSpec, window: f.ResolvedWindow) -> f.WindowSpec:
        """The window that the figures stand beside."""
        if isinstance(spec.beside, f.WindowSpec):
            return spec.beside
        days = _DAYS.get(spec.beside or "")
        if days is None:
            return _before(spec.window, window)
        with self._store.snapshot() as tx:
            plant = find_plant(tx)
        other = earlier(_plain(window), days, ZoneInfo("UTC") if plant is None else plant.calendar.zone)
        return f.WindowSpec(start_us=other.start_us, end_us=other.end_us)

    def _past(self, spec: s.SheetSpec, window: f.ResolvedWindow, now_us: int) -> _Figures:
        """The figures that columns learn from."""
        learning = [column.norm.kind is NormKind.EARLIER for column in spec.columns]
        if not any(learning):
            return _Figures(_Asked(), {})
        if spec.reference is None:
            raise InvalidInput(
                "reference",
                "columns-learn-earlier-figures",
                "columns learn from earlier figures",
                "Give the window, split.",
            )
        asked = _asked(spec.rows, spec.columns, learning)
        given = spec.reference
        reference = given if isinstance(given, f.WindowSpec) else _stretches_before(window)
        return _Figures(asked, self._compute(spec, asked, _until(reference, now_us))[1])

    def _limits(self) -> LimitsByTag:
        with self._store.snapshot() as tx:
            return equipment_changes.list_limits(tx)

    def _stretches(
        self, spec: s.ControlSpec, window: f.WindowSpec
    ) -> tuple[f.ResolvedWindow, f.FigureResult]:
        asked = {spec.tag: [spec.figure]}
        resolved, figures = self._figures.compute_each(asked, window, spec.configuration)
        (figure,) = figures[spec.tag]
        if figure.refused is not None:
            raise figure.refused
        if figure.tables or not all(_is_number(value.value) for value in figure.values):
            raise InvalidInput(
                "figure", "chart-numbers", "a chart is of numbers", "Choose a figure of one number."
            )
        if len(figure.values) > MOST_POINTS:
            raise InvalidInput(
                "window",
                "makes-more-points",
                "it makes more than {most_points:,} points",
                "Split it less.",
                most_points=MOST_POINTS,
            )
        return resolved, figure

    def _tags(self, uids: set[str]) -> dict[str, Tag]:
        with self._store.snapshot() as tx:
            return find_tags(tx, sorted(uids))


class _Asked:
    """Each tag once, with the figures that columns want of it."""

    def __init__(self) -> None:
        self.figures: dict[str, list[f.FigureSpec]] = {}
        self._places: dict[tuple[str, f.FigureSpec], int] = {}

    def add(self, uid: str, figure: f.FigureSpec) -> None:
        """Asks for a figure of a tag."""
        figures = self.figures.setdefault(uid, [])
        if (uid, figure) not in self._places:
            self._places[uid, figure] = len(figures)
            figures.append(figure)

    def place(self, uid: str, key: f.FigureSpec) -> int | None:
        """Where among a tag's figures this one stands."""
        return self._places.get((uid, key))


class _Figures:
    """Figures by tag and by what was asked of it."""

    def __init__(self, asked: _Asked, results: dict[str, list[f.FigureResult]]) -> None:
        self._asked = asked
        self._found = results

    def find(self, uid: str | None, key: f.FigureSpec) -> f.FigureResult | None:
        """The figure of a tag, if it was computed."""
        place = None if uid is None else self._asked.place(uid, key)
        return None if uid is None or place is None or uid not in self._found else self._found[uid][place]


def _check(spec: s.SheetSpec) -> None:
    width = len(spec.columns)
    for row in spec.rows:
        if len(row.tags) != width:
            raise InvalidInput(
                "rows",
                "tags-columns",
                "{row} has {tags} tags for {width} columns",
                "Give one a column.",
                row=row.name,
                tags=len(row.tags),
                width=width,
            )
    if len(spec.rows) * width > MOST_CELLS:
        raise InvalidInput(
            "rows",
            "makes-more-figures",
            "this makes more than {most_cells:,} figures",
            "Ask for fewer.",
            most_cells=MOST_CELLS,
        )


def _asked(
    rows: Iterable[s.RowSpec], columns: Sequence[s.ColumnSpec], chosen: Sequence[bool] | None = None
) -> _Asked:
    """What the columns (or the chosen ones) want of the tags."""
    asked = _Asked()
    for row in rows:
        for i, uid in enumerate(row.tags):
            if uid is not None and (chosen is None or chosen[i]):
                asked.add(uid, columns[i].figure)
    if not asked.figures:
        raise InvalidInput("rows", "no-row-tag", "no row has a tag", "Name at least one.")
    return asked


def _until(window: f.WindowSpec, now_us: int) -> f.WindowSpec:
    """All windows of one request end with the same now."""
    return replace(window, end_us=now_us) if window.end_us is None else window


def _before(asked: f.WindowSpec, window: f.ResolvedWindow) -> f.WindowSpec:
    wish = WindowRequest(unit=asked.unit, which=asked.which, count=asked.count)
    spec = wish_before(wish, _plain(window))
    return f.WindowSpec(
        start_us=spec.start_us, end_us=spec.end_us, unit=spec.unit, which=spec.which, count=spec.count,
        split=asked.split,
    )  # fmt: skip


def _stretches_before(window: f.ResolvedWindow) -> f.WindowSpec:
    """As many stretches of the window's length as are learnt from."""
    stretch = _plain(window)
    start_us = max(stretch.start_us - STRETCHES * stretch.length_us, 0)
    split = f.SplitSpec(interval_us=stretch.length_us)
    return f.WindowSpec(start_us=start_us, end_us=stretch.start_us, split=split)


def _plain(window: f.ResolvedWindow) -> Window:
    return Window(window.start_us, window.end_us)


def _column(
    spec: s.SheetSpec, i: int, tags: dict[str, Tag], results: _Figures, others: _Figures, past: _Figures,
    limits: LimitsByTag,
) -> list[tuple[s.Cell, Judged]]:  # fmt: skip
    """The cells of one column, from top to bottom."""
    column, uids = spec.columns[i], [row.tags[i] for row in spec.rows]
    key = column.figure
    figures = [results.find(uid, key) for uid in uids]
    beside = [_value(others.find(uid, key)) for uid in uids]
    earlier = [_all_values(past.find(uid, key)) for uid in uids]
    of_rows = [None if uid is None else tags.get(uid) for uid in uids]
    values = [number_of(_value(figure)) for figure in figures]
    stat = column.figure.stat
    placed = place_column(
        column.norm, of_rows, values, earlier, stat=stat, result=result_of(stat), limits=limits
    )
    marks = [
        mark_limits(tag, stat, value, band, limits)
        for tag, value, (band, _) in zip(of_rows, values, placed, strict=True)
    ]
    return [
        (first_cell(uid, figure, band, at, other, mark), at)
        for uid, figure, (band, at), other, mark in zip(uids, figures, placed, beside, marks, strict=True)
    ]


def _value(figure: f.FigureResult | None) -> Scalar:
    return None if figure is None or not figure.values else figure.values[0].value


def _all_values(figure: f.FigureResult | None) -> list[float | None]:
    return [] if figure is None else [number_of(value.value) for value in figure.values]


def _is_number(value: Scalar) -> bool:
    return value is None or number_of(value) is not None


def _numbers(figure: f.FigureResult) -> Floats:
    values = [number_of(value.value) for value in figure.values]
    return np.array([np.nan if value is None else value for value in values], np.float64)


def _charts(spec: s.ControlSpec, points: Floats, normal: Floats) -> tuple[list[s.ControlChart], int]:
    """The charts asked for, and how many stretches make a point."""
    if spec.chart == "means":
        size = spec.size
        pair = control.means_and_ranges(_groups(points, size), _groups(normal, size))
        return [_drawn("mean", pair.places, spec.rules), _drawn("range", pair.spreads, [])], size
    if spec.chart == "ewma":
        smooth = control.ewma(points, normal, weight=spec.weight)
        return [_drawn("moving average", smooth, [])], 1
    if spec.chart == "cusum":
        centre, sigma = control.mean_and_deviation(normal)
        if sigma == 0.0:
            raise InvalidInput(
                "reference", "values-not-differ", "its values do not differ", "Choose one that does."
            )
        sums = control.cusum(
            points, target=centre, allowance=spec.allowance * sigma, limit=spec.limit * sigma
        )
        return [_summed("sum above", sums.high, sums.limit), _summed("sum below", sums.low, sums.limit)], 1
    pair = control.individuals(points, normal)
    return [_drawn("value", pair.places, spec.rules), _drawn("moving range", pair.spreads, [])], 1


def _groups(values: Floats, size: int) -> np.ndarray[tuple[int, int], np.dtype[np.float64]]:
    whole = values[: len(values) // size * size]
    if not len(whole):
        raise InvalidInput(
            "window",
            "holds-no-subgroup-stretches",
            "it holds no subgroup of {size} stretches",
            "Choose a longer one.",
            size=size,
        )
    return whole.reshape(len(whole) // size, size)


def _drawn(name: str, chart: control.Chart, rules: Sequence[int]) -> s.ControlChart:
    # A point beyond a limit is always told, whatever rules are asked for.
    signals = control.broken(chart, rules)
    broken = [tuple(sorted({*numbers, *([1] if out else [])}))
              for numbers, out in zip(signals, chart.outside.tolist(), strict=True)]  # fmt: skip
    return s.ControlChart(
        name=name, points=_shown(chart.points), centre=chart.centre, lower=tuple(chart.lower.tolist()),
        upper=tuple(chart.upper.tolist()), broken=tuple(broken),
    )  # fmt: skip


def _summed(name: str, sums: Floats, limit: float) -> s.ControlChart:
    beyond = tuple((1,) if value > limit else () for value in np.nan_to_num(sums).tolist())
    ends = (0.0,) * len(sums), (limit,) * len(sums)
    return s.ControlChart(name, _shown(sums), 0.0, ends[0], ends[1], beyond)


def _shown(points: Floats) -> tuple[float | None, ...]:
    return tuple(None if np.isnan(value) else value for value in points.tolist())


def _card(of: ClassSpec) -> tuple[s.CardLine, ...]:
    return tuple(s.CardLine(entry.member, f.FigureSpec.of(entry.spec)) for entry in of.card)


def _member(name: str, tags: Sequence[Tag | None]) -> s.KindMember:
    first = next(tag for tag in tags if tag is not None)
    return s.KindMember(
        name=name, unit=first.unit, value_type=first.value_type.name.lower(), decimals=first.decimals,
        tags=tuple(None if tag is None else tag.uid for tag in tags),
    )  # fmt: skip

"""From a request for figures over stretches of time to its table."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from cronaca.core.errors import InvalidInput
from cronaca.core.model import Tag, Window
from cronaca.core.statistics.drilldown import stretch_length
from cronaca.core.statistics.norms import Judged, Verdict
from cronaca.core.statistics.sheet import LimitsByTag, NormKind, mark_limits, oddness, place_column
from cronaca.core.windows import (
    PlantCalendar,
    Unit,
    is_whole,
    resolve,
    shift_name,
    split_by_duration,
    split_by_unit,
    stretches_of_shift,
)
from cronaca.db import Store
from cronaca.logbook import runs
from cronaca.plant import equipment_changes
from cronaca.plant.site import find_plant
from cronaca.plant.tags import find_tags
from cronaca.services import figures as f
from cronaca.services.figures import FigureService
from cronaca.services.statistics import specs as s
from cronaca.services.statistics.cells import cell_of, empty_cell, number_of, result_of

MOST_STRETCHES: Final = 60
_Found = dict[str, list[f.FigureResult]]


class StretchesService:
    """Figures over stretches, each beside what is normal for its row."""

    def __init__(self, figures: FigureService, store: Store) -> None:
        self._figures = figures
        self._store = store

    def table(self, spec: s.StretchesSpec) -> s.StretchesFound:
        """The whole table. Raises InvalidInput."""
        if spec.norm.kind is NormKind.EARLIER:
            raise InvalidInput(
                "norm",
                "stretches-compared-with-each",
                "stretches are compared with each other",
                "Choose another.",
            )
        now_us = self._figures.now_us()
        columns = self._columns(spec, now_us)
        asked: dict[str, list[f.FigureSpec]] = {}
        places = []
        for row in spec.rows:
            mine = asked.setdefault(row.tag, [])
            places.append(len(mine))
            mine.append(row.figure)
        columns_found = [self._compute(spec, asked, column) for column in columns]
        with self._store.snapshot() as tx:
            tags = find_tags(tx, sorted(asked))
            limits = equipment_changes.list_limits(tx)
        rows = [
            _row(
                spec,
                row,
                tags[row.tag],
                [found_column[row.tag][place] for found_column in columns_found],
                limits,
            )
            for row, place in zip(spec.rows, places, strict=True)
        ]
        return s.StretchesFound(now_us, tuple(columns), tuple(rows))

    def _compute(
        self, spec: s.StretchesSpec, asked: dict[str, list[f.FigureSpec]], column: s.StretchColumn
    ) -> _Found:
        window = f.WindowSpec(start_us=column.start_us, end_us=column.end_us)
        return self._figures.compute_each(asked, window, spec.configuration)[1]

    def _columns(self, spec: s.StretchesSpec, now_us: int) -> list[s.StretchColumn]:
        if spec.runs:
            return self._of_runs(spec.runs, now_us)
        with self._store.snapshot() as tx:
            plant = find_plant(tx)
        if plant is None:
            raise InvalidInput(
                "window", "plant-not-set-up", "the plant is not set up", "Enter its time zone in the set-up."
            )
        columns = _cut(spec, plant.calendar, now_us)
        if not columns:
            raise InvalidInput(
                "window", "no-lies", "no {shift} lies in it", "Choose a longer one.", shift=spec.shift
            )
        if len(columns) > MOST_STRETCHES:
            raise InvalidInput(
                "per",
                "makes-stretches",
                "this makes {columns} stretches",
                "Choose longer ones, or a shorter window: at most {most_stretches}.",
                columns=len(columns),
                most_stretches=MOST_STRETCHES,
            )
        return columns

    def _of_runs(self, uids: Sequence[str], now_us: int) -> list[s.StretchColumn]:
        with self._store.snapshot() as tx:
            chosen = [runs.get_run(tx, uid) for uid in uids]
        return [
            s.StretchColumn(
                name=run.name, start_us=run.start_us, cut=run.end_us is None or run.cut,
                end_us=max(run.end_us or now_us, run.start_us + 1),
            )
            for run in chosen
        ]  # fmt: skip


def _cut(spec: s.StretchesSpec, calendar: PlantCalendar, now_us: int) -> list[s.StretchColumn]:
    window = _resolved(spec.window, calendar, now_us)
    if spec.per == "auto" and not spec.shift:
        parts = split_by_duration(window, stretch_length(window))
        ends = zip(parts.lo_us.tolist(), parts.hi_us.tolist(), parts.cut.tolist(), strict=True)
        return [_column("", Window(lo, hi), cut=cut) for lo, hi, cut in ends]
    if spec.shift:
        unit, pieces = Unit.SHIFT, stretches_of_shift(window, spec.shift, calendar)
    else:
        unit = Unit(spec.per)
        parts = split_by_unit(window, unit, calendar)
        pieces = [Window(lo, hi) for lo, hi in zip(parts.lo_us.tolist(), parts.hi_us.tolist(), strict=True)]
    return [
        _column(
            shift_name(piece.start_us, calendar) if unit is Unit.SHIFT else "", piece,
            cut=not is_whole(piece, unit, calendar),
        )
        for piece in pieces
    ]  # fmt: skip


def _column(name: str, stretch: Window, *, cut: bool) -> s.StretchColumn:
    return s.StretchColumn(name, stretch.start_us, stretch.end_us, cut)


def _resolved(asked: f.WindowSpec, calendar: PlantCalendar, now_us: int) -> Window:
    return resolve(asked.request(), calendar, now_us)


def _row(
    spec: s.StretchesSpec,
    row: s.StretchRowSpec,
    tag: Tag,
    figures: list[f.FigureResult],
    limits: LimitsByTag,
) -> s.SheetRow:
    stat = row.figure.stat
    values = [number_of(figure.values[0].value) if figure.values else None for figure in figures]
    placed = place_column(
        spec.norm, [tag] * len(values), values, [[]] * len(values), stat=stat, result=result_of(stat),
        limits=limits,
    )  # fmt: skip
    cells = tuple(
        cell_of(
            row.tag, figure, figure.values[0], band, at, marks=mark_limits(tag, stat, value, band, limits)
        )
        if figure.values
        else empty_cell(row.tag, figure, Judged(None, Verdict.NO_VALUE))
        for figure, value, (band, at) in zip(figures, values, placed, strict=True)
    )
    return s.SheetRow(row.name, cells, oddness([at for _, at in placed]))

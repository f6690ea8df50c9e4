"""From a request for figures over stretches of time to its table."""

from __future__ import annotations

from cronaca.api.cells import cell_of, empty_cell, number_of, result_of
from cronaca.api.figures import FigureService
from cronaca.api.schemas import figures as f
from cronaca.api.schemas import statistics as s
from cronaca.api.schemas import stretches as t
from cronaca.core.errors import InvalidInput
from cronaca.core.model import Tag, Window
from cronaca.core.statistics.drilldown import stretch_length
from cronaca.core.statistics.norms import Judged, Verdict
from cronaca.core.statistics.sheet import LimitsByTag, Norm, NormKind, oddness, place_column
from cronaca.core.windows import (
    PlantCalendar,
    Unit,
    WindowWish,
    is_whole,
    resolve,
    shift_name,
    split_by_duration,
    split_by_unit,
    stretches_of_shift,
)
from cronaca.db import Store
from cronaca.logbook import runs
from cronaca.plant import setup
from cronaca.plant.editing import equipment

_Found = dict[str, list[f.FigureOut]]


class StretchesService:
    """Figures over stretches, each beside what is normal for its row."""

    def __init__(self, figures: FigureService, store: Store) -> None:
        self._figures = figures
        self._store = store

    def table(self, wanted: t.StretchesIn) -> t.StretchesOut:
        """The whole table. Raises InvalidInput."""
        if wanted.norm.kind is NormKind.EARLIER:
            raise InvalidInput("norm", "stretches are compared with each other", "Choose another.")
        now_us = self._figures.now_us()
        columns = self._columns(wanted, now_us)
        asked: dict[str, list[f.FigureIn]] = {}
        places = []
        for row in wanted.rows:
            mine = asked.setdefault(row.tag, [])
            places.append(len(mine))
            mine.append(row.figure)
        found = [self._compute(wanted, asked, column) for column in columns]
        with self._store.snapshot() as tx:
            tags = setup.find_tags(tx, sorted(asked))
            limits = equipment.list_limits(tx) if wanted.norm.kind is NormKind.LIMITS else {}
        rows = [
            _row(wanted, row, tags[row.tag], [one[row.tag][place] for one in found], limits)
            for row, place in zip(wanted.rows, places, strict=True)
        ]
        return t.StretchesOut(now_us=str(now_us), columns=columns, rows=rows)

    def _compute(
        self, wanted: t.StretchesIn, asked: dict[str, list[f.FigureIn]], column: t.StretchColumnOut
    ) -> _Found:
        window = f.WindowIn(start_us=int(column.start_us), end_us=int(column.end_us))
        return self._figures.compute_each(asked, window, wanted.configuration)[1]

    def _columns(self, wanted: t.StretchesIn, now_us: int) -> list[t.StretchColumnOut]:
        if wanted.runs:
            return self._of_runs(wanted.runs, now_us)
        with self._store.snapshot() as tx:
            plant = setup.find_plant(tx)
        if plant is None:
            raise InvalidInput("window", "the plant is not set up", "Enter its time zone in the set-up.")
        columns = _cut(wanted, plant.calendar, now_us)
        if not columns:
            raise InvalidInput("window", f"no {wanted.shift} lies in it", "Choose a longer one.")
        if len(columns) > t.MOST_STRETCHES:
            raise InvalidInput(
                "per", f"this makes {len(columns)} stretches",
                f"Choose longer ones, or a shorter window: at most {t.MOST_STRETCHES}.",
            )  # fmt: skip
        return columns

    def _of_runs(self, uids: list[str], now_us: int) -> list[t.StretchColumnOut]:
        with self._store.snapshot() as tx:
            chosen = [runs.get_run(tx, uid) for uid in uids]
        return [
            t.StretchColumnOut(
                name=one.name, start_us=str(one.start_us), cut=one.end_us is None or one.cut,
                end_us=str(max(one.end_us or now_us, one.start_us + 1)),
            )
            for one in chosen
        ]  # fmt: skip


def _cut(wanted: t.StretchesIn, calendar: PlantCalendar, now_us: int) -> list[t.StretchColumnOut]:
    window = _resolved(wanted.window, calendar, now_us)
    if wanted.per == "auto" and not wanted.shift:
        found = split_by_duration(window, stretch_length(window))
        ends = zip(found.lo_us.tolist(), found.hi_us.tolist(), found.cut.tolist(), strict=True)
        return [_column("", Window(lo, hi), cut=cut) for lo, hi, cut in ends]
    if wanted.shift:
        unit, pieces = Unit.SHIFT, stretches_of_shift(window, wanted.shift, calendar)
    else:
        unit = Unit(wanted.per)
        found = split_by_unit(window, unit, calendar)
        pieces = [Window(lo, hi) for lo, hi in zip(found.lo_us.tolist(), found.hi_us.tolist(), strict=True)]
    return [
        _column(
            shift_name(one.start_us, calendar) if unit is Unit.SHIFT else "", one,
            cut=not is_whole(one, unit, calendar),
        )
        for one in pieces
    ]  # fmt: skip


def _column(name: str, stretch: Window, *, cut: bool) -> t.StretchColumnOut:
    return t.StretchColumnOut(name=name, start_us=str(stretch.start_us), end_us=str(stretch.end_us), cut=cut)


def _resolved(asked: f.WindowIn, calendar: PlantCalendar, now_us: int) -> Window:
    wish = WindowWish(asked.last_us, asked.start_us, asked.end_us, asked.unit, asked.which)
    return resolve(wish, calendar, now_us)


def _row(
    wanted: t.StretchesIn, row: t.StretchRowIn, tag: Tag, figures: list[f.FigureOut], limits: LimitsByTag
) -> s.StatRowOut:
    norm, stat = wanted.norm, row.figure.stat
    rule = Norm(norm.kind, norm.low, norm.high, norm.widths, norm.least)
    values = [number_of(one.values[0].value) if one.values else None for one in figures]
    placed = place_column(
        rule, [tag] * len(values), values, [[]] * len(values), stat=stat, result=result_of(stat),
        limits=limits,
    )  # fmt: skip
    cells = [
        cell_of(row.tag, figure, figure.values[0], band, at)
        if figure.values
        else empty_cell(row.tag, figure, Judged(None, Verdict.NO_VALUE))
        for figure, (band, at) in zip(figures, placed, strict=True)
    ]
    return s.StatRowOut(name=row.name, cells=cells, oddness=oddness([at for _, at in placed]))

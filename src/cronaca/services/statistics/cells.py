"""From figures and where they lie to the cells of a table: numbers, bands, verdicts."""

from __future__ import annotations

from cronaca.core.figures import all_figures
from cronaca.core.statistics.norms import Band, Judged
from cronaca.core.statistics.sheet import LimitMarks
from cronaca.services import figures as f
from cronaca.services.figures import Scalar
from cronaca.services.statistics import specs as s


def number_of(value: Scalar) -> float | None:
    """A figure as a number; texts are none."""
    return None if value is None or isinstance(value, str) else float(value)


def result_of(stat: str) -> str:
    """What the values of a figure are (source, number, count ...); nothing for an unknown one."""
    entry = all_figures().get(stat)
    return "" if entry is None else entry.result


def cell_of(
    uid: str,
    figure: f.FigureResult,
    value: f.FigureValue,
    band: Band | None,
    at: Judged,
    beside: Scalar = None,
    marks: LimitMarks | None = None,
) -> s.Cell:
    """A figure beside what is normal, beside another one, and beside the limits of its class."""
    now, then = number_of(value.value), number_of(beside)
    return s.Cell(
        tag=uid, value=value.value, unit=figure.unit, quality=value.quality, good=value.good,
        doubtful=value.doubtful, position=at.position,
        place=at.place, band=band, beside=beside, limits=marks,
        difference=None if now is None or then is None else now - then,
    )  # fmt: skip


def empty_cell(uid: str | None, figure: f.FigureResult | None, at: Judged) -> s.Cell:
    """No figure, and why, where that is known."""
    return s.Cell(tag=uid, refused=None if figure is None else figure.refused, place=at.place)


def first_cell(
    uid: str | None, figure: f.FigureResult | None, band: Band | None, at: Judged, beside: Scalar,
    marks: LimitMarks | None,
) -> s.Cell:  # fmt: skip
    """The first value of a figure as a cell."""
    if uid is None or figure is None or not figure.values:
        return empty_cell(uid, figure, at)
    return cell_of(uid, figure, figure.values[0], band, at, beside, marks)


def first_number(figure: f.FigureResult) -> float | None:
    """The first value of a figure, where it is a number."""
    return number_of(figure.values[0].value) if figure.values else None

"""From figures and where they lie to the cells of a table."""

from __future__ import annotations

from cronaca.api.schemas import Scalar
from cronaca.api.schemas import figures as f
from cronaca.api.schemas import statistics as s
from cronaca.core.figures import all_figures
from cronaca.core.statistics.norms import Band, Judged


def number_of(value: Scalar) -> float | None:
    """A figure as a number; whole numbers beyond what a float holds come as text."""
    if value is None or isinstance(value, bool):
        return None if value is None else float(value)
    if isinstance(value, str):
        return float(value) if value.lstrip("-").isdecimal() else None
    return float(value)


def result_of(stat: str) -> str:
    """What the values of a figure are (source, number, count ...); nothing for an unknown one."""
    entry = all_figures().get(stat)
    return "" if entry is None else entry.result


def band_of(band: Band | None) -> s.BandOut | None:
    """A band for the wire."""
    if band is None:
        return None
    return s.BandOut(low=band.low, centre=band.centre, high=band.high, learnt_from=band.learnt_from)


def cell_of(
    uid: str, figure: f.FigureOut, value: f.ValueOut, band: Band | None, at: Judged, beside: Scalar = None
) -> s.CellOut:
    """A figure beside what is normal, and beside another one."""
    now, then = number_of(value.value), number_of(beside)
    return s.CellOut(
        tag=uid, value=value.value, unit=figure.unit, quality=value.quality, good=value.good,
        doubtful=value.doubtful, position=at.position,
        place=at.place, band=band_of(band), beside=beside,
        difference=None if now is None or then is None else now - then,
    )  # fmt: skip


def empty_cell(uid: str | None, figure: f.FigureOut | None, at: Judged) -> s.CellOut:
    """No figure, and why, where that is known."""
    return s.CellOut(tag=uid, refused=None if figure is None else figure.refused, place=at.place)


def first_cell(
    uid: str | None, figure: f.FigureOut | None, band: Band | None, at: Judged, beside: Scalar
) -> s.CellOut:
    """The first value of a figure as a cell."""
    if uid is None or figure is None or not figure.values:
        return empty_cell(uid, figure, at)
    return cell_of(uid, figure, figure.values[0], band, at, beside)

"""Records over the wire."""

from __future__ import annotations

from cronaca.api.schemas import Micros, Model, Scalar, Uid


class RecordLoggerOut(Model):
    """A triggered logger."""

    uid: Uid
    name: str
    records: int


class ColumnOut(Model):
    """A column of records; one that is not present is no longer taken."""

    number: int
    """What the column is called by."""
    name: str
    tag: Uid
    value_type: str
    unit: str
    decimals: int
    present: bool


class RecordOut(Model):
    """One record: values and qualities in the order of the columns; none where it was Bad or not taken."""

    number: int
    t_us: Micros
    reason: str
    values: list[Scalar]
    quality: list[int | None]


class FiguresRow(Model):
    """Of the usable values of one column; numbers that are names (whole ones without a unit) have no mean."""

    count: int
    low: float | None
    high: float | None
    mean: float | None


class RecordPage(Model):
    """One page of records."""

    total: int
    columns: list[ColumnOut]
    records: list[RecordOut]
    figures: list[FiguresRow]
    """Over all records that match, one for each column."""

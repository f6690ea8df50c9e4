"""Pens that are made as they are looked at: from a formula over tags, or from a column of records."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from cronaca.core import quality as q
from cronaca.core.errors import InvalidInput, NotFound
from cronaca.core.formulas import Node, inputs_of
from cronaca.core.model import Gap, GapReason, Series, Tag, ValueType, Window
from cronaca.core.trends import WIDEST, reduce_m4
from cronaca.core.trends.calculated import calculated_curve, lookback_us
from cronaca.db.pool import Store
from cronaca.db.transaction import Transaction
from cronaca.history.read.curves import CurveReader
from cronaca.history.read.series import SeriesAnswer, SeriesReader
from cronaca.logbook import records

MOST_SAMPLES: Final = 2_000_000
"""Of all inputs of a formula together; a longer window is calculated from their reduced curves."""
MOST_RECORDS: Final = 50_000


@dataclass(frozen=True, slots=True)
class DerivedCurve:
    """A curve of something that is no tag. `thinned`: it was calculated from reduced inputs, so an extreme
    that lies between their samples may be missing."""

    series: Series
    samples: int
    blanks: tuple[Gap, ...]
    known_until_us: int
    recorded_since_us: int | None
    last_us: int | None
    stepped: bool
    thinned: bool


class DerivedReader:
    """Reads what is not kept."""

    def __init__(self, store: Store, reader: SeriesReader, curves: CurveReader) -> None:
        self._store = store
        self._reader = reader
        self._curves = curves

    def calculate(self, node: Node, tags: Mapping[str, Tag], window: Window, width: int) -> DerivedCurve:
        """A formula over a window; `tags` are its inputs by name. Raises InvalidInput for a missing one."""
        for name in inputs_of(node):
            if name not in tags:
                raise InvalidInput(
                    "inputs",
                    "derived-inputs-no-tag",
                    "{name!r} has no tag",
                    "Choose one, or correct the formula.",
                    name=name,
                )
        earlier = Window(window.start_us - lookback_us(node), window.end_us)
        ids = [tag.tag_id for tag in tags.values()]
        curves = self._curves.read_many(ids, earlier, WIDEST)
        answers = [input_curve.answer for input_curve in curves]
        thinned = sum(answer.samples for answer in answers) > MOST_SAMPLES
        inputs = [input_curve.series for input_curve in curves]
        if not thinned:
            answers = self._reader.read_many(ids, earlier)
            inputs = [answer.series for answer in answers]
        made = calculated_curve(node, dict(zip(tags, inputs, strict=True)), window, width)
        stepped = any(tag.stepped or tag.value_type is not ValueType.FLOAT for tag in tags.values())
        return _joined(reduce_m4(made, window, width), answers, window, stepped=stepped, thinned=thinned)

    def records(self, logger_uid: str, column_no: int, window: Window) -> DerivedCurve:
        """A column of a logger's records: a point for each."""
        with self._store.snapshot() as tx:
            logger_id, column = _column(tx, logger_uid, column_no)
            rows = records.read_records(tx, logger_id, [column], window=window, limit=MOST_RECORDS)
            count = records.count_records(tx, logger_id, window)
            newest = records.read_records(tx, logger_id, [column], limit=1)
        rows.reverse()
        times = np.array([row.ts_us for row in rows], np.int64)
        values = [np.nan if row.values[0] is None else float(row.values[0]) for row in rows]
        codes = [q.BAD_NO_DATA if row.quality[0] is None else row.quality[0] for row in rows]
        series = Series.of(ValueType.FLOAT, times, values, codes)
        blanks: tuple[Gap, ...] = ()
        if not rows:
            blanks = (Gap(window.start_us, window.end_us, GapReason.WAITING_FOR_TRIGGER),)
        last = newest[0].ts_us if newest else None
        return DerivedCurve(
            series, count, blanks, window.end_us, None, last, stepped=False, thinned=count > len(rows)
        )


def _column(tx: Transaction, logger_uid: str, column_no: int) -> tuple[int, records.RecordColumn]:
    logger_id = next((number for number, uid, _ in records.list_loggers(tx) if uid == logger_uid), None)
    if logger_id is None:
        raise NotFound("logger", logger_uid)
    for column in records.list_columns(tx, logger_id):
        if column.column_no == column_no and column.value_type is not ValueType.TEXT:
            return logger_id, column
    raise InvalidInput(
        "column",
        "not-column-numbers",
        "{column_no} is not a column of numbers",
        "Take one from the logger's records.",
        column_no=column_no,
    )


def _joined(
    series: Series, answers: Sequence[SeriesAnswer], window: Window, *, stepped: bool, thinned: bool
) -> DerivedCurve:
    """Where one input is not known, nothing is."""
    blanks = {(gap.start_us, gap.end_us, gap.reason): gap for answer in answers for gap in answer.blanks}
    inside = [gap for gap in blanks.values() if gap.end_us is None or gap.end_us > window.start_us]
    since = [answer.recorded_since_us for answer in answers if answer.recorded_since_us is not None]
    last = [answer.last_us for answer in answers if answer.last_us is not None]
    known = min((answer.known_until_us for answer in answers), default=window.start_us)
    return DerivedCurve(
        series, len(series), tuple(sorted(inside, key=lambda gap: gap.start_us)), known,
        max(since, default=None), max(last, default=None), stepped, thinned,
    )  # fmt: skip

"""Pens that are made as they are looked at, on the real store; and which archive a curve comes from."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from cronaca.core import quality as q
from cronaca.core.aggregates import by_duration
from cronaca.core.bits import to_bits
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import InvalidInput, NotFound
from cronaca.core.formulas import parse_formula
from cronaca.core.model import DAY, SECOND, GapReason, LoggerMode, Series, Tag, ValueType, Window
from cronaca.core.outputs import Record
from cronaca.db import Store
from cronaca.history.read.curves import CurveReader
from cronaca.history.read.figures import FigureReader, Wanted
from cronaca.history.read.series import SeriesReader
from cronaca.history.write.bulk import backfill
from cronaca.plant.archives import insert_archive
from cronaca.plant.loggers import insert_logger
from cronaca.plant.tags import list_tags
from cronaca.services import derived
from cronaca.services.derived import DerivedReader
from cronaca.services.sink import StoreSink
from tests.support.builders import NOW, RECORD_LOGGER, a_flush, a_logger, a_record_logger, a_tag, plant_with

A, B = a_tag("Line 1 Zone 1 air temperature"), a_tag("Line 1 Zone 2 air temperature")
LOT = a_tag("Line 1 Lot", ValueType.INTEGER)
WINDOW = Window(NOW, NOW + 1000 * SECOND)


def reader_of(store: Store) -> DerivedReader:
    reader = SeriesReader(store)
    return DerivedReader(store, reader, CurveReader(store, reader))


def ramp(start_us: int, count: int, offset: float = 0.0, step_us: int = SECOND) -> Series:
    values = np.float64(offset) + np.arange(count, dtype=np.float64) % 100
    return Series.of(ValueType.FLOAT, start_us + np.arange(count) * step_us, values)


def filled(store: Store, count: int = 1000) -> dict[str, Tag]:
    """Two tags that are 5 apart, by their names in a formula."""
    keys = plant_with(store, [A, B])
    until = Window(NOW, NOW + max(count, 1000) * SECOND)
    backfill(store, {keys[A.name]: ramp(NOW, count), keys[B.name]: ramp(NOW, count, 5.0)}, until)
    with store.snapshot() as tx:
        found = {tag.name: tag for tag in list_tags(tx)}
    return {"a": found[A.name], "b": found[B.name]}


def test_a_difference_is_exact_and_says_what_it_is_of(store: Store) -> None:
    curve = reader_of(store).calculate(parse_formula("b - a"), filled(store), WINDOW, 500)
    assert not curve.thinned
    assert set(curve.series.values[q.is_good(curve.series.quality)].tolist()) == {5.0}
    assert curve.last_us == NOW + 999 * SECOND


def test_over_very_many_samples_it_comes_from_reduced_curves_and_says_so(
    store: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(derived, "MOST_SAMPLES", 1500)
    tags = filled(store)
    assert reader_of(store).calculate(parse_formula("b - a"), tags, WINDOW, 500).thinned
    assert not reader_of(store).calculate(parse_formula("2 * a"), {"a": tags["a"]}, WINDOW, 500).thinned


def test_where_an_input_is_not_known_the_reason_is_that_of_the_input(store: Store) -> None:
    tags = filled(store)
    early = Window(NOW - 500 * SECOND, NOW + 100 * SECOND)
    curve = reader_of(store).calculate(parse_formula("b - a"), tags, early, 500)
    assert [gap.reason for gap in curve.blanks][:1] == [GapReason.NOT_YET_RECORDED]
    with pytest.raises(InvalidInput, match="'c' has no tag"):
        reader_of(store).calculate(parse_formula("a + c"), tags, WINDOW, 500)


def test_records_are_a_point_each(store: Store) -> None:
    keys = plant_with(store, [LOT, A])
    lot, moisture = keys[LOT.name].tag_id, keys[A.name].tag_id
    logger_id = a_record_logger(store, (lot, moisture), ((moisture, "Final moisture"),))
    sink = StoreSink(store)
    epoch = sink.open_epoch("t", NOW) or 0

    def record(second: int, number: int, value: float, quality: int = 0) -> Record:
        bits = number, to_bits(value, ValueType.FLOAT)
        return Record(
            logger_id, NOW + second * SECOND, f"lot = {number}", (lot, moisture), bits, (0, quality)
        )

    taken = (record(1, 1, 12.5), record(2, 2, 0.0, q.BAD), record(3, 3, 14.5))
    sink.commit(replace(a_flush(epoch, 1, {}), outputs=taken))
    reader = reader_of(store)
    curve = reader.records(RECORD_LOGGER, 2, WINDOW)
    assert ((curve.series.ts_us - NOW) / SECOND).tolist() == [1, 2, 3]
    assert q.is_bad(curve.series.quality).tolist() == [False, True, False]
    assert curve.series.values[[0, 2]].tolist() == [12.5, 14.5]
    empty = reader.records(RECORD_LOGGER, 2, Window(NOW + DAY, NOW + 2 * DAY))
    assert [gap.reason for gap in empty.blanks] == [GapReason.WAITING_FOR_TRIGGER]
    assert empty.last_us == NOW + 3 * SECOND, "where the last one is can still be gone to"
    with pytest.raises(InvalidInput, match="not a column"):
        reader.records(RECORD_LOGGER, 9, WINDOW)
    with pytest.raises(NotFound):
        reader.records("22222222-2222-2222-2222-222222222222", 1, WINDOW)


def test_the_archive_that_reaches_back_is_read_unless_one_is_chosen(store: Store) -> None:
    """Fine and short in one archive, coarse and long in another one."""
    keys = plant_with(store, [A])
    fine = keys[A.name]
    with store.transaction() as tx:
        number = insert_archive(tx, "c" * 36, "Long")
        insert_logger(
            tx, a_logger(0, "d" * 36, "coarse", number, LoggerMode.PERIODIC, 60 * SECOND, (fine.tag_id,)), NOW
        )
    coarse = HistoryKey(number, fine.tag_id, 1)
    backfill(
        store,
        {fine: ramp(NOW - DAY, 86_400), coarse: ramp(NOW - 10 * DAY, 14_400, 0.0, 60 * SECOND)},
        Window(NOW - 10 * DAY, NOW),
    )
    reader = SeriesReader(store)
    curves = CurveReader(store, reader)
    hour, week = Window(NOW - 3600 * SECOND, NOW), Window(NOW - 7 * DAY, NOW)

    def read(window: Window, archives: dict[int, int]) -> tuple[int, int]:
        (curve,) = curves.read_many([fine.tag_id], window, 500, archives)
        return curve.archive_id, curve.answer.samples

    assert read(hour, {}) == (fine.archive_id, 3600)
    assert read(week, {}) == (number, 7 * 1440)
    assert read(hour, {fine.tag_id: number}) == (number, 60)
    assert read(week, {fine.tag_id: fine.archive_id}) == (fine.archive_id, 86_400)
    (answer,) = reader.read_many([fine.tag_id], week)
    assert answer.samples == 7 * 1440

    # Figures speak of the very samples that are drawn.
    figures, tag = FigureReader(store, reader), replace(A, tag_id=fine.tag_id)

    def counted(window: Window, archive_id: int | None) -> int:
        intervals = by_duration(window.start_us, window.end_us, 0)
        (found,) = figures.read_each([Wanted(tag, archive_id, intervals, exact=True)])
        return found.path.read_samples

    assert [counted(hour, None), counted(week, None)] == [3600, 7 * 1440]
    assert [counted(hour, number), counted(week, fine.archive_id)] == [60, 86_400]

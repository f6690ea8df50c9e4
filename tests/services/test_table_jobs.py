"""Tables of samples as files of any length, made by the worker: the rows of the table, in its order."""

from __future__ import annotations

import csv
import io
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import numpy as np
import openpyxl
import pyarrow.parquet as papq
import pytest

from cronaca.core.access import EVERYTHING, Actor, Permission, Permitted
from cronaca.core.errors import InvalidInput
from cronaca.core.jobs import FileForm, JobState, Queue
from cronaca.core.model import SECOND, Series, ValueType, Window
from cronaca.core.samples import QualityChoice
from cronaca.db import Store
from cronaca.exchange import sheets
from cronaca.history.read.series import SeriesReader
from cronaca.history.write.bulk import backfill
from cronaca.logbook import jobs
from cronaca.logbook.jobs import JobRow
from cronaca.services import sample_tables, table_files
from cronaca.services.jobs import asking, for_people
from cronaca.services.jobs.runner import JobRunner
from cronaca.services.jobs.specs import ExportTable
from cronaca.services.sample_tables import Layout, PageSpec, RowOrder, SampleTables
from tests.services.test_jobs import figures
from tests.support.builders import NOW, a_tag, plant_with

AIR = a_tag("Line 1 Zone 1 air temperature")
DOOR = replace(a_tag("Line 1 dryer door"), value_type=ValueType.BOOLEAN, unit="", states='{"1": "open"}')
COUNT = 5000
WINDOW = Window(NOW, NOW + COUNT * SECOND)
ME = Permitted(Actor("Operator", EVERYTHING), Permission.EXPORT)
TABLE = ExportTable((AIR.uid, DOOR.uid), WINDOW.start_us, WINDOW.end_us)


@pytest.fixture
def plant(store: Store, monkeypatch: pytest.MonkeyPatch) -> Store:
    """Two tags; files are made of parts much smaller than usual, so that there are many of them."""
    keys = plant_with(store, [AIR, DOOR])
    times = NOW + np.arange(COUNT) * SECOND
    values = np.random.default_rng(7).integers(0, 300, COUNT) / 10
    quality = np.where(np.arange(COUNT) % 50 == 0, 0x8000, 0)
    backfill(store, {keys[AIR.name]: Series.of(ValueType.FLOAT, times, values, quality)}, WINDOW)
    doors = Series.of(ValueType.BOOLEAN, times[::7] + 1, np.arange(len(times[::7])) % 2)
    backfill(store, {keys[DOOR.name]: doors}, WINDOW)
    monkeypatch.setattr(table_files, "PART_ROWS", 300)
    monkeypatch.setattr(table_files, "RUN_SAMPLES", 1200)
    monkeypatch.setattr(sample_tables, "_STRETCH", 500)
    monkeypatch.setattr(sample_tables, "MOST_LOOKED_AT", 2000)
    return store


def made(store: Store, spec: ExportTable) -> JobRow:
    uid = asking.ask_table(store, ME, spec)
    handlers = for_people.handlers(store, figures(store))
    JobRunner(store, Queue.PEOPLE, handlers, "test/1", lambda: NOW, may_still=lambda *_: True).run_next()
    with store.snapshot() as tx:
        return jobs.get_job(tx, uid)


def file_of(store: Store, spec: ExportTable) -> bytes:
    job = made(store, spec)
    assert (job.state, job.problem) == (JobState.DONE, "")
    return b"".join(jobs.read_file(store, job.number))


def lines_of(store: Store, spec: ExportTable) -> list[list[str]]:
    return list(csv.reader(io.StringIO(file_of(store, spec).decode("utf-8-sig"))))[1:]


def shown(store: Store, spec: ExportTable) -> list[Any]:
    """The rows of the table on the page."""
    tables = SampleTables(store, SeriesReader(store))
    how = PageSpec(spec.layout, spec.step_us, spec.interpolated, 100_000, spec.order)
    return tables.whole(for_people.table_selection(store, spec), how, 100_000).rows


def moment(at_us: int) -> str:
    at = datetime(1970, 1, 1, tzinfo=UTC) + timedelta(microseconds=at_us)
    return at.astimezone(ZoneInfo("Europe/Berlin")).isoformat(timespec="microseconds")


@pytest.mark.parametrize("layout", list(Layout))
def test_newest_first_it_has_the_rows_of_the_page(plant: Store, layout: Layout) -> None:
    spec = replace(TABLE, layout=layout, step_us=3 * SECOND)
    expected = [moment(row.ts_us) for row in shown(plant, spec)]
    assert len(expected) > 1000
    assert [line[0] for line in lines_of(plant, spec)] == expected


@pytest.mark.parametrize("order", [RowOrder.LARGEST, RowOrder.SMALLEST])
def test_by_value_it_is_one_order_over_all_parts(plant: Store, order: RowOrder) -> None:
    spec = replace(TABLE, order=order)
    rows = shown(plant, spec)
    found = lines_of(plant, spec)
    assert len(found) == len(rows) > 5000
    names, kinds = [AIR.name, DOOR.name], [float, bool]
    assert [line[:3] for line in found] == [
        [moment(row.ts_us), names[row.tag or 0], str(kinds[row.tag or 0](row.cells[0].value or 0))]
        for row in rows
    ]


def test_what_is_filtered_on_the_page_is_filtered_in_the_file(plant: Store) -> None:
    spec = replace(TABLE, tags=(AIR.uid,), value="> 29.5", quality=QualityChoice.GOOD)
    found = lines_of(plant, spec)
    assert len(found) == len(shown(plant, spec)) > 10
    assert {float(line[2]) for line in found} == {29.6, 29.7, 29.8, 29.9}


def test_other_forms_hold_the_same(plant: Store) -> None:
    spec = replace(TABLE, layout=Layout.TIME)
    lines = lines_of(plant, spec)
    book = openpyxl.load_workbook(io.BytesIO(file_of(plant, replace(spec, form=FileForm.XLSX))))
    assert [row[0].value for row in book["Samples"].iter_rows(min_row=2)] == [line[0] for line in lines]
    table = papq.read_table(io.BytesIO(file_of(plant, replace(spec, form=FileForm.PARQUET))))
    assert table.num_rows == len(lines)
    values = table.column(f"{AIR.name} ({AIR.unit})").to_pylist()
    assert values == [float(line[1]) if line[1] else None for line in lines]


def test_nothing_that_matches_is_a_file_with_a_heading(plant: Store) -> None:
    for form in FileForm:
        for order in (RowOrder.NEWEST, RowOrder.LARGEST):
            assert file_of(plant, replace(TABLE, value="> 1000", form=form, order=order))


def test_a_workbook_that_would_be_too_long_says_so(plant: Store, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(sheets, "MOST_SHEET_ROWS", 1000)
    job = made(plant, replace(TABLE, form=FileForm.XLSX))
    assert job.state is JobState.FAILED and "more than 1,000 rows" in job.problem and not job.file_name


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"tags": ()}, "tags"), ({"tags": (AIR.uid, AIR.uid)}, "tags"), ({"tags": ("none",)}, "tags"),
        ({"end_us": NOW}, "end_us"), ({"value": "> x"}, "value"),
        ({"archives": {AIR.uid: "none"}}, "archives"),
        ({"order": RowOrder.LARGEST, "layout": Layout.TIME}, "order"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_at_once(plant: Store, change: dict[str, Any], field: str) -> None:
    with pytest.raises(InvalidInput) as refused:
        asking.ask_table(plant, ME, replace(TABLE, **change))
    assert refused.value.field == field
    with plant.snapshot() as tx:
        assert jobs.list_jobs(tx) == []

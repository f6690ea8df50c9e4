"""Tables of samples: rows newest first, a page at a time, their figures, and files of what is shown."""

from __future__ import annotations

import io
import time
from collections.abc import Mapping
from dataclasses import replace
from typing import Annotated, Final, Literal, cast

from fastapi import Depends, Query, Request, Response

from cronaca.api import wire
from cronaca.api.deps import StoreDep, find_all_tags, find_archives
from cronaca.api.routes.series import ArchivesQuery, Micros
from cronaca.api.routing import api_router
from cronaca.api.schemas import Scalar, Uid
from cronaca.api.schemas.samples import SampleCell, SampleFiguresOut, SampleGap, SampleRowOut, SamplesOut
from cronaca.core import quality as q
from cronaca.core.model import Tag, ValueType, Window
from cronaca.core.samples import Cell, QualityChoice, SampleRow, ValueCondition
from cronaca.exchange.sample_table import TablePart, TableShape, write_sample_table
from cronaca.exchange.shown import Form, basic_text
from cronaca.plant.site import find_plant
from cronaca.services.sample_tables import (
    MOST_TABLE_TAGS,
    Layout,
    PageSpec,
    RowOrder,
    SampleTables,
    Selection,
)
from cronaca.services.table_files import names_of

router = api_router("/samples", "history")
MOST_ROWS: Final = 100_000
"""Of a file that is made while one waits."""
_MEDIA: Final = {
    Form.CSV: "text/csv; charset=utf-8",
    Form.XLSX: "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    Form.PARQUET: "application/vnd.apache.parquet",
}


def get_tables(request: Request) -> SampleTables:
    """The application's tables of samples."""
    return cast(SampleTables, request.app.state.sample_tables)


def get_selection(
    store: StoreDep,
    tag: Annotated[list[Uid], Query(min_length=1, max_length=MOST_TABLE_TAGS)],
    start: Micros,
    end: Micros,
    value: Annotated[
        str, Query(max_length=100, description="> 80, 80 to 90, != 0, or a text that a value contains")
    ] = "",
    quality: QualityChoice = QualityChoice.ANY,
    archive: ArchivesQuery = (),
) -> Selection:
    """Which samples a table shows."""
    tags = find_all_tags(store, tag)
    condition = ValueCondition.parse(value)
    archives = find_archives(store, tags, archive)
    return Selection(tuple(tags), Window.parse(start, end), condition, quality, archives)


def get_spec(
    layout: Annotated[
        Layout,
        Query(description="A row for each sample, for each time of one, or for each time of a grid"),
    ] = Layout.SAMPLE,
    step_us: Annotated[
        int, Query(ge=1000, le=31 * 86_400_000_000, description="Interval of the grid in µs")
    ] = 1_000_000,
    between: Annotated[Literal["held", "interpolated"], Query(description="Values between samples")] = "held",
    order: RowOrder = RowOrder.NEWEST,
) -> PageSpec:
    """What a row is, and in which order rows come."""
    return PageSpec(layout, step_us, between == "interpolated", order=order)


TablesDep = Annotated[SampleTables, Depends(get_tables)]
SelectionDep = Annotated[Selection, Depends(get_selection)]
SpecDep = Annotated[PageSpec, Depends(get_spec)]


@router.get("")
def list_samples(
    tables: TablesDep,
    selection: SelectionDep,
    spec: SpecDep,
    offset: Annotated[int, Query(ge=0)] = 0,
    limit: Annotated[int, Query(ge=1, le=1000)] = 200,
) -> SamplesOut:
    """One page of rows, newest first; the rows of one instant are never parted, so a page may hold some
    more. Ordered by value (at most a million samples that match), pages go on by `offset`."""
    page = tables.page(selection, replace(spec, limit=limit, offset=offset))
    # What lasts has lasted until now, wherever the page ends.
    now_us = time.time_ns() // 1000
    return SamplesOut(
        tags=[tag.uid for tag in selection.tags],
        rows=[_row(row, selection.tags, page.texts) for row in page.rows],
        next_end_us=None if page.next_end_us is None else str(page.next_end_us),
        gaps=[
            SampleGap(tag=selection.tags[place].uid, **wire.gap(gap, now_us).model_dump())
            for place, gap in page.gaps
        ],
    )


@router.get("/export")
def export_samples(
    store: StoreDep,
    tables: TablesDep,
    selection: SelectionDep,
    spec: SpecDep,
    form: Form = Form.CSV,
) -> Response:
    """All rows of the table (at most 100,000; more are a job) as a file, in its order; times in the plant's
    zone with their offset. The name of the file says from when to when."""
    found = tables.whole(selection, spec, MOST_ROWS)
    with store.snapshot() as tx:
        plant = find_plant(tx)
    zone = "UTC" if plant is None else plant.zone
    part = TablePart(found.rows, names_of(selection.tags, found.texts))
    shape = TableShape(selection.tags, zone, is_single=spec.layout is Layout.SAMPLE)
    stream = io.BytesIO()
    write_sample_table(stream, form, shape, [part])
    window = selection.window
    name = f"samples_{basic_text(window.start_us, zone)}_to_{basic_text(window.end_us, zone)}.{form.value}"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(stream.getvalue(), media_type=_MEDIA[form], headers=headers)


@router.get("/figures")
def get_sample_figures(tables: TablesDep, selection: SelectionDep) -> list[SampleFiguresOut]:
    """Of each tag, over all samples that match (at most five million): their number, and the smallest,
    largest and mean value, each sample counting the same."""
    return [
        SampleFiguresOut(
            tag=tag.uid, count=found.count, low=wire.scalar(found.low, tag.value_type),
            high=wire.scalar(found.high, tag.value_type), mean=found.mean,
        )
        for tag, found in zip(selection.tags, tables.figures(selection), strict=True)
    ]  # fmt: skip


def _row(row: SampleRow, tags: tuple[Tag, ...], texts: Mapping[int, str]) -> SampleRowOut:
    mine = tags if row.tag is None else (tags[row.tag],)
    cells = [_cell(cell, tag, texts) for cell, tag in zip(row.cells, mine, strict=True)]
    return SampleRowOut(t_us=str(row.ts_us), tag=None if row.tag is None else tags[row.tag].uid, cells=cells)


def _cell(cell: Cell, tag: Tag, texts: Mapping[int, str]) -> SampleCell:
    value: Scalar = wire.scalar(cell.value, tag.value_type)
    if tag.value_type is ValueType.TEXT and cell.value is not None:
        value = texts.get(int(cell.value), "")
    return SampleCell(
        value=value, quality=cell.quality, quality_text=q.describe(cell.quality), how=cell.how.value
    )

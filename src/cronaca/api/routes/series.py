"""History: curves for a plot, raw samples, the reading at a cursor."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any

from fastapi import Header, Query, Response
from pydantic import StringConstraints

from cronaca.api import wire
from cronaca.api.deps import CurvesDep, MadeDep, ReaderDep, StoreDep, find_all_tags, find_archives
from cronaca.api.routing import api_router
from cronaca.api.schemas import CurvesOut, DerivedIn, DerivedPenIn, RawOut, ReadingOut, SeriesOut, Uid
from cronaca.core import quality as q
from cronaca.core.formulas import inputs_of, parse_formula
from cronaca.core.model import Series, ValueType, Window
from cronaca.core.trends import WIDEST, read_at
from cronaca.db import Store
from cronaca.exchange import arrow, columns
from cronaca.plant.tags import find_tags
from cronaca.services.derived import DerivedCurve, DerivedReader

router = api_router("/series", "history")

CURVE_ANSWERS: dict[int | str, dict[str, Any]] = {
    200: {"content": {arrow.MEDIA_TYPE: {}, columns.MEDIA_TYPE: {}}}
}

TagsQuery = Annotated[list[Uid], Query(min_length=1, max_length=64)]
Micros = Annotated[int, Query(description="UTC microseconds since 1970")]
ArchivesQuery = Annotated[
    Sequence[Annotated[str, StringConstraints(max_length=300)]],
    Query(max_length=64, description="tag:archive (uid and name), where not the fitting one"),
]


@router.get("/curves", responses=CURVE_ANSWERS, response_model=CurvesOut)
def get_curves(
    store: StoreDep,
    reader: CurvesDep,
    tag: TagsQuery,
    start: Micros,
    end: Micros,
    width: Annotated[int, Query(ge=1, le=WIDEST, description="Pixel columns of the plot")] = 1000,
    archive: ArchivesQuery = (),
    accept: Annotated[str, Header()] = "application/json",
) -> Response | CurvesOut:
    """Curves of several tags, reduced (M4) to a plot's pixel columns; Arrow IPC, plain columns
    or JSON by Accept.

    Each series has one bounding sample before and behind the window, where there is one. Long windows are
    drawn from rollups: the columns then snap to the edges of their buckets (`bucket_us`)."""
    window = Window.parse(start, end)
    tags = find_all_tags(store, tag)
    read = reader.read_many([t.tag_id for t in tags], window, width, find_archives(store, tags, archive))
    curves = [curve.series for curve in read]
    details = [
        wire.details(t, curve.answer, curve.reduced, end, curve.width_us, curve.archive_id)
        for t, curve in zip(tags, read, strict=True)
    ]
    return _curves(details, curves, window, width, accept)


@router.post("/derived", responses=CURVE_ANSWERS, response_model=CurvesOut)
def get_made(
    store: StoreDep, reader: MadeDep, body: DerivedIn, accept: Annotated[str, Header()] = "application/json"
) -> Response | CurvesOut:
    """Curves of pens that are made as they are looked at, in the form of `/series/curves`. A formula is
    evaluated at every sample of its inputs; over very many of them from their reduced curves (`reduced`)."""
    window = Window.parse(int(body.start_us), int(body.end_us), "start_us", "end_us")
    made = [_make(store, reader, pen, window, body.width) for pen in body.pens]
    details = [wire.derived_details(p.id, m, window.end_us) for p, m in zip(body.pens, made, strict=True)]
    return _curves(details, [curve.series for curve in made], window, body.width, accept)


def _make(store: Store, reader: DerivedReader, pen: DerivedPenIn, window: Window, width: int) -> DerivedCurve:
    if pen.logger is not None:
        return reader.records(pen.logger, pen.column, window)
    node = parse_formula(pen.formula)
    names = [name for name in inputs_of(node) if name in pen.inputs]
    with store.snapshot() as tx:
        by_uid = find_tags(tx, [pen.inputs[name] for name in names])
    tags = {name: by_uid[pen.inputs[name]] for name in names if pen.inputs[name] in by_uid}
    return reader.calculate(node, tags, window, width)


def _curves(
    details: list[dict[str, Any]], curves: list[Series], window: Window, width: int, accept: str
) -> Response | CurvesOut:
    ends = {"start_us": str(window.start_us), "end_us": str(window.end_us)}
    for form, write in ((columns.MEDIA_TYPE, columns.to_columns), (arrow.MEDIA_TYPE, arrow.to_ipc)):
        if form in accept:
            whole = {**ends, "width": width, "series": [wire.plain(f) for f in details]}
            return Response(write(curves, whole), media_type=form)
    series = [SeriesOut.model_validate({**f, **_columns(c)}) for f, c in zip(details, curves, strict=True)]
    return CurvesOut(**ends, width=width, series=series)


@router.get("/raw", responses={200: {"content": {arrow.MEDIA_TYPE: {}}}}, response_model=RawOut)
def get_raw(
    store: StoreDep,
    reader: ReaderDep,
    tag: Annotated[Uid, Query()],
    start: Micros,
    end: Micros,
    limit: Annotated[int, Query(ge=1, le=100_000)] = 10_000,
    accept: Annotated[str, Header()] = "application/json",
) -> Response | RawOut:
    """Recorded samples of one tag in [start, end), exact, a page at a time; Arrow IPC or JSON by Accept. Only
    the page is read, however long the window is; `samples` and `gaps` are of the page."""
    window = Window.parse(start, end)
    (recorded_tag,) = find_all_tags(store, [tag])
    answer, part = reader.read_page(recorded_tag.tag_id, window, limit)
    recorded = answer.recorded
    inside = recorded.take((recorded.ts_us >= part.start_us) & (recorded.ts_us < part.end_us))
    page = inside.take(slice(0, limit))
    following = int(inside.ts_us[limit]) if len(inside) > limit else part.end_us
    details = {
        **wire.details(recorded_tag, answer, False, following, 0), "samples": len(page),
        "next_start_us": str(following) if following < window.end_us else None,
    }  # fmt: skip
    details["gaps"] = [gap for gap in details["gaps"] if int(gap.start_us) < following]
    if arrow.MEDIA_TYPE in accept:
        return Response(arrow.to_ipc_exact(page, wire.plain(details)), media_type=arrow.MEDIA_TYPE)
    return RawOut.model_validate({**details, **_columns(page)})


@router.get("/at")
def get_readings(
    store: StoreDep, reader: CurvesDep, tag: TagsQuery, at: Micros, archive: ArchivesQuery = ()
) -> list[ReadingOut]:
    """The value of each tag at one instant: recorded, interpolated or held, with its quality."""
    tags = find_all_tags(store, tag)
    archives = find_archives(store, tags, archive)
    answers = reader.read_at([t.tag_id for t in tags], at, archives)
    readings = []
    for of_tag, answer in zip(tags, answers, strict=True):
        stepped = of_tag.stepped or of_tag.value_type is not ValueType.FLOAT
        reading = read_at(answer.series, at, stepped=stepped, known_until_us=answer.known_until_us)
        sample = reading.sample_us
        readings.append(
            ReadingOut(
                tag=of_tag.uid,
                at_us=str(at),
                value=wire.scalar(reading.value, of_tag.value_type),
                quality=reading.quality,
                quality_text=q.describe(reading.quality),
                how=reading.how.value,
                sample_us=None if sample is None else str(sample),
            )
        )
    return readings


def _columns(series: Series) -> dict[str, list[object]]:
    columns = {"t_us": wire.micros(series.ts_us), "v": wire.values(series), "q": series.quality.tolist()}
    return {name: list(column) for name, column in columns.items()}

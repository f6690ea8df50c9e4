"""History: curves for a plot, raw samples, the reading at a cursor."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Header, Query, Response

from cronaca.api import wire
from cronaca.api.deps import CurvesDep, ReaderDep, StoreDep, find_all_tags
from cronaca.api.schemas import CurvesOut, RawOut, ReadingOut, SeriesOut, Uid
from cronaca.core import quality as q
from cronaca.core.model import Series, ValueType, Window
from cronaca.core.trends import WIDEST, read_at
from cronaca.exchange import arrow

router = APIRouter(prefix="/series", tags=["history"])

TagsQuery = Annotated[list[Uid], Query(min_length=1, max_length=64)]
Micros = Annotated[int, Query(description="UTC microseconds since 1970")]


@router.get("/curves", responses={200: {"content": {arrow.MEDIA_TYPE: {}}}}, response_model=CurvesOut)
def get_curves(
    store: StoreDep,
    reader: CurvesDep,
    tag: TagsQuery,
    start: Micros,
    end: Micros,
    width: Annotated[int, Query(ge=1, le=WIDEST, description="Pixel columns of the plot")] = 1000,
    accept: Annotated[str, Header()] = "application/json",
) -> Response | CurvesOut:
    """Curves of several tags, reduced (M4) to a plot's pixel columns; Arrow IPC or JSON by Accept.

    Each series has one bounding sample before and behind the window, where there is one. Long windows are
    drawn from rollups: the columns then snap to the edges of their buckets (`bucket_us`)."""
    window = Window.parse(start, end)
    tags = find_all_tags(store, tag)
    found = reader.read_many([t.tag_id for t in tags], window, width)
    curves = [one.series for one in found]
    facts = [
        wire.facts(t, one.facts, one.reduced, end, one.width_us) for t, one in zip(tags, found, strict=True)
    ]
    if arrow.MEDIA_TYPE in accept:
        heads = [wire.plain(f) for f in facts]
        whole = {"start_us": str(start), "end_us": str(end), "width": width, "series": heads}
        return Response(arrow.to_ipc(curves, whole), media_type=arrow.MEDIA_TYPE)
    series = [SeriesOut.model_validate({**f, **_columns(c)}) for f, c in zip(facts, curves, strict=True)]
    return CurvesOut(start_us=str(start), end_us=str(end), width=width, series=series)


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
    """Recorded samples of one tag in [start, end), exact, a page at a time; Arrow IPC or JSON by Accept."""
    window = Window.parse(start, end)
    (found,) = find_all_tags(store, [tag])
    (answer,) = reader.read_many([found.tag_id], window)
    recorded = answer.recorded
    inside = recorded.take((recorded.ts_us >= start) & (recorded.ts_us < end))
    page = inside.take(slice(0, limit))
    more = len(inside) > limit
    following = {"next_start_us": str(int(inside.ts_us[limit])) if more else None}
    facts = {**wire.facts(found, answer, False, end, 0), **following}
    if arrow.MEDIA_TYPE in accept:
        return Response(arrow.to_ipc_exact(page, wire.plain(facts)), media_type=arrow.MEDIA_TYPE)
    return RawOut.model_validate({**facts, **_columns(page)})


@router.get("/at")
def get_readings(store: StoreDep, reader: ReaderDep, tag: TagsQuery, at: Micros) -> list[ReadingOut]:
    """The value of each tag at one instant: recorded, interpolated or held, with its quality."""
    tags = find_all_tags(store, tag)
    answers = reader.read_many([t.tag_id for t in tags], Window.parse(at, at + 1))
    found = []
    for one, answer in zip(tags, answers, strict=True):
        stepped = one.stepped or one.value_type is not ValueType.FLOAT
        reading = read_at(answer.series, at, stepped=stepped, known_until_us=answer.known_until_us)
        sample = reading.sample_us
        found.append(
            ReadingOut(
                tag=one.uid,
                at_us=str(at),
                value=wire.scalar(reading.value, one.value_type),
                quality=reading.quality,
                quality_text=q.describe(reading.quality),
                how=reading.how.value,
                sample_us=None if sample is None else str(sample),
            )
        )
    return found


def _columns(series: Series) -> dict[str, list[object]]:
    columns = {"t_us": wire.micros(series.ts_us), "v": wire.values(series), "q": series.quality.tolist()}
    return {name: list(column) for name, column in columns.items()}

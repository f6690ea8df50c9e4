"""Long work that the worker does for people: asked for, looked at, cancelled; its file fetched."""

from __future__ import annotations

from typing import Final
from urllib.parse import quote

from fastapi.responses import StreamingResponse

from cronaca.api.deps import StoreDep
from cronaca.api.permissions import Exports
from cronaca.api.routes.figures import ServiceDep
from cronaca.api.routing import api_router
from cronaca.api.schemas import Uid
from cronaca.api.schemas.jobs import ExportJobOut, FiguresJobIn, FiguresJobOut, JobIn, JobOut, TableJobIn
from cronaca.api.schemas.specs import spec_of
from cronaca.core.errors import CorruptPayload, NotFound
from cronaca.db import Store
from cronaca.logbook import jobs
from cronaca.logbook.jobs import JobRow
from cronaca.services.jobs import asking
from cronaca.services.jobs.specs import ComputeFigures, ExportSamples, ExportTable, JobSpec, from_text

router = api_router("/jobs", "jobs")
_TYPES: Final = {
    "csv": "text/csv; charset=utf-8",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "parquet": "application/vnd.apache.parquet",
}


@router.get("")
def list_jobs(store: StoreDep) -> list[JobOut]:
    """The jobs of all people, newest first: at most 200."""
    with store.snapshot() as tx:
        return [_out(job) for job in jobs.list_jobs(tx)]


@router.post("", status_code=201)
def add_job(store: StoreDep, service: ServiceDep, who: Exports, body: JobIn) -> JobOut:
    """Has the worker make a file of samples or figures. It may be of any window and of many tags."""
    if isinstance(body, FiguresJobIn):
        return _get(store, asking.ask_figures(store, who, service, spec_of(body.figures)))
    if isinstance(body, TableJobIn):
        return _get(store, asking.ask_table(store, who, _table(body)))
    spec = ExportSamples(
        tuple(body.tags), int(body.start_us), int(body.end_us), body.form, body.archives, body.utc
    )
    return _get(store, asking.ask_export(store, who, spec))


@router.get("/{uid}")
def get_job(store: StoreDep, uid: Uid) -> JobOut:
    """How far a job is."""
    return _get(store, uid)


@router.post("/{uid}/cancel")
def cancel_job(store: StoreDep, who: Exports, uid: Uid) -> JobOut:
    """Ends a job that waits or runs; nothing of it is kept. One's own, or with the right to configure."""
    asking.cancel(store, who, uid)
    return _get(store, uid)


@router.delete("/{uid}", status_code=204)
def remove_job(store: StoreDep, who: Exports, uid: Uid) -> None:
    """Removes a job and its file; one that runs ends. One's own, or with the right to configure."""
    asking.remove(store, who, uid)


@router.get("/{uid}/file", response_class=StreamingResponse)
def get_file(store: StoreDep, uid: Uid) -> StreamingResponse:
    """The file that a job has made."""
    with store.snapshot() as tx:
        job = jobs.get_job(tx, uid)
    if not job.file_name:
        raise NotFound("file", job.name)
    headers = {
        "Content-Disposition": f"attachment; filename*=UTF-8''{quote(job.file_name)}",
        "Content-Length": str(job.file_bytes),
    }
    form = job.file_name.rpartition(".")[2]
    return StreamingResponse(jobs.read_file(store, job.number), media_type=_TYPES[form], headers=headers)


def _get(store: Store, uid: str) -> JobOut:
    with store.snapshot() as tx:
        return _out(jobs.get_job(tx, uid))


def _out(job: JobRow) -> JobOut:
    try:
        spec = from_text(job.kind, job.content)
    except CorruptPayload:
        spec = None
    return JobOut(
        uid=job.uid, kind=job.kind, export=_export(spec), figures=_figures(spec), name=job.name,
        person=job.person, state=job.state, share=job.share, problem=job.problem,
        created_us=str(job.created_us), begun_us=_micros(job.begun_us), ended_us=_micros(job.ended_us),
        file_name=job.file_name, file_bytes=job.file_bytes,
    )  # fmt: skip


def _table(body: TableJobIn) -> ExportTable:
    return ExportTable(
        tuple(body.tags), int(body.start_us), int(body.end_us), body.form, body.layout, body.step_us,
        body.between == "interpolated", body.order, body.value, body.quality, body.archives,
    )  # fmt: skip


def _export(spec: JobSpec | None) -> ExportJobOut | None:
    if not isinstance(spec, ExportSamples | ExportTable):
        return None
    return ExportJobOut(
        is_table=isinstance(spec, ExportTable), tag_count=len(spec.tags), start_us=str(spec.start_us),
        end_us=str(spec.end_us), form=spec.form,
    )  # fmt: skip


def _figures(spec: JobSpec | None) -> FiguresJobOut | None:
    if not isinstance(spec, ComputeFigures):
        return None
    return FiguresJobOut(
        tag_count=len(spec.figures.tags), stats=[figure.stat for figure in spec.figures.figures]
    )


def _micros(at_us: int | None) -> str | None:
    return None if at_us is None else str(at_us)

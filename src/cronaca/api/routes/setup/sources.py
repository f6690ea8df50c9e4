"""The set-up: plant, sources, archives, and all of it as a file."""

from __future__ import annotations

import json
import time
from typing import Annotated, Any, Final, Literal

from fastapi import Body, Query, Response
from pydantic import TypeAdapter

from cronaca.api.deps import StoreDep
from cronaca.api.errors import parsed
from cronaca.api.permissions import Configures
from cronaca.api.routing import api_router
from cronaca.api.schemas import Uid
from cronaca.api.schemas.addresses import stored_settings
from cronaca.api.schemas.setup import (
    ArchiveIn,
    ArchiveOut,
    DifferenceOut,
    DocumentReport,
    DoomedMonth,
    FieldDifference,
    PlantIn,
    RetentionOut,
)
from cronaca.api.schemas.setup_file import SetupFile, setup_file_schema
from cronaca.api.schemas.sources import SourceIn, SourceOut
from cronaca.core.calendar import month_window
from cronaca.core.errors import CronacaError, InvalidInput, NotFound
from cronaca.core.model import DAY
from cronaca.core.setup import ArchiveSpec, PlantSpec, SourceSpec
from cronaca.core.setup.document import Difference, Document, checked_document, only
from cronaca.core.setup.specs import secret_belongs
from cronaca.core.windows import Shift
from cronaca.db import Store, disks
from cronaca.db.disks import DiskLocation
from cronaca.db.transaction import Transaction
from cronaca.history.jobs import retention
from cronaca.history.jobs.retention import Policy
from cronaca.plant import archives, sources
from cronaca.plant import document as document_file
from cronaca.plant.archives import ArchiveRow
from cronaca.plant.changes import By
from cronaca.plant.site import change_plant
from cronaca.plant.sources import SourceRow
from cronaca.services.acting import act

router = api_router("/setup", "set-up")
Part = Literal["plant", "sources", "tags", "archives", "loggers", "runs"]
_YEAR_DAYS: Final = 365.25
_SOURCE: Final[TypeAdapter[SourceOut]] = TypeAdapter(SourceOut)


@router.put("/plant", status_code=204)
def put_plant(store: StoreDep, who: Configures, body: PlantIn) -> None:
    """Sets what holds for the plant."""
    shifts = tuple(Shift(shift.name, shift.start_minute) for shift in body.shifts)
    plant = PlantSpec(body.name, body.zone, body.first_weekday, shifts)
    act(store, who, lambda tx, by: change_plant(tx, plant, by))


@router.get("/sources")
def list_sources(store: StoreDep) -> list[SourceOut]:
    """All sources by name."""
    with store.snapshot() as tx:
        return [_source(row) for row in sources.list_rows(tx)]


@router.post("/sources", status_code=201)
def add_source(store: StoreDep, who: Configures, body: SourceIn) -> SourceOut:
    """Adds a source; it is connected to within 2 s."""
    return get_source(store, act(store, who, lambda tx, by: _add(tx, body, by)))


@router.get("/sources/{uid}")
def get_source(store: StoreDep, uid: Uid) -> SourceOut:
    """One source."""
    with store.snapshot() as tx:
        for row in sources.list_rows(tx):
            if row.uid == uid:
                return _source(row)
    raise NotFound("source", uid)


@router.put("/sources/{uid}")
def change_source(store: StoreDep, who: Configures, uid: Uid, body: SourceIn) -> SourceOut:
    """Changes a source."""
    act(store, who, lambda tx, by: _change(tx, uid, body, by))
    return get_source(store, uid)


@router.delete("/sources/{uid}", status_code=204)
def remove_source(store: StoreDep, who: Configures, uid: Uid, revision: int | None = None) -> None:
    """Removes a source with its tags; their history stays."""
    act(store, who, lambda tx, by: sources.remove_source(tx, uid, by, revision))


@router.get("/archives")
def list_archives(store: StoreDep) -> list[ArchiveOut]:
    """All archives, with what they hold and cost."""
    with store.snapshot() as tx:
        places = {place.archive: place for place in disks.list_places(tx)}
        return [_archive(row, places[row.spec.name]) for row in archives.list_rows(tx)]


@router.get("/archives/{uid}/retention")
def preview_retention(
    store: StoreDep,
    uid: Uid,
    keep_us: int | None = None,
    keep_bytes: int | None = None,
    *,
    thin: bool = False,
) -> RetentionOut:
    """What a policy would delete of an archive now, to the sample, before it is switched on."""
    with store.snapshot() as tx:
        archive_id = archives.get_archive(tx, uid).archive_id
        preview = retention.plan(tx, archive_id, Policy(keep_us, keep_bytes, thin), time.time_ns() // 1000)
    return RetentionOut(
        cut_us=_micros(preview.cut_us), samples=preview.samples,
        months=[
            DoomedMonth(
                start_us=str(month_window(part.month).start_us), before_us=str(part.before_us),
                samples=part.samples, bytes=part.bytes,
            )
            for part in preview.doomed
        ],
    )  # fmt: skip


@router.post("/archives", status_code=201)
def add_archive(store: StoreDep, who: Configures, body: ArchiveIn) -> ArchiveOut:
    """Adds an archive."""
    uid = act(store, who, lambda tx, by: archives.add_archive(tx, _archive_spec(body), by))
    return _get_archive(store, uid)


@router.put("/archives/{uid}")
def change_archive(store: StoreDep, who: Configures, uid: Uid, body: ArchiveIn) -> ArchiveOut:
    """Changes an archive. What a shorter retention would delete is said by its preview."""
    act(
        store,
        who,
        lambda tx, by: archives.change_archive(tx, uid, _archive_spec(body), by, body.revision),
    )
    return _get_archive(store, uid)


@router.delete("/archives/{uid}", status_code=204)
def remove_archive(store: StoreDep, who: Configures, uid: Uid, revision: int | None = None) -> None:
    """Removes an archive in which nothing was ever recorded."""
    act(store, who, lambda tx, by: archives.remove_archive(tx, uid, by, revision))


@router.get("/document")
def get_document(
    store: StoreDep, part: Annotated[list[Part] | None, Query(description="All when none is named")] = None
) -> Response:
    """The set-up, or parts of it, as one readable document that can be imported elsewhere."""
    with store.snapshot() as tx:
        whole = document_file.read_document(tx)
    if part:
        whole = only(whole, part)
    headers = {"Content-Disposition": 'attachment; filename="cronaca-setup.json"'}
    return Response(json.dumps(whole, indent=1), media_type="application/json", headers=headers)


@router.get("/document/schema")
def get_document_schema() -> Response:
    """The JSON Schema (draft 2020-12) of such a document."""
    return Response(json.dumps(setup_file_schema(), indent=1), media_type="application/schema+json")


@router.post("/document")
def put_document(
    store: StoreDep, who: Configures, document: Annotated[dict[str, Any], Body()], *, write: bool = False
) -> DocumentReport:
    """What a document adds and changes; with `write` it is done, all or nothing. What it leaves out stays."""
    checked = checked_document(document)
    try:
        outcome = act(store, who, lambda tx, by: _try_document(tx, checked, by, write))
    except _OnlyTried as tried:
        outcome = tried.found
    except (TypeError, AttributeError, LookupError, ValueError, ArithmeticError) as exc:
        if isinstance(exc, CronacaError):
            raise
        raise _explained(document, exc) from exc
    return document_report(outcome, written=write)


def _explained(document: dict[str, Any], exc: Exception) -> InvalidInput:
    """What is wrong with a document that the rules stumbled over: by its published form, if that tells."""
    parsed(SetupFile, document)
    return InvalidInput(
        "document",
        "something-unusable",
        "something in it cannot be used ({exc})",
        "Compare it with its schema.",
        exc=exc,
    )


def document_report(listed: list[Difference], *, written: bool) -> DocumentReport:
    """What a set-up file, or what was restored, adds and changes."""
    return DocumentReport(
        written=written,
        differences=[difference_out(d) for d in listed],
    )


def difference_out(difference: Difference) -> DifferenceOut:
    """A difference as it is sent."""
    changes = [
        FieldDifference(name=name, before=before, after=after) for name, before, after in difference.changes
    ]
    return DifferenceOut(
        kind=difference.kind,
        uid=difference.uid,
        name=difference.name,
        action=difference.action,
        changes=changes,
    )


class _OnlyTried(Exception):
    def __init__(self, listed: list[Difference]) -> None:
        super().__init__()
        self.found = listed


def _try_document(tx: Transaction, document: Document, by: By, write: bool) -> list[Difference]:
    """Writes it in any case, so that all that would be refused is refused; a preview is then rolled back."""
    written = document_file.write_document(tx, document, by)
    if not write:
        raise _OnlyTried(written)
    return written


def _add(tx: Transaction, body: SourceIn, by: By) -> str:
    uid = sources.add_source(tx, _source_spec(body), by)
    if body.secret:
        sources.put_secret(tx, uid, body.secret)
    return uid


def _change(tx: Transaction, uid: str, body: SourceIn, by: By) -> None:
    row, spec = sources.get_source(tx, uid), _source_spec(body).checked()
    same = secret_belongs(spec.settings, row.spec.settings)
    if row.has_secret and body.secret is None and not same:
        raise InvalidInput(
            "secret",
            "password-kept-given-another",
            "the password that is kept was given for another endpoint, security or user",
            "Type it again, or empty it.",
        )
    sources.change_source(tx, uid, _source_spec(body), by, body.revision)
    if body.secret is not None:
        sources.put_secret(tx, uid, body.secret)


def _source_spec(body: SourceIn) -> SourceSpec:
    config = body.config.model_dump()
    return SourceSpec.from_plain(body.name, body.protocol, config, enabled=body.enabled)


def _source(row: SourceRow) -> SourceOut:
    plain = row.spec.to_plain()
    return _SOURCE.validate_python({
        **plain, "config": stored_settings(plain["protocol"], plain["config"]), "uid": row.uid,
        "revision": row.revision, "tags": row.tags,
        "number": row.source_id, "has_secret": row.has_secret,
    })  # fmt: skip


def _archive_spec(body: ArchiveIn) -> ArchiveSpec:
    return ArchiveSpec(**body.model_dump(exclude={"revision"}))


def _get_archive(store: Store, uid: str) -> ArchiveOut:
    with store.snapshot() as tx:
        row = archives.get_archive(tx, uid)
        (place,) = (place for place in disks.list_places(tx) if place.archive == row.spec.name)
        return _archive(row, place)


def _archive(row: ArchiveRow, place: DiskLocation) -> ArchiveOut:
    spec = row.spec
    days = 0.0 if row.first_us is None or row.last_us is None else (row.last_us - row.first_us) / DAY
    per_day = row.samples / days if days > 0 else None
    size = row.bytes / row.samples if row.samples else 0.0
    return ArchiveOut(
        uid=row.uid, revision=row.revision, name=spec.name, keep_us=spec.keep_us,
        keep_bytes=spec.keep_bytes, thin=spec.thin, live_only=spec.live_only, directory=spec.directory,
        disk_state=place.state, disk=place.text, loggers=row.loggers, samples=row.samples,
        bytes=row.bytes, first_us=_micros(row.first_us), last_us=_micros(row.last_us),
        samples_per_day=per_day,
        megabytes_per_year=None if per_day is None else per_day * size * _YEAR_DAYS / 1e6,
    )  # fmt: skip


def _micros(value: int | None) -> str | None:
    return None if value is None else str(value)

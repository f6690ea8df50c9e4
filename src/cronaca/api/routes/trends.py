"""Trends: saved sheets, notes, windows by words, the tags of sister equipment, samples as files."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Annotated, Final, cast

from fastapi import Query
from fastapi.responses import StreamingResponse

from cronaca.api.deps import CurvesDep, ReaderDep, StoreDep, find_all_tags, find_archives
from cronaca.api.permissions import Annotates, SavesViews, Views
from cronaca.api.routing import api_router
from cronaca.api.schemas import Uid
from cronaca.api.schemas.trends import (
    EarlierOut,
    ExportQuery,
    NoteIn,
    NoteOut,
    NoteText,
    SheetIn,
    SheetOut,
    SheetPage,
    SisterEquipmentOut,
    SistersIn,
    SistersOf,
    SistersOut,
)
from cronaca.core.errors import InvalidInput
from cronaca.core.model import Window
from cronaca.core.sisters import count_sisters, find_sister
from cronaca.db import Store
from cronaca.db.transaction import Transaction
from cronaca.exchange.shown import Form, Shown, basic_text, write_shown
from cronaca.logbook import notes
from cronaca.logbook.notes import Note
from cronaca.plant.site import find_plant
from cronaca.plant.tags import list_tags
from cronaca.services.acting import Act, act
from cronaca.services.sample_files import inside, recorded_parts, texts_in
from cronaca.views import sheets
from cronaca.views.sheets import Sheet, SheetContent

router = api_router("", "trends")
Micros = Annotated[int, Query(description="UTC microseconds since 1970")]
_TYPES: Final = {
    Form.CSV: "text/csv; charset=utf-8",
    Form.XLSX: "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    Form.PARQUET: "application/vnd.apache.parquet",
}
_CHUNK: Final = 1 << 18
_MOST_EXPORTED: Final = 20_000_000


@router.get("/sheets")
def list_sheets(store: StoreDep, who: Views, page: SheetPage = "trends") -> list[SheetOut]:
    """The shared sheets of a page and one's own, by folder and name."""
    with store.snapshot() as tx:
        return [_sheet(sheet) for sheet in sheets.list_sheets(tx, who.actor.name, page)]


@router.post("/sheets", status_code=201)
def add_sheet(store: StoreDep, who: SavesViews, body: SheetIn) -> SheetOut:
    """Saves a new sheet."""

    def work(tx: Transaction, by: Act) -> str:
        uid = sheets.add_sheet(tx, _content(body), by)
        by.note("sheet", uid, None, sheets.get_sheet(tx, uid, by.person))
        return uid

    return _get_sheet(store, act(store, who, work), who.actor.name)


@router.put("/sheets/{uid}")
def change_sheet(store: StoreDep, who: SavesViews, uid: Uid, body: SheetIn) -> SheetOut:
    """Saves a sheet over itself; the later of two who change it is told."""

    def work(tx: Transaction, by: Act) -> None:
        before = sheets.get_sheet(tx, uid, by.person)
        sheets.change_sheet(tx, uid, _content(body), by, body.revision)
        by.note("sheet", uid, before, sheets.get_sheet(tx, uid, by.person))

    act(store, who, work)
    return _get_sheet(store, uid, who.actor.name)


@router.delete("/sheets/{uid}", status_code=204)
def remove_sheet(store: StoreDep, who: SavesViews, uid: Uid) -> None:
    """Removes a sheet."""

    def work(tx: Transaction, by: Act) -> None:
        before = sheets.get_sheet(tx, uid, by.person)
        sheets.remove_sheet(tx, uid, by.person)
        by.note("sheet", uid, before, None)

    act(store, who, work)


def _content(body: SheetIn) -> SheetContent:
    return SheetContent(body.name, body.view, body.folder, body.own, body.page)


def _get_sheet(store: Store, uid: str, person: str) -> SheetOut:
    with store.snapshot() as tx:
        return _sheet(sheets.get_sheet(tx, uid, person))


def _sheet(sheet: Sheet) -> SheetOut:
    return SheetOut(
        page=cast(SheetPage, sheet.page), uid=sheet.uid, name=sheet.name, folder=sheet.folder,
        view=sheet.view, revision=sheet.revision,
        person=sheet.person, created_us=str(sheet.created_us), own=sheet.owner != "",
    )  # fmt: skip


@router.get("/notes")
def list_notes(
    store: StoreDep, start: Micros, end: Micros, search: Annotated[str, Query(max_length=200)] = ""
) -> list[NoteOut]:
    """Notes that touch a window, newest first."""
    window = Window.parse(start, end)
    with store.snapshot() as tx:
        return [_note(note) for note in notes.list_notes(tx, window, search.strip())]


@router.post("/notes", status_code=201)
def add_note(store: StoreDep, who: Annotates, body: NoteIn) -> NoteOut:
    """Pins a note."""
    end_us = None if body.end_us is None else int(body.end_us)
    start_us = int(body.start_us)

    def work(tx: Transaction, by: Act) -> str:
        uid = notes.add_note(tx, start_us, end_us, body.tag, body.text, by)
        by.note("note", uid, None, notes.get_note(tx, uid))
        return uid

    return _get_note(store, act(store, who, work))


@router.put("/notes/{uid}")
def change_note(store: StoreDep, who: Annotates, uid: Uid, body: NoteText) -> NoteOut:
    """Writes a note anew; what it said is kept."""

    def work(tx: Transaction, by: Act) -> None:
        before = notes.get_note(tx, uid)
        notes.change_note(tx, uid, body.text, by)
        by.note("note", uid, before, notes.get_note(tx, uid))

    act(store, who, work)
    return _get_note(store, uid)


@router.delete("/notes/{uid}", status_code=204)
def remove_note(store: StoreDep, who: Annotates, uid: Uid) -> None:
    """Takes a note away."""

    def work(tx: Transaction, by: Act) -> None:
        before = notes.get_note(tx, uid)
        notes.remove_note(tx, uid, by)
        by.note("note", uid, before, None)

    act(store, who, work)


@router.get("/notes/{uid}/earlier")
def list_earlier(store: StoreDep, uid: Uid) -> list[EarlierOut]:
    """What a note said before, newest first."""
    with store.snapshot() as tx:
        earlier = notes.list_earlier(tx, uid)
    return [
        EarlierOut(text=entry.text, person=entry.person, created_us=str(entry.created_us))
        for entry in earlier
    ]


def _get_note(store: Store, uid: str) -> NoteOut:
    with store.snapshot() as tx:
        return _note(notes.get_note(tx, uid))


def _note(note: Note) -> NoteOut:
    return NoteOut(
        uid=note.uid, start_us=str(note.start_us), end_us=None if note.end_us is None else str(note.end_us),
        tag=note.tag_uid, tag_name=note.tag_name, text=note.text, person=note.person,
        created_us=str(note.created_us),
    )  # fmt: skip


@router.post("/tags/sisters")
def find_sisters(store: StoreDep, body: SistersIn) -> SistersOut:
    """For tags of one equipment (Line 1) those of the same names of another one (Line 2)."""
    target = body.equipment.strip().strip("/")
    if not target:
        raise InvalidInput("equipment", "equipment-missing", "it is missing", "Name the one to go over to.")
    tags = find_all_tags(store, body.tags)
    with store.snapshot() as tx:
        by_name = {tag.name: tag.uid for tag in list_tags(tx)}
    return SistersOut(sisters=[find_sister(tag, target, by_name) for tag in tags])


@router.post("/tags/sisters/equipment")
def list_sister_equipment(store: StoreDep, body: SistersOf) -> list[SisterEquipmentOut]:
    """Other equipment that has tags of the same names, and how many of these."""
    tags = find_all_tags(store, body.tags)
    with store.snapshot() as tx:
        counts = count_sisters(tags, list_tags(tx))
    return [SisterEquipmentOut(equipment=equipment, tags=count) for equipment, count in counts.items()]


@router.get("/series/export", response_class=StreamingResponse)
def export_samples(
    store: StoreDep, reader: ReaderDep, curves: CurvesDep, query: Annotated[ExportQuery, Query()]
) -> StreamingResponse:
    """The samples of tags in [start, end) as a file: all that were recorded, or those that a plot of so many
    columns shows. Times in the plant's zone with their offset, or in UTC; what is Bad has no value. The name
    of the file says from when to when."""
    window = Window.parse(query.start, query.end)
    tags = find_all_tags(store, query.tag)
    archives = find_archives(store, tags, query.archive)
    curves_of = curves.read_many([t.tag_id for t in tags], window, query.width, archives)
    parts: Iterator[Shown]
    if query.what == "shown":
        parts = (
            Shown(t.name, t.unit, inside(c.series, window)) for t, c in zip(tags, curves_of, strict=True)
        )
    else:
        samples = sum(curve.answer.samples for curve in curves_of)
        if samples > _MOST_EXPORTED:
            raise InvalidInput(
                "end",
                "window-holds-samples-tags",
                "the window holds {samples:,} samples of these tags",
                "Ask for fewer tags or a shorter window: at most {most_exported:,} at once. A file "
                "made in the background (POST /api/jobs) and the command `./cronaca history export` "
                "may hold more.",
                samples=samples,
                most_exported=_MOST_EXPORTED,
            )
        counts = [curve.answer.samples for curve in curves_of]
        parts = recorded_parts(reader, tags, counts, window, archives)
    with store.snapshot() as tx:
        plant = find_plant(tx)

    zone = "UTC" if plant is None or query.utc else plant.zone
    folder = tempfile.TemporaryDirectory(prefix="cronaca-")
    path = Path(folder.name) / f"samples.{query.form.value}"
    try:
        write_shown(path, query.form, parts, zone, texts_in(store))
    except BaseException:
        folder.cleanup()
        raise
    name = f"samples_{basic_text(window.start_us, zone)}_to_{basic_text(window.end_us, zone)}"
    headers = {"Content-Disposition": f'attachment; filename="{name}.{query.form.value}"'}
    return StreamingResponse(_stream(folder, path), media_type=_TYPES[query.form], headers=headers)


def _stream(folder: tempfile.TemporaryDirectory[str], path: Path) -> Iterator[bytes]:
    with folder, path.open("rb") as file:
        while data := file.read(_CHUNK):
            yield data

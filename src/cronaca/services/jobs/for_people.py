"""Files of samples and figures, of any size: made by the worker, kept with their job."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Final
from zoneinfo import ZoneInfo

from cronaca.core.aggregates import by_duration
from cronaca.core.errors import InvalidInput
from cronaca.core.model import Tag, Window
from cronaca.core.samples import ValueCondition
from cronaca.db import Store
from cronaca.exchange.sample_table import TableShape, write_sample_table
from cronaca.exchange.sheets import CsvFile
from cronaca.exchange.shown import Form, write_shown
from cronaca.history.read.figures import FigureReader, Wanted
from cronaca.history.read.series import SeriesReader
from cronaca.plant.archives import find_archive
from cronaca.plant.site import get_plant
from cronaca.plant.tags import find_tags
from cronaca.services.figures import FigureService, FiguresSpec
from cronaca.services.jobs.figures_file import HEADER, rows_of
from cronaca.services.jobs.runner import Doing, Handler, Outcome
from cronaca.services.jobs.specs import ComputeFigures, ExportSamples, ExportTable
from cronaca.services.sample_files import recorded_parts, texts_in
from cronaca.services.sample_tables import Layout, PageSpec, SampleTables, Selection, check_order
from cronaca.services.table_files import parts_of

MOST_FILE_BYTES: Final = 4 << 30


def handlers(store: Store, figures: FigureService, most_bytes: int = MOST_FILE_BYTES) -> dict[str, Handler]:
    """What the worker does for people, by kind."""

    def export(doing: Doing) -> Outcome:
        spec = doing.spec
        if not isinstance(spec, ExportSamples):
            raise TypeError(f"{spec.kind} is no export")
        path = doing.folder / f"{doing.name}.{spec.form.value}"
        _write_samples(store, spec, path, _telling(doing, path, most_bytes))
        return Outcome(file=path)

    def compute(doing: Doing) -> Outcome:
        spec = doing.spec
        if not isinstance(spec, ComputeFigures):
            raise TypeError(f"{spec.kind} computes no figures")
        path = doing.folder / f"{doing.name}.csv"
        _write_figures(store, figures, spec.figures, path, doing)
        _check_size(path, most_bytes)
        return Outcome(file=path)

    def table(doing: Doing) -> Outcome:
        spec = doing.spec
        if not isinstance(spec, ExportTable):
            raise TypeError(f"{spec.kind} is no table")
        path = doing.folder / f"{doing.name}.{spec.form.value}"
        _write_table(store, spec, path, _telling(doing, path, most_bytes))
        return Outcome(file=path)

    return {ExportSamples.kind: export, ExportTable.kind: table, ComputeFigures.kind: compute}


def _write_samples(store: Store, spec: ExportSamples, path: Path, tell: Callable[[float], None]) -> None:
    reader = SeriesReader(store)
    tags, window = export_tags(store, spec.tags), Window(spec.start_us, spec.end_us)
    archives = export_archives(store, spec)
    whole = by_duration(window.start_us, window.end_us)
    estimate = FigureReader(store, reader).estimate
    counts = [estimate([Wanted(tag, archives.get(tag.tag_id), whole, exact=True)]) for tag in tags]
    with store.snapshot() as tx:
        zone = "UTC" if spec.utc else get_plant(tx).zone
    parts = recorded_parts(reader, tags, counts, window, archives, tell)
    write_shown(path, Form(spec.form.value), parts, zone, texts_in(store))


def _write_table(store: Store, spec: ExportTable, path: Path, tell: Callable[[float], None]) -> None:
    of, how = table_selection(store, spec), page_spec(spec)
    with store.snapshot() as tx:
        zone = get_plant(tx).zone
    tables = SampleTables(store, SeriesReader(store))
    shape = TableShape(of.tags, zone, is_single=how.layout is Layout.SAMPLE)
    with path.open("wb") as stream:
        parts = parts_of(tables, of, how, path.parent, tell)
        write_sample_table(stream, Form(spec.form.value), shape, parts)


def table_selection(store: Store, spec: ExportTable) -> Selection:
    """What a table shows; raises InvalidInput for what does not exist or cannot be shown so."""
    tags = tuple(export_tags(store, spec.tags))
    window = Window.parse(spec.start_us, spec.end_us, "start_us", "end_us")
    of = Selection(tags, window, ValueCondition.parse(spec.value), spec.quality, export_archives(store, spec))
    check_order(of, page_spec(spec))
    return of


def page_spec(spec: ExportTable) -> PageSpec:
    """How the rows of a table are made."""
    return PageSpec(spec.layout, spec.step_us, spec.interpolated, order=spec.order)


def _write_figures(
    store: Store, figures: FigureService, request: FiguresSpec, path: Path, doing: Doing
) -> None:
    """Tag after tag, so that memory holds one of them."""
    names = [tag.name for tag in export_tags(store, request.tags)]
    with store.snapshot() as tx:
        zone = ZoneInfo(get_plant(tx).zone)
    with path.open("wb") as stream:
        file = CsvFile(stream, HEADER)
        for i, (uid, name) in enumerate(zip(request.tags, names, strict=True)):
            doing.tell(i / len(names))
            computed = figures.compute(replace(request, tags=(uid,)))
            for result in computed.results:
                for spec, figure in zip(request.figures, result.figures, strict=True):
                    file.write(rows_of(name, spec, figure, zone))
        file.finish()


def _telling(doing: Doing, path: Path, most_bytes: int) -> Callable[[float], None]:
    """Says how far a file is, as long as it is not too large."""

    def tell(share: float) -> None:
        _check_size(path, most_bytes)
        doing.tell(share)

    return tell


def _check_size(path: Path, most_bytes: int) -> None:
    if path.exists() and path.stat().st_size > most_bytes:
        raise InvalidInput(
            "tags",
            "file-larger-mb",
            "the file would be larger than {most_bytes:,} MB",
            "Ask for fewer tags or a shorter window, or for Parquet, which is smaller.",
            most_bytes=most_bytes >> 20,
        )


def export_tags(store: Store, uids: Sequence[str]) -> list[Tag]:
    """The tags of these uids; raises InvalidInput for one that does not exist."""
    with store.snapshot() as tx:
        by_uid = find_tags(tx, list(uids))
    for uid in uids:
        if uid not in by_uid:
            raise InvalidInput(
                "tags", "tags-no-tag", "there is no tag {uid}", "Take a uid from /api/tags.", uid=uid
            )
    return [by_uid[uid] for uid in uids]


def export_archives(store: Store, spec: ExportSamples | ExportTable) -> dict[int, int]:
    """The archives that are chosen, by number; raises InvalidInput for one that does not exist, or of a tag
    that is not exported."""
    chosen = {}
    with store.snapshot() as tx:
        by_uid = find_tags(tx, list(spec.archives))
        for uid, name in spec.archives.items():
            archive_id = find_archive(tx, name)
            if archive_id is None or uid not in spec.tags or uid not in by_uid:
                raise InvalidInput(
                    "archives",
                    "not-archive-tag-file",
                    "{uid}: {name!r} is not an archive of a tag in this file",
                    "Leave it out.",
                    uid=uid,
                    name=name,
                )
            chosen[by_uid[uid].tag_id] = archive_id
    return chosen

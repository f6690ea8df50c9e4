"""Files of samples and figures, of any size: made by the worker, kept with their job."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Final
from zoneinfo import ZoneInfo

from cronaca.core.errors import InvalidInput
from cronaca.core.model import Window
from cronaca.db import Store
from cronaca.exchange.sheets import CsvFile
from cronaca.plant.site import get_plant
from cronaca.plant.tags import find_tags
from cronaca.services.figures import FigureService, FiguresSpec
from cronaca.services.history_files import export_history
from cronaca.services.jobs.figures_file import HEADER, rows_of
from cronaca.services.jobs.runner import Doing, Handler, Outcome
from cronaca.services.jobs.specs import ComputeFigures, ExportSamples

MOST_FILE_BYTES: Final = 4 << 30


def handlers(store: Store, figures: FigureService, most_bytes: int = MOST_FILE_BYTES) -> dict[str, Handler]:
    """What the worker does for people, by kind."""

    def export(doing: Doing) -> Outcome:
        spec = doing.spec
        if not isinstance(spec, ExportSamples):
            raise TypeError(f"{spec.kind} is no export")
        path = doing.folder / f"{doing.name}.{spec.form.value}"
        doing.tell(0.0)
        window = Window(spec.start_us, spec.end_us)

        def tell(share: float, _samples: int) -> None:
            _check_size(path, most_bytes)
            doing.tell(share)

        export_history(store, path, tag_names(store, spec.tags), window, tell, spec.archive)
        return Outcome(file=path)

    def compute(doing: Doing) -> Outcome:
        spec = doing.spec
        if not isinstance(spec, ComputeFigures):
            raise TypeError(f"{spec.kind} computes no figures")
        path = doing.folder / f"{doing.name}.csv"
        _write_figures(store, figures, spec.figures, path, doing)
        _check_size(path, most_bytes)
        return Outcome(file=path)

    return {ExportSamples.kind: export, ComputeFigures.kind: compute}


def _write_figures(
    store: Store, figures: FigureService, request: FiguresSpec, path: Path, doing: Doing
) -> None:
    """Tag after tag, so that memory holds one of them."""
    names = tag_names(store, request.tags)
    with store.snapshot() as tx:
        zone = ZoneInfo(get_plant(tx).zone)
    file = CsvFile(path, HEADER)
    try:
        for i, (uid, name) in enumerate(zip(request.tags, names, strict=True)):
            doing.tell(i / len(names))
            computed = figures.compute(replace(request, tags=(uid,)))
            for result in computed.results:
                for spec, figure in zip(request.figures, result.figures, strict=True):
                    file.write(rows_of(name, spec, figure, zone))
    finally:
        file.close()


def _check_size(path: Path, most_bytes: int) -> None:
    if path.exists() and path.stat().st_size > most_bytes:
        raise InvalidInput(
            "tags", f"the file would be larger than {most_bytes >> 20:,} MB",
            "Ask for fewer tags or a shorter window, or for Parquet, which is smaller.",
        )  # fmt: skip


def tag_names(store: Store, uids: tuple[str, ...]) -> list[str]:
    """The present names of tags; raises InvalidInput for one that does not exist."""
    with store.snapshot() as tx:
        by_uid = find_tags(tx, list(uids))
    for uid in uids:
        if uid not in by_uid:
            raise InvalidInput("tags", f"there is no tag {uid}", "Take a uid from /api/tags.")
    return [by_uid[uid].name for uid in uids]

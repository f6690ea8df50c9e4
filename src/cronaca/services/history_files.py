"""Whole histories into the store and out of it, with progress, and stoppable at any moment."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from cronaca.core.calendar import month_at, month_window
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import InvalidInput
from cronaca.core.model import Tag, ValueType, Window
from cronaca.db import Store
from cronaca.exchange.tables import (
    CsvWriter,
    OnBad,
    ParquetWriter,
    Rejects,
    TableOptions,
    TableWriter,
    read_table,
)
from cronaca.history.read.series import SeriesReader
from cronaca.history.tables import months
from cronaca.history.write.imports import HistoryImport, clear_left_over
from cronaca.logbook import texts
from cronaca.plant.archives import get_archive_id, list_archive_names
from cronaca.plant.histories import History, list_histories, open_history
from cronaca.plant.tags import list_names, list_tags

Tell = Callable[[float, int], None]
"""Gets the share done, 0 to 1, and the samples so far; raising in it stops the work, nothing is kept."""
_LEFT_US: Final = 86_400_000_000


@dataclass(frozen=True, slots=True)
class ImportOptions:
    """What to bring in, and what the file does not say itself."""

    path: Path
    archive: str = ""
    zone: str = ""
    time_format: str = ""
    tag: str = ""
    on_bad: OnBad = OnBad.STOP


@dataclass(frozen=True, slots=True)
class Imported:
    """What came in. `rejected` are the lines that were left out."""

    samples: int
    tags: int
    rejected: Rejects


def import_history(store: Store, spec: ImportOptions, person: str, now_us: int, tell: Tell) -> Imported:
    """Brings in a file; all of it is seen at once at the end, or nothing when anything goes wrong."""
    clear_left_over(store, now_us - _LEFT_US)
    with store.snapshot() as tx:
        tags = {tag.name: tag for tag in list_tags(tx)}
        archive_id = get_archive_id(tx, spec.archive)
    kinds = {name: tag.value_type for name, tag in tags.items()}
    options = TableOptions(kinds, spec.zone, spec.time_format, spec.tag)
    rejects = Rejects(spec.on_bad)
    keys: dict[str, HistoryKey] = {}
    run = HistoryImport(store, spec.path.name, person, now_us)
    try:
        for block in read_table(spec.path, options, rejects, lambda values: _codes(store, values)):
            filled = {name: series for name, series in block.samples.items() if len(series)}
            for name in filled.keys() - keys.keys():
                keys[name] = _open(store, archive_id, tags[name], now_us)
            run.add({keys[name]: series for name, series in filled.items()})
            tell(block.share, run.samples)
        samples = run.publish()
    except BaseException:
        run.cancel()
        raise
    return Imported(samples, len(keys), rejects)


def _codes(store: Store, values: list[str]) -> list[int]:
    with store.transaction() as tx:
        return texts.codes_of(tx, values)


def _open(store: Store, archive_id: int, tag: Tag, now_us: int) -> HistoryKey:
    with store.transaction() as tx:
        return open_history(tx, archive_id, tag, now_us).key


def export_history(
    store: Store, path: Path, names: Sequence[str], window: Window, tell: Tell, archive: str = ""
) -> int:
    """Writes the recorded samples of some tags (of all when none is named) to a CSV or Parquet file, tag
    after tag, each in order of time; returns how many. A file that was begun is removed on any failure.
    A file is of one archive: raises InvalidInput where the tags lie in several and none is named."""
    chosen = _chosen_histories(store, names, archive)
    writer: TableWriter = ParquetWriter(path) if path.suffix.lower() == ".parquet" else CsvWriter(path)
    try:
        samples = 0
        for i, (name, history) in enumerate(chosen):
            for done, count in _export_one(store, writer, name, history, window):
                samples += count
                tell((i + done) / len(chosen), samples)
    except BaseException:
        writer.close()
        path.unlink(missing_ok=True)
        raise
    writer.close()
    return samples


def _chosen_histories(store: Store, names: Sequence[str], archive: str = "") -> list[tuple[str, History]]:
    """The histories of some tags (of all when none is named) in one archive, with the name of their tag.
    Raises InvalidInput for a tag or archive that does not exist, and where the tags lie in several archives
    and none is named."""
    with store.snapshot() as tx:
        tags = {tag.name: tag for tag in list_tags(tx)}
        histories = list_histories(tx)
        archive_id = get_archive_id(tx, archive) if archive else None
        archives = list_archive_names(tx)
    unknown = [name for name in names if name not in tags]
    if unknown:
        raise InvalidInput(
            "tag", "tag-no-tag", "there is no tag {unknown}", "Name a tag that exists.", unknown=unknown[0]
        )
    by_id = _names(store, histories, tags)
    named = set(names)
    chosen = [h for h in histories if not named or by_id[h.key.tag_id] in named]
    chosen = [h for h in chosen if archive_id is None or h.key.archive_id == archive_id]
    several = sorted({archives[h.key.archive_id] for h in chosen})
    if len(several) > 1:
        raise InvalidInput(
            "archive",
            "tags-lie-several-archives",
            "these tags are in several archives: {several}",
            "Name one of them; write one file for each.",
            several=", ".join(several),
        )
    return [(by_id[history.key.tag_id], history) for history in chosen]


def _names(store: Store, histories: Sequence[History], tags: Mapping[str, Tag]) -> dict[int, str]:
    """The name of each tag that has a history; a removed one says so, for its name may be given anew."""
    names = {tag.tag_id: name for name, tag in tags.items()}
    gone = [h.key.tag_id for h in histories if h.key.tag_id not in names]
    with store.snapshot() as tx:
        removed = list_names(tx, gone)
    return names | {tag_id: f"{name} (removed, tag {tag_id})" for tag_id, name in removed.items()}


def _export_one(
    store: Store, writer: TableWriter, name: str, history: History, window: Window
) -> Iterator[tuple[float, int]]:
    """Month by month, so that no tag has to fit into memory; yields the share done and the samples."""
    reader = SeriesReader(store)
    with store.snapshot() as tx:
        known_months = {m.month for m in months.list_months(tx, history.key)}
    # What was recorded a moment ago lies in the journal alone, which may be all there is of this month.
    known_months.add(month_at(time.time_ns() // 1000))
    touched = [month for month in sorted(known_months) if _cut(month, window) is not None]
    for i, month in enumerate(touched, 1):
        part = _cut(month, window)
        if part is None:
            continue
        (answer,) = reader.read_keys([history.key], part)
        recorded = answer.recorded
        inside = recorded.take((recorded.ts_us >= part.start_us) & (recorded.ts_us < part.end_us))
        known: dict[int, str] = {}
        if history.value_type is ValueType.TEXT:
            with store.snapshot() as tx:
                known = texts.texts_of(tx, inside.values.tolist())
        if len(inside):
            writer.write(name, inside, known)
        yield i / len(touched), len(inside)


def _cut(month: int, window: Window) -> Window | None:
    whole = month_window(month)
    start, end = max(whole.start_us, window.start_us), min(whole.end_us, window.end_us)
    return Window(start, end) if start < end else None

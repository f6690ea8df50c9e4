"""Archives as they are set up: read with what they hold, added, changed, removed."""

from __future__ import annotations

import os
import uuid
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from pathlib import PurePosixPath
from typing import Any, Final

from cronaca.core.errors import InvalidInput, NotFound
from cronaca.core.setup import ArchiveSpec
from cronaca.db import disks
from cronaca.db.transaction import Transaction
from cronaca.plant.changes import By, Log, check_revision

_ARCHIVES: Final = """
SELECT a.archive_id, a.uid, a.revision, a.name, a.keep_us, a.keep_bytes, a.thin, a.live_only, a.directory,
    (SELECT COUNT(*) FROM logger l WHERE l.archive_id = a.archive_id)
FROM archive a ORDER BY a.archive_id
"""
_ADD_ARCHIVE: Final = """
INSERT INTO archive (uid, name, keep_us, keep_bytes, thin, live_only, directory, mount)
VALUES (%(uid)s, %(name)s, %(keep_us)s, %(keep_bytes)s, %(thin)s, %(live_only)s, %(directory)s, %(mount)s)
"""
_ANY_HISTORY: Final = "SELECT 1 FROM history WHERE archive_id = %(archive_id)s LIMIT 1"
_REMOVE_ARCHIVE: Final = "DELETE FROM archive WHERE uid = %(uid)s"
_CHANGE_ARCHIVE: Final = """
UPDATE archive SET name = %(name)s, keep_us = %(keep_us)s, keep_bytes = %(keep_bytes)s, thin = %(thin)s,
    live_only = %(live_only)s, directory = %(directory)s, mount = %(mount)s, revision = revision + 1
WHERE uid = %(uid)s
"""
_INSERT: Final = "INSERT INTO archive (uid, name) VALUES (%(uid)s, %(name)s)"
_NAMES: Final = "SELECT archive_id, name FROM archive"
_FIND: Final = """
SELECT archive_id FROM archive WHERE %(name)s = '' OR name = %(name)s ORDER BY archive_id LIMIT 1
"""
_SIZES: Final = """
SELECT archive_id, SUM(sample_count), SUM(bytes), MIN(first_us), MAX(last_us) FROM history_month
GROUP BY archive_id
"""


_DATABASE_DIRECTORY: Final = "SELECT @@datadir"


@dataclass(frozen=True, slots=True)
class ArchiveRow:
    """An archive as it is set up, and what it holds in segments."""

    archive_id: int
    uid: str
    revision: int
    spec: ArchiveSpec
    loggers: int
    samples: int = 0
    bytes: int = 0
    first_us: int | None = None
    last_us: int | None = None


def insert_archive(tx: Transaction, uid: str, name: str) -> int:
    """Adds an archive with the usual settings, without a record of the change; returns its number."""
    return tx.insert(_INSERT, uid=uid, name=name)


def get_archive_id(tx: Transaction, name: str) -> int:
    """The number of the archive of this name; raises InvalidInput where there is none."""
    found = find_archive(tx, name)
    if found is None:
        raise InvalidInput(
            "archive",
            "no-archive",
            "there is no archive {archive!r}",
            "Name one that exists.",
            archive=name,
        )
    return found


def find_archive(tx: Transaction, name: str) -> int | None:
    """The number of the archive of this name; of the first one when no name is given."""
    row = tx.fetch_one(_FIND, name=name)
    return None if row is None else int(row[0])


def list_archive_names(tx: Transaction) -> dict[int, str]:
    """The name of each archive by its number."""
    return {int(number): str(name) for number, name in tx.fetch(_NAMES)}


def list_rows(tx: Transaction) -> list[ArchiveRow]:
    """All archives in the order in which they were added."""
    held = {row[0]: row[1:] for row in tx.fetch(_SIZES)}
    return [
        ArchiveRow(
            number, uid, revision,
            ArchiveSpec(name, keep_us, keep_bytes, bool(thin), bool(live_only), directory), int(loggers),
            *_whole(held.get(number, (0, 0, None, None))),
        )
        for number, uid, revision, name, keep_us, keep_bytes, thin, live_only, directory, loggers in tx.fetch(
            _ARCHIVES
        )
    ]  # fmt: skip


def _whole(held: Sequence[Any]) -> tuple[int, int, int | None, int | None]:
    samples, size, first_us, last_us = held
    return int(samples or 0), int(size or 0), first_us, last_us


def get_archive(tx: Transaction, uid: str) -> ArchiveRow:
    """One archive; raises NotFound."""
    for row in list_rows(tx):
        if row.uid == uid:
            return row
    raise NotFound("archive", uid)


def add_archive(tx: Transaction, spec: ArchiveSpec, by: By, uid: str = "") -> str:
    """Adds an archive; returns its uid. Raises InvalidInput."""
    spec = spec.checked()
    log = Log(tx, "archive", by)
    _check_free(tx, spec.name, "")
    _check_place(tx, spec.directory, "")
    uid = uid or str(uuid.uuid4())
    tx.insert(_ADD_ARCHIVE, uid=uid, mount=_mount(tx, spec.directory), **asdict(spec))
    log.note(uid, None, asdict(spec))
    log.write()
    return uid


def change_archive(tx: Transaction, uid: str, spec: ArchiveSpec, by: By, seen: int | None = None) -> None:
    """Changes an archive. Raises InvalidInput, NotFound, EditConflict."""
    spec = spec.checked()
    log = Log(tx, "archive", by)
    row = get_archive(tx, uid)
    check_revision(tx, "archive", uid, row.spec.name, has=row.revision, seen=seen)
    _check_free(tx, spec.name, uid)
    _check_place(tx, spec.directory, row.spec.directory)
    if spec.live_only and not row.spec.live_only and row.samples:
        raise InvalidInput(
            "live_only",
            "holds-samples-next-start",
            "it holds {samples} samples that the next start of the recorder would delete",
            "Make another archive for scratch work.",
            samples=row.samples,
        )
    tx.execute(_CHANGE_ARCHIVE, uid=uid, mount=_mount(tx, spec.directory), **asdict(spec))
    log.note(uid, asdict(row.spec), asdict(spec))
    log.write()


def remove_archive(tx: Transaction, uid: str, by: By, seen: int | None = None) -> None:
    """Removes an archive that nothing was ever recorded in. Raises InvalidInput, NotFound, EditConflict."""
    log = Log(tx, "archive", by)
    row = get_archive(tx, uid)
    check_revision(tx, "archive", uid, row.spec.name, has=row.revision, seen=seen)
    if row.loggers:
        raise InvalidInput(
            "archive",
            "loggers-record-into",
            "{loggers} loggers record into it",
            "Let them record elsewhere.",
            loggers=row.loggers,
        )
    if tx.fetch_one(_ANY_HISTORY, archive_id=row.archive_id) is not None:
        raise InvalidInput(
            "archive",
            "tags-recorded-into",
            "tags were recorded into it",
            "Limit how long it keeps samples instead.",
        )
    tx.execute(_REMOVE_ARCHIVE, uid=uid)
    log.note(uid, asdict(row.spec), None)
    log.write()


def _mount(tx: Transaction, directory: str) -> str:
    """The disk that a directory lies on now: should it be missing later, that is seen."""
    disk = disks.disk_of(directory, disks.list_disks(tx)) if directory else None
    return "" if disk is None else disk.path


def _check_place(tx: Transaction, directory: str, before: str) -> None:
    """An archive stays where it is, though its directory was chosen before there were permitted ones."""
    if not directory or directory == before:
        return
    row = tx.fetch_one(_DATABASE_DIRECTORY)
    own = () if row is None else (PurePosixPath(os.path.realpath(str(row[0]))),)
    # Links are followed where they are on this machine: a path below a root may lead out of it.
    tx.places.check(os.path.realpath(directory), own)


def _check_free(tx: Transaction, name: str, own_uid: str) -> None:
    for row in list_rows(tx):
        if row.uid != own_uid and row.spec.name.casefold() == name.casefold():
            raise InvalidInput(
                "name", "archive-name-taken", "there is an archive {name!r}", "Take another name.", name=name
            )

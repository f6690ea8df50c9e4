"""The disks that archives lie on, as the database's host has them (MariaDB's plugin `disks`; without it
nothing is known of them). The plugin tells them to accounts with the right FILE alone. The program's account
has none: an administrator makes the function DISK_SPACE for it, which tells that and nothing else."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final

from cronaca.db.transaction import Transaction

_HAS_PLUGIN: Final = """
SELECT 1 FROM information_schema.plugins WHERE plugin_name = 'DISKS' AND plugin_status = 'ACTIVE'
"""
DISK_SPACE: Final = (
    "CREATE OR REPLACE DEFINER = 'root'@'localhost' FUNCTION {database}.disk_space() RETURNS LONGTEXT "
    "READS SQL DATA SQL SECURITY DEFINER "
    "RETURN (SELECT JSON_ARRAYAGG(JSON_ARRAY(path, total, available)) FROM information_schema.disks)"
)
"""The function, to be made by an administrator."""
_DISKS: Final = "SELECT path, total, available FROM information_schema.disks"
_HAS_FUNCTION: Final = """
SELECT 1 FROM information_schema.routines
WHERE routine_schema = DATABASE() AND routine_name = 'disk_space' AND routine_type = 'FUNCTION'
"""
_CALL: Final = "SELECT disk_space()"
_DATA: Final = "SELECT @@datadir"
_ARCHIVES: Final = "SELECT name, directory, mount FROM archive ORDER BY archive_id"
_KILO: Final = 1024
_LOW_SHARE: Final = 0.05
_LOW_BYTES: Final = 1_000_000_000


@dataclass(frozen=True, slots=True)
class Disk:
    """A mounted disk; sizes in bytes."""

    path: str
    total: int
    free: int

    @property
    def low(self) -> bool:
        """Less than 5 % or 1 GB is free."""
        return self.free < max(self.total * _LOW_SHARE, _LOW_BYTES)


@dataclass(frozen=True, slots=True)
class DiskLocation:
    """Where an archive lies. `state` is ok, low, absent (the disk it was put on is not there) or unknown."""

    archive: str
    directory: str
    state: str
    disk: Disk | None

    @property
    def text(self) -> str:
        """In words."""
        if self.disk is None:
            return f"{self.directory}: nothing is known of its disk (the database does not tell)."
        free = f"{self.disk.free / 1e9:.1f} GB of {self.disk.total / 1e9:.1f} GB free"
        if self.state == "absent":
            return f"The disk for {self.directory} is not there: mount it again. It was looked for in vain."
        return f"{self.directory} on the disk {self.disk.path}: {free}."


def list_disks(tx: Transaction) -> list[Disk]:
    """All disks of the database's host; none where it does not tell."""
    if tx.fetch_one(_HAS_PLUGIN) is None:
        return []
    disks = {str(path): (int(total), int(free)) for path, total, free in _disk_rows(tx)}
    return [Disk(path, total * _KILO, free * _KILO) for path, (total, free) in disks.items()]


def _disk_rows(tx: Transaction) -> Sequence[Sequence[Any]]:
    if tx.fetch_one(_HAS_FUNCTION) is None:
        return tx.fetch(_DISKS)
    row = tx.fetch_one(_CALL)
    rows: list[list[Any]] = json.loads(row[0]) if row and row[0] else []
    return rows


def disk_of(directory: str, disks: Sequence[Disk]) -> Disk | None:
    """The disk that a directory lies on: the one mounted nearest above it."""
    above = [disk for disk in disks if _is_above(disk.path, directory)]
    return max(above, key=lambda disk: len(disk.path), default=None)


def _is_above(mount: str, directory: str) -> bool:
    root = mount.rstrip("/")
    return directory == root or directory.startswith(f"{root}/")


def list_places(tx: Transaction) -> list[DiskLocation]:
    """Where each archive lies."""
    disks = list_disks(tx)
    row = tx.fetch_one(_DATA)
    own = "" if row is None else str(row[0]).rstrip("/")
    return [_place(name, directory or own, mount, disks) for name, directory, mount in tx.fetch(_ARCHIVES)]


def _place(archive: str, directory: str, mount: str, disks: Sequence[Disk]) -> DiskLocation:
    disk = disk_of(directory, disks)
    if disk is None:
        state = "unknown"
    elif mount and disk.path != mount:
        state = "absent"
    else:
        state = "low" if disk.low else "ok"
    return DiskLocation(archive, directory, state, disk)

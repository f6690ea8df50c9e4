"""Histories: which there are of each tag, one version for each type and unit that it had."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final, Protocol

from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import NotFound
from cronaca.core.model import Tag, ValueType
from cronaca.db.transaction import Row, Transaction

_ADD_HISTORY: Final = """
INSERT IGNORE INTO history (archive_id, tag_id, version, value_type, unit, since_us)
VALUES (%s, %s, %s, %s, %s, %s)
"""
_FIND_HISTORY: Final = """
SELECT archive_id, tag_id, version, value_type, since_us, unit FROM history
WHERE tag_id = %(tag_id)s AND (%(archive_id)s IS NULL OR archive_id = %(archive_id)s)
ORDER BY version DESC, archive_id LIMIT 1
"""
_FIND_HISTORIES: Final = """
SELECT archive_id, tag_id, version, value_type, since_us, unit FROM history
WHERE tag_id IN %(tag_ids)s AND (%(archive_id)s IS NULL OR archive_id = %(archive_id)s)
ORDER BY version DESC, archive_id
"""
_LIST_HISTORIES: Final = """
SELECT archive_id, tag_id, version, value_type, since_us, unit FROM history
ORDER BY archive_id, tag_id, version
"""
_GET_HISTORY: Final = """
SELECT archive_id, tag_id, version, value_type, since_us, unit FROM history
WHERE archive_id = %(archive_id)s AND tag_id = %(tag_id)s AND version = %(version)s
"""


@dataclass(frozen=True, slots=True)
class History:
    """A history and the type of its values."""

    key: HistoryKey
    value_type: ValueType
    since_us: int
    unit: str = ""


class Recorded(Protocol):
    """What a history needs to know of its tag."""

    @property
    def tag_id(self) -> int:
        """Its number."""
        ...

    @property
    def value_type(self) -> ValueType:
        """Of its values."""
        ...

    @property
    def unit(self) -> str:
        """Of its values."""
        ...


def open_histories(
    tx: Transaction, archive_id: int, tags: Sequence[Recorded], now_us: int
) -> list[HistoryKey]:
    """The open histories of tags in an archive. A tag that has none gets one; one whose type or unit is
    another one by now gets a new version."""
    existing = find_histories(tx, [tag.tag_id for tag in tags], archive_id)
    rows, keys = [], []
    for tag in tags:
        last = existing.get(tag.tag_id)
        version = 1 if last is None else last.key.version
        if last is not None and (last.value_type, last.unit) != (tag.value_type, tag.unit):
            version += 1
        key = HistoryKey(archive_id, tag.tag_id, version)
        if last is None or key != last.key:
            rows.append((*key, int(tag.value_type), tag.unit, now_us))
        keys.append(key)
    tx.execute_many(_ADD_HISTORY, rows)
    return keys


def find_history(tx: Transaction, tag_id: int, archive_id: int | None) -> History | None:
    """The newest history of a tag, in the given archive or in its first one."""
    row = tx.fetch_one(_FIND_HISTORY, tag_id=tag_id, archive_id=archive_id)
    if row is None:
        return None
    return _history(row)


def find_histories(tx: Transaction, tag_ids: list[int], archive_id: int | None) -> dict[int, History]:
    """Of each tag that has one, the newest history in the given archive or in its first one."""
    by_tag: dict[int, History] = {}
    rows = tx.fetch(_FIND_HISTORIES, tag_ids=tag_ids, archive_id=archive_id) if tag_ids else []
    for row in rows:
        by_tag.setdefault(row[1], _history(row))
    return by_tag


def list_choices(
    tx: Transaction, tag_ids: list[int], archives: Mapping[int, int]
) -> dict[int, list[History]]:
    """Of each tag that has any, its newest history in each archive, by archive; only the one in the archive
    that is named for the tag."""
    rows = tx.fetch(_FIND_HISTORIES, tag_ids=tag_ids, archive_id=None) if tag_ids else []
    newest: dict[tuple[int, int], History] = {}
    for row in rows:
        if archives.get(row[1], row[0]) == row[0]:
            newest.setdefault((row[1], row[0]), _history(row))
    by_tag: dict[int, list[History]] = {}
    for tag_id, archive_id in sorted(newest):
        by_tag.setdefault(tag_id, []).append(newest[tag_id, archive_id])
    return by_tag


def list_histories(tx: Transaction) -> list[History]:
    """All histories, older versions first."""
    return [_history(row) for row in tx.fetch(_LIST_HISTORIES)]


def open_history(tx: Transaction, archive_id: int, tag: Tag, now_us: int) -> History:
    """The newest history of a tag in an archive; opened when there is none yet."""
    tx.execute_many(_ADD_HISTORY, [(archive_id, tag.tag_id, 1, int(tag.value_type), tag.unit, now_us)])
    history = find_history(tx, tag.tag_id, archive_id)
    if history is None:
        raise NotFound("history", tag.name)
    return history


def get_history(tx: Transaction, key: HistoryKey) -> History:
    """One history; raises NotFound."""
    row = tx.fetch_one(_GET_HISTORY, **key._asdict())
    if row is None:
        raise NotFound("history", f"of tag {key.tag_id} in archive {key.archive_id}")
    return _history(row)


def _history(row: Row) -> History:
    return History(HistoryKey(*row[:3]), ValueType(row[3]), row[4], row[5])

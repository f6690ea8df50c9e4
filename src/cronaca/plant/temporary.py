"""Tags that were added to be looked at: until when they are there, and by whom they were added."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from cronaca.core.model import DAY
from cronaca.db.transaction import Transaction
from cronaca.plant.changes import By

KEPT_US: Final = DAY
_PUT: Final = """
INSERT INTO temporary_tag (tag_id, until_us, person)
SELECT tag_id, %(until_us)s, %(person)s FROM tag WHERE uid IN %(uids)s
"""
_KEEP: Final = "DELETE FROM temporary_tag WHERE tag_id IN (SELECT tag_id FROM tag WHERE uid IN %(uids)s)"
_LIST: Final = """
SELECT t.uid, x.until_us FROM temporary_tag x JOIN tag t ON t.tag_id = x.tag_id WHERE t.removed_us IS NULL
"""
_EXPIRED: Final = """
SELECT t.uid, x.person, EXISTS (SELECT 1 FROM logger_member m WHERE m.tag_id = x.tag_id)
FROM temporary_tag x JOIN tag t ON t.tag_id = x.tag_id
WHERE t.removed_us IS NULL AND x.until_us <= %(now_us)s
"""


@dataclass(frozen=True, slots=True)
class Expired:
    """A temporary tag whose time is over, who added it, and whether a logger records it by now."""

    uid: str
    person: str
    is_recorded: bool


def put_temporary(tx: Transaction, uids: Sequence[str], by: By) -> None:
    """Tags that were just added go after a day."""
    tx.execute(_PUT, uids=list(uids), until_us=by.created_us + KEPT_US, person=by.person)


def keep(tx: Transaction, uids: Sequence[str]) -> None:
    """They are tags like all others from now on."""
    tx.execute(_KEEP, uids=list(uids))


def list_temporary(tx: Transaction) -> dict[str, int]:
    """Until when each temporary tag is there, by uid."""
    return {str(uid): int(until_us) for uid, until_us in tx.fetch(_LIST)}


def list_expired(tx: Transaction, now_us: int) -> list[Expired]:
    """Those whose time is over."""
    return [Expired(str(uid), str(who), bool(on)) for uid, who, on in tx.fetch(_EXPIRED, now_us=now_us)]

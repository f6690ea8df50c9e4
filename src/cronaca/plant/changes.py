"""Who changed what and when; and that two people never overwrite each other."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Final

from cronaca.core.errors import EditConflict, InvalidInput, NotFound
from cronaca.core.topics import Topic
from cronaca.db.transaction import Row, Transaction

_NEXT: Final = "UPDATE setup_state SET revision = revision + 1 WHERE setup_id = 1"
_REVISION: Final = "SELECT revision FROM setup_state WHERE setup_id = 1"
_ADD: Final = """
INSERT INTO setup_change (revision, kind, uid, name, action, created_us, person, facts_before, facts_after)
VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s)
"""
_LAST: Final = """
SELECT person, created_us FROM setup_change WHERE uid = %(uid)s ORDER BY change_id DESC LIMIT 1
"""
_CHANGES: Final = """
SELECT change_id, kind, uid, name, action, created_us, person, facts_before, facts_after FROM setup_change
"""
_LIST: Final = f"""
{_CHANGES}
WHERE (%(uid)s = '' OR uid = %(uid)s) AND (%(kind)s = '' OR kind = %(kind)s) AND change_id < %(before)s
ORDER BY change_id DESC LIMIT %(limit)s
"""
_THESE: Final = f"{_CHANGES} WHERE change_id IN %(change_ids)s"
_STEP: Final = f"{_CHANGES} WHERE created_us = %(created_us)s AND person = %(person)s ORDER BY change_id"
_STEP_PAGE: Final = f"{_STEP} LIMIT %(limit)s"
_STEPS: Final = """
SELECT DISTINCT created_us, person FROM setup_change
WHERE (%(kind)s = '' OR kind = %(kind)s) AND created_us < %(before_us)s
    AND (%(text)s = '' OR INSTR(name, %(text)s) OR INSTR(person, %(text)s))
ORDER BY created_us DESC, person LIMIT %(limit)s
"""
_PARTS: Final = """
SELECT created_us, person, kind, action, COUNT(*), MIN(change_id) FROM setup_change
WHERE created_us BETWEEN %(first_us)s AND %(last_us)s
GROUP BY created_us, person, kind, action ORDER BY MIN(change_id)
"""
_NEWEST: Final = "SELECT uid, MAX(change_id) FROM setup_change WHERE uid IN %(uids)s GROUP BY uid"
_FAR: Final = (1 << 62) - 1
Plain = Mapping[str, Any]
Progress = Callable[[float], None]
"""Told what share of a long change is done, 0 to 1."""


def no_progress(_share: float) -> None:
    """Nobody wants to know."""


@dataclass(frozen=True, slots=True)
class By:
    """Who changes something, and when."""

    person: str
    created_us: int


@dataclass(frozen=True, slots=True)
class Change:
    """A change on record; before and after it as plain data, None where it was not there."""

    change_id: int
    kind: str
    uid: str
    name: str
    action: str
    created_us: int
    person: str
    before: dict[str, Any] | None
    after: dict[str, Any] | None

    def earlier(self) -> dict[str, Any]:
        """What the object was before; raises InvalidInput where it was not there."""
        if self.before is None:
            raise InvalidInput(
                "change",
                "nothing-before",
                "before it there was no {change!r}",
                "Remove the object instead.",
                change=self.name,
            )
        return self.before


@dataclass(frozen=True, slots=True)
class StepPart:
    """So many objects of a kind were added, changed or removed in a step."""

    kind: str
    action: str
    count: int


@dataclass(frozen=True, slots=True)
class Step:
    """All that one person changed at one moment, such as an import; `first` is the first change in it."""

    first: Change
    parts: tuple[StepPart, ...]


class Log:
    """The changes of one transaction. Making one is the first thing a transaction does: it takes the turn of
    all who change the set-up, so that what is read afterwards stays as it is."""

    def __init__(self, tx: Transaction, kind: str, by: By) -> None:
        tx.execute(_NEXT)
        tx.changes(Topic(kind))
        row = tx.fetch_one(_REVISION)
        self._tx = tx
        self._kind = kind
        self.by = by
        self._revision = 0 if row is None else int(row[0])
        self._rows: list[tuple[Any, ...]] = []

    def note(self, uid: str, before: Plain | None, after: Plain | None) -> None:
        """One object was added (nothing before), changed, or removed (nothing after)."""
        action = "added" if before is None else "removed" if after is None else "changed"
        name = str((after or before or {}).get("name", ""))
        texts = [None if plain is None else json.dumps(plain) for plain in (before, after)]
        made = self.by.created_us, self.by.person
        self._rows.append((self._revision, self._kind, uid, name, action, *made, *texts))

    def write(self) -> None:
        """Puts all on record."""
        self._tx.execute_many(_ADD, self._rows)


def check_revision(tx: Transaction, kind: str, uid: str, name: str, *, has: int, seen: int | None) -> None:
    """Raises EditConflict when an object has another revision than the one the editor has seen."""
    if seen is not None and has != seen:
        person, created_us = tx.fetch_one(_LAST, uid=uid) or ("", 0)
        raise EditConflict(kind, name, person, created_us)


def list_changes(
    tx: Transaction, *, uid: str = "", kind: str = "", before: int = _FAR, limit: int = 100
) -> Sequence[Change]:
    """Changes, newest first."""
    rows = tx.fetch(_LIST, uid=uid, kind=kind, before=before, limit=limit)
    return [_change(row) for row in rows]


def get_change(tx: Transaction, change_id: int) -> Change:
    """One change; raises NotFound."""
    row = tx.fetch_one(_THESE, change_ids=[change_id])
    if row is None:
        raise NotFound("change", str(change_id))
    return _change(row)


def list_step(tx: Transaction, change: Change) -> Sequence[Change]:
    """All that was changed in the same step as this, in its order: one person did it at one moment."""
    return [_change(row) for row in tx.fetch(_STEP, created_us=change.created_us, person=change.person)]


def list_step_page(tx: Transaction, change: Change, limit: int) -> Sequence[Change]:
    """The first of the changes of the step of this change."""
    rows = tx.fetch(_STEP_PAGE, created_us=change.created_us, person=change.person, limit=limit)
    return [_change(row) for row in rows]


def list_steps(
    tx: Transaction, *, kind: str = "", text: str = "", before_us: int = _FAR, limit: int = 50
) -> list[Step]:
    """Steps in which something of this kind, and with this text in its name or by a person of that name, was
    changed, newest first."""
    wanted = tx.fetch(_STEPS, kind=kind, text=text, before_us=before_us, limit=limit)
    if not wanted:
        return []
    parts: dict[tuple[int, str], list[StepPart]] = {(us, person): [] for us, person in wanted}
    firsts: dict[tuple[int, str], int] = {}
    rows = tx.fetch(_PARTS, first_us=wanted[-1][0], last_us=wanted[0][0])
    for created_us, person, of, action, count, change_id in rows:
        step = (created_us, person)
        if step in parts:
            parts[step].append(StepPart(of, action, int(count)))
            firsts.setdefault(step, int(change_id))
    found = {row[0]: _change(row) for row in tx.fetch(_THESE, change_ids=list(firsts.values()))}
    return [Step(found[firsts[step]], tuple(parts[step])) for step in parts]


def find_newest(tx: Transaction, uids: Sequence[str]) -> dict[str, int]:
    """The number of the newest change of each of these objects, by uid."""
    return dict(tx.fetch(_NEWEST, uids=list(uids))) if uids else {}


def _change(row: Row) -> Change:
    before, after = (None if text is None else json.loads(text) for text in row[7:])
    number, kind, uid, name, action, created_us, person = row[:7]
    return Change(number, kind, uid, name, action, created_us, person, before, after)

"""Notes pinned to a moment or a stretch of time, of one tag or of all; what they said before is kept."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from typing import Final

from cronaca.core.errors import InvalidInput, NotFound
from cronaca.core.model import Window
from cronaca.core.topics import Topic
from cronaca.db.transaction import Transaction
from cronaca.plant.changes import By

MOST_TEXT: Final = 2_000
_COLUMNS: Final = (
    "n.note_id, n.uid, n.start_us, n.end_us, t.uid, t.name, n.text, n.person, n.created_us, n.removed"
)
_FROM: Final = "FROM note n LEFT JOIN tag t ON t.tag_id = n.tag_id"
_LIST: Final = f"""
SELECT {_COLUMNS} {_FROM}
WHERE NOT n.removed AND n.start_us < %(end_us)s AND COALESCE(n.end_us, n.start_us) >= %(start_us)s
    AND (%(text)s = '' OR INSTR(n.text, %(text)s))
ORDER BY n.start_us DESC, n.note_id DESC LIMIT %(limit)s
"""
_GET: Final = f"SELECT {_COLUMNS} {_FROM} WHERE n.uid = %(uid)s AND NOT n.removed"
_TAG: Final = "SELECT tag_id FROM tag WHERE uid = %(uid)s"
_ADD: Final = """
INSERT INTO note (uid, start_us, end_us, tag_id, text, person, created_us)
VALUES (%(uid)s, %(start_us)s, %(end_us)s, %(tag_id)s, %(text)s, %(person)s, %(created_us)s)
"""
_KEEP: Final = """
INSERT INTO note_edit (note_id, edit_no, text, person, created_us)
SELECT n.note_id, (SELECT COUNT(*) FROM note_edit e WHERE e.note_id = n.note_id) + 1, n.text, n.person,
n.created_us FROM note n WHERE n.uid = %(uid)s
"""
_CHANGE: Final = (
    "UPDATE note SET text = %(text)s, person = %(person)s, created_us = %(created_us)s WHERE uid = %(uid)s"
)
_REMOVE: Final = """
UPDATE note SET removed = TRUE, person = %(person)s, created_us = %(created_us)s WHERE uid = %(uid)s
"""
_EDITS: Final = """
SELECT e.text, e.person, e.created_us FROM note_edit e JOIN note n ON n.note_id = e.note_id
WHERE n.uid = %(uid)s ORDER BY e.edit_no DESC
"""


@dataclass(frozen=True, slots=True)
class Note:
    """A note; without a tag it is of all of them, without an end of a moment."""

    note_id: int
    uid: str
    start_us: int
    end_us: int | None
    tag_uid: str | None
    tag_name: str | None
    text: str
    person: str
    created_us: int
    removed: bool


@dataclass(frozen=True, slots=True)
class Earlier:
    """What a note said before, who had written it and when."""

    text: str
    person: str
    created_us: int


def list_notes(tx: Transaction, window: Window, text: str = "", limit: int = 500) -> list[Note]:
    """Notes that touch a window and hold a text, newest first."""
    rows = tx.fetch(_LIST, start_us=window.start_us, end_us=window.end_us, text=text, limit=limit)
    return [Note(*row) for row in rows]


def get_note(tx: Transaction, uid: str) -> Note:
    """One note; raises NotFound."""
    row = tx.fetch_one(_GET, uid=uid)
    if row is None:
        raise NotFound("note", uid)
    return Note(*row)


def list_earlier(tx: Transaction, uid: str) -> list[Earlier]:
    """What a note said before, newest first."""
    return [Earlier(*row) for row in tx.fetch(_EDITS, uid=uid)]


def add_note(tx: Transaction, start_us: int, end_us: int | None, tag: str | None, text: str, by: By) -> str:
    """Pins a note; returns its uid. Raises InvalidInput, NotFound."""
    tx.changes(Topic.NOTES)
    if end_us is not None and end_us <= start_us:
        raise InvalidInput(
            "end_us", "lies-before-start", "it lies before the start", "Give a later moment, or none."
        )
    row = None if tag is None else tx.fetch_one(_TAG, uid=tag)
    if tag is not None and row is None:
        raise NotFound("tag", tag)
    uid = str(uuid.uuid4())
    tx.insert(
        _ADD, uid=uid, start_us=start_us, end_us=end_us, tag_id=None if row is None else row[0],
        text=_checked(text), person=by.person, created_us=by.created_us,
    )  # fmt: skip
    return uid


def change_note(tx: Transaction, uid: str, text: str, by: By) -> None:
    """Writes a note anew; what it said is kept. Raises InvalidInput, NotFound."""
    tx.changes(Topic.NOTES)
    text = _checked(text)
    get_note(tx, uid)
    tx.execute(_KEEP, uid=uid)
    tx.execute(_CHANGE, uid=uid, text=text, person=by.person, created_us=by.created_us)


def remove_note(tx: Transaction, uid: str, by: By) -> None:
    """Takes a note away; it stays on record who did. Raises NotFound."""
    tx.changes(Topic.NOTES)
    get_note(tx, uid)
    tx.execute(_KEEP, uid=uid)
    tx.execute(_REMOVE, uid=uid, person=by.person, created_us=by.created_us)


def _checked(text: str) -> str:
    text = text.strip()
    if not text:
        raise InvalidInput("text", "text-empty", "it is empty", "Write something.")
    if len(text) > MOST_TEXT:
        raise InvalidInput(
            "text",
            "text-characters",
            "it has {text} characters",
            "Write at most {most_text}.",
            text=len(text),
            most_text=MOST_TEXT,
        )
    return text

"""Saved sheets of trends, statistics and samples: a name in a folder, and the link that shows the view;
shared, or one person's own."""

from __future__ import annotations

import uuid
from dataclasses import dataclass, replace
from typing import Final

from cronaca.core.errors import EditConflict, InvalidInput, NotFound
from cronaca.core.names import check_name
from cronaca.core.topics import Topic
from cronaca.db.transaction import Transaction
from cronaca.plant.changes import By

MOST_VIEW: Final = 8_000
TRENDS: Final = "trends"
_LIST: Final = """
SELECT uid, folder, name, view, person, created_us, revision, owner, page FROM sheet
WHERE owner IN ('', %(person)s) AND page = %(page)s ORDER BY folder, name
"""
_GET: Final = """
SELECT uid, folder, name, view, person, created_us, revision, owner, page FROM sheet
WHERE uid = %(uid)s AND owner IN ('', %(person)s)
"""
_LOCK: Final = "SELECT 1 FROM sheet WHERE uid = %(uid)s FOR UPDATE"
_NAMED: Final = """
SELECT uid FROM sheet
WHERE folder = %(folder)s AND name = %(name)s AND owner = %(owner)s AND page = %(page)s
"""
_ADD: Final = """
INSERT INTO sheet (uid, folder, name, view, person, created_us, owner, page)
VALUES (%(uid)s, %(folder)s, %(name)s, %(view)s, %(person)s, %(created_us)s, %(owner)s, %(page)s)
"""
_CHANGE: Final = """
UPDATE sheet SET folder = %(folder)s, name = %(name)s, view = %(view)s, person = %(person)s,
    created_us = %(created_us)s, owner = %(owner)s, page = %(page)s, revision = revision + 1
WHERE uid = %(uid)s
"""
_REMOVE: Final = "DELETE FROM sheet WHERE uid = %(uid)s"
_GIVE: Final = "UPDATE sheet SET owner = %(to)s WHERE owner = %(before)s"


@dataclass(frozen=True, slots=True)
class Sheet:
    """A saved sheet; `person` saved it last; `owner` is the one who alone sees it, or empty."""

    uid: str
    folder: str
    name: str
    view: str
    person: str
    created_us: int
    revision: int
    owner: str
    page: str


@dataclass(frozen=True, slots=True)
class SheetContent:
    """What people say of a sheet."""

    name: str
    view: str
    folder: str = ""
    own: bool = False
    """Seen by nobody but the person who saves it."""
    page: str = TRENDS
    """The page that shows it."""

    def checked(self) -> SheetContent:
        """The same, made regular; raises InvalidInput."""
        folder = check_name(self.folder, 100, "folder") if self.folder.strip() else ""
        if len(self.view) > MOST_VIEW:
            raise InvalidInput(
                "view", "view-characters", "it has {view} characters", "Take fewer pens.", view=len(self.view)
            )
        return replace(self, name=check_name(self.name, 100), folder=folder)


def list_sheets(tx: Transaction, person: str, page: str = TRENDS) -> list[Sheet]:
    """The sheets of a page that a person sees, by folder and name."""
    return [Sheet(*row) for row in tx.fetch(_LIST, person=person, page=page)]


def get_sheet(tx: Transaction, uid: str, person: str) -> Sheet:
    """One sheet that a person sees; raises NotFound."""
    row = tx.fetch_one(_GET, uid=uid, person=person)
    if row is None:
        raise NotFound("sheet", uid)
    return Sheet(*row)


def give_private_sheets(tx: Transaction, before: str, to: str) -> None:
    """The private sheets of one name are those of another: its account has another name, or is gone."""
    tx.changes(Topic.SHEETS)
    tx.execute(_GIVE, before=before, to=to)


def add_sheet(tx: Transaction, content: SheetContent, by: By) -> str:
    """Saves a new sheet; returns its uid. Raises InvalidInput."""
    tx.changes(Topic.SHEETS)
    content = content.checked()
    _check_free(tx, content, by, "")
    uid = str(uuid.uuid4())
    tx.insert(_ADD, uid=uid, **_columns(content, by))
    return uid


def change_sheet(tx: Transaction, uid: str, content: SheetContent, by: By, seen: int | None) -> None:
    """Saves a sheet over itself. Raises InvalidInput, NotFound, EditConflict."""
    tx.changes(Topic.SHEETS)
    content = content.checked()
    tx.fetch(_LOCK, uid=uid)
    before = get_sheet(tx, uid, by.person)
    if seen is not None and seen != before.revision:
        raise EditConflict("sheet", before.name, before.person, before.created_us)
    _check_free(tx, content, by, uid)
    tx.execute(_CHANGE, uid=uid, **_columns(content, by))


def remove_sheet(tx: Transaction, uid: str, person: str) -> None:
    """Removes a sheet; raises NotFound."""
    tx.changes(Topic.SHEETS)
    get_sheet(tx, uid, person)
    tx.execute(_REMOVE, uid=uid)


def _columns(content: SheetContent, by: By) -> dict[str, object]:
    return {
        "folder": content.folder, "name": content.name, "view": content.view, "person": by.person,
        "created_us": by.created_us, "owner": _owner(content, by), "page": content.page,
    }  # fmt: skip


def _owner(content: SheetContent, by: By) -> str:
    return by.person if content.own else ""


def _check_free(tx: Transaction, content: SheetContent, by: By, own_uid: str) -> None:
    owner = _owner(content, by)
    row = tx.fetch_one(_NAMED, folder=content.folder, name=content.name, owner=owner, page=content.page)
    if row is not None and row[0] != own_uid:
        where = f" in {content.folder}" if content.folder else ""
        raise InvalidInput(
            "name",
            "sheet-name-taken",
            "there is a sheet {content!r}{where}",
            "Take another name or folder.",
            content=content.name,
            where=where,
        )

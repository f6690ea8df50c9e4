"""A step is taken back: a removal with all that went along, an import, a change of many objects."""

from __future__ import annotations

from typing import Final

from cronaca.core.errors import EditConflict, InvalidInput
from cronaca.core.setup.document import Difference
from cronaca.db.transaction import Transaction
from cronaca.plant import document, equipment_changes
from cronaca.plant.changes import By, Change, find_newest, get_change, list_step
from cronaca.plant.equipment import CLASS, EQUIPMENT
from cronaca.plant.tag_changes import remove_tags

_TAG: Final = "tag"
#: Equipment belongs to a class, and both to tags and loggers that are there.
_LATER: Final = (CLASS, EQUIPMENT)


def undo_step(tx: Transaction, change: Change, by: By) -> list[Difference]:
    """Makes all that was changed or removed in the step of this change what it was before, and removes the
    tags that were added in it. Raises InvalidInput where something else was added in it, EditConflict where
    something of it was changed since."""
    step = list_step(tx, change)
    newest = find_newest(tx, [one.uid for one in step])
    for one in step:
        if one.before is None and one.kind != _TAG:
            raise InvalidInput(
                "change",
                "change-before-no",
                "before it there was no {one!r}",
                "Remove the object instead.",
                one=one.name,
            )
        if newest[one.uid] != one.change_id:
            last = get_change(tx, newest[one.uid])
            raise EditConflict(
                one.kind.replace("_", " "),
                one.name,
                last.person,
                last.created_us,
                since="that step",
                remedy="restore what is left of it one by one, under Changes",
            )
    there = [one for one in step if one.before is not None]
    differences = document.restore_all(tx, [one for one in there if one.kind not in _LATER], by)
    added = [one.uid for one in step if one.before is None]
    if added:
        remove_tags(tx, added, by)
    for kind in _LATER:
        for one in there:
            if one.kind == kind:
                differences += equipment_changes.restore(tx, one, by)
    return differences

"""The changes of the set-up on record: who changed what and when, step by step, and how it is taken back."""

from __future__ import annotations

from typing import Annotated

from fastapi import Query

from cronaca.api.deps import StoreDep
from cronaca.api.permissions import Configures
from cronaca.api.routes.setup.sources import document_report
from cronaca.api.routing import api_router
from cronaca.api.schemas.setup import ChangeOut, DocumentReport, StepOut, StepPartOut
from cronaca.core.setup.document import Difference
from cronaca.db.transaction import Transaction
from cronaca.plant import changes, equipment_changes
from cronaca.plant import document as document_file
from cronaca.plant.changes import By, Change
from cronaca.plant.equipment import CLASS, EQUIPMENT
from cronaca.plant.undoing import undo_step
from cronaca.services.acting import act

router = api_router("/setup", "set-up")


@router.get("/changes")
def list_changes(
    store: StoreDep,
    uid: Annotated[str, Query(max_length=36)] = "",
    kind: Annotated[str, Query(max_length=16)] = "",
    before: Annotated[int, Query(ge=1)] = (1 << 62) - 1,
    limit: Annotated[int, Query(ge=1, le=500)] = 100,
) -> list[ChangeOut]:
    """Who changed what and when, newest first."""
    with store.snapshot() as tx:
        return [_change(c) for c in changes.list_changes(tx, uid=uid, kind=kind, before=before, limit=limit)]


@router.get("/changes/steps")
def list_steps(
    store: StoreDep,
    kind: Annotated[str, Query(max_length=16)] = "",
    search: Annotated[str, Query(max_length=200, description="In names of objects and persons")] = "",
    before_us: Annotated[int, Query(ge=1)] = (1 << 62) - 1,
    limit: Annotated[int, Query(ge=1, le=200)] = 50,
) -> list[StepOut]:
    """The same, each import and each change of many objects as one step."""
    with store.snapshot() as tx:
        steps = changes.list_steps(tx, kind=kind, text=search.strip(), before_us=before_us, limit=limit)
    return [
        StepOut(
            first=_change(step.first),
            parts=[StepPartOut(kind=part.kind, action=part.action, count=part.count) for part in step.parts],
        )
        for step in steps
    ]


@router.get("/changes/{change_id}/step")
def list_step(
    store: StoreDep, change_id: int, limit: Annotated[int, Query(ge=1, le=500)] = 100
) -> list[ChangeOut]:
    """What was changed in the same step as this, the first of it first."""
    with store.snapshot() as tx:
        return [_change(c) for c in changes.list_step_page(tx, changes.get_change(tx, change_id), limit)]


def _change(change: Change) -> ChangeOut:
    return ChangeOut(
        change_id=change.change_id, kind=change.kind, uid=change.uid, name=change.name, action=change.action,
        created_us=str(change.created_us), person=change.person, before=change.before, after=change.after,
    )  # fmt: skip


@router.post("/changes/{change_id}/restore")
def restore_change(store: StoreDep, who: Configures, change_id: int) -> DocumentReport:
    """Makes an object what it was before a change; one that was removed is there again."""

    def work(tx: Transaction, by: By) -> list[Difference]:
        change = changes.get_change(tx, change_id)
        of_equipment = change.kind in (CLASS, EQUIPMENT)
        return (equipment_changes.restore if of_equipment else document_file.restore)(tx, change, by)

    return document_report(act(store, who, work), written=True)


@router.post("/changes/{change_id}/undo")
def undo_change(store: StoreDep, who: Configures, change_id: int) -> DocumentReport:
    """Takes back a step, such as an import or a removal with all that went along: the tags of a source, their
    places in loggers, the equipment of a class. Tags that were added in it are removed; their history stays.
    What was changed since is left alone. The password of a source is not kept: give it
    again."""

    def work(tx: Transaction, by: By) -> list[Difference]:
        return undo_step(tx, changes.get_change(tx, change_id), by)

    return document_report(act(store, who, work), written=True)

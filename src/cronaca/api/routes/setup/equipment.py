"""The set-up: equipment classes, and the pieces of equipment that follow them."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from fastapi.responses import StreamingResponse

from cronaca.api.deps import StoreDep
from cronaca.api.permissions import Configures
from cronaca.api.routes.setup.sources import difference_out
from cronaca.api.routing import api_router
from cronaca.api.schemas import Uid
from cronaca.api.schemas.equipment import (
    ClassIn,
    ClassOut,
    EquipmentChangeOut,
    EquipmentIn,
    EquipmentOfClassOut,
    GatherIn,
    PlanOut,
)
from cronaca.api.streaming import Tell, stream
from cronaca.core.equipment import ClassSpec, EquipmentSpec, Plan, trend_view
from cronaca.db import Store
from cronaca.db.transaction import Transaction
from cronaca.plant import equipment, equipment_changes
from cronaca.plant.changes import By
from cronaca.plant.equipment import ClassRow, EquipmentRow
from cronaca.services.acting import act

router = api_router("/setup", "set-up")


@router.get("/classes")
def list_classes(store: StoreDep) -> list[ClassOut]:
    """All equipment classes by name."""
    with store.snapshot() as tx:
        return [_class_out(tx, row) for row in equipment.list_classes(tx)]


@router.post("/classes", status_code=201)
def add_class(store: StoreDep, who: Configures, body: ClassIn) -> ClassOut:
    """Adds a class without pieces."""
    uid, spec = equipment_changes.new_uid(), _class_spec(body)
    act(store, who, lambda tx, by: equipment_changes.put_class(tx, uid, spec, by))
    return _get(store, uid)


@router.post("/classes/gather", status_code=201)
def gather_class(store: StoreDep, who: Configures, body: GatherIn) -> ClassOut:
    """Makes a class of equipment that is there and is alike; its tags and loggers stay as they are."""
    uid = equipment_changes.new_uid()

    def work(tx: Transaction, by: By) -> None:
        gathered = equipment_changes.gather_kind(tx, body.name, body.kind)
        equipment = {equipment_changes.new_uid(): item for item in gathered.equipment.values()}
        equipment_changes.put_class(tx, uid, gathered.spec, by, equipment=equipment)

    act(store, who, work)
    return _get(store, uid)


@router.post("/classes/{uid}/plan")
def plan_class(store: StoreDep, uid: Uid, body: ClassIn) -> PlanOut:
    """What a change of a class would do to each of its pieces; nothing is written."""
    with store.snapshot() as tx:
        equipment.get_class(tx, uid)
        return _plan_out(equipment_changes.plan_class(tx, uid, _class_spec(body)))


@router.put("/classes/{uid}", response_model=PlanOut)
def change_class(store: StoreDep, who: Configures, uid: Uid, body: ClassIn) -> StreamingResponse:
    """Changes a class and all its pieces, whole or not at all. The answer is NDJSON: progress as
    {"done", "of"} in pieces, at last {"result": what it did} or {"problem"}."""
    spec = _class_spec(body)

    def work(tell: Tell) -> dict[str, Any]:
        def write(tx: Transaction, by: By) -> Plan:
            equipment.get_class(tx, uid)
            return equipment_changes.put_class(tx, uid, spec, by, seen=body.revision, progress=tell)

        return _plan_out(act(store, who, write)).model_dump()

    return stream(work)


@router.delete("/classes/{uid}", status_code=204)
def remove_class(store: StoreDep, who: Configures, uid: Uid) -> None:
    """Removes a class; the tags, loggers and history of its pieces stay as they are."""
    act(store, who, lambda tx, by: equipment_changes.remove_class(tx, uid, by))


@router.get("/classes/{uid}/equipment")
def list_equipment(store: StoreDep, uid: Uid) -> list[EquipmentOfClassOut]:
    """The pieces of a class, in the order in which they were added."""
    with store.snapshot() as tx:
        of = equipment.get_class(tx, uid).spec
        return [_equipment_out(of, row) for row in equipment.list_equipment(tx, uid)]


@router.post("/classes/{uid}/equipment/plan")
def plan_equipment(store: StoreDep, uid: Uid, body: EquipmentIn) -> PlanOut:
    """What adding a piece would do; nothing is written."""
    with store.snapshot() as tx:
        of = equipment.get_class(tx, uid).spec
        return _plan_out(
            equipment_changes.plan_equipment(tx, uid, {equipment_changes.new_uid(): _spec(of, body)})
        )


@router.post("/classes/{uid}/equipment", status_code=201)
def add_equipment(store: StoreDep, who: Configures, uid: Uid, body: EquipmentIn) -> EquipmentOfClassOut:
    """Adds a piece with its tags, loggers and rules; it is recorded within 2 s."""
    new_uid = equipment_changes.new_uid()

    def work(tx: Transaction, by: By) -> None:
        spec = _spec(equipment.get_class(tx, uid).spec, body)
        equipment_changes.put_equipment(tx, uid, {new_uid: spec}, by)

    act(store, who, work)
    return _get_equipment(store, new_uid)


@router.put("/equipment/{uid}")
def change_equipment(store: StoreDep, who: Configures, uid: Uid, body: EquipmentIn) -> EquipmentOfClassOut:
    """Changes a piece: its name, sources, parameters, what is its own."""

    def work(tx: Transaction, by: By) -> None:
        row = equipment.get_equipment(tx, uid)
        of = row.spec.equipment_class
        spec = replace(_spec(equipment.get_class(tx, of).spec, body), objects=row.spec.objects)
        seen = {} if body.revision is None else {uid: body.revision}
        equipment_changes.put_equipment(tx, of, {uid: spec}, by, seen=seen)

    act(store, who, work)
    return _get_equipment(store, uid)


@router.delete("/equipment/{uid}", status_code=204)
def remove_equipment(store: StoreDep, who: Configures, uid: Uid, with_tags: bool = False) -> None:
    """Takes a piece out of its class; its tags go with it (their history stays), or stay as they are."""
    act(store, who, lambda tx, by: equipment_changes.remove_equipment(tx, uid, by, with_tags=with_tags))


def _class_spec(body: ClassIn) -> ClassSpec:
    return ClassSpec.from_json(body.model_dump(exclude={"revision"}))


def _spec(of: ClassSpec, body: EquipmentIn) -> EquipmentSpec:
    own_sources = {
        slot.name: body.source for slot in of.slots if slot.source is None and body.source is not None
    }
    spec = body.model_dump(exclude={"revision", "source"})
    return EquipmentSpec.from_json(
        {**spec, "equipment_class": "", "sources": {**own_sources, **body.sources}}
    )


def _get(store: Store, uid: str) -> ClassOut:
    with store.snapshot() as tx:
        return _class_out(tx, equipment.get_class(tx, uid))


def _get_equipment(store: Store, uid: str) -> EquipmentOfClassOut:
    with store.snapshot() as tx:
        row = equipment.get_equipment(tx, uid)
        return _equipment_out(equipment.get_class(tx, row.spec.equipment_class).spec, row)


def _class_out(tx: Transaction, row: ClassRow) -> ClassOut:
    count = len(equipment.list_equipment(tx, row.uid))
    return ClassOut(uid=row.uid, revision=row.revision, equipment=count, **row.spec.to_json())


def _equipment_out(of: ClassSpec, row: EquipmentRow) -> EquipmentOfClassOut:
    spec = row.spec
    return EquipmentOfClassOut(
        uid=row.uid, revision=row.revision, name=spec.name, sources=spec.sources,
        parameters=spec.parameters, overrides=spec.overrides, without=list(spec.without),
        trend=trend_view(of, row.uid, spec),
    )  # fmt: skip


def _plan_out(plan: Plan) -> PlanOut:
    return PlanOut(
        equipment=[
            EquipmentChangeOut(
                uid=item.uid, name=item.name, differences=[difference_out(d) for d in item.differences],
                removed=list(item.removed),
            )
            for item in plan.equipment
        ]
    )  # fmt: skip

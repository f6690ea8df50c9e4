"""Equipment classes and their pieces: what follows from a change is written with it, whole or not at all."""

from __future__ import annotations

import uuid
from collections.abc import Callable, Mapping
from dataclasses import replace

from cronaca.core.equipment import (
    ClassSpec,
    EquipmentSpec,
    Gathered,
    Limits,
    Plan,
    gather,
    plan_change,
    uid_in,
)
from cronaca.core.errors import InvalidInput, NotFound
from cronaca.core.setup.document import Difference, Document
from cronaca.core.statistics import Kind, kinds_of
from cronaca.db.transaction import Transaction
from cronaca.plant import equipment as repository
from cronaca.plant import loggers, run_rules, tag_changes
from cronaca.plant.changes import By, Change, Log, check_revision
from cronaca.plant.document import read_document, write_objects
from cronaca.plant.equipment import CLASS, EQUIPMENT, get_class, get_equipment, list_classes, list_equipment
from cronaca.plant.tags import list_tags

Progress = Callable[[int, int], None]
"""Told how many pieces of how many are written."""


def _quiet(_done: int, _of: int) -> None:
    """Nobody wants to know."""


def list_kinds(tx: Transaction) -> list[Kind]:
    """The classes that have pieces, as kinds of equipment with their tags."""
    known = {tag.uid: tag for tag in list_tags(tx)}
    kinds = []
    for row in list_classes(tx):
        equipment = list_equipment(tx, row.uid)
        members = {
            member.key: tuple(known.get(uid_in(p.uid, p.spec, "tags", member.key)) for p in equipment)
            for member in row.spec.members
        }
        kept = {key: own for key, own in members.items() if any(tag is not None for tag in own)}
        if kept:
            kinds.append(Kind(row.spec.name, tuple(p.spec.name for p in equipment), kept))
    return kinds


def gather_kind(tx: Transaction, name: str, kind: str) -> Gathered:
    """A class, called `name`, of equipment that is there and is alike. Raises NotFound, InvalidInput."""
    classes = list_kinds(tx)
    taken = {known.name for known in classes}
    for found_kind in kinds_of(list_tags(tx), classes):
        if found_kind.name == kind and found_kind.name not in taken:
            own_tags = {
                row: {key: tag.uid for key, own in found_kind.members.items() if (tag := own[i]) is not None}
                for i, row in enumerate(found_kind.equipment)
            }
            return gather(name, own_tags, read_document(tx))
    raise NotFound("equipment", kind, field="kind")


def list_limits(tx: Transaction) -> dict[str, Limits]:
    """The limits of tags, by uid, of all pieces that have some."""
    by_member: dict[str, Limits] = {}
    classes = {row.uid: row.spec for row in list_classes(tx)}
    for row in list_equipment(tx):
        of = classes.get(row.spec.equipment_class)
        for member in () if of is None else of.members:
            limits = row.spec.limits_of(member)
            if limits != (None, None):
                by_member[uid_in(row.uid, row.spec, "tags", member.key)] = limits
    return by_member


def plan_class(tx: Transaction, uid: str, spec: ClassSpec) -> Plan:
    """What a change of a class would do. Raises InvalidInput."""
    return _planned(tx, uid, spec.checked(), {}, read_document(tx))


def plan_equipment(tx: Transaction, class_uid: str, equipment: Mapping[str, EquipmentSpec]) -> Plan:
    """What adding or changing these pieces, by uid, would do. Raises InvalidInput, NotFound."""
    of = get_class(tx, class_uid).spec
    return _planned(tx, class_uid, of, equipment, read_document(tx), only=equipment)


def _planned(
    tx: Transaction, class_uid: str, after: ClassSpec, equipment: Mapping[str, EquipmentSpec],
    present: Document, only: Mapping[str, EquipmentSpec] | None = None,
) -> Plan:  # fmt: skip
    here = {row.uid: row.spec for row in list_equipment(tx, class_uid)}
    checked = {uid: replace(row, equipment_class=class_uid).checked(after) for uid, row in equipment.items()}
    known = next((row.spec for row in list_classes(tx) if row.uid == class_uid), None)
    chosen = checked if only is not None else {**here, **checked}
    before = here if only is None else {uid: here[uid] for uid in only if uid in here}
    return plan_change(present, None if known is None else (known, before), (after, chosen))


def put_class(
    tx: Transaction, uid: str, spec: ClassSpec, by: By, *, seen: int | None = None,
    equipment: Mapping[str, EquipmentSpec] | None = None, progress: Progress = _quiet,
) -> Plan:  # fmt: skip
    """Adds a class with its pieces, or changes it, and all its pieces. Raises InvalidInput, EditConflict."""
    spec = spec.checked()
    log = Log(tx, CLASS, by)
    known = next((row for row in list_classes(tx) if row.uid == uid), None)
    if known is not None:
        check_revision(tx, "equipment class", uid, known.spec.name, has=known.revision, seen=seen)
    for row in list_classes(tx):
        if row.uid != uid and row.spec.name.casefold() == spec.name.casefold():
            raise InvalidInput(
                "name", "class-name-taken", "there is a class {spec!r}", "Take another name.", spec=spec.name
            )
    present = read_document(tx)
    plan = _planned(tx, uid, spec, equipment or {}, present)
    repository.put_class(tx, uid, spec)
    log.note(uid, None if known is None else known.spec.to_json(), spec.to_json())
    log.write()
    if equipment:
        _put_equipment(tx, uid, equipment, by)
    _write(tx, plan, present, by, progress)
    return plan


def put_equipment(
    tx: Transaction, class_uid: str, equipment: Mapping[str, EquipmentSpec], by: By,
    *, seen: Mapping[str, int] | None = None, progress: Progress = _quiet,
) -> Plan:  # fmt: skip
    """Adds or changes pieces, by uid, with their tags, loggers and rules. Raises InvalidInput, NotFound,
    EditConflict."""
    of = get_class(tx, class_uid).spec
    for row in list_equipment(tx):
        if row.uid in equipment:
            revision = (seen or {}).get(row.uid)
            check_revision(tx, "equipment", row.uid, row.spec.name, has=row.revision, seen=revision)
    present = read_document(tx)
    plan = _planned(tx, class_uid, of, equipment, present, only=equipment)
    _put_equipment(tx, class_uid, equipment, by)
    _write(tx, plan, present, by, progress)
    return plan


def remove_equipment(tx: Transaction, uid: str, by: By, *, with_tags: bool) -> None:
    """Takes a piece out of its class; its tags go with it, or stay as they are. Raises NotFound."""
    row = get_equipment(tx, uid)
    of = get_class(tx, row.spec.equipment_class).spec
    log = Log(tx, EQUIPMENT, by)
    repository.remove_equipment(tx, [uid])
    log.note(uid, row.spec.to_json(), None)
    log.write()
    if with_tags:
        present = read_document(tx)
        _write(tx, plan_change(present, (of, {uid: row.spec}), (of, {})), present, by, _quiet)


def remove_class(tx: Transaction, uid: str, by: By) -> None:
    """Removes a class: its pieces' tags, loggers and history stay as they are. Raises NotFound."""
    row = get_class(tx, uid)
    log = Log(tx, CLASS, by)
    log.note(uid, row.spec.to_json(), None)
    log.write()
    equipment = list_equipment(tx, uid)
    log = Log(tx, EQUIPMENT, by)
    for equipment_row in equipment:
        log.note(equipment_row.uid, equipment_row.spec.to_json(), None)
    log.write()
    repository.remove_equipment(tx, [row.uid for row in equipment])
    repository.remove_class(tx, uid)


def _put_equipment(tx: Transaction, class_uid: str, equipment: Mapping[str, EquipmentSpec], by: By) -> None:
    here = {row.uid: row.spec for row in list_equipment(tx)}
    names = {spec.name.casefold(): uid for uid, spec in here.items()}
    log = Log(tx, EQUIPMENT, by)
    for uid, given in equipment.items():
        spec = replace(given, equipment_class=class_uid)
        if names.get(spec.name.casefold(), uid) != uid:
            raise InvalidInput(
                "name",
                "equipment-name-taken",
                "there is equipment {spec!r}",
                "Take another name.",
                spec=spec.name,
            )
        names[spec.name.casefold()] = uid
        repository.put_equipment(tx, uid, spec)
        old = here.get(uid)
        log.note(uid, None if old is None else old.to_json(), spec.to_json())
    log.write()


def _write(tx: Transaction, plan: Plan, present: Document, by: By, progress: Progress) -> None:
    """The objects of the plan: what goes first, then tags before what needs them."""
    _remove(tx, plan, by)
    of = len(plan.equipment)
    write_objects(tx, plan.document, present, by, lambda share: progress(int(share * of), of))
    progress(of, of)


def _remove(tx: Transaction, plan: Plan, by: By) -> None:
    for uid in plan.removed["runs"]:
        run_rules.remove_rule(tx, uid, by)
    for uid in plan.removed["loggers"]:
        loggers.remove_logger(tx, uid, by)
    if plan.removed["tags"]:
        tag_changes.remove_tags(tx, plan.removed["tags"], by)


def restore(tx: Transaction, change: Change, by: By) -> list[Difference]:
    """Gives a class or a piece the spec that it had before a change, and all that follows from them. Raises
    InvalidInput, NotFound."""
    before = change.earlier()
    if change.kind == CLASS:
        plan = put_class(tx, change.uid, ClassSpec.from_json(before), by)
    else:
        spec = EquipmentSpec.from_json(before)
        plan = put_equipment(tx, spec.equipment_class, {change.uid: spec}, by)
    return [difference for row in plan.equipment for difference in row.differences]


def new_uid() -> str:
    """For a class or a piece that is added."""
    return str(uuid.uuid4())

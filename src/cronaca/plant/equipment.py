"""Equipment classes and the pieces of equipment that follow them, as they are set up."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Final

from cronaca.core.equipment import PARTS, ClassSpec, EquipmentSpec, uid_in
from cronaca.core.errors import NotFound
from cronaca.db.transaction import Transaction

CLASS: Final = "equipment_class"
EQUIPMENT: Final = "equipment"
_CLASSES: Final = "SELECT uid, revision, spec FROM equipment_class ORDER BY NATURAL_SORT_KEY(name), name"
_EQUIPMENT: Final = """
SELECT uid, revision, spec FROM equipment WHERE %(class)s = '' OR class_uid = %(class)s ORDER BY equipment_id
"""
_PUT_CLASS: Final = """
INSERT INTO equipment_class (uid, name, spec) VALUES (%(uid)s, %(name)s, %(spec)s)
ON DUPLICATE KEY UPDATE name = VALUES(name), spec = VALUES(spec), revision = revision + 1
"""
_PUT_EQUIPMENT: Final = """
INSERT INTO equipment (uid, name, class_uid, spec) VALUES (%(uid)s, %(name)s, %(class)s, %(spec)s)
ON DUPLICATE KEY UPDATE name = VALUES(name), spec = VALUES(spec), revision = revision + 1
"""
_REMOVE_CLASS: Final = "DELETE FROM equipment_class WHERE uid = %(uid)s"
_REMOVE_EQUIPMENT: Final = "DELETE FROM equipment WHERE uid IN %(uids)s"


@dataclass(frozen=True, slots=True)
class ClassRow:
    """A class as it is set up."""

    uid: str
    revision: int
    spec: ClassSpec


@dataclass(frozen=True, slots=True)
class EquipmentRow:
    """A piece of equipment as it is set up."""

    uid: str
    revision: int
    spec: EquipmentSpec

    def with_uids(self, of: ClassSpec) -> EquipmentSpec:
        """Its spec with the uids of all its objects written out: they hold in another set-up too."""
        keys = {
            "tags": [member.key for member in of.members if member.key not in self.spec.without],
            "loggers": [logger.key for logger in of.loggers],
            "runs": [run.key for run in of.runs],
        }
        objects = {p: {key: uid_in(self.uid, self.spec, p, key) for key in keys[p]} for p in PARTS}
        return EquipmentSpec.from_json({**self.spec.to_json(), "objects": objects})


def list_classes(tx: Transaction) -> list[ClassRow]:
    """All classes by name."""
    rows = tx.fetch(_CLASSES)
    return [ClassRow(uid, rev, ClassSpec.from_json(json.loads(spec))) for uid, rev, spec in rows]


def get_class(tx: Transaction, uid: str) -> ClassRow:
    """One class; raises NotFound."""
    for row in list_classes(tx):
        if row.uid == uid:
            return row
    raise NotFound("equipment class", uid, field="class")


def list_equipment(tx: Transaction, class_uid: str = "") -> list[EquipmentRow]:
    """The pieces of a class, or all, in the order in which they were added."""
    rows = tx.fetch(_EQUIPMENT, **{"class": class_uid})
    return [EquipmentRow(uid, rev, EquipmentSpec.from_json(json.loads(spec))) for uid, rev, spec in rows]


def get_equipment(tx: Transaction, uid: str) -> EquipmentRow:
    """One piece; raises NotFound."""
    for row in list_equipment(tx):
        if row.uid == uid:
            return row
    raise NotFound("equipment", uid)


def put_class(tx: Transaction, uid: str, spec: ClassSpec) -> None:
    """Adds a class or changes it; its pieces are not looked at."""
    tx.execute(_PUT_CLASS, uid=uid, name=spec.name, spec=json.dumps(spec.to_json()))


def put_equipment(tx: Transaction, uid: str, spec: EquipmentSpec) -> None:
    """Adds a piece or changes it; its tags are not looked at."""
    text = json.dumps(spec.to_json())
    tx.execute(_PUT_EQUIPMENT, uid=uid, name=spec.name, spec=text, **{"class": spec.equipment_class})


def remove_class(tx: Transaction, uid: str) -> None:
    """Removes a class; its pieces are not looked at."""
    tx.execute(_REMOVE_CLASS, uid=uid)


def remove_equipment(tx: Transaction, uids: list[str]) -> None:
    """Removes pieces; their tags are not looked at."""
    if uids:
        tx.execute(_REMOVE_EQUIPMENT, uids=uids)

"""What a change of a class, or of pieces of it, does to the set-up; before anything is written."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from cronaca.core.equipment.classes import ClassSpec, EquipmentSpec, Settings
from cronaca.core.equipment.expand import PARTS, Expanded, expand
from cronaca.core.loggers import own_fields
from cronaca.core.setup.document import FORMAT, VERSION, Difference, Document, differences

Equipment = Mapping[str, EquipmentSpec]


@dataclass(frozen=True, slots=True)
class EquipmentChange:
    """What becomes different for one piece; `removed` names its objects that go (their history stays)."""

    uid: str
    name: str
    differences: tuple[Difference, ...]
    removed: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Plan:
    """The objects to write, as a set-up file; uids that go, by part; what becomes different, by piece."""

    document: Document
    removed: dict[str, list[str]]
    equipment: tuple[EquipmentChange, ...]


def plan_change(
    present: Document, before: tuple[ClassSpec, Equipment] | None, after: tuple[ClassSpec, Equipment]
) -> Plan:
    """From a class with its pieces as they are (None: there was none) to those wanted. What a class no longer
    has goes from its pieces. Raises InvalidInput that names the piece."""
    protocols = {source["uid"]: source["protocol"] for source in present.get("sources", [])}
    of, equipment = after
    made = {uid: expand(of, uid, spec, protocols) for uid, spec in equipment.items()}
    stay = {item["uid"] for each in made.values() for part in PARTS for item in each.parts[part]}
    gone = _gone(present, before, stay, protocols)
    here = {part: {item["uid"]: item for item in present.get(part, [])} for part in PARTS}
    document: Document = {"format": FORMAT, "version": VERSION, **{part: [] for part in PARTS}}
    changes = []
    for uid, spec in equipment.items():
        own = made[uid].parts
        known = {part: [here[part][o["uid"]] for o in own[part] if o["uid"] in here[part]] for part in PARTS}
        left = gone.get(uid, {})
        changes.append(
            EquipmentChange(
                uid, spec.name, tuple(differences(known, dict(own))),
                tuple(_names(left, here)),
            )
        )  # fmt: skip
        for part in PARTS:
            document[part] += own[part]
    changes += [
        EquipmentChange(uid, before[1][uid].name, (), tuple(_names(left, here)))
        for uid, left in gone.items()
        if before is not None and uid not in equipment
    ]
    document["loggers"] += _joined(present, before, made)
    removed = {part: [item for left in gone.values() for item in left.get(part, [])] for part in PARTS}
    return Plan(document, removed, tuple(changes))


def _names(left: Mapping[str, Sequence[str]], here: Mapping[str, Mapping[str, Settings]]) -> list[str]:
    return [str(here[part][uid]["name"]) for part, uids in left.items() for uid in uids]


def _gone(
    present: Document,
    before: tuple[ClassSpec, Equipment] | None,
    stay: set[str],
    protocols: Mapping[str, str],
) -> dict[str, dict[str, list[str]]]:
    """What pieces had and no piece has any more, by piece and part."""
    if before is None:
        return {}
    of, equipment = before
    here = {part: {item["uid"] for item in present.get(part, [])} for part in PARTS}
    gone = {}
    for uid, spec in equipment.items():
        own = expand(of, uid, spec, protocols).parts
        left = {
            part: [o["uid"] for o in own[part] if o["uid"] not in stay and o["uid"] in here[part]]
            for part in PARTS
        }
        if any(left.values()):
            gone[uid] = left
    return gone


def _joined(
    present: Document, before: tuple[ClassSpec, Equipment] | None, made: Mapping[str, Expanded]
) -> list[Settings]:
    """The shared loggers with the members that join them; those whom the class took out leave them."""
    joined: dict[str, dict[str, Settings | None]] = {}
    for each in made.values():
        for logger, tags in each.joins.items():
            joined.setdefault(logger, {}).update(tags)
    for join in () if before is None else before[0].joins:
        joined.setdefault(join.logger, {})
    mine = {tag["uid"] for each in made.values() for tag in each.parts["tags"]}
    known = {logger["uid"]: logger for logger in present.get("loggers", [])}
    return [_with_members(known[uid], tags, mine) for uid, tags in joined.items() if uid in known]


def _with_members(logger: Settings, tags: Mapping[str, Settings | None], mine: set[str]) -> Settings:
    kept = [tag for tag in logger["tags"] if tag not in mine or tag in tags]
    rules: dict[str, Any] = {k: v for k, v in logger.get("overrides", {}).items() if k not in mine}
    rules |= {tag: rule for tag, rule in tags.items() if rule is not None}
    members = [*kept, *(tag for tag in tags if tag not in kept)]
    return own_fields({**logger, "tags": members, "overrides": rules})

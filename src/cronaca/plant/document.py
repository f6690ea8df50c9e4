"""The whole set-up out and in: read as one document, written back whole or not at all."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from dataclasses import asdict
from functools import partial
from typing import Final, Protocol, TypeVar

from cronaca.core.equipment import ClassSpec, EquipmentSpec
from cronaca.core.errors import CronacaError, InvalidInput, NotFound
from cronaca.core.loggers import from_plain, to_plain
from cronaca.core.model import RunOrigin, ValueType
from cronaca.core.setup import ArchiveSpec, PlantSpec, RunRuleSpec, SourceSpec, TagSpec
from cronaca.core.setup.document import (
    FORMAT,
    KINDS,
    VERSION,
    Difference,
    Document,
    Plain,
    completed,
    differences,
    matched,
)
from cronaca.core.windows import Shift
from cronaca.db.transaction import Transaction
from cronaca.plant import archives, equipment, loggers, run_rules, sources, tag_changes, tags, temporary
from cronaca.plant.changes import By, Change, Log, Progress, no_progress
from cronaca.plant.site import change_plant, find_plant, plant_to_plain

Write = Callable[[Transaction, Plain, By, bool], None]
"""Adds an object, or changes it where the last argument says that it is there."""
T = TypeVar("T")
Written_contra = TypeVar("Written_contra", contravariant=True)


def read_document(tx: Transaction) -> Document:
    """The set-up as it is, without temporary tags."""
    plant, passing = find_plant(tx), temporary.list_temporary(tx)
    return {
        "format": FORMAT,
        "version": VERSION,
        **({} if plant is None else {"plant": plant_to_plain(plant)}),
        "sources": [{"uid": r.uid, **r.spec.to_plain()} for r in sources.list_rows(tx)],
        "tags": [{"uid": r.uid, **_tag_out(r.spec)} for r in tags.list_rows(tx) if r.uid not in passing],
        "archives": [{"uid": r.uid, **asdict(r.spec)} for r in archives.list_rows(tx)],
        "loggers": [{"uid": r.uid, **to_plain(r.spec)} for r in loggers.list_rows(tx)],
        "runs": [{"uid": r.uid, **run_rules.to_plain(r.spec)} for r in run_rules.list_rows(tx)],
        **_equipment_out(tx),
    }


def _equipment_out(tx: Transaction) -> Document:
    """Classes and pieces; what a piece's objects are called by uid is written out."""
    classes = {row.uid: row.spec for row in equipment.list_classes(tx)}
    rows = [row for row in equipment.list_equipment(tx) if row.spec.equipment_class in classes]
    return {
        "classes": [{"uid": uid, **plain.to_json()} for uid, plain in classes.items()],
        "equipment": [
            {"uid": row.uid, **row.with_uids(classes[row.spec.equipment_class]).to_json()} for row in rows
        ],
    }


def write_document(tx: Transaction, document: Document, by: By) -> list[Difference]:
    """Adds and changes what a document says; what it leaves out stays. Raises InvalidInput that names the
    place in the document."""
    present = read_document(tx)
    document = completed(matched(document, present), present)
    changed = differences(present, document)
    here = {difference.uid for difference in changed if difference.action == "changed"}
    uids = {difference.uid for difference in changed}
    if any(difference.kind == "plant" for difference in changed):
        _at("plant", lambda: change_plant(tx, _plant_in(document["plant"]), by))
    _write_each(tx, document, "sources", _write_source, uids, here, by)
    _write_tags(tx, document, uids, here, by)
    _write_each(tx, document, "archives", _write_archive, uids, here, by)
    _write_loggers_and_runs(tx, document, uids, by)
    _write_each(tx, document, "classes", _write_class, uids, here, by)
    _write_each(tx, document, "equipment", _write_equipment, uids, here, by)
    return changed


def write_objects(
    tx: Transaction, document: Document, present: Document, by: By, progress: Progress = no_progress
) -> None:
    """Writes tags, loggers and rules for runs that differ from those of a set-up that was read in this very
    transaction; all by uid. Raises InvalidInput that names the place in the document."""
    changed = differences(present, document)
    uids = {difference.uid for difference in changed}
    _write_tags(
        tx,
        document,
        uids,
        {difference.uid for difference in changed if difference.action == "changed"},
        by,
        progress,
    )
    _write_loggers_and_runs(tx, document, uids, by)


def _write_loggers_and_runs(tx: Transaction, document: Document, uids: set[str], by: By) -> None:
    """Each kind in one go: what they are checked against is read once."""
    if any(plain["uid"] in uids for plain in document.get("loggers", [])):
        _write_many(document, "loggers", from_plain, loggers.LoggerWriting(tx, by), uids)
    if any(plain["uid"] in uids for plain in document.get("runs", [])):
        _write_many(document, "runs", _run_rule_in, run_rules.RuleWriting(tx, by), uids)


class _Writing(Protocol[Written_contra]):
    def put(self, uid: str, plain: Written_contra) -> None: ...

    def finish(self) -> None: ...


def _write_many(
    document: Document,
    part: str,
    read: Callable[[Plain], Written_contra],
    writing: _Writing[Written_contra],
    uids: set[str],
) -> None:
    for i, plain in enumerate(document[part]):
        if plain["uid"] in uids:
            _at(f"{part}[{i}]", partial(_put_one, writing, read, plain))
    writing.finish()


def _put_one(
    writing: _Writing[Written_contra], read: Callable[[Plain], Written_contra], plain: Plain
) -> None:
    writing.put(plain["uid"], read(_without_uid(plain)))


def _write_each(
    tx: Transaction, document: Document, part: str, write: Write, uids: set[str], here: set[str], by: By
) -> None:
    for i, plain in enumerate(document.get(part, [])):
        if plain["uid"] in uids:
            _at(f"{part}[{i}]", partial(write, tx, plain, by, plain["uid"] in here))


_PARTS: Final = {kind: part for part, kind in KINDS.items()}


def restore(tx: Transaction, change: Change, by: By) -> list[Difference]:
    """Makes an object what it was before a change; one that was removed is there again, with its
    history. Raises InvalidInput, NotFound."""
    change.earlier()
    return restore_all(tx, [change], by)


def restore_all(tx: Transaction, step: Sequence[Change], by: By) -> list[Difference]:
    """Makes the objects of these changes what they were before them, in one go. Raises InvalidInput,
    NotFound."""
    present = read_document(tx)
    here = {item["uid"] for part in _PARTS.values() for item in present[part]}
    # What is only marked as removed is there again: its history hangs on it.
    gone = [change for change in step if change.uid not in here]
    tag_changes.revive_tags(tx, {change.uid: change.name for change in gone if change.kind == "tag"})
    for change in gone:
        if change.kind == "source":
            sources.revive_source(tx, change.uid, change.name)
    document: Document = {"format": FORMAT, "version": VERSION}
    for change in step:
        if change.kind == "plant":
            document["plant"] = change.before
        else:
            document.setdefault(_PARTS[change.kind], []).append(_plain_before(change))
    return write_document(tx, document, by)


def _plain_before(change: Change) -> Plain:
    plain = {"uid": change.uid, **(change.before or {})}
    if change.kind == "tag":
        plain["address"] = json.loads(plain["address"])
    if change.kind == "logger" and "columns" in plain:
        plain["columns"] = dict(plain["columns"])  # pairs in records of older versions
    return plain


def _at(place: str, work: Callable[[], T]) -> T:
    """Does something for one object; what is refused is named by its place in the document."""
    try:
        return work()
    except InvalidInput as exc:
        raise exc.at(f"{place}.{exc.field}") from exc
    except NotFound as exc:
        raise InvalidInput(
            f"{place}.{exc.field}",
            "document-refused",
            "{exc}",
            "Add it to the document, or name another.",
            exc=str(exc),
        ) from exc
    except (AttributeError, TypeError, ValueError, KeyError) as exc:
        if isinstance(exc, CronacaError):
            raise
        raise InvalidInput(
            place,
            "document-cannot-read",
            "it cannot be read ({exc})",
            "See the description of the set-up.",
            exc=exc,
        ) from exc


def _plant_in(plain: Plain) -> PlantSpec:
    shifts = tuple(Shift(shift["name"], shift["start_minute"]) for shift in plain.get("shifts", []))
    return PlantSpec(plain["name"], plain["zone"], plain["first_weekday"], shifts)


def _write_source(tx: Transaction, plain: Plain, by: By, changes: bool) -> None:
    spec = SourceSpec.from_plain(**{"config": {}, "enabled": True, **_without_uid(plain)})
    if changes:
        sources.change_source(tx, plain["uid"], spec, by)
    else:
        sources.add_source(tx, spec, by, plain["uid"])


def _write_archive(tx: Transaction, plain: Plain, by: By, changes: bool) -> None:
    spec = ArchiveSpec(**_without_uid(plain))
    if changes:
        archives.change_archive(tx, plain["uid"], spec, by)
    else:
        archives.add_archive(tx, spec, by, plain["uid"])


def _write_class(tx: Transaction, plain: Plain, by: By, changes: bool) -> None:
    """As the file says; the tags of its pieces are in the file for themselves."""
    spec = ClassSpec.from_json(_without_uid(plain)).checked()
    log = Log(tx, equipment.CLASS, by)
    before = equipment.get_class(tx, plain["uid"]).spec.to_json() if changes else None
    equipment.put_class(tx, plain["uid"], spec)
    log.note(plain["uid"], before, spec.to_json())
    log.write()


def _write_equipment(tx: Transaction, plain: Plain, by: By, changes: bool) -> None:
    given = EquipmentSpec.from_json(_without_uid(plain))
    spec = given.checked(equipment.get_class(tx, given.equipment_class).spec)
    log = Log(tx, equipment.EQUIPMENT, by)
    before = equipment.get_equipment(tx, plain["uid"]).spec.to_json() if changes else None
    equipment.put_equipment(tx, plain["uid"], spec)
    log.note(plain["uid"], before, spec.to_json())
    log.write()


def _run_rule_in(plain: Plain) -> RunRuleSpec:
    named = tuple(plain.get("attributes", ()))
    return RunRuleSpec(**{**plain, "origin": RunOrigin(plain["origin"]), "attributes": named})


def _write_tags(
    tx: Transaction, document: Document, uids: set[str], here: set[str], by: By,
    progress: Progress = no_progress,
) -> None:  # fmt: skip
    """All tags in one go: names may be swapped among them."""
    specs = {
        tag["uid"]: _at(f"tags[{i}]", partial(_tag_in, _without_uid(tag)))
        for i, tag in enumerate(document.get("tags", []))
        if tag["uid"] in uids
    }
    new = {uid: plain for uid, plain in specs.items() if uid not in here}
    changed = {uid: plain for uid, plain in specs.items() if uid in here}
    if specs:
        _at("tags", lambda: tag_changes.put_tags(tx, new, changed, by, progress))


def _without_uid(plain: Plain) -> Plain:
    return {name: value for name, value in plain.items() if name != "uid"}


def _tag_out(plain: TagSpec) -> Plain:
    return {**tag_changes.to_plain(plain), "address": json.loads(plain.address)}


def _tag_in(plain: Plain) -> TagSpec:
    kind = ValueType[str(plain.get("value_type", "float")).upper()]
    return TagSpec(**{**plain, "value_type": kind, "address": json.dumps(plain["address"], sort_keys=True)})

"""Tags are added, changed and removed, many at once: each time whole or not at all."""

from __future__ import annotations

import uuid
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import asdict, fields
from typing import Any, Final
from zoneinfo import ZoneInfo

from cronaca.core.addresses.calculated import Calculation, Kind, parse_calculation
from cronaca.core.addresses.names import CALCULATED
from cronaca.core.errors import InvalidInput
from cronaca.core.formulas import check_windowed, needs_of, order_of
from cronaca.core.loggers import check_members
from cronaca.core.loggers import to_plain as logger_to_plain
from cronaca.core.model import GapReason, ValueType
from cronaca.core.setup import TagSpec, check_overlaps
from cronaca.core.windows import PlantCalendar
from cronaca.db.transaction import Transaction
from cronaca.plant import coverage, histories
from cronaca.plant.changes import By, Log, Progress, check_revision, no_progress
from cronaca.plant.loggers import list_loggers, list_rows
from cronaca.plant.site import find_plant
from cronaca.plant.tags import TagRow, get_rows, list_tags

_COLUMNS: Final = tuple(field.name for field in fields(TagSpec) if field.name != "source")
_FROM: Final = "FROM tag t JOIN source s ON s.source_id = t.source_id"
_NAMED: Final = "SELECT uid, name FROM tag WHERE live_name IN %(names)s"
_PLACES: Final = (
    f"SELECT t.uid, t.name, t.address, t.value_type {_FROM} WHERE t.removed_us IS NULL AND s.uid = %(uid)s"
)
_OF_PROTOCOL: Final = (
    f"SELECT t.uid, t.name, t.address, t.value_type {_FROM} "
    "WHERE t.removed_us IS NULL AND s.protocol = %(protocol)s"
)
_KINDS: Final = "SELECT uid, name, value_type FROM tag WHERE removed_us IS NULL"
_SOURCES: Final = "SELECT uid, source_id, protocol FROM source WHERE removed_us IS NULL"
_ADD: Final = """
INSERT INTO tag (uid, source_id, name, address, description, value_type, unit, range_low,
    range_high, decimals, stepped, equipment, scan_us, colour, states)
VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s)
"""
_CHANGE: Final = """
UPDATE tag SET source_id = %(source_id)s, name = %(name)s, address = %(address)s,
    description = %(description)s, value_type = %(value_type)s, unit = %(unit)s, range_low = %(range_low)s,
    range_high = %(range_high)s, decimals = %(decimals)s, stepped = %(stepped)s, equipment = %(equipment)s,
    scan_us = %(scan_us)s, colour = %(colour)s, states = %(states)s, revision = revision + 1
WHERE uid = %(uid)s
"""
_SET_ASIDE: Final = "UPDATE tag SET name = CONCAT(uid, '/', LEFT(name, 100)) WHERE uid IN %(uids)s"
_REMOVE: Final = "UPDATE tag SET removed_us = %(now_us)s, revision = revision + 1 WHERE uid IN %(uids)s"
_REVIVE: Final = "UPDATE tag SET removed_us = NULL, revision = revision + 1 WHERE uid IN %(uids)s"
_LEAVE: Final = "DELETE FROM logger_member WHERE tag_id IN %(tag_ids)s"
_RECORDED: Final = """
SELECT l.archive_id, m.tag_id FROM logger_member m JOIN logger l ON l.logger_id = m.logger_id
WHERE m.tag_id IN %(tag_ids)s
"""


_TOLD: Final = 50
"""Progress is told every so many tags."""


def add_tags(tx: Transaction, specs: Sequence[TagSpec], by: By, uids: Sequence[str] = ()) -> list[str]:
    """Adds tags; returns their uids. Raises InvalidInput, NotFound."""
    log = Log(tx, "tag", by)
    added = list(uids) or [str(uuid.uuid4()) for _ in specs]
    _put(tx, log, dict(zip(added, specs, strict=True)), {})
    log.write()
    return added


def change_tags(
    tx: Transaction, specs: Mapping[str, TagSpec], by: By, seen: Mapping[str, int] | None = None
) -> None:
    """Changes tags, by uid. Raises InvalidInput, NotFound, EditConflict."""
    log = Log(tx, "tag", by)
    rows = {row.uid: row for row in get_rows(tx, list(specs))}
    _check_seen(tx, rows, seen or {})
    _put(tx, log, specs, rows)
    log.write()


def put_tags(
    tx: Transaction, new: Mapping[str, TagSpec], changed: Mapping[str, TagSpec], by: By,
    progress: Progress = no_progress,
) -> None:  # fmt: skip
    """Adds and changes tags in one go, by uid: names may be swapped among them."""
    log = Log(tx, "tag", by)
    _put(tx, log, {**new, **changed}, {row.uid: row for row in get_rows(tx, list(changed))}, progress)
    log.write()


def remove_tags(tx: Transaction, uids: Sequence[str], by: By, seen: Mapping[str, int] | None = None) -> None:
    """Removes tags from all loggers and from the set-up; their history stays and can be read by uid. Raises
    NotFound, EditConflict."""
    log = Log(tx, "tag", by)
    rows = {row.uid: row for row in get_rows(tx, uids)}
    _check_seen(tx, rows, seen or {})
    if not rows:
        return
    tag_ids = [row.tag_id for row in rows.values()]
    end_recording(tx, tag_ids, by.created_us, GapReason.NOT_RECORDED)
    _leave_loggers(tx, tag_ids, by)
    tx.execute(_REMOVE, uids=list(rows), now_us=by.created_us)
    for uid, row in rows.items():
        log.note(uid, to_plain(row.spec), None)
    log.write()


def _leave_loggers(tx: Transaction, tag_ids: Sequence[int], by: By) -> None:
    """What the loggers lose is on record as a change of them."""
    gone = set(tag_ids)
    left = {one.uid for one in list_loggers(tx) if not gone.isdisjoint(one.tags)}
    if not left:
        return
    before = {row.uid: row.spec for row in list_rows(tx) if row.uid in left}
    tx.execute(_LEAVE, tag_ids=tag_ids)
    log = Log(tx, "logger", by)
    for row in list_rows(tx):
        if row.uid in left:
            log.note(row.uid, logger_to_plain(before[row.uid]), logger_to_plain(row.spec))
    log.write()


def revive_tags(tx: Transaction, names: Mapping[str, str]) -> None:
    """Removed tags, by uid, are there again, as they were. Raises InvalidInput when a name was given away."""
    if not names:
        return
    for other, name in tx.fetch(_NAMED, names=list(names.values())):
        if other not in names:
            raise InvalidInput(
                "name",
                "another-tag-now",
                "there is another tag {name!r} by now",
                "Rename that one first.",
                name=name,
            )
    tx.execute(_REVIVE, uids=list(names))


def list_users(tx: Transaction, uids: Sequence[str]) -> list[str]:
    """The names of calculated tags that need one of these, and are none of them."""
    gone, users = set(uids), []
    for uid, name, address, kind in tx.fetch(_OF_PROTOCOL, protocol=CALCULATED):
        if uid not in gone and gone & set(parse_calculation(address, ValueType(kind)).inputs.values()):
            users.append(name)
    return users


def end_recording(tx: Transaction, tag_ids: Sequence[int], now_us: int, reason: GapReason) -> None:
    """Ends the coverage of tags in every archive they are recorded in."""
    archives: dict[int, list[int]] = defaultdict(list)
    for archive_id, tag_id in tx.fetch(_RECORDED, tag_ids=list(tag_ids)) if tag_ids else []:
        archives[archive_id].append(tag_id)
    for archive_id, members in archives.items():
        keys = [history.key for history in histories.find_histories(tx, members, archive_id).values()]
        coverage.end(tx, keys, now_us, reason)


def _check_seen(tx: Transaction, rows: Mapping[str, TagRow], seen: Mapping[str, int]) -> None:
    for uid, row in rows.items():
        check_revision(tx, "tag", uid, row.spec.name, has=row.revision, seen=seen.get(uid))


def _put(
    tx: Transaction, log: Log, specs: Mapping[str, TagSpec], before: Mapping[str, TagRow],
    progress: Progress = no_progress,
) -> None:  # fmt: skip
    """Writes new and changed tags when all of them are usable."""
    sources = {uid: (number, protocol) for uid, number, protocol in tx.fetch(_SOURCES)}
    checked = {uid: _checked(spec, sources, alone=len(specs) == 1) for uid, spec in specs.items()}
    _check_names(tx, checked)
    _check_places(tx, checked, {uid: protocol for uid, (_, protocol) in sources.items()})
    changed = {u: f for u, f in checked.items() if u in before and f != before[u].spec}
    if any(f.name != before[u].spec.name for u, f in changed.items()):
        tx.execute(_SET_ASIDE, uids=list(changed))  # names may be swapped
    for done, (uid, spec) in enumerate(changed.items()):
        if done % _TOLD == 0:
            progress(done / len(changed))
        tx.execute(_CHANGE, uid=uid, source_id=sources[spec.source][0], **_values(spec))
        log.note(uid, to_plain(before[uid].spec), to_plain(spec))
    new = {uid: spec for uid, spec in checked.items() if uid not in before}
    rows = [(uid, sources[f.source][0], *_values(f).values()) for uid, f in new.items()]
    tx.execute_many(_ADD, rows)
    for uid, spec in new.items():
        log.note(uid, None, to_plain(spec))
    _check_references(tx, checked, {uid: protocol for uid, (_, protocol) in sources.items()})
    _check_rules(tx, {before[uid].tag_id for uid in changed})
    _follow_types(tx, [before[u].tag_id for u, f in changed.items() if _is_other(f, before[u].spec)], log)


def _check_references(tx: Transaction, specs: Mapping[str, TagSpec], protocols: Mapping[str, str]) -> None:
    """What calculated tags need has to be there, be no text, and go round in no circle."""
    if not any(protocols[spec.source] == CALCULATED for spec in specs.values()):
        return
    rows = tx.fetch(_KINDS)
    names = {uid: name for uid, name, kind in rows if kind != ValueType.TEXT}
    kinds = {uid: ValueType(kind) for uid, _, kind in rows}
    plant = find_plant(tx)
    calendar = PlantCalendar(ZoneInfo("UTC")) if plant is None else plant.calendar
    places = {
        uid: parse_calculation(address, ValueType(kind))
        for uid, _, address, kind in tx.fetch(_OF_PROTOCOL, protocol=CALCULATED)
    }
    mine = {uid: places[uid] for uid in specs if uid in places}
    for place in mine.values():
        for name, other in place.inputs.items():
            if other not in names:
                raise InvalidInput(
                    "inputs",
                    "tag-unusable",
                    "the tag for {name!r} cannot be used",
                    "Choose a tag that exists and is not text.",
                    name=name,
                )
        needs_of(place, places)
        if place.kind is Kind.FIGURE:
            check_windowed(place, kinds[place.inputs["input"]], calendar)
    order_of({uid: place.inputs for uid, place in places.items() if _all_there(place, names)}, names)


def _all_there(place: Calculation, names: Mapping[str, str]) -> bool:
    """One that lost a tag it needs is Bad, and stands in nobody's way."""
    return all(other in names for other in place.inputs.values())


def _check_rules(tx: Transaction, tag_ids: set[int]) -> None:
    """The rules by which these tags are recorded have to have a meaning for them still."""
    if not tag_ids:
        return
    tags = {tag.tag_id: tag for tag in list_tags(tx) if tag.tag_id in tag_ids}
    for logger in list_loggers(tx):
        try:
            check_members(logger.mode, [tags[tag_id] for tag_id in logger.tags if tag_id in tags])
        except InvalidInput as exc:
            raise InvalidInput(
                "value_type",
                "value-type-refused",
                "{reason}",
                "{logger} records it by that rule: remove it there first.",
                reason=exc.problem,
                logger=logger.name,
            ) from exc


def _is_other(a: TagSpec, b: TagSpec) -> bool:
    return (a.value_type, a.unit) != (b.value_type, b.unit)


def _follow_types(tx: Transaction, tag_ids: Sequence[int], log: Log) -> None:
    """A tag of another type or unit goes on in a new version of its history."""
    if not tag_ids:
        return
    tags = {tag.tag_id: tag for tag in list_tags(tx)}
    for archive_id, tag_id in tx.fetch(_RECORDED, tag_ids=list(tag_ids)):
        old = [h.key for h in histories.find_histories(tx, [tag_id], archive_id).values()]
        coverage.end(tx, old, log.by.created_us, GapReason.NOT_RECORDED)
        coverage.begin(
            tx, histories.open_histories(tx, archive_id, [tags[tag_id]], log.by.created_us), log.by.created_us
        )


def _checked(spec: TagSpec, sources: Mapping[str, tuple[int, str]], *, alone: bool) -> TagSpec:
    """The spec of one tag; of many, what is wrong says with which."""
    try:
        if spec.source not in sources:
            raise InvalidInput(
                "source",
                "source-no-source",
                "there is no source {source!r}",
                "Choose one that is there.",
                source=spec.source,
            )
        return spec.checked(sources[spec.source][1])
    except InvalidInput as exc:
        if alone:
            raise
        raise exc.of(spec.name) from exc


def _check_names(tx: Transaction, specs: Mapping[str, TagSpec]) -> None:
    seen: dict[str, str] = {}
    for uid, spec in specs.items():
        key = spec.name.casefold()
        if key in seen:
            raise InvalidInput(
                "name",
                "given-twice",
                "{spec!r} is given twice",
                "Give each tag a name of its own.",
                spec=spec.name,
            )
        seen[key] = uid
    names = [spec.name for spec in specs.values()]
    for uid, name in tx.fetch(_NAMED, names=names) if names else []:
        if uid not in specs:
            raise InvalidInput(
                "name", "tag-name-taken", "there is a tag {name!r}", "Take another name.", name=name
            )


def _check_places(tx: Transaction, specs: Mapping[str, TagSpec], protocols: Mapping[str, str]) -> None:
    for source in {spec.source for spec in specs.values()}:
        places = [
            (name, address, ValueType(kind))
            for uid, name, address, kind in tx.fetch(_PLACES, uid=source)
            if uid not in specs
        ]
        places += [(f.name, f.address, f.value_type) for f in specs.values() if f.source == source]
        check_overlaps(protocols[source], places)


def to_plain(spec: TagSpec) -> dict[str, Any]:
    """As it is kept on record."""
    return {**asdict(spec), "value_type": spec.value_type.name.lower()}


def _values(spec: TagSpec) -> dict[str, object]:
    return {**{name: getattr(spec, name) for name in _COLUMNS}, "value_type": int(spec.value_type)}

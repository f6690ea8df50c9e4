"""The set-up: tags, one and many, and as a file."""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import asdict, fields, replace
from typing import Annotated, Any, Final, Literal

from fastapi import Query, Response

from cronaca.api.deps import StoreDep
from cronaca.api.errors import parsed
from cronaca.api.permissions import Configures, WritesValues
from cronaca.api.routing import api_router
from cronaca.api.schemas import Uid
from cronaca.api.schemas.addresses import stored_address
from cronaca.api.schemas.setup import (
    ChangesOut,
    EquipmentOut,
    FieldChangeOut,
    RecordedIn,
    RemovalOut,
    TagIn,
    TagRowOut,
    TagRowPage,
    TagsChange,
    TagsIn,
    TagsKept,
    TagsOut,
    TagsRemoval,
    ValueIn,
    ValueTypeName,
)
from cronaca.core.addresses import is_writable
from cronaca.core.addresses.internal import checked_value
from cronaca.core.errors import InvalidInput
from cronaca.core.model import ValueType
from cronaca.core.requests import WriteValue
from cronaca.core.setup import TagSpec, named_series
from cronaca.core.setup.importing import FieldChange, differences
from cronaca.db.transaction import Transaction
from cronaca.exchange import tag_table
from cronaca.history.jobs import sizes
from cronaca.plant import loggers, sources, tag_changes, tags, temporary
from cronaca.plant.changes import By
from cronaca.plant.tags import TagFilter, TagRow
from cronaca.services.acting import Act, act, act_apart
from cronaca.services.asking import ask_recorder

router = api_router("/setup/tags", "set-up")
_MOST_BYTES: Final = 40_000_000
_MOST_SHOWN: Final = 500
_MOST_LINES: Final = 200
_XLSX: Final = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
_ATTRIBUTES: Final = frozenset(field.name for field in fields(TagSpec))


@router.get("")
def search_tags(
    store: StoreDep,
    search: Annotated[
        str, Query(max_length=200, description="Words, in any order; or part of an address")
    ] = "",
    source: Annotated[str, Query(max_length=36)] = "",
    value_type: ValueTypeName | None = None,
    equipment: Annotated[str, Query(max_length=200, description="With all below it")] = "",
    recorded: bool | None = None,
    limit: Annotated[int, Query(ge=1, le=500)] = 100,
    offset: Annotated[int, Query(ge=0, le=10_000_000)] = 0,
) -> TagRowPage:
    """One page of tags by name, with all their attributes."""
    chosen = _filter(search, source, value_type, equipment, recorded)
    with store.snapshot() as tx:
        total, rows = tags.search_tags(tx, chosen, limit, offset)
        return TagRowPage(total=total, tags=_with_loggers(tx, rows))


@router.get("/newest")
def list_newest(
    store: StoreDep,
    source: Annotated[str, Query(min_length=1, max_length=36)],
    limit: Annotated[int, Query(ge=1, le=100)] = 1,
) -> TagRowPage:
    """The tags that were added last to a source, the last one first: the next are likely to be read alike."""
    with store.snapshot() as tx:
        total, rows = tags.search_tags(tx, _filter("", source, None, "", None), limit, 0, newest=True)
        return TagRowPage(total=total, tags=_with_loggers(tx, rows))


@router.get("/uids")
def list_uids(
    store: StoreDep,
    search: Annotated[str, Query(max_length=200)] = "",
    source: Annotated[str, Query(max_length=36)] = "",
    value_type: ValueTypeName | None = None,
    equipment: Annotated[str, Query(max_length=200)] = "",
    recorded: bool | None = None,
) -> list[Uid]:
    """The uids of all tags that match, by name: to choose them all."""
    with store.snapshot() as tx:
        return tags.list_uids(tx, _filter(search, source, value_type, equipment, recorded))


@router.get("/equipment")
def list_equipment(store: StoreDep) -> list[EquipmentOut]:
    """Each equipment that tags belong to."""
    with store.snapshot() as tx:
        return [EquipmentOut(path=path, tags=count) for path, count in tags.list_equipment(tx)]


@router.post("", status_code=201)
def add_tags(store: StoreDep, who: Configures, body: TagsIn, response: Response) -> TagsOut:
    """Adds tags, all or none; with `dry_run` only says which."""
    with store.snapshot() as tx:
        protocol = sources.get_source(tx, body.tags[0].source).spec.protocol
    spec = [tag_spec(tag) for tag in body.tags]
    if body.count != 1:
        spec = named_series(spec[0], protocol, body.count, start=body.start, step=body.step)
    uids = [] if body.dry_run else act(store, who, lambda tx, by: _add(tx, spec, by, body))
    response.status_code = 200 if body.dry_run else 201
    return TagsOut(
        uids=uids,
        names=[tag_spec.name for tag_spec in spec],
        addresses=[json.loads(tag_spec.address) for tag_spec in spec],
    )


def _add(tx: Transaction, spec: Sequence[TagSpec], by: By, wish: TagsIn) -> list[str]:
    uids = tag_changes.add_tags(tx, spec, by)
    if wish.temporary:
        temporary.put_temporary(tx, uids, by)
    if wish.logger is not None:
        row = loggers.get_row(tx, wish.logger)
        joined = replace(row.spec, tags=(*row.spec.tags, *uids))
        loggers.change_logger(tx, wish.logger, joined, by, row.revision)
    return uids


@router.post("/keep", status_code=204)
def keep_tags(store: StoreDep, who: Configures, body: TagsKept) -> None:
    """Temporary tags are tags like all others from now on."""

    def work(tx: Transaction, by: Act) -> None:
        for row in tags.get_rows(tx, list(body.uids)):
            by.note("tag", row.uid, {"name": row.spec.name, "temporary": True}, {"name": row.spec.name})
        temporary.keep(tx, list(body.uids))

    act(store, who, work)


@router.patch("")
def change_tags(store: StoreDep, who: Configures, body: TagsChange) -> ChangesOut:
    """Changes attributes of tags, all or none; with `dry_run` only says what."""
    changed = _changed(body.attributes)

    def work(tx: Transaction, by: By) -> list[FieldChange]:
        rows = tags.get_rows(tx, list(body.uids))
        new = {row.uid: _with(row.spec, changed) for row in rows}
        if not body.dry_run:
            tag_changes.change_tags(tx, new, by, body.revisions)
        return [difference for row in rows for difference in differences(row.spec, new[row.uid])]

    changes_made = act(store, who, work)
    return ChangesOut(tags=len({change.name for change in changes_made}), changes=changes_out(changes_made))


def _changed(attributes: dict[str, Any]) -> dict[str, Any]:
    for name in attributes:
        if name not in _ATTRIBUTES:
            raise InvalidInput(
                name,
                "tag-no-such-attribute",
                "a tag has no such attribute",
                "Use {attributes}.",
                attributes=", ".join(sorted(_ATTRIBUTES)),
            )
    return attributes


def _with(before: TagSpec, changed: dict[str, Any]) -> TagSpec:
    """The spec of a tag with some attributes changed, read as that of a new tag is."""
    plain = {**asdict(before), "address": json.loads(before.address)}
    plain["value_type"] = before.value_type.name.lower()
    return tag_spec(parsed(TagIn, {**plain, **changed}))


@router.post("/remove")
def remove_tags(store: StoreDep, who: Configures, body: TagsRemoval) -> RemovalOut:
    """Removes tags; their history stays. With `dry_run` only says what goes along."""

    def work(tx: Transaction, by: By) -> RemovalOut:
        rows = tags.get_rows(tx, body.uids)
        numbers = [row.tag_id for row in rows]
        losing = dict.fromkeys(logger.name for logger in loggers.list_recorded_by(tx, numbers))
        removal = RemovalOut(
            tags=len(rows), loggers=list(losing), samples=sizes.count_samples(tx, numbers),
            calculated=tag_changes.list_users(tx, body.uids),
        )  # fmt: skip
        if not body.dry_run:
            tag_changes.remove_tags(tx, body.uids, by, body.revisions)
        return removal

    return act(store, who, work)


@router.put("/{uid}/value", status_code=204)
def write_value(store: StoreDep, who: WritesValues, uid: Uid, body: ValueIn) -> None:
    """Writes a value to an internal tag, a coil or a holding register; answered when it was taken."""
    with store.snapshot() as tx:
        (row,) = tags.get_rows(tx, [uid])
        protocol = sources.get_source(tx, row.spec.source).spec.protocol
    spec = row.spec
    if not is_writable(protocol, spec.address, spec.value_type):
        raise InvalidInput(
            "value",
            "takes-no-value",
            "{spec} takes no value",
            "Internal tags, meters, coils, holding registers and nodes do.",
            spec=spec.name,
        )
    value = checked_value(body.value, spec.value_type)

    def work(by: By) -> None:
        answer = ask_recorder(store, by.person, WriteValue(row.tag_id, value))
        if not answer["ok"]:
            raise InvalidInput(
                "value", "logger-refused", "{answer}", "See the recorder's page.", answer=answer["reason"]
            )

    act_apart(store, who, "tag", uid, spec.name, {"value": value}, work)


@router.get("/export")
def export_tags(store: StoreDep, form: Literal["csv", "xlsx"] = "csv") -> Response:
    """All tags but temporary ones as a file that can be changed and imported again."""
    with store.snapshot() as tx:
        passing = temporary.list_temporary(tx)
        rows = [(row.uid, row.spec) for row in tags.list_rows(tx) if row.uid not in passing]
        names = {row.uid: row.spec.name for row in sources.list_rows(tx)}
    names |= {uid: spec.name for uid, spec in rows}
    data = tag_table.write_csv(rows, names) if form == "csv" else tag_table.write_xlsx(rows, names)
    kind = "text/csv; charset=utf-8" if form == "csv" else _XLSX
    return Response(
        data, media_type=kind, headers={"Content-Disposition": f'attachment; filename="tags.{form}"'}
    )


# The last one: it would take the other addresses for uids.
@router.get("/{uid}")
def get_tag(store: StoreDep, uid: Uid) -> TagRowOut:
    """One tag with all its attributes."""
    with store.snapshot() as tx:
        (row,) = _with_loggers(tx, tags.get_rows(tx, [uid]))
        return row


def changes_out(fields_changed: Sequence[FieldChange]) -> list[FieldChangeOut]:
    """What changes of tags, for the wire; of much its beginning."""
    return [
        FieldChangeOut(name=c.name, field=c.field, before=_plain(c.before), after=_plain(c.after))
        for c in fields_changed[:_MOST_SHOWN]
    ]


def _plain(value: object) -> object:
    return value.name.lower() if isinstance(value, ValueType) else value


def _filter(
    search: str, source: str, value_type: str | None, equipment: str, recorded: bool | None
) -> TagFilter:
    kind = None if value_type is None else ValueType[value_type.upper()]
    return TagFilter(search.strip(), source, kind, equipment, recorded)


def tag_spec(tag: TagIn) -> TagSpec:
    """A tag from the wire."""
    plain = tag.model_dump()
    plain |= {
        "address": json.dumps(plain["address"], sort_keys=True),
        "value_type": ValueType[tag.value_type.upper()],
    }
    return TagSpec(**plain)


def _with_loggers(tx: Transaction, rows: Sequence[TagRow]) -> list[TagRowOut]:
    recorded: dict[int, list[RecordedIn]] = defaultdict(list)
    for logger in loggers.list_recorded_by(tx, [row.tag_id for row in rows]):
        entry = RecordedIn(
            logger=logger.uid, name=logger.name, archive=logger.archive, mode=logger.mode, text=logger.text
        )
        recorded[logger.tag_id].append(entry)
    protocols = {row.uid: row.spec.protocol for row in sources.list_rows(tx)}
    return [
        _row(
            row, recorded[row.tag_id],
            writable=is_writable(protocols[row.spec.source], row.spec.address, row.spec.value_type),
        )
        for row in rows
    ]  # fmt: skip


def _row(row: TagRow, recorded: list[RecordedIn], *, writable: bool) -> TagRowOut:
    plain = {**asdict(row.spec), "address": stored_address(json.loads(row.spec.address))}
    plain["value_type"] = row.spec.value_type.name.lower()
    return TagRowOut(uid=row.uid, revision=row.revision, recorded=recorded, writable=writable, **plain)

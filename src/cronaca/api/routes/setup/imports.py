"""The set-up: tags from files, also from tables of other programs."""

from __future__ import annotations

import uuid
from dataclasses import asdict
from typing import Annotated, Any, Final

from fastapi import Query, Request
from pydantic import TypeAdapter, ValidationError
from starlette.concurrency import run_in_threadpool

from cronaca.api.deps import StoreDep
from cronaca.api.permissions import Configures
from cronaca.api.routes.setup.tags import changes_out
from cronaca.api.routing import api_router
from cronaca.api.schemas.imports import ColumnsOut, FileColumnOut, FromColumnModel
from cronaca.api.schemas.setup import ImportOut, RefusalOut
from cronaca.core.access import Permitted
from cronaca.core.errors import InvalidInput
from cronaca.core.setup.importing import OnClash, Plan, plan_import
from cronaca.db import Store
from cronaca.db.transaction import Transaction
from cronaca.exchange import sheets, tag_mapping, tag_table
from cronaca.exchange.tag_mapping import FromColumn, columns_of
from cronaca.plant import import_mappings, sources, tag_changes, tags
from cronaca.plant.changes import By
from cronaca.services.acting import act

router = api_router("/setup/tags", "set-up")
_MOST_LINES: Final = 200
_MAPPING: Final = TypeAdapter(dict[str, FromColumnModel])

MappingQuery = Annotated[
    str,
    Query(
        max_length=30_000,
        description="By field: its column, or one value for all lines, and what words of it become; JSON. "
        "Without it the columns have to be ours",
    ),
]


@router.post("/import/columns")
async def list_import_columns(store: StoreDep, who: Configures, request: Request) -> ColumnsOut:
    """The columns of the file in the body (CSV or XLSX), and which of our fields they are: as the last time,
    or as their names say."""
    del who
    return await run_in_threadpool(_columns, store, await request.body())


def _columns(store: Store, data: bytes) -> ColumnsOut:
    columns = columns_of(sheets.read_rows(data))
    with store.snapshot() as tx:
        kept = import_mappings.find_mapping(tx, [column.name for column in columns])
    mapping = kept or {name: asdict(one) for name, one in tag_mapping.suggest(columns).items()}
    return ColumnsOut(
        is_ours=tag_mapping.is_ours(columns),
        columns=[
            FileColumnOut(name=one.name, examples=list(one.examples), words=list(one.words))
            for one in columns
        ],
        fields=list(tag_mapping.FIELDS),
        needed=list(tag_table.NEEDED),
        known_words=tag_mapping.KNOWN_WORDS,
        mapping=_MAPPING.validate_python(mapping),
        is_kept=kept is not None,
    )


@router.post("/import")
async def import_tags(
    store: StoreDep,
    who: Configures,
    request: Request,
    on_clash: OnClash = OnClash.KEEP,
    prefix: Annotated[str, Query(max_length=50)] = "",
    write: bool = False,
    mapping: MappingQuery = "",
) -> ImportOut:
    """What the file in the body (CSV or XLSX) would do; with `write` it is done, all or nothing, unless
    a line is refused, and the mapping is kept for the next file with these columns."""
    data = await request.body()
    return await run_in_threadpool(_import, store, data, who, on_clash, prefix, write, _mapping_in(mapping))


def _mapping_in(text: str) -> dict[str, FromColumnModel]:
    if not text:
        return {}
    try:
        return _MAPPING.validate_json(text)
    except ValidationError as exc:
        raise InvalidInput(
            "mapping",
            "mapping-not-readable",
            "it cannot be read",
            "Give JSON by field: column, value, words.",
        ) from exc


def _import(
    store: Store, data: bytes, who: Permitted, on_clash: OnClash, prefix: str, write: bool,
    mapping: dict[str, FromColumnModel],
) -> ImportOut:  # fmt: skip
    rows = list(sheets.read_rows(data))  # before the transaction: a file may take its time
    columns = [column.name for column in columns_of(rows)] if mapping else []
    if mapping:
        plain = {name: FromColumn(one.column, one.value, one.words) for name, one in mapping.items()}
        rows = list(tag_mapping.mapped(rows, plain))

    def work(tx: Transaction, by: By) -> ImportOut:
        source_rows = sources.list_rows(tx)
        present = {row.uid: row.spec for row in tags.list_rows(tx)}
        named = {spec.name: uid for uid, spec in present.items()}
        lines = tag_table.read_tags(rows, {row.spec.name: row.uid for row in source_rows}, named)
        protocols = {row.uid: row.spec.protocol for row in source_rows}
        plan = plan_import(lines, present, protocols, on_clash=on_clash, prefix=prefix)
        written = write and not plan.refused
        if written:
            new = {str(uuid.uuid4()): spec for spec in plan.new}
            tag_changes.put_tags(tx, new, plan.changed, by)
        if written and mapping:
            import_mappings.put_mapping(tx, columns, _plain(mapping), by)
        return _import_out(plan, on_clash, written)

    return act(store, who, work)


def _plain(mapping: dict[str, FromColumnModel]) -> dict[str, Any]:
    return {name: one.model_dump() for name, one in mapping.items()}


def _import_out(plan: Plan, on_clash: OnClash, written: bool) -> ImportOut:
    refused = [
        RefusalOut(line=r.line, field=r.field, problem=r.problem, remedy=r.remedy)
        for r in plan.refused[:_MOST_LINES]
    ]
    return ImportOut(
        written=written, added=len(plan.new), changed=len(plan.changed), unchanged=plan.unchanged,
        kept=plan.kept, clashes=len(plan.clashes),
        on_clash=on_clash, new_names=[f.name for f in plan.new[:_MOST_LINES]],
        changes=changes_out(plan.changes), refused=refused, refused_count=len(plan.refused),
    )  # fmt: skip

"""Tags and the plant."""

from __future__ import annotations

import json
from typing import Annotated

from fastapi import Query

from cronaca.api.deps import StoreDep
from cronaca.api.routing import api_router
from cronaca.api.schemas import PlantOut, RecordedByOut, ShiftOut, TagOut, TagPage, Uid
from cronaca.core.addresses import is_writable
from cronaca.core.errors import InvalidInput, NotFound
from cronaca.core.model import Tag
from cronaca.db.transaction import Transaction
from cronaca.plant.loggers import list_recorded_by
from cronaca.plant.site import find_plant
from cronaca.plant.sources import list_sources
from cronaca.plant.tags import find_tags, search_by_text
from cronaca.plant.temporary import list_temporary

router = api_router("", "set-up")


@router.get("/plant")
def get_plant(store: StoreDep) -> PlantOut:
    """What holds for the whole plant."""
    with store.snapshot() as tx:
        plant = find_plant(tx)
    if plant is None:
        raise NotFound("plant", "1")
    shifts = [ShiftOut(name=shift.name, start_minute=shift.start_minute) for shift in plant.shifts]
    return PlantOut(name=plant.name, zone=plant.zone, first_weekday=plant.first_weekday, shifts=shifts)


@router.get("/tags")
def list_tags(
    store: StoreDep,
    search: Annotated[
        str, Query(max_length=200, description="Words, in any order, in name, description, equipment or unit")
    ] = "",
    limit: Annotated[int, Query(ge=1, le=500)] = 100,
    offset: Annotated[int, Query(ge=0, le=10_000_000)] = 0,
    uid: Annotated[
        list[Uid] | None, Query(max_length=64, description="Just these tags, as far as they exist")
    ] = None,
) -> TagPage:
    """One page of tags, recorded ones first and then by name, or just the tags named."""
    with store.snapshot() as tx:
        if uid:
            by_uid = find_tags(tx, uid)
            tags = [by_uid[u] for u in uid if u in by_uid]
            total = len(tags)
        else:
            total, tags = search_by_text(tx, search.strip(), limit, offset)
        return TagPage(total=total, tags=_with_recorders(tx, tags))


def _takes_values(protocol: str, tag: Tag) -> bool:
    try:
        return is_writable(protocol, tag.address, tag.value_type)
    except InvalidInput:
        return False  # a tag whose address cannot be read is listed like the others


def _with_recorders(tx: Transaction, tags: list[Tag]) -> list[TagOut]:
    recorded: dict[int, list[RecordedByOut]] = {}
    for r in list_recorded_by(tx, [tag.tag_id for tag in tags]):
        out = RecordedByOut(logger=r.name, archive=r.archive, mode=r.mode, interval_us=r.interval_us)
        recorded.setdefault(r.tag_id, []).append(out)
    passing = list_temporary(tx)
    sources = {source.source_id: source for source in list_sources(tx)}
    return [
        TagOut(
            uid=tag.uid,
            name=tag.name,
            description=tag.description,
            value_type=tag.value_type.name.lower(),
            unit=tag.unit,
            range_low=tag.range_low,
            range_high=tag.range_high,
            decimals=tag.decimals,
            stepped=tag.stepped,
            equipment=tag.equipment,
            source=sources[tag.source_id].name,
            colour=tag.colour,
            states=json.loads(tag.states) if tag.states else {},
            recorded=recorded.get(tag.tag_id, []),
            temporary_until_us=str(passing[tag.uid]) if tag.uid in passing else None,
            writable=_takes_values(sources[tag.source_id].protocol, tag),
        )
        for tag in tags
    ]

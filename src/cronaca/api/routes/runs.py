"""Runs: found again by time, text and rule; marked by people. And the rules that the recorder finds them
by."""

from __future__ import annotations

import time
from collections.abc import Mapping, Sequence
from typing import Annotated, Final

from fastapi import Query

from cronaca.api.deps import StoreDep
from cronaca.api.permissions import Annotates, Configures
from cronaca.api.routing import api_router
from cronaca.api.schemas import Uid
from cronaca.api.schemas.runs import RunAttributeOut, RunChange, RunIn, RunOut, RunPage, RunRuleIn, RunRuleOut
from cronaca.core.errors import InvalidInput
from cronaca.core.model import DAY, Tag, Window
from cronaca.core.names import check_name
from cronaca.core.setup import RunRuleSpec
from cronaca.db import Store
from cronaca.db.transaction import Transaction
from cronaca.logbook import runs
from cronaca.logbook.runs import AttributeValue, Run, RunFilter
from cronaca.plant import run_rules
from cronaca.plant.run_rules import RunRuleRow
from cronaca.plant.tags import get_by_numbers
from cronaca.services.acting import Act, act

router = api_router("", "runs")
_MOST: Final = 500
Micros = Annotated[int | None, Query(description="UTC microseconds since 1970")]


@router.get("/runs")
def list_runs(
    store: StoreDep,
    start: Micros = None,
    end: Micros = None,
    search: Annotated[str, Query(max_length=200, description="In names and attributes")] = "",
    rule: Annotated[str, Query(max_length=36)] = "",
    origin: Annotated[str, Query(max_length=16)] = "",
    before: Annotated[str, Query(max_length=60, description="As the page before says")] = "",
    limit: Annotated[int, Query(ge=1, le=_MOST)] = 100,
) -> RunPage:
    """Runs that touch a window (without one: of all time), newest first."""
    now_us = time.time_ns() // 1000
    window = Window(0 if start is None else start, now_us + DAY if end is None else end)
    chosen = RunFilter(search.strip(), rule, origin)
    with store.snapshot() as tx:
        rows = runs.list_runs(tx, window, chosen, before=_place(before), limit=limit)
        last = rows[-1] if len(rows) == limit else None
        return RunPage(runs=_out(tx, rows), before=None if last is None else f"{last.start_us}-{last.run_id}")


def _place(before: str) -> tuple[int, int] | None:
    if not before:
        return None
    try:
        start_us, number = before.split("-")
        return int(start_us), int(number)
    except ValueError as exc:
        raise InvalidInput(
            "before",
            "not-place",
            "{before!r} is not a place",
            "Give what the page before said.",
            before=before,
        ) from exc


@router.post("/runs", status_code=201)
def add_run(store: StoreDep, who: Annotates, body: RunIn) -> RunOut:
    """Marks a run; without an end it lasts until it is given one."""
    name = check_name(body.name, 200)
    start_us = time.time_ns() // 1000 if body.start_us is None else int(body.start_us)
    end_us = None if body.end_us is None else int(body.end_us)
    if end_us is not None:
        Window.parse(start_us, end_us, "start_us", "end_us")

    def work(tx: Transaction, by: Act) -> str:
        uid = runs.add_run(tx, name, start_us, end_us, by.person)
        by.note("run", uid, None, runs.get_run(tx, uid))
        return uid

    return _get(store, act(store, who, work))


@router.patch("/runs/{uid}")
def change_run(store: StoreDep, who: Annotates, uid: Uid, body: RunChange) -> RunOut:
    """Renames a run, or ends one that a person has marked."""
    name = check_name(body.name, 200)
    end_us = None if body.end_us is None else int(body.end_us)

    def work(tx: Transaction, by: Act) -> None:
        before = runs.get_run(tx, uid)
        runs.change_run(tx, uid, name, by.created_us if body.ends_now else end_us)
        by.note("run", uid, before, runs.get_run(tx, uid))

    act(store, who, work)
    return _get(store, uid)


@router.delete("/runs/{uid}", status_code=204)
def remove_run(store: StoreDep, who: Annotates, uid: Uid) -> None:
    """Removes a run that a person has marked."""

    def work(tx: Transaction, by: Act) -> None:
        before = runs.get_run(tx, uid)
        runs.remove_run(tx, uid)
        by.note("run", uid, before, None)

    act(store, who, work)


@router.get("/setup/runs")
def list_rules(store: StoreDep) -> list[RunRuleOut]:
    """The rules by which the recorder finds runs."""
    with store.snapshot() as tx:
        return [_rule(row) for row in run_rules.list_rows(tx)]


@router.post("/setup/runs", status_code=201)
def add_rule(store: StoreDep, who: Configures, body: RunRuleIn) -> RunRuleOut:
    """Adds a rule; it is at work within 2 s."""
    return _get_rule(store, act(store, who, lambda tx, by: run_rules.add_rule(tx, _spec(body), by)))


@router.put("/setup/runs/{uid}")
def change_rule(store: StoreDep, who: Configures, uid: Uid, body: RunRuleIn) -> RunRuleOut:
    """Changes a rule."""
    act(store, who, lambda tx, by: run_rules.change_rule(tx, uid, _spec(body), by, body.revision))
    return _get_rule(store, uid)


@router.delete("/setup/runs/{uid}", status_code=204)
def remove_rule(store: StoreDep, who: Configures, uid: Uid, revision: int | None = None) -> None:
    """Removes a rule; the runs that it has found stay."""
    act(store, who, lambda tx, by: run_rules.remove_rule(tx, uid, by, revision))


def _spec(body: RunRuleIn) -> RunRuleSpec:
    plain = body.model_dump(exclude={"revision"})
    return RunRuleSpec(**{**plain, "attributes": tuple(body.attributes)})


def _rule(row: RunRuleRow) -> RunRuleOut:
    return RunRuleOut(uid=row.uid, revision=row.revision, **run_rules.to_plain(row.spec))


def _get_rule(store: Store, uid: str) -> RunRuleOut:
    with store.snapshot() as tx:
        return _rule(run_rules.get_rule(tx, uid))


def _get(store: Store, uid: str) -> RunOut:
    with store.snapshot() as tx:
        return _out(tx, [runs.get_run(tx, uid)])[0]


def _out(tx: Transaction, listed: Sequence[Run]) -> list[RunOut]:
    named = {rule.rule_id: rule.name for rule in run_rules.list_rules(tx)}
    tag_ids = {value.tag_id for run in listed for value in (*run.start_attributes, *run.end_attributes)}
    tags = {tag.tag_id: tag for tag in get_by_numbers(tx, tag_ids)}
    return [
        RunOut(
            uid=run.uid, name=run.name, origin=run.origin, rule=named.get(run.rule_id or 0, ""),
            start_us=str(run.start_us), end_us=None if run.end_us is None else str(run.end_us), cut=run.cut,
            start_attributes=_attributes_out(run.start_attributes, tags),
            end_attributes=_attributes_out(run.end_attributes, tags),
            person=run.person,
        )
        for run in listed
    ]  # fmt: skip


def _attributes_out(values: Sequence[AttributeValue], tags: Mapping[int, Tag]) -> list[RunAttributeOut]:
    return [
        RunAttributeOut(
            tag=tags[value.tag_id].uid, name=tags[value.tag_id].name, unit=tags[value.tag_id].unit,
            decimals=tags[value.tag_id].decimals, value=value.value, quality=value.quality,
        )
        for value in values
        if value.tag_id in tags
    ]  # fmt: skip

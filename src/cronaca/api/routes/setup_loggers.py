"""The set-up: loggers, their members, and rehearsing a rule."""

from __future__ import annotations

from dataclasses import asdict, replace
from typing import cast

from fastapi import Request

from cronaca.api.deps import StoreDep
from cronaca.api.permissions import Configures, Operates
from cronaca.api.rehearsing import rehearsal_out, rehearsal_spec
from cronaca.api.routing import api_router
from cronaca.api.schemas import Uid
from cronaca.api.schemas.setup import (
    LoggerIn,
    LoggerOut,
    MembersIn,
    RehearseIn,
    RehearseOut,
    RuleIn,
    TriggerIn,
    WhenIn,
)
from cronaca.core.errors import InvalidInput
from cronaca.core.logger_rules.words import when_text
from cronaca.core.model import RuleWish, WeekSpan
from cronaca.core.setup import LoggerFacts, TriggerFacts, WhenFacts
from cronaca.db import Store
from cronaca.db.transaction import Transaction
from cronaca.plant.editing import By, loggers
from cronaca.plant.editing.loggers import LoggerRow
from cronaca.services.acting import act, act_apart
from cronaca.services.asking import ask_recorder
from cronaca.services.rehearsals import RehearsalService

router = api_router("/setup", "set-up")


@router.get("/loggers")
def list_loggers(store: StoreDep) -> list[LoggerOut]:
    """All loggers by name."""
    with store.snapshot() as tx:
        return [_out(row) for row in loggers.list_loggers(tx)]


@router.post("/loggers", status_code=201)
def add_logger(store: StoreDep, who: Configures, wanted: LoggerIn) -> LoggerOut:
    """Adds a logger; it records within 2 s."""
    return _get(store, act(store, who, lambda tx, by: loggers.add_logger(tx, _facts(wanted), by)))


@router.put("/loggers/{uid}")
def change_logger(store: StoreDep, who: Configures, uid: Uid, wanted: LoggerIn) -> LoggerOut:
    """Changes a logger; members that stay lose no sample."""
    act(store, who, lambda tx, by: loggers.change_logger(tx, uid, _facts(wanted), by, wanted.revision))
    return _get(store, uid)


@router.delete("/loggers/{uid}", status_code=204)
def remove_logger(store: StoreDep, who: Configures, uid: Uid, revision: int | None = None) -> None:
    """Removes a logger; what it recorded stays."""
    act(store, who, lambda tx, by: loggers.remove_logger(tx, uid, by, revision))


@router.post("/loggers/{uid}/members")
def change_members(store: StoreDep, who: Configures, uid: Uid, wanted: MembersIn) -> LoggerOut:
    """Lets tags join or leave a logger, many at once."""

    def work(tx: Transaction, by: By) -> None:
        row = loggers.get_logger(tx, uid)
        leaving = set(wanted.remove)
        stay = [tag for tag in row.facts.tags if tag not in leaving]
        own = tuple(one for one in row.facts.overrides if one[0] not in leaving)
        facts = replace(row.facts, tags=(*stay, *wanted.add), overrides=own)
        loggers.change_logger(tx, uid, facts, by, row.revision)

    act(store, who, work)
    return _get(store, uid)


@router.post("/loggers/{uid}/record", status_code=202)
def record_now(store: StoreDep, who: Operates, uid: Uid) -> None:
    """One sample or record of all tags of a logger now, in any mode."""
    with store.snapshot() as tx:
        row = loggers.get_logger(tx, uid)
    if not row.facts.tags:
        raise InvalidInput("logger", "it has no tags", "Let tags join it first: choose them under Tags.")

    def work(by: By) -> None:
        answer = ask_recorder(store, by.person, "record_now", {"logger_id": row.logger_id})
        if not answer["ok"]:
            raise InvalidInput("logger", answer["reason"], "See the recorder's page.")

    act_apart(store, who, "logger", uid, row.facts.name, {"record": "now"}, work)


@router.post("/rehearse")
def rehearse(request: Request, wanted: RehearseIn) -> RehearseOut:
    """What rules would keep and lose of recorded, generated or uploaded readings, and what suits them."""
    service = cast(RehearsalService, request.app.state.rehearsals)
    return rehearsal_out(service.rehearse(rehearsal_spec(wanted)))


def _get(store: Store, uid: str) -> LoggerOut:
    with store.snapshot() as tx:
        return _out(loggers.get_logger(tx, uid))


def _facts(wanted: LoggerIn) -> LoggerFacts:
    return LoggerFacts(
        name=wanted.name, archive=wanted.archive, mode=wanted.mode, interval_us=wanted.interval_us,
        phase_us=wanted.phase_us, rule=wish(wanted.rule), tags=tuple(wanted.tags),
        overrides=tuple((tag, wish(rule)) for tag, rule in wanted.overrides.items()), wanted=wanted.wanted,
        inhibit_tag=wanted.inhibit_tag,
        trigger=None if wanted.trigger is None else TriggerFacts(**wanted.trigger.model_dump()),
        columns=tuple(wanted.columns.items()), keeps=wanted.keeps, when=_when(wanted.when),
        before_us=wanted.before_us, after_us=wanted.after_us, late_us=wanted.late_us,
    )  # fmt: skip


def _when(when: WhenIn) -> WhenFacts:
    spans = [WeekSpan(tuple(one.days), one.start_minute, one.end_minute) for one in when.spans]
    return WhenFacts(when.tag, tuple(spans), when.interval_tag)


def wish(rule: RuleIn) -> RuleWish:
    """A rule from the wire."""
    return RuleWish(**rule.model_dump())


def _out(row: LoggerRow) -> LoggerOut:
    f = row.facts
    return LoggerOut(
        uid=row.uid, revision=row.revision, name=f.name, archive=f.archive, mode=f.mode,
        interval_us=f.interval_us, phase_us=f.phase_us, rule=RuleIn(**asdict(f.rule)), tags=list(f.tags),
        overrides={tag: RuleIn(**asdict(own)) for tag, own in f.overrides}, wanted=f.wanted,
        inhibit_tag=f.inhibit_tag, columns=dict(f.columns), keeps=f.keeps,
        trigger=None if f.trigger is None else TriggerIn(**asdict(f.trigger)),
        when=WhenIn.model_validate(asdict(f.when)), before_us=f.before_us, after_us=f.after_us,
        late_us=f.late_us,
        text=when_text(f.mode, f.interval_us, f.phase_us, f.rule, f.keeps),
    )  # fmt: skip

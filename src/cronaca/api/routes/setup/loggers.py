"""The set-up: loggers, their members, and rehearsing a rule."""

from __future__ import annotations

from dataclasses import replace
from typing import Final, cast

from fastapi import Request
from pydantic import TypeAdapter

from cronaca.api.deps import StoreDep
from cronaca.api.permissions import Configures, ControlsLoggers
from cronaca.api.rehearsing import rehearsal_out, rehearsal_spec
from cronaca.api.routing import api_router
from cronaca.api.schemas import Uid
from cronaca.api.schemas.loggers import LoggerIn, LoggerOut, MembersIn, RuleIn
from cronaca.api.schemas.setup import RehearseIn, RehearseOut
from cronaca.core.errors import InvalidInput
from cronaca.core.logger_rules.words import mode_text
from cronaca.core.loggers import LoggerSpec, from_plain, to_plain, without_members
from cronaca.core.model import RuleSpec
from cronaca.core.requests import RecordNow
from cronaca.db import Store
from cronaca.db.transaction import Transaction
from cronaca.plant import loggers
from cronaca.plant.changes import By
from cronaca.plant.loggers import LoggerRow
from cronaca.services.acting import act, act_apart
from cronaca.services.asking import ask_recorder
from cronaca.services.rehearsals import RehearsalService

router = api_router("/setup", "set-up")
_LOGGER: Final[TypeAdapter[LoggerOut]] = TypeAdapter(LoggerOut)


@router.get("/loggers")
def list_loggers(store: StoreDep) -> list[LoggerOut]:
    """All loggers by name."""
    with store.snapshot() as tx:
        return [_out(row) for row in loggers.list_rows(tx)]


@router.post("/loggers", status_code=201)
def add_logger(store: StoreDep, who: Configures, body: LoggerIn) -> LoggerOut:
    """Adds a logger; it records within 2 s."""
    return _get(store, act(store, who, lambda tx, by: loggers.add_logger(tx, _spec(body), by)))


@router.put("/loggers/{uid}")
def change_logger(store: StoreDep, who: Configures, uid: Uid, body: LoggerIn) -> LoggerOut:
    """Changes a logger; members that stay lose no sample."""
    act(store, who, lambda tx, by: loggers.change_logger(tx, uid, _spec(body), by, body.revision))
    return _get(store, uid)


@router.delete("/loggers/{uid}", status_code=204)
def remove_logger(store: StoreDep, who: Configures, uid: Uid, revision: int | None = None) -> None:
    """Removes a logger; what it recorded stays."""
    act(store, who, lambda tx, by: loggers.remove_logger(tx, uid, by, revision))


@router.post("/loggers/{uid}/members")
def change_members(store: StoreDep, who: Configures, uid: Uid, body: MembersIn) -> LoggerOut:
    """Lets tags join or leave a logger, many at once."""

    def work(tx: Transaction, by: By) -> None:
        row = loggers.get_row(tx, uid)
        stays = without_members(row.spec, set(body.remove))
        spec = replace(stays, tags=(*stays.tags, *body.add))
        loggers.change_logger(tx, uid, spec, by, row.revision)

    act(store, who, work)
    return _get(store, uid)


@router.post("/loggers/{uid}/record", status_code=202)
def record_now(store: StoreDep, who: ControlsLoggers, uid: Uid) -> None:
    """One sample or record of all tags of a logger now, in any mode."""
    with store.snapshot() as tx:
        row = loggers.get_row(tx, uid)
    if not row.spec.tags:
        raise InvalidInput(
            "logger", "no-tags", "it has no tags", "Add tags to it first: choose them under Tags."
        )

    def work(by: By) -> None:
        answer = ask_recorder(store, by.person, RecordNow(row.logger_id))
        if not answer["ok"]:
            raise InvalidInput(
                "logger", "logger-refused", "{answer}", "See the recorder's page.", answer=answer["reason"]
            )

    act_apart(store, who, "logger", uid, row.spec.name, {"record": "now"}, work)


@router.post("/rehearse")
def rehearse(request: Request, body: RehearseIn) -> RehearseOut:
    """What rules would keep and lose of recorded, generated or uploaded readings, and what suits them."""
    service = cast(RehearsalService, request.app.state.rehearsals)
    return rehearsal_out(service.rehearse(rehearsal_spec(body)))


def _get(store: Store, uid: str) -> LoggerOut:
    with store.snapshot() as tx:
        return _out(loggers.get_row(tx, uid))


def _spec(body: LoggerIn) -> LoggerSpec[str]:
    return from_plain(body.model_dump(mode="json", exclude={"revision"}, exclude_unset=True))


def rule_spec(rule: RuleIn) -> RuleSpec:
    """A rule from the wire."""
    return RuleSpec(**rule.model_dump())


def _out(row: LoggerRow) -> LoggerOut:
    plain = to_plain(row.spec)
    text = mode_text(row.spec.mode)
    return _LOGGER.validate_python({**plain, "uid": row.uid, "revision": row.revision, "text": text})

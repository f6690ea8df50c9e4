"""Reports: set up, made when a period is over, kept, downloaded."""

from __future__ import annotations

import time
from typing import Annotated, Literal, cast
from urllib.parse import quote

from fastapi import Depends, Query, Request, Response

from cronaca.api.deps import PersonDep, StoreDep
from cronaca.api.routing import api_router
from cronaca.api.schemas import Uid
from cronaca.api.schemas.reports import IssueOut, ReportIn, ReportLine, ReportOut, ReportsMadeOut
from cronaca.core.reports import ReportFacts, first_since
from cronaca.db import Store
from cronaca.db.transaction import Transaction
from cronaca.exchange.reports import MEDIA_TYPES
from cronaca.logbook import reports
from cronaca.logbook.reports import ReportRow
from cronaca.plant import setup
from cronaca.services.reports import ReportService

router = api_router("/reports", "reports")
Form = Literal["html", "pdf", "csv", "xlsx"]


def get_service(request: Request) -> ReportService:
    """The application's reports."""
    return cast(ReportService, request.app.state.reports)


ServiceDep = Annotated[ReportService, Depends(get_service)]


@router.get("")
def list_reports(store: StoreDep) -> list[ReportOut]:
    """All reports by name."""
    with store.snapshot() as tx:
        return [_out(row) for row in reports.list_reports(tx)]


@router.post("", status_code=201)
def add_report(store: StoreDep, person: PersonDep, wanted: ReportIn) -> ReportOut:
    """Adds a report; the first one is of the shift or day that is over, of runs the next that ends."""
    now_us = time.time_ns() // 1000

    def work(tx: Transaction) -> str:
        since_us = first_since(wanted.every, setup.get_plant(tx).calendar, now_us)
        return reports.add_report(tx, _facts(wanted), since_us, person.name, now_us)

    return _get(store, store.run(work))


@router.put("/{uid}")
def change_report(store: StoreDep, person: PersonDep, uid: Uid, wanted: ReportIn) -> ReportOut:
    """Changes a report; those that were made stay as they are."""
    now_us = time.time_ns() // 1000

    def work(tx: Transaction) -> None:
        before = reports.get_report(tx, uid)
        same = before.facts.every == wanted.every
        since_us = (
            before.since_us if same else first_since(wanted.every, setup.get_plant(tx).calendar, now_us)
        )
        reports.change_report(
            tx, uid, _facts(wanted), since_us=since_us, person=person.name, created_us=now_us,
            seen=wanted.revision,
        )  # fmt: skip

    store.run(work)
    return _get(store, uid)


@router.delete("/{uid}", status_code=204)
def remove_report(store: StoreDep, uid: Uid) -> None:
    """Removes a report; those that were made stay and can be downloaded."""
    store.run(lambda tx: reports.remove_report(tx, uid))


@router.post("/make")
def make_due(service: ServiceDep) -> ReportsMadeOut:
    """Makes now what is due; the process in the background would make it within half a minute."""
    return ReportsMadeOut(made=service.make_due())


@router.get("/made")
def list_made(
    store: StoreDep,
    report: Annotated[str, Query(max_length=36)] = "",
    limit: Annotated[int, Query(ge=1, le=1000)] = 100,
) -> list[IssueOut]:
    """Reports that were made, newest first; of one or of all."""
    with store.snapshot() as tx:
        found = reports.list_issues(tx, report, limit)
    return [
        IssueOut(
            uid=one.uid, report=one.report_uid, name=one.name, period=one.period, start_us=str(one.start_us),
            end_us=str(one.end_us), created_us=str(one.created_us), late=one.late, covered=one.covered,
            good=one.good,
        )
        for one in found
    ]  # fmt: skip


@router.get("/made/{uid}.{form}")
def get_file(store: StoreDep, uid: Uid, form: Form) -> Response:
    """A report that was made, as a file."""
    with store.snapshot() as tx:
        name, content = reports.get_file(tx, uid, form)
    shown = "inline" if form == "html" else "attachment"
    headers = {"Content-Disposition": f"{shown}; filename*=UTF-8''{quote(name)}"}
    return Response(content, media_type=MEDIA_TYPES[form], headers=headers)


def _facts(wanted: ReportIn) -> ReportFacts:
    lines = tuple((line.member, line.stat) for line in wanted.lines)
    return ReportFacts(
        wanted.name, wanted.kind, lines, wanted.norm, wanted.every, wanted.rule, wanted.enabled
    )


def _get(store: Store, uid: str) -> ReportOut:
    with store.snapshot() as tx:
        return _out(reports.get_report(tx, uid))


def _out(row: ReportRow) -> ReportOut:
    facts = row.facts
    return ReportOut(
        uid=row.uid, revision=row.revision, name=facts.name, kind=facts.kind, norm=facts.norm,
        every=facts.every, rule=facts.rule, enabled=facts.enabled, problem=row.problem,
        lines=[ReportLine(member=member, stat=stat) for member, stat in facts.lines],
    )  # fmt: skip

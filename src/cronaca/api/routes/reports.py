"""Reports: set up, made when a period is over, kept, downloaded."""

from __future__ import annotations

from typing import Annotated, Literal, cast
from urllib.parse import quote

from fastapi import Depends, Query, Request, Response

from cronaca.api.deps import StoreDep
from cronaca.api.permissions import ManagesReports
from cronaca.api.routing import api_router
from cronaca.api.schemas import Uid
from cronaca.api.schemas.reports import IssueOut, ReportIn, ReportLine, ReportOut, ReportsMadeOut
from cronaca.core.model import Window
from cronaca.core.reports import MOST_LATE, ReportSpec, checked_since, first_since
from cronaca.db import Store
from cronaca.db.transaction import Transaction
from cronaca.exchange.reports import MEDIA_TYPES
from cronaca.logbook import reports, runs
from cronaca.logbook.reports import ReportRow
from cronaca.logbook.runs import RunFilter
from cronaca.plant.site import get_plant
from cronaca.services.acting import Act, act, act_apart
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
def add_report(store: StoreDep, who: ManagesReports, body: ReportIn) -> ReportOut:
    """Adds a report; the first one is of the shift or day that is over, of runs the next that ends, or what
    began since a chosen time."""

    def work(tx: Transaction, by: Act) -> str:
        since_us = _since(tx, body, None, by.created_us)
        uid = reports.add_report(tx, _spec(body), since_us, by.person, by.created_us)
        by.note("report", uid, None, _noted(tx, uid))
        return uid

    return _get(store, act(store, who, work))


@router.put("/{uid}")
def change_report(store: StoreDep, who: ManagesReports, uid: Uid, body: ReportIn) -> ReportOut:
    """Changes a report; those that were made stay as they are."""

    def work(tx: Transaction, by: Act) -> None:
        before, noted = reports.get_report(tx, uid), _noted(tx, uid)
        since_us = _since(tx, body, before, by.created_us)
        reports.change_report(
            tx, uid, _spec(body), since_us=since_us, person=by.person, created_us=by.created_us,
            seen=body.revision,
        )  # fmt: skip
        by.note("report", uid, noted, _noted(tx, uid))

    act(store, who, work)
    return _get(store, uid)


@router.delete("/{uid}", status_code=204)
def remove_report(store: StoreDep, who: ManagesReports, uid: Uid) -> None:
    """Removes a report; those that were made stay and can be downloaded."""

    def work(tx: Transaction, by: Act) -> None:
        before = _noted(tx, uid)
        reports.remove_report(tx, uid)
        by.note("report", uid, before, None)

    act(store, who, work)


@router.post("/make")
def make_due(store: StoreDep, service: ServiceDep, who: ManagesReports) -> ReportsMadeOut:
    """Makes now what is due; the process in the background would make it within half a minute."""
    made = act_apart(store, who, "report", "", "", {"make": "due"}, lambda _: service.make_due())
    return ReportsMadeOut(made=made)


@router.get("/made")
def list_made(
    store: StoreDep,
    report: Annotated[str, Query(max_length=36)] = "",
    limit: Annotated[int, Query(ge=1, le=1000)] = 100,
) -> list[IssueOut]:
    """Reports that were made, newest first; of one or of all."""
    with store.snapshot() as tx:
        issues = reports.list_issues(tx, report, limit)
    return [
        IssueOut(
            uid=issue.uid, report=issue.report_uid, name=issue.name, period=issue.period,
            start_us=str(issue.start_us), end_us=str(issue.end_us), created_us=str(issue.created_us),
            late=issue.late, covered=issue.covered, good=issue.good,
        )
        for issue in issues
    ]  # fmt: skip


@router.get("/made/{uid}.{form}")
def get_file(store: StoreDep, uid: Uid, form: Form) -> Response:
    """A report that was made, as a file."""
    with store.snapshot() as tx:
        name, content = reports.get_file(tx, uid, form)
    shown = "inline" if form == "html" else "attachment"
    headers = {"Content-Disposition": f"{shown}; filename*=UTF-8''{quote(name)}"}
    return Response(content, media_type=MEDIA_TYPES[form], headers=headers)


def _since(tx: Transaction, body: ReportIn, before: ReportRow | None, now_us: int) -> int:
    """From when on periods are reported."""
    calendar = get_plant(tx).calendar
    if body.since_us is not None:
        since = Window(body.since_us, max(now_us, body.since_us + 1))
        many = runs.list_runs(tx, since, RunFilter(rule=body.rule or ""), limit=MOST_LATE + 1)
        return checked_since(body.every, calendar, body.since_us, now_us, len(many))
    if before is not None and before.spec.every == body.every:
        return before.since_us
    return first_since(body.every, calendar, now_us)


def _noted(tx: Transaction, uid: str) -> ReportSpec:
    return reports.get_report(tx, uid).spec


def _spec(body: ReportIn) -> ReportSpec:
    lines = tuple((line.member, line.stat) for line in body.lines)
    return ReportSpec(body.name, body.kind, lines, body.norm, body.every, body.rule, body.enabled)


def _get(store: Store, uid: str) -> ReportOut:
    with store.snapshot() as tx:
        return _out(reports.get_report(tx, uid))


def _out(row: ReportRow) -> ReportOut:
    spec = row.spec
    return ReportOut(
        uid=row.uid, revision=row.revision, name=spec.name, kind=spec.kind, norm=spec.norm,
        every=spec.every, rule=spec.rule, enabled=spec.enabled, problem=row.problem,
        since_us=str(row.since_us),
        lines=[ReportLine(member=member, stat=stat) for member, stat in spec.lines],
    )  # fmt: skip

"""Reports as they are set up, and those that were made: kept whole, in every form."""

from __future__ import annotations

import json
import uuid
from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace
from typing import Any, Final

from cronaca.core.errors import EditConflict, InvalidInput, NotFound
from cronaca.core.reports import Every, ReportSpec
from cronaca.core.statistics.sheet import NormKind
from cronaca.core.topics import Topic
from cronaca.db.transaction import Row, Transaction

_LIST: Final = """
SELECT uid, revision, spec, since_us, person, created_us, problem FROM report
ORDER BY NATURAL_SORT_KEY(name), name
"""
_NAMED: Final = "SELECT uid FROM report WHERE name = %(name)s"
_ADD: Final = """
INSERT INTO report (uid, name, spec, since_us, person, created_us)
VALUES (%(uid)s, %(name)s, %(spec)s, %(since_us)s, %(person)s, %(created_us)s)
"""
_CHANGE: Final = """
UPDATE report SET name = %(name)s, spec = %(spec)s, since_us = %(since_us)s, person = %(person)s,
    created_us = %(created_us)s, revision = revision + 1, problem = ''
WHERE uid = %(uid)s
"""
_PUT_PROBLEM: Final = "UPDATE report SET problem = %(problem)s WHERE uid = %(uid)s"
_REMOVE: Final = "DELETE FROM report WHERE uid = %(uid)s"
_ISSUES: Final = """
SELECT uid, report_uid, name, period, start_us, end_us, created_us, late, covered, good FROM report_issue
WHERE (%(report)s = '' OR report_uid = %(report)s) AND issue_id < %(before)s
ORDER BY end_us DESC, issue_id DESC LIMIT %(limit)s
"""
_MADE: Final = "SELECT start_us, end_us FROM report_issue WHERE report_uid = %(report)s"
_LOCK: Final = "SELECT 1 FROM report WHERE uid = %(uid)s FOR UPDATE"
_ADD_ISSUE: Final = """
INSERT INTO report_issue (uid, report_uid, name, period, start_us, end_us, created_us, late, covered, good,
    html, pdf, csv, xlsx)
VALUES (%(uid)s, %(report_uid)s, %(name)s, %(period)s, %(start_us)s, %(end_us)s, %(created_us)s, %(late)s,
    %(covered)s, %(good)s, %(html)s, %(pdf)s, %(csv)s, %(xlsx)s)
"""
_FILES: Final = {
    "html": "SELECT name, period, html FROM report_issue WHERE uid = %(uid)s",
    "pdf": "SELECT name, period, pdf FROM report_issue WHERE uid = %(uid)s",
    "csv": "SELECT name, period, csv FROM report_issue WHERE uid = %(uid)s",
    "xlsx": "SELECT name, period, xlsx FROM report_issue WHERE uid = %(uid)s",
}
_LONGEST_PROBLEM: Final = 500
_FAR: Final = (1 << 62) - 1


@dataclass(frozen=True, slots=True)
class ReportRow:
    """A report as it is set up."""

    uid: str
    revision: int
    spec: ReportSpec
    since_us: int
    person: str
    created_us: int
    problem: str
    """Why it cannot be made; empty when it can."""


@dataclass(frozen=True, slots=True)
class Issue:
    """A report that was made."""

    uid: str
    report_uid: str
    name: str
    period: str
    start_us: int
    end_us: int
    created_us: int
    late: bool
    covered: float | None
    good: float | None


def list_reports(tx: Transaction) -> list[ReportRow]:
    """All reports by name."""
    return [_row(row) for row in tx.fetch(_LIST)]


def get_report(tx: Transaction, uid: str) -> ReportRow:
    """One report; raises NotFound."""
    for row in list_reports(tx):
        if row.uid == uid:
            return row
    raise NotFound("report", uid)


def add_report(tx: Transaction, spec: ReportSpec, since_us: int, person: str, created_us: int) -> str:
    """Adds a report; returns its uid. Raises InvalidInput."""
    tx.changes(Topic.REPORTS)
    spec = spec.checked()
    _check_free(tx, spec.name, "")
    uid = str(uuid.uuid4())
    tx.insert(
        _ADD,
        uid=uid,
        name=spec.name,
        spec=_text(spec),
        since_us=since_us,
        person=person,
        created_us=created_us,
    )
    return uid


def change_report(
    tx: Transaction,
    uid: str,
    spec: ReportSpec,
    *,
    since_us: int,
    person: str,
    created_us: int,
    seen: int | None,
) -> None:
    """Changes a report; those made before stay as they are. Raises InvalidInput, NotFound, EditConflict."""
    tx.changes(Topic.REPORTS)
    spec = spec.checked()
    row = get_report(tx, uid)
    if seen is not None and seen != row.revision:
        raise EditConflict("report", row.spec.name, row.person, row.created_us)
    _check_free(tx, spec.name, uid)
    tx.execute(
        _CHANGE, uid=uid, name=spec.name, spec=_text(spec), since_us=since_us, person=person,
        created_us=created_us,
    )  # fmt: skip


def remove_report(tx: Transaction, uid: str) -> None:
    """Removes a report; those that were made stay. Raises NotFound."""
    tx.changes(Topic.REPORTS)
    get_report(tx, uid)
    tx.execute(_REMOVE, uid=uid)


def put_problem(tx: Transaction, uid: str, problem: str) -> None:
    """Why a report cannot be made; nothing when it can."""
    tx.changes(Topic.REPORTS)
    tx.execute(_PUT_PROBLEM, uid=uid, problem=problem[:_LONGEST_PROBLEM])


def list_made(tx: Transaction, uid: str) -> set[tuple[int, int]]:
    """Start and end of the periods that a report was made for."""
    return {(int(start), int(end)) for start, end in tx.fetch(_MADE, report=uid)}


def add_issue(tx: Transaction, issue: Issue, files: Mapping[str, bytes]) -> bool:
    """Keeps a report; False when another server has made it meanwhile."""
    tx.changes(Topic.REPORTS)
    tx.fetch(_LOCK, uid=issue.report_uid)  # of two who have made it, one waits and then sees the other's
    if (issue.start_us, issue.end_us) in list_made(tx, issue.report_uid):
        return False
    tx.insert(_ADD_ISSUE, **asdict(issue), **files)
    return True


def list_issues(tx: Transaction, report: str = "", limit: int = 100) -> list[Issue]:
    """Reports that were made, newest first; of one or of all."""
    rows = tx.fetch(_ISSUES, report=report, before=_FAR, limit=limit)
    return [replace(issue, late=bool(issue.late)) for issue in (Issue(*row) for row in rows)]


def get_file(tx: Transaction, uid: str, form: str) -> tuple[str, bytes]:
    """A name for the file of a report that was made, and its content; raises NotFound."""
    row = tx.fetch_one(_FILES[form], uid=uid) if form in _FILES else None
    if row is None:
        raise NotFound("report", uid)
    return f"{row[0]} {row[1]}.{form}", bytes(row[2])


def _check_free(tx: Transaction, name: str, own_uid: str) -> None:
    row = tx.fetch_one(_NAMED, name=name)
    if row is not None and row[0] != own_uid:
        raise InvalidInput(
            "name", "report-name-taken", "there is a report {name!r}", "Take another name.", name=name
        )


def _text(spec: ReportSpec) -> str:
    return json.dumps(asdict(spec))


def _row(row: Row) -> ReportRow:
    uid, revision, text, since_us, person, created_us, problem = row
    plain: dict[str, Any] = json.loads(text)
    lines = tuple((member, stat) for member, stat in plain["lines"])
    spec = ReportSpec(**{
        **plain, "lines": lines, "norm": NormKind(plain["norm"]), "every": Every(plain["every"])
    })  # fmt: skip
    return ReportRow(uid, revision, spec, since_us, person, created_us, problem)

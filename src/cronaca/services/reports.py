"""Making reports: when a shift, a day or a run is over, and those that are late."""

from __future__ import annotations

import logging
import threading
import uuid
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Final
from zoneinfo import ZoneInfo

from cronaca.core.errors import CronacaError, InvalidInput, StoreError
from cronaca.core.figures import unit_of, with_base
from cronaca.core.model import SECOND, Window
from cronaca.core.reports import (
    PATIENCE_US,
    Every,
    Report,
    ReportCell,
    ReportRow,
    ReportSpec,
    covered_percent,
    is_settled,
    mean,
    periods,
)
from cronaca.core.statistics.norms import Verdict
from cronaca.core.statistics.sheet import Norm, NormKind
from cronaca.core.statistics.texts import read_figure
from cronaca.core.statistics.words import label_of, written
from cronaca.core.windows import PlantCalendar, local_text, shift_name
from cronaca.db import Store
from cronaca.exchange.reports import in_all_forms
from cronaca.history.read.curves import CurveReader
from cronaca.history.tables import epochs
from cronaca.logbook import reports, runs
from cronaca.logbook.reports import Issue
from cronaca.logbook.reports import ReportRow as SetUp
from cronaca.logbook.runs import RunFilter
from cronaca.plant.site import get_plant
from cronaca.plant.tags import find_tags
from cronaca.services import figures as f
from cronaca.services.figures import FigureService
from cronaca.services.statistics import StatisticsService
from cronaca.services.statistics import specs as s

_WIDE: Final = 500
_MOST_RUNS: Final = 200
_NORMS: Final = {
    NormKind.NONE: "not given",
    NormKind.FLEET: "as the others of its class",
    NormKind.EARLIER: "as in the 12 windows before",
    NormKind.LIMITS: "the limits of the class",
    NormKind.RANGE: "the range of the tag",
}
_UNSAID: Final = (Verdict.NORMAL, Verdict.UNKNOWN, Verdict.NO_VALUE)
_log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class _Period:
    window: Window
    name: str


class ReportService:
    """Makes what is due; however many servers do, each report is kept once."""

    def __init__(
        self,
        store: Store,
        statistics: StatisticsService,
        figures: FigureService,
        curves: CurveReader,
        now_us: Callable[[], int],
    ) -> None:
        self._store = store
        self._statistics = statistics
        self._figures = figures
        self._curves = curves
        self._now_us = now_us
        self._turn = threading.Lock()

    def make_due(self, beat: Callable[[], None] = lambda: None) -> int:
        """Makes all that is due; how many. Two at once would make the same. `beat` is called before each."""
        with self._turn:
            return self._make_due(beat)

    def _make_due(self, beat: Callable[[], None]) -> int:
        now_us = self._now_us()
        with self._store.snapshot() as tx:
            known = [row for row in reports.list_reports(tx) if row.spec.enabled]
        made = 0
        for row in known:
            try:
                for period in self._due(row, now_us):
                    beat()
                    made += self._make(row, period)
            except StoreError:
                raise
            except Exception as exc:  # noqa: BLE001 - said in the list; the other reports are made
                self._say(row, exc)
            else:
                self._put_problem(row, "")
        return made

    def _say(self, row: SetUp, exc: Exception) -> None:
        """Why a report cannot be made: in the log once, in the list as long as it is so."""
        why = str(exc) if isinstance(exc, CronacaError) else f"{type(exc).__name__}: {exc}"
        if row.problem != why:
            _log.warning("Report %s cannot be made: %s", row.spec.name, why, exc_info=exc)
        self._put_problem(row, why)

    def _put_problem(self, row: SetUp, problem: str) -> None:
        if row.problem != problem:
            self._store.run(lambda tx: reports.put_problem(tx, row.uid, problem))

    def _due(self, row: SetUp, now_us: int) -> list[_Period]:
        calendar = self._calendar()
        with self._store.snapshot() as tx:
            last = epochs.find_last_epoch(tx)
            done = reports.list_made(tx, row.uid)
            if row.spec.every is Every.RUN:
                window = Window(row.since_us, max(now_us, row.since_us + 1))
                ended = runs.list_runs(tx, window, RunFilter(rule=row.spec.rule or ""), limit=_MOST_RUNS)
                candidates = [
                    _Period(Window(run.start_us, run.end_us), run.name)
                    for run in reversed(ended)
                    if run.end_us is not None and run.start_us < run.end_us and run.end_us > row.since_us
                ]
            else:
                candidates = [
                    _Period(period, _period_name(row.spec.every, period, calendar))
                    for period in periods(row.spec.every, calendar, row.since_us, now_us)
                ]
        known_us = 0 if last is None else last.known_until_us
        return [
            period
            for period in candidates
            if (period.window.start_us, period.window.end_us) not in done
            and is_settled(period.window.end_us, known_us, now_us)
        ]

    def _make(self, row: SetUp, period: _Period) -> bool:
        created_us = self._now_us()
        report = self._report(row.spec, period, created_us)
        issue = Issue(
            str(uuid.uuid4()), row.uid, row.spec.name, period.name, period.window.start_us,
            period.window.end_us, created_us, bool(report.late), report.covered, report.good,
        )  # fmt: skip
        files = in_all_forms(report)
        return self._store.run(lambda tx: reports.add_issue(tx, issue, files))

    def _report(self, spec: ReportSpec, period: _Period, created_us: int) -> Report:
        kind = next((kind for kind in self._statistics.kinds() if kind.name == spec.kind), None)
        if kind is None:
            raise InvalidInput(
                "kind",
                "no-equipment-any-more",
                "there is no equipment {kind!r} any more",
                "Change the report.",
                kind=spec.kind,
            )
        members = {member.name: member for member in kind.members}
        lines = [line for line in spec.lines if line[0] in members]
        if not lines:
            raise InvalidInput(
                "lines", "none-tags", "{kind} has none of its tags", "Change the report.", kind=spec.kind
            )
        window = period.window
        sheet = self._statistics.sheet(_asked(kind, members, lines, spec.norm, window))
        uids = {uid for row in sheet.rows for cell in row.cells if (uid := cell.tag) is not None}
        good, covered = self._good(uids, window), self._covered(uids, window)
        zone = self._calendar().zone
        units = [_unit_of(members[member], stat) for member, stat in lines]
        with self._store.snapshot() as tx:
            plant = get_plant(tx)
        late = created_us - window.end_us > 2 * PATIENCE_US
        return Report(
            title=spec.name, plant=plant.name, period=period.name,
            window=f"{_minute(window.start_us, zone)} to {_minute(window.end_us, zone)}", zone=zone.key,
            made=_minute(created_us, zone), late="created late" if late else "", norm=_NORMS[spec.norm],
            columns=tuple(
                (member, label_of(stat), unit)
                for (member, stat), unit in zip(lines, units, strict=True)
            ),
            left_out=tuple(
                f"{member}, {label_of(stat)}" for member, stat in spec.lines if member not in members
            ),
            rows=tuple(_row(row, lines, members, good, covered) for row in sheet.rows),
        )  # fmt: skip

    def _good(self, uids: Iterable[str], window: Window) -> dict[str, float]:
        """Percent of the window in which each tag was Good."""
        figures = {uid: [f.FigureSpec("PercentGood")] for uid in sorted(uids)}
        _, results = self._figures.compute_each(figures, _held(window), f.AS_SHOWN)
        values = {
            uid: result[0].values[0].value if result[0].values else None for uid, result in results.items()
        }
        return {uid: float(value) for uid, value in values.items() if isinstance(value, (int, float))}

    def _covered(self, uids: Iterable[str], window: Window) -> dict[str, float]:
        """Percent of the window in which each tag was recorded."""
        with self._store.snapshot() as tx:
            tags = find_tags(tx, sorted(uids))
        curves = self._curves.read_many([tag.tag_id for tag in tags.values()], window, _WIDE)
        return {
            tag.uid: covered_percent(curve.answer.blanks, window)
            for tag, curve in zip(tags.values(), curves, strict=True)
        }

    def _calendar(self) -> PlantCalendar:
        with self._store.snapshot() as tx:
            return get_plant(tx).calendar


def _period_name(every: Every, window: Window, calendar: PlantCalendar) -> str:
    day = local_text(window.start_us, calendar.zone)[:10]
    return day if every is Every.DAY else f"{shift_name(window.start_us, calendar)} {day}".strip()


def _asked(
    kind: s.EquipmentKind, members: Mapping[str, s.KindMember], lines: Sequence[tuple[str, str]],
    norm: NormKind, window: Window,
) -> s.SheetSpec:  # fmt: skip
    rows = tuple(
        s.RowSpec(name, tuple(members[member].tags[i] for member, _ in lines))
        for i, name in enumerate(kind.equipment)
    )
    columns = tuple(s.ColumnSpec(f.FigureSpec.read(stat), Norm(norm)) for _, stat in lines)
    return s.SheetSpec(
        rows, columns, _held(window), reference="before" if norm is NormKind.EARLIER else None,
        configuration=f.AS_SHOWN,
    )  # fmt: skip


def _held(window: Window) -> f.WindowSpec:
    return f.WindowSpec(start_us=window.start_us, end_us=window.end_us)


def _row(
    row: s.SheetRow, lines: Sequence[tuple[str, str]], members: Mapping[str, s.KindMember],
    good: Mapping[str, float], covered: Mapping[str, float],
) -> ReportRow:  # fmt: skip
    cells = tuple(
        _cell(cell, stat, members[member].decimals)
        for cell, (member, stat) in zip(row.cells, lines, strict=True)
    )
    uids = sorted({cell.tag for cell in row.cells if cell.tag is not None})
    return ReportRow(
        row.name, cells, mean([covered.get(uid) for uid in uids]), mean([good.get(uid) for uid in uids])
    )


def _cell(cell: s.Cell, stat: str, decimals: int) -> ReportCell:
    place = "" if cell.place in _UNSAID else cell.place.value.replace("_", " ")
    if cell.value is None or isinstance(cell.value, bool | str):
        text = "–" if cell.value is None else str(cell.value)
        return ReportCell(text, place, None)
    number, text, _ = written(stat, float(cell.value), cell.unit, decimals)
    doubt = " ?" if cell.doubtful else ""
    return ReportCell(text + doubt, place, number)


def _unit_of(member: s.KindMember, stat: str) -> str:
    spec, unit = with_base(read_figure(stat), member.unit), member.unit
    return written(stat, 0.0, unit_of(spec, unit), member.decimals)[2]


def _minute(at_us: int, zone: ZoneInfo) -> str:
    return local_text(at_us // (60 * SECOND) * 60 * SECOND, zone)[:16]

"""Reports: a statistics sheet of a shift, a day or a run, made when it is over; late ones too."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Final

from cronaca.core.errors import InvalidInput
from cronaca.core.figures import all_figures
from cronaca.core.model import MINUTE, SECOND, Gap, GapReason, Window
from cronaca.core.names import check_name
from cronaca.core.statistics.sheet import NormKind
from cronaca.core.statistics.texts import read_figure
from cronaca.core.windows import PlantCalendar, Unit, next_start, start_of

SETTLE_US: Final = 10 * SECOND
"""So much of what follows a period is waited for: samples that were under way."""
PATIENCE_US: Final = 10 * MINUTE
"""A recorder that does not tell how far it is, is waited for no longer."""
MOST_LATE: Final = 200
MOST_LINES: Final = 120


class Every(StrEnum):
    """What a report is of."""

    SHIFT = "shift"
    DAY = "day"
    RUN = "run"


@dataclass(frozen=True, slots=True)
class ReportSpec:
    """A report as it is set up: the figures (member and statistic) of all equipment of a kind. `rule` is the
    uid of the rule whose runs are reported."""

    name: str
    kind: str
    lines: tuple[tuple[str, str], ...]
    norm: NormKind = NormKind.FLEET
    every: Every = Every.SHIFT
    rule: str | None = None
    enabled: bool = True

    def checked(self) -> ReportSpec:
        """The same, made regular; raises InvalidInput."""
        if not 1 <= len(self.lines) <= MOST_LINES:
            raise InvalidInput(
                "lines",
                "lines-there-are",
                "there are {lines}",
                "Choose 1 to {most_lines} figures.",
                lines=len(self.lines),
                most_lines=MOST_LINES,
            )
        for member, stat in self.lines:
            _check_statistic(member, stat)
        if self.norm is NormKind.FIXED:
            raise InvalidInput(
                "norm", "report-no-fixed-band", "a report has no fixed band", "Choose another."
            )
        if self.every is Every.RUN and self.rule is None:
            raise InvalidInput(
                "rule", "rule-missing", "it is missing", "Choose the rule whose runs are reported."
            )
        rule = self.rule if self.every is Every.RUN else None
        return replace(self, name=check_name(self.name, 100), rule=rule)


def _check_statistic(member: str, stat: str) -> None:
    try:
        spec = read_figure(stat).checked()
    except InvalidInput as exc:
        raise exc.at("lines").of(member) from exc
    if spec.name not in all_figures():
        raise InvalidInput(
            "lines",
            "lines-not-statistic",
            "{stat!r} of {member!r} is not a statistic",
            "Choose another.",
            stat=stat,
            member=member,
        )


def first_since(every: Every, calendar: PlantCalendar, now_us: int) -> int:
    """From when on a new report is made: the last period that is over is its first. Raises InvalidInput."""
    if every is Every.RUN:
        return now_us
    unit = Unit(every.value)
    return start_of(unit, start_of(unit, now_us, calendar) - 1, calendar)


def checked_since(every: Every, calendar: PlantCalendar, since_us: int, now_us: int, runs: int = 0) -> int:
    """The chosen beginning of a report, from which on past periods are made too; `runs`: how many runs of its
    rule there are since then. Raises InvalidInput where these would be too many."""
    count = runs if every is Every.RUN else _count_periods(Unit(every.value), calendar, since_us, now_us)
    if count > MOST_LATE:
        raise InvalidInput(
            "since_us",
            "make-more-reports-once",
            "that would make more than {most_late} reports at once",
            "Give a later day.",
            most_late=MOST_LATE,
        )
    return since_us


def _count_periods(unit: Unit, calendar: PlantCalendar, since_us: int, now_us: int) -> int:
    """How many end until now; counting stops beyond MOST_LATE."""
    count, start_us = 0, since_us
    while count <= MOST_LATE and (start_us := next_start(unit, start_us, calendar)) <= now_us:
        count += 1
    return count


def periods(every: Every, calendar: PlantCalendar, since_us: int, until_us: int) -> list[Window]:
    """The shifts or days that begin at `since_us` or later and are over at `until_us`, oldest first; of more
    than MOST_LATE the newest."""
    unit = Unit(every.value)
    start_us = start_of(unit, since_us, calendar)
    if start_us < since_us:
        start_us = next_start(unit, since_us, calendar)
    result = []
    while (end_us := next_start(unit, start_us, calendar)) <= until_us:
        result.append(Window(start_us, end_us))
        start_us = end_us
    return result[-MOST_LATE:]


def is_settled(end_us: int, known_until_us: int, now_us: int) -> bool:
    """Whether all of a period is known that will soon be known."""
    return known_until_us >= end_us + SETTLE_US or now_us >= end_us + PATIENCE_US


def covered_percent(gaps: Iterable[Gap], window: Window) -> float:
    """Percent of the window with recording: stretches of Bad values are covered, gaps are not."""
    missing = sum(
        max(min(window.end_us if gap.end_us is None else gap.end_us, window.end_us)
            - max(gap.start_us, window.start_us), 0)
        for gap in gaps
        if gap.reason is not GapReason.BAD_VALUES
    )  # fmt: skip
    return 100.0 * max(1.0 - missing / window.length_us, 0.0)


@dataclass(frozen=True, slots=True)
class ReportCell:
    """A figure as it is written: text in its digits with unit, its place in words; the number for a file."""

    text: str
    place: str
    number: float | None


@dataclass(frozen=True, slots=True)
class ReportRow:
    """The figures of one piece of equipment; percent of the window that its tags were recorded and Good (the
    mean over tags; none where there is no tag)."""

    name: str
    cells: tuple[ReportCell, ...]
    covered: float | None
    good: float | None


@dataclass(frozen=True, slots=True)
class Report:
    """A report that was made, with all its words. `columns`: member, statistic, unit."""

    title: str
    plant: str
    period: str
    window: str
    zone: str
    made: str
    late: str
    norm: str
    columns: tuple[tuple[str, str, str], ...]
    rows: tuple[ReportRow, ...]
    left_out: tuple[str, ...] = ()
    """Figures that were asked for, of what no piece has any more."""

    @property
    def note(self) -> str:
        """What is said below the figures."""
        said = "?: not all of the window is Good. A place in words: beside what is normal."
        gone = "; ".join(self.left_out)
        return f"{said} Left out, because no equipment has it any more: {gone}." if gone else said

    @property
    def covered(self) -> float | None:
        """The mean over rows."""
        return mean([row.covered for row in self.rows])

    @property
    def good(self) -> float | None:
        """The mean over rows."""
        return mean([row.good for row in self.rows])


def mean(values: Sequence[float | None]) -> float | None:
    """The mean of those that are there; None when none is."""
    known = [value for value in values if value is not None]
    return sum(known) / len(known) if known else None

"""From a request for figures to its answer: windows resolved, tags read, figures computed.

All tags are seen at one instant of the database, as long as they hold no more samples than are held in memory
at once (history/read/figures.py); no connection is held while figures are made."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Final

from cronaca.core import figures as core
from cronaca.core.aggregates import Configuration, Intervals, status
from cronaca.core.errors import InvalidInput
from cronaca.core.model import SECOND, Tag, ValueType, Window
from cronaca.core.statistics import Histogram, Other, StateTime
from cronaca.core.windows import (
    PlantCalendar,
    WindowRequest,
    local_text,
    resolve,
    split_by_duration,
    split_by_unit,
)
from cronaca.db import Store
from cronaca.history.read.figures import FigureReader, FigureSamples, Wanted
from cronaca.history.tables import epochs
from cronaca.logbook import texts
from cronaca.plant.archives import find_archive
from cronaca.plant.site import get_plant
from cronaca.plant.tags import find_tags
from cronaca.services import cancelling
from cronaca.services.figures import specs as s
from cronaca.services.figures.specs import Scalar

MOST_VALUES: Final = 1_000_000
DOUBT_BELOW: Final = 99.0
"""Percent of the time; common practice, no source: a loss that nobody would see in a mean."""
MOST_READ: Final = 100_000_000
"""Samples that one request may have read; the worker may read more."""
_SURELY_FEW_US: Final = 10_000_000 * SECOND
"""As long as all tags together are looked at for less, nothing has to be counted."""
LARGE: Final = 300_000
"""Samples of one tag; figures of more are made one after the other."""


@dataclass(frozen=True, slots=True)
class _Plan:
    """What all tags of one request share."""

    tags: dict[str, Tag]
    calendar: PlantCalendar
    archive_ids: dict[str, int | None]
    """By tag; None: the fitting one."""
    windows: list[Window]
    intervals: list[Intervals]


@dataclass(frozen=True, slots=True)
class _Asked:
    """What is asked of one tag."""

    figures: Sequence[s.FigureSpec]
    configuration: s.ConfigurationSpec
    exact: bool


@dataclass(frozen=True, slots=True)
class _Job:
    """Figures of one tag that are made from the same samples: their places in the request."""

    tag: Tag
    config: Configuration
    exact: bool
    places: list[int]


class FigureService:
    """Computes figures of recorded values. `doubt_below`: a figure that is not Good and rests on less than so
    many percent of its time is marked."""

    def __init__(
        self, store: Store, reader: FigureReader, now_us: Callable[[], int], doubt_below: float = DOUBT_BELOW,
        most_read: int | None = None,
    ) -> None:  # fmt: skip
        """`most_read`: samples that one request may have read; None: any number."""
        self._most_read = most_read
        self._store = store
        self._reader = reader
        self._now_us = now_us
        self._doubt_below = doubt_below
        self._large = threading.BoundedSemaphore(1)

    def compute(self, wanted: s.FiguresSpec) -> s.FiguresFound:
        """All figures of all tags over all windows. A figure that has no meaning for a tag is refused in its
        place; anything else that cannot be raises InvalidInput."""
        now_us = self.now_us()
        plan = self._checked_plan(wanted, now_us)
        asked = _Asked(wanted.figures, wanted.configuration, wanted.exact)
        self._check_cost(dict.fromkeys(wanted.tags, asked), plan)
        results: list[s.TagFigures] = []
        for i in range(len(plan.windows)):
            results += self._over_window(wanted, plan, i)
        windows = tuple(resolved(w, plan.calendar) for w in plan.windows)
        return s.FiguresFound(now_us, windows, tuple(results))

    def fixed(self, wanted: s.FiguresSpec) -> s.FiguresSpec:
        """The same request with windows that stay what they are now. Raises InvalidInput as `compute` does,
        but for what a request may read."""
        plan = self._checked_plan(wanted, self.now_us())
        windows = (
            spec if spec.start_us is not None and spec.end_us is not None
            else s.WindowSpec(start_us=window.start_us, end_us=window.end_us, split=spec.split)
            for spec, window in zip(wanted.windows, plan.windows, strict=True)
        )  # fmt: skip
        return replace(wanted, windows=tuple(windows))

    def _checked_plan(self, wanted: s.FiguresSpec, now_us: int) -> _Plan:
        others = [one.other for one in wanted.figures if one.other is not None]
        named = {uid: wanted.archives.get(uid, wanted.archive) for uid in [*wanted.tags, *others]}
        plan = self._plan(named, wanted.windows, now_us)
        intervals = sum(len(one) for one in plan.intervals)
        if intervals * len(wanted.tags) * len(wanted.figures) > MOST_VALUES:
            raise InvalidInput(
                "windows", f"this makes more than {MOST_VALUES:,} values", "Ask for fewer, or split less."
            )
        return plan

    def compute_each(
        self, asked: Mapping[str, Sequence[s.FigureSpec]], window: s.WindowSpec,
        configuration: s.ConfigurationSpec,
        *, exact: bool = False,
    ) -> tuple[s.ResolvedWindow, dict[str, list[s.FigureResult]]]:  # fmt: skip
        """Other figures of each tag over one window, read together; by uid in the order asked for."""
        figures = [one for some in asked.values() for one in some]
        others = [one.other for one in figures if one.other is not None]
        plan = self._plan(dict.fromkeys([*asked, *others], ""), [window], self.now_us())
        if len(plan.intervals[0]) * len(figures) > MOST_VALUES:
            raise InvalidInput("window", f"this makes more than {MOST_VALUES:,} values", "Split it less.")
        specs = {uid: _Asked(some, configuration, exact) for uid, some in asked.items()}
        self._check_cost(specs, plan)
        return resolved(plan.windows[0], plan.calendar), self._each(specs, plan, 0)

    def now_us(self) -> int:
        """The moment that windows until now end with: up to which values are known while they are recorded,
        for the last moments are on their way."""
        with self._store.snapshot() as tx:
            return epochs.live_end_us(tx, self._now_us())

    def explain(self, wanted: s.ExplainSpec) -> s.Explained:
        """How one figure over one interval was made."""
        other = wanted.figure.other
        named = dict.fromkeys([wanted.tag, *([other] if other else [])], wanted.archive)
        plan = self._plan(named, [wanted.window], self.now_us())
        intervals, tag = plan.intervals[0], plan.tags[wanted.tag]
        if wanted.interval >= len(intervals):
            raise InvalidInput(
                "interval", f"the window has {len(intervals)} intervals", "Give a smaller one."
            )
        spec, config = wanted.figure.spec, _configuration(wanted.configuration, tag)
        exact = wanted.exact or not core.merges(spec, tag.value_type, config)
        (read,) = self._reader.read_each([Wanted(tag, plan.archive_ids[tag.uid], intervals, exact)])
        if read.refused is not None:
            raise read.refused
        second = self._others(plan, intervals, [wanted.figure])
        core.check(spec, tag.value_type, has_other=bool(second))
        found = core.compute(
            [spec], read.samples, intervals, config, unit=tag.unit, other=second.get(other or "")
        )[0]
        if isinstance(found, core.Table):
            raise InvalidInput("figure.stat", "a table explains itself", "Ask for a figure of one value.")
        made = core.explain(
            spec, read.samples, intervals, wanted.interval, config,
            result=found.result, unit=tag.unit, path=read.path,
        )  # fmt: skip
        return s.Explained(made, tag, plan.calendar, self._named(tag, _codes(made)))

    def _check_cost(self, asked: Mapping[str, _Asked], plan: _Plan) -> None:
        """Raises InvalidInput where more samples had to be read than one request may: before any is read."""
        length_us = len(asked) * sum(window.length_us for window in plan.windows)
        if self._most_read is None or length_us < _SURELY_FEW_US:
            return
        wanted = [
            Wanted(plan.tags[uid], plan.archive_ids[uid], intervals, exact)
            for uid, one in asked.items()
            for exact in {job.exact for job in _jobs(one, plan.tags[uid], {})}
            for intervals in plan.intervals
        ]
        samples = self._reader.estimate(wanted)
        if samples > self._most_read:
            raise InvalidInput(
                "windows", f"about {samples:,} samples would have to be read",
                f"Ask for fewer tags or shorter windows: at most {self._most_read:,} samples at once. A file "
                "made in the background (POST /api/jobs, compute_figures) may rest on more.",
            )  # fmt: skip

    def _over_window(self, wanted: s.FiguresSpec, plan: _Plan, window: int) -> list[s.TagFigures]:
        asked = _Asked(wanted.figures, wanted.configuration, wanted.exact)
        found = self._each(dict.fromkeys(wanted.tags, asked), plan, window)
        return [s.TagFigures(uid, window, tuple(found[uid])) for uid in wanted.tags]

    def _each(self, asked: Mapping[str, _Asked], plan: _Plan, window: int) -> dict[str, list[s.FigureResult]]:
        """The figures of each tag over one window, in the order asked for."""
        intervals = plan.intervals[window]
        second = self._others(plan, intervals, [one for some in asked.values() for one in some.figures])
        found: dict[str, dict[int, s.FigureResult]] = {uid: {} for uid in asked}
        jobs = [job for uid, one in asked.items() for job in _jobs(one, plan.tags[uid], found[uid])]
        reads = self._reader.read_each(
            [Wanted(job.tag, plan.archive_ids[job.tag.uid], intervals, job.exact) for job in jobs]
        )
        for job, read in zip(jobs, reads, strict=True):
            cancelling.go_on()
            figures = asked[job.tag.uid].figures
            # What is worked out on the way takes many times the memory of the samples: of large ones, one
            # at a time.
            with self._large if len(read.samples.series) > LARGE else contextlib.nullcontext():
                found[job.tag.uid] |= self._work_off(job, figures, read, intervals, second)
        return {uid: [found[uid][i] for i in range(len(one.figures))] for uid, one in asked.items()}

    def _work_off(
        self, job: _Job, wanted: Sequence[s.FigureSpec], read: FigureSamples, intervals: Intervals,
        others: dict[str, Other],
    ) -> dict[int, s.FigureResult]:  # fmt: skip
        """The figures of one job by their places; those of one second tag (or none) share their work."""
        if read.refused is not None:
            return {i: _refused(wanted[i].stat, read.refused) for i in job.places}
        found: dict[int, s.FigureResult] = {}
        for other in sorted({wanted[i].other or "" for i in job.places}):
            places = [i for i in job.places if (wanted[i].other or "") == other]
            results = core.compute(
                [wanted[i].spec for i in places], read.samples, intervals, job.config,
                unit=job.tag.unit, other=others.get(other),
            )  # fmt: skip
            for i, result in zip(places, results, strict=True):
                found[i] = self._out(result, job.tag, intervals, read.path)
        return found

    def _out(
        self, found: core.Figure | core.Table, tag: Tag, intervals: Intervals, path: core.Path
    ) -> s.FigureResult:
        if isinstance(found, core.Table):
            made = _tables(found, intervals, self._names(tag, found))
        else:
            made = _values(found, tag, self._texts(tag, found), self._doubt_below)
        return replace(made, path=path)

    def _plan(self, named: dict[str, str], windows: Sequence[s.WindowSpec], now_us: int) -> _Plan:
        """For tags by uid, each with the name of its archive ("": the fitting one)."""
        with self._store.snapshot() as tx:
            tags = find_tags(tx, sorted(named))
            plant = get_plant(tx)
            archives = {name: find_archive(tx, name) for name in set(named.values()) if name}
        missing = [uid for uid in named if uid not in tags]
        if missing:
            raise InvalidInput("tags", f"there is no tag {missing[0]}", "Take a uid from /api/tags.")
        unknown = [name for name, archive_id in archives.items() if archive_id is None]
        if unknown:
            raise InvalidInput("archive", f"there is no archive {unknown[0]!r}", "Name one that exists.")
        archive_ids = {uid: archives[name] if name else None for uid, name in named.items()}
        pairs = [_intervals(one, plant.calendar, now_us) for one in windows]
        return _Plan(tags, plant.calendar, archive_ids, [w for w, _ in pairs], [i for _, i in pairs])

    def _others(self, plan: _Plan, intervals: Intervals, specs: Sequence[s.FigureSpec]) -> dict[str, Other]:
        uids = sorted({one.other for one in specs if one.other is not None})
        tags = [plan.tags[uid] for uid in uids]
        found = {}
        wanted = [Wanted(tag, plan.archive_ids[tag.uid], intervals, exact=True) for tag in tags]
        for tag, read in zip(tags, self._reader.read_each(wanted), strict=True):
            if read.refused is not None:
                raise read.refused
            stepped = tag.stepped or tag.value_type is not ValueType.FLOAT
            found[tag.uid] = Other(read.samples, stepped)
        return found

    def _texts(self, tag: Tag, found: core.Figure) -> dict[int, str]:
        """The texts that a text tag's results stand for."""
        if tag.value_type is not ValueType.TEXT or found.result_kind != "source":
            return {}
        return self._named(tag, {int(v) for v in found.result.values[~found.result.null].tolist()})

    def _names(self, tag: Tag, found: core.Table) -> dict[int, str]:
        return self._named(tag, {one.state for row in found.rows if isinstance(row, tuple) for one in row})

    def _named(self, tag: Tag, codes: set[int]) -> dict[int, str]:
        """The texts that the codes of a text tag stand for."""
        if tag.value_type is not ValueType.TEXT:
            return {}
        with self._store.snapshot() as tx:
            return texts.texts_of(tx, codes)


def _jobs(wanted: _Asked, tag: Tag, refused: dict[int, s.FigureResult]) -> list[_Job]:
    """A tag's figures parted by whether rollups can tell them; those without a meaning go to `refused`."""
    config = _configuration(wanted.configuration, tag)
    by_way: dict[bool, list[int]] = {}
    for i, one in enumerate(wanted.figures):
        spec = one.spec
        try:
            core.check(spec, tag.value_type, has_other=one.other is not None)
        except InvalidInput as exc:
            refused[i] = _refused(one.stat, exc)
        else:
            exact = wanted.exact or not core.merges(spec, tag.value_type, config)
            by_way.setdefault(exact, []).append(i)
    return [_Job(tag, config, exact, places) for exact, places in by_way.items()]


def _refused(stat: str, why: InvalidInput) -> s.FigureResult:
    return s.FigureResult(stat, refused=why)


def _configuration(one: s.ConfigurationSpec, tag: Tag) -> Configuration:
    return Configuration.parse(
        treat_uncertain_as_bad=one.treat_uncertain_as_bad, percent_bad=one.percent_bad,
        percent_good=one.percent_good, sloped_extrapolation=one.sloped_extrapolation,
        stepped=tag.stepped if one.stepped is None else one.stepped,
    )  # fmt: skip


def _intervals(one: s.WindowSpec, calendar: PlantCalendar, now_us: int) -> tuple[Window, Intervals]:
    """The window and its intervals; an explicit end before the start runs backward."""
    if one.start_us is not None and one.end_us is not None and one.end_us < one.start_us:
        if one.split.unit is not None:
            raise InvalidInput("split", "the calendar only runs forward", "Split by a duration.")
        found = split_by_duration(Window(one.start_us, one.end_us), one.split.interval_us)
        return Window(one.end_us, one.start_us), found
    spec = WindowRequest(one.last_us, one.start_us, one.end_us, one.unit, one.which)
    window = resolve(spec, calendar, now_us)
    if one.split.unit is None:
        return window, split_by_duration(window, one.split.interval_us)
    if one.split.interval_us:
        raise InvalidInput("split", "it says two things", "Give interval_us or unit.")
    return window, split_by_unit(window, one.split.unit, calendar)


def resolved(window: Window, calendar: PlantCalendar) -> s.ResolvedWindow:
    """A window with its ends by the plant's clock."""
    zone = calendar.zone
    start, end = local_text(window.start_us, zone), local_text(window.end_us, zone)
    return s.ResolvedWindow(window.start_us, window.end_us, start, end)


def _values(found: core.Figure, tag: Tag, names: dict[int, str], doubt_below: float) -> s.FigureResult:
    result = found.result
    values = []
    for i, code in enumerate(result.codes.tolist()):
        values.append(
            s.FigureValue(
                start_us=int(result.begin_us[i]),
                end_us=int(result.end_us[i]),
                time_us=int(result.ts_us[i]),
                value=value_of(result.value(i), found.result_kind, tag.value_type, names),
                quality=status.severity_name(code),
                status_code=f"{code:08X}",
                good=round(float(found.good[i]), 4),
                doubtful=found.doubtful(i, doubt_below),
            )
        )
    return s.FigureResult(found.spec.name, found.unit, tuple(values))


def value_of(value: float | int | None, kind: str, value_type: ValueType, names: Mapping[int, str]) -> Scalar:
    """A result as people know it: booleans, texts and status codes by name."""
    if value is None:
        return None
    if kind == "status":
        return status.code_name(int(value))
    if kind != "source":
        return value
    if value_type is ValueType.TEXT:
        return names.get(int(value), "")
    # A difference of two booleans is no boolean.
    return bool(value) if value_type is ValueType.BOOLEAN and value in (0, 1) else value


def _tables(found: core.Table, intervals: Intervals, names: Mapping[int, str]) -> s.FigureResult:
    order = slice(None) if intervals.forward else slice(None, None, -1)
    edges = zip(intervals.begin_us[order].tolist(), intervals.end_us[order].tolist(), strict=True)
    tables = [_table(row, begin, end, names) for (begin, end), row in zip(edges, found.rows, strict=True)]
    return s.FigureResult(found.spec.name, found.unit, tables=tuple(tables))


def _table(
    row: Histogram | tuple[StateTime, ...], begin_us: int, end_us: int, names: Mapping[int, str]
) -> s.FigureTable:
    if isinstance(row, Histogram):
        edges = zip(row.edges[:-1].tolist(), row.edges[1:].tolist(), row.amounts.tolist(), strict=True)
        bins = tuple(s.Bin(low, high, amount) for low, high, amount in edges)
        return s.FigureTable(begin_us, end_us, bins, row.below, row.above)
    states = tuple(
        s.StateRow(names.get(one.state, one.state), one.seconds, one.entries, one.longest) for one in row
    )
    return s.FigureTable(begin_us, end_us, states=states)


def _codes(made: core.Explanation) -> set[int]:
    """The values that an explanation shows."""
    bounds = (made.start_bound, made.end_bound)
    values = [made.value, *(b.value for b in bounds), *(v for b in bounds for _, v in b.from_samples)]
    values += [one.value for one in made.samples or ()]
    return {int(value) for value in values if value is not None}

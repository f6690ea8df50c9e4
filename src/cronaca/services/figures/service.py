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

    def compute(self, spec: s.FiguresSpec) -> s.FiguresFound:
        """All figures of all tags over all windows. A figure that has no meaning for a tag is refused in its
        place; anything else that cannot be raises InvalidInput."""
        now_us = self.now_us()
        plan = self._checked_plan(spec, now_us)
        asked = _Asked(spec.figures, spec.configuration, spec.exact)
        self._check_cost(dict.fromkeys(spec.tags, asked), plan)
        results: list[s.TagFigures] = []
        for i in range(len(plan.windows)):
            results += self._over_window(spec, plan, i)
        windows = tuple(resolved(w, plan.calendar) for w in plan.windows)
        return s.FiguresFound(now_us, windows, tuple(results))

    def fixed(self, request: s.FiguresSpec) -> s.FiguresSpec:
        """The same request with windows that stay what they are now. Raises InvalidInput as `compute` does,
        but for what a request may read."""
        plan = self._checked_plan(request, self.now_us())
        windows = (
            spec if spec.start_us is not None and spec.end_us is not None
            else s.WindowSpec(start_us=window.start_us, end_us=window.end_us, split=spec.split)
            for spec, window in zip(request.windows, plan.windows, strict=True)
        )  # fmt: skip
        return replace(request, windows=tuple(windows))

    def _checked_plan(self, spec: s.FiguresSpec, now_us: int) -> _Plan:
        others = [figure.other for figure in spec.figures if figure.other is not None]
        named = {uid: spec.archives.get(uid, spec.archive) for uid in [*spec.tags, *others]}
        plan = self._plan(named, spec.windows, now_us)
        intervals = sum(len(interval) for interval in plan.intervals)
        if intervals * len(spec.tags) * len(spec.figures) > MOST_VALUES:
            raise InvalidInput(
                "windows",
                "makes-more-values",
                "this makes more than {most_values:,} values",
                "Ask for fewer, or split less.",
                most_values=MOST_VALUES,
            )
        return plan

    def compute_each(
        self, asked: Mapping[str, Sequence[s.FigureSpec]], window: s.WindowSpec,
        configuration: s.ConfigurationSpec,
        *, exact: bool = False,
    ) -> tuple[s.ResolvedWindow, dict[str, list[s.FigureResult]]]:  # fmt: skip
        """Other figures of each tag over one window, read together; by uid in the order asked for."""
        figures = [figure for some in asked.values() for figure in some]
        others = [figure.other for figure in figures if figure.other is not None]
        plan = self._plan(dict.fromkeys([*asked, *others], ""), [window], self.now_us())
        if len(plan.intervals[0]) * len(figures) > MOST_VALUES:
            raise InvalidInput(
                "window",
                "window-makes-more-values",
                "this makes more than {most_values:,} values",
                "Split it less.",
                most_values=MOST_VALUES,
            )
        specs = {uid: _Asked(some, configuration, exact) for uid, some in asked.items()}
        self._check_cost(specs, plan)
        return resolved(plan.windows[0], plan.calendar), self._each(specs, plan, 0)

    def now_us(self) -> int:
        """The moment that windows until now end with: up to which values are known while they are recorded,
        for the last moments are on their way."""
        with self._store.snapshot() as tx:
            return epochs.live_end_us(tx, self._now_us())

    def explain(self, asked: s.ExplainSpec) -> s.Explained:
        """How one figure over one interval was made."""
        other = asked.figure.other
        named = dict.fromkeys([asked.tag, *([other] if other else [])], asked.archive)
        plan = self._plan(named, [asked.window], self.now_us())
        intervals, tag = plan.intervals[0], plan.tags[asked.tag]
        if asked.interval >= len(intervals):
            raise InvalidInput(
                "interval",
                "window-intervals",
                "the window has {intervals} intervals",
                "Give a smaller one.",
                intervals=len(intervals),
            )
        spec, config = asked.figure.spec, _configuration(asked.configuration, tag)
        exact = asked.exact or not core.merges(spec, tag.value_type, config)
        (read,) = self._reader.read_each([Wanted(tag, plan.archive_ids[tag.uid], intervals, exact)])
        if read.refused is not None:
            raise read.refused
        second = self._others(plan, intervals, [asked.figure])
        core.check(spec, tag.value_type, has_other=bool(second))
        figure = core.compute(
            [spec], read.samples, intervals, config, unit=tag.unit, other=second.get(other or "")
        )[0]
        if isinstance(figure, core.Table):
            raise InvalidInput(
                "figure.stat",
                "table-explains-itself",
                "a table has no explanation",
                "Ask for a figure of one value.",
            )
        made = core.explain(
            spec, read.samples, intervals, asked.interval, config,
            result=figure.result, unit=tag.unit, path=read.path,
        )  # fmt: skip
        return s.Explained(made, tag, plan.calendar, self._named(tag, _codes(made)))

    def _check_cost(self, asked: Mapping[str, _Asked], plan: _Plan) -> None:
        """Raises InvalidInput where more samples had to be read than one request may: before any is read."""
        length_us = len(asked) * sum(window.length_us for window in plan.windows)
        if self._most_read is None or length_us < _SURELY_FEW_US:
            return
        requests = [
            Wanted(plan.tags[uid], plan.archive_ids[uid], intervals, exact)
            for uid, of_tag in asked.items()
            for exact in {job.exact for job in _jobs(of_tag, plan.tags[uid], {})}
            for intervals in plan.intervals
        ]
        samples = self._reader.estimate(requests)
        if samples > self._most_read:
            raise InvalidInput(
                "windows",
                "about-samples-read",
                "about {samples:,} samples would have to be read",
                "Ask for fewer tags or shorter windows: at most {most_read:,} samples at once. A "
                "file made in the background (POST /api/jobs, compute_figures) may rest on more.",
                samples=samples,
                most_read=self._most_read,
            )

    def _over_window(self, spec: s.FiguresSpec, plan: _Plan, window: int) -> list[s.TagFigures]:
        asked = _Asked(spec.figures, spec.configuration, spec.exact)
        results = self._each(dict.fromkeys(spec.tags, asked), plan, window)
        return [s.TagFigures(uid, window, tuple(results[uid])) for uid in spec.tags]

    def _each(self, asked: Mapping[str, _Asked], plan: _Plan, window: int) -> dict[str, list[s.FigureResult]]:
        """The figures of each tag over one window, in the order asked for."""
        intervals = plan.intervals[window]
        second = self._others(plan, intervals, [figure for some in asked.values() for figure in some.figures])
        results: dict[str, dict[int, s.FigureResult]] = {uid: {} for uid in asked}
        jobs = [job for uid, of_tag in asked.items() for job in _jobs(of_tag, plan.tags[uid], results[uid])]
        reads = self._reader.read_each(
            [Wanted(job.tag, plan.archive_ids[job.tag.uid], intervals, job.exact) for job in jobs]
        )
        for job, read in zip(jobs, reads, strict=True):
            cancelling.go_on()
            figures = asked[job.tag.uid].figures
            # What is worked out on the way takes many times the memory of the samples: of large ones, one
            # at a time.
            with self._large if len(read.samples.series) > LARGE else contextlib.nullcontext():
                results[job.tag.uid] |= self._work_off(job, figures, read, intervals, second)
        return {uid: [results[uid][i] for i in range(len(of_tag.figures))] for uid, of_tag in asked.items()}

    def _work_off(
        self, job: _Job, specs: Sequence[s.FigureSpec], read: FigureSamples, intervals: Intervals,
        others: dict[str, Other],
    ) -> dict[int, s.FigureResult]:  # fmt: skip
        """The figures of one job by their places; those of one second tag (or none) share their work."""
        if read.refused is not None:
            return {i: _refused(specs[i].stat, read.refused) for i in job.places}
        by_place: dict[int, s.FigureResult] = {}
        for other in sorted({specs[i].other or "" for i in job.places}):
            places = [i for i in job.places if (specs[i].other or "") == other]
            results = core.compute(
                [specs[i].spec for i in places], read.samples, intervals, job.config,
                unit=job.tag.unit, other=others.get(other),
            )  # fmt: skip
            for i, result in zip(places, results, strict=True):
                by_place[i] = self._out(result, job.tag, intervals, read.path)
        return by_place

    def _out(
        self, figure: core.Figure | core.Table, tag: Tag, intervals: Intervals, path: core.Path
    ) -> s.FigureResult:
        if isinstance(figure, core.Table):
            made = _tables(figure, intervals, self._names(tag, figure))
        else:
            made = _values(figure, tag, self._texts(tag, figure), self._doubt_below)
        return replace(made, path=path)

    def _plan(self, named: dict[str, str], windows: Sequence[s.WindowSpec], now_us: int) -> _Plan:
        """For tags by uid, each with the name of its archive ("": the fitting one)."""
        with self._store.snapshot() as tx:
            tags = find_tags(tx, sorted(named))
            plant = get_plant(tx)
            archives = {name: find_archive(tx, name) for name in set(named.values()) if name}
        missing = [uid for uid in named if uid not in tags]
        if missing:
            raise InvalidInput(
                "tags",
                "no-tag",
                "there is no tag {missing}",
                "Take a uid from /api/tags.",
                missing=missing[0],
            )
        unknown = [name for name, archive_id in archives.items() if archive_id is None]
        if unknown:
            raise InvalidInput(
                "archive",
                "archive-no-archive",
                "there is no archive {unknown!r}",
                "Name one that exists.",
                unknown=unknown[0],
            )
        archive_ids = {uid: archives[name] if name else None for uid, name in named.items()}
        pairs = [_intervals(window, plant.calendar, now_us) for window in windows]
        return _Plan(tags, plant.calendar, archive_ids, [w for w, _ in pairs], [i for _, i in pairs])

    def _others(self, plan: _Plan, intervals: Intervals, specs: Sequence[s.FigureSpec]) -> dict[str, Other]:
        uids = sorted({spec.other for spec in specs if spec.other is not None})
        tags = [plan.tags[uid] for uid in uids]
        others = {}
        requests = [Wanted(tag, plan.archive_ids[tag.uid], intervals, exact=True) for tag in tags]
        for tag, read in zip(tags, self._reader.read_each(requests), strict=True):
            if read.refused is not None:
                raise read.refused
            stepped = tag.stepped or tag.value_type is not ValueType.FLOAT
            others[tag.uid] = Other(read.samples, stepped)
        return others

    def _texts(self, tag: Tag, figure: core.Figure) -> dict[int, str]:
        """The texts that a text tag's results stand for."""
        if tag.value_type is not ValueType.TEXT or figure.result_kind != "source":
            return {}
        return self._named(tag, {int(v) for v in figure.result.values[~figure.result.null].tolist()})

    def _names(self, tag: Tag, table: core.Table) -> dict[int, str]:
        return self._named(
            tag, {state.state for row in table.rows if isinstance(row, tuple) for state in row}
        )

    def _named(self, tag: Tag, codes: set[int]) -> dict[int, str]:
        """The texts that the codes of a text tag stand for."""
        if tag.value_type is not ValueType.TEXT:
            return {}
        with self._store.snapshot() as tx:
            return texts.texts_of(tx, codes)


def _jobs(asked: _Asked, tag: Tag, refused: dict[int, s.FigureResult]) -> list[_Job]:
    """A tag's figures parted by whether rollups can tell them; those without a meaning go to `refused`."""
    config = _configuration(asked.configuration, tag)
    by_way: dict[bool, list[int]] = {}
    for i, figure in enumerate(asked.figures):
        spec = figure.spec
        try:
            core.check(spec, tag.value_type, has_other=figure.other is not None)
        except InvalidInput as exc:
            refused[i] = _refused(figure.stat, exc)
        else:
            exact = asked.exact or not core.merges(spec, tag.value_type, config)
            by_way.setdefault(exact, []).append(i)
    return [_Job(tag, config, exact, places) for exact, places in by_way.items()]


def _refused(stat: str, why: InvalidInput) -> s.FigureResult:
    return s.FigureResult(stat, refused=why)


def _configuration(spec: s.ConfigurationSpec, tag: Tag) -> Configuration:
    return Configuration.parse(
        treat_uncertain_as_bad=spec.treat_uncertain_as_bad, percent_bad=spec.percent_bad,
        percent_good=spec.percent_good, sloped_extrapolation=spec.sloped_extrapolation,
        stepped=tag.stepped if spec.stepped is None else spec.stepped,
    )  # fmt: skip


def _intervals(window_spec: s.WindowSpec, calendar: PlantCalendar, now_us: int) -> tuple[Window, Intervals]:
    """The window and its intervals; an explicit end before the start runs backward."""
    if (
        window_spec.start_us is not None
        and window_spec.end_us is not None
        and window_spec.end_us < window_spec.start_us
    ):
        if window_spec.split.unit is not None:
            raise InvalidInput(
                "split",
                "calendar-only-runs-forward",
                "the calendar only runs forward",
                "Split by a duration.",
            )
        split = split_by_duration(
            Window(window_spec.start_us, window_spec.end_us), window_spec.split.interval_us
        )
        return Window(window_spec.end_us, window_spec.start_us), split
    window = resolve(window_spec.request(), calendar, now_us)
    if window_spec.split.unit is None:
        return window, split_by_duration(window, window_spec.split.interval_us)
    if window_spec.split.interval_us:
        raise InvalidInput(
            "split", "split-two-things", "it gives two alternatives", "Give interval_us or unit."
        )
    return window, split_by_unit(window, window_spec.split.unit, calendar)


def resolved(window: Window, calendar: PlantCalendar) -> s.ResolvedWindow:
    """A window with its ends by the plant's clock."""
    zone = calendar.zone
    start, end = local_text(window.start_us, zone), local_text(window.end_us, zone)
    return s.ResolvedWindow(window.start_us, window.end_us, start, end)


def _values(figure: core.Figure, tag: Tag, names: dict[int, str], doubt_below: float) -> s.FigureResult:
    result = figure.result
    values = []
    for i, code in enumerate(result.codes.tolist()):
        values.append(
            s.FigureValue(
                start_us=int(result.begin_us[i]),
                end_us=int(result.end_us[i]),
                time_us=int(result.ts_us[i]),
                value=value_of(result.value(i), figure.result_kind, tag.value_type, names),
                quality=status.severity_name(code),
                status_code=f"{code:08X}",
                good=round(float(figure.good[i]), 4),
                doubtful=figure.doubtful(i, doubt_below),
            )
        )
    return s.FigureResult(figure.spec.name, figure.unit, tuple(values))


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


def _tables(table: core.Table, intervals: Intervals, names: Mapping[int, str]) -> s.FigureResult:
    order = slice(None) if intervals.forward else slice(None, None, -1)
    edges = zip(intervals.begin_us[order].tolist(), intervals.end_us[order].tolist(), strict=True)
    tables = [_table(row, begin, end, names) for (begin, end), row in zip(edges, table.rows, strict=True)]
    return s.FigureResult(table.spec.name, table.unit, tables=tuple(tables))


def _table(
    row: Histogram | tuple[StateTime, ...], begin_us: int, end_us: int, names: Mapping[int, str]
) -> s.FigureTable:
    if isinstance(row, Histogram):
        edges = zip(row.edges[:-1].tolist(), row.edges[1:].tolist(), row.amounts.tolist(), strict=True)
        bins = tuple(s.Bin(low, high, amount) for low, high, amount in edges)
        return s.FigureTable(begin_us, end_us, bins, row.below, row.above)
    states = tuple(
        s.StateRow(names.get(state.state, state.state), state.seconds, state.entries, state.longest)
        for state in row
    )
    return s.FigureTable(begin_us, end_us, states=states)


def _codes(made: core.Explanation) -> set[int]:
    """The values that an explanation shows."""
    bounds = (made.start_bound, made.end_bound)
    values = [made.value, *(b.value for b in bounds), *(v for b in bounds for _, v in b.from_samples)]
    values += [sample.value for sample in made.samples or ()]
    return {int(value) for value in values if value is not None}

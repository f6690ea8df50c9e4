"""From a request for figures to its answer: windows resolved, tags read, figures computed.

All tags are seen at one instant of the database, as long as they hold no more samples than are held in memory
at once (store/figures.py); no connection is held while figures are made."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Final

from cronaca.api import cancelling, wire
from cronaca.api.schemas import FieldProblem, Scalar
from cronaca.api.schemas import figures as s
from cronaca.core import figures as core
from cronaca.core.aggregates import AGGREGATES, Configuration, Intervals, status
from cronaca.core.errors import InvalidInput
from cronaca.core.model import Tag, ValueType, Window
from cronaca.core.statistics import Condition, Histogram, Other, StateTime, Wish
from cronaca.core.windows import (
    PlantCalendar,
    WindowWish,
    local_text,
    resolve,
    split_by_duration,
    split_by_unit,
)
from cronaca.db import Store
from cronaca.history.read.figures import FigureReader, FigureSamples, Wanted
from cronaca.history.tables import epochs
from cronaca.logbook import texts
from cronaca.plant import setup

MOST_VALUES: Final = 1_000_000
DOUBT_BELOW: Final = 99.0
"""Percent of the time; common practice, no source: a loss that nobody would see in a mean."""
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

    figures: list[s.FigureIn]
    configuration: s.ConfigurationIn
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
        self, store: Store, reader: FigureReader, now_us: Callable[[], int], doubt_below: float = DOUBT_BELOW
    ) -> None:
        self._store = store
        self._reader = reader
        self._now_us = now_us
        self._doubt_below = doubt_below
        self._large = threading.BoundedSemaphore(1)

    def compute(self, wanted: s.FiguresIn) -> s.FiguresOut:
        """All figures of all tags over all windows. A figure that has no meaning for a tag is refused in its
        place; anything else that cannot be raises InvalidInput."""
        now_us = self.now_us()
        others = [one.other for one in wanted.figures if one.other is not None]
        named = {uid: wanted.archives.get(uid, wanted.archive) for uid in [*wanted.tags, *others]}
        plan = self._plan(named, wanted.windows, now_us)
        intervals = sum(len(one) for one in plan.intervals)
        if intervals * len(wanted.tags) * len(wanted.figures) > MOST_VALUES:
            raise InvalidInput(
                "windows", f"this makes more than {MOST_VALUES:,} values", "Ask for fewer, or split less."
            )
        results = []
        for i in range(len(plan.windows)):
            results += self._over_window(wanted, plan, i)
        windows = [_window(w, plan.calendar) for w in plan.windows]
        return s.FiguresOut(now_us=str(now_us), windows=windows, results=results)

    def compute_each(
        self, asked: Mapping[str, list[s.FigureIn]], window: s.WindowIn, configuration: s.ConfigurationIn,
        *, exact: bool = False,
    ) -> tuple[s.WindowOut, dict[str, list[s.FigureOut]]]:  # fmt: skip
        """Other figures of each tag over one window, read together; by uid in the order asked for."""
        figures = [one for some in asked.values() for one in some]
        others = [one.other for one in figures if one.other is not None]
        plan = self._plan(dict.fromkeys([*asked, *others], ""), [window], self.now_us())
        if len(plan.intervals[0]) * len(figures) > MOST_VALUES:
            raise InvalidInput("window", f"this makes more than {MOST_VALUES:,} values", "Split it less.")
        wishes = {uid: _Asked(some, configuration, exact) for uid, some in asked.items()}
        return _window(plan.windows[0], plan.calendar), self._each(wishes, plan, 0)

    def now_us(self) -> int:
        """The moment that windows until now end with: up to which values are known while they are recorded,
        for the last moments are on their way."""
        with self._store.snapshot() as tx:
            return epochs.live_end_us(tx, self._now_us())

    def explain(self, wanted: s.ExplainIn) -> s.ExplanationOut:
        """How one figure over one interval was made."""
        other = wanted.figure.other
        named = dict.fromkeys([wanted.tag, *([other] if other else [])], wanted.archive)
        plan = self._plan(named, [wanted.window], self.now_us())
        intervals, tag = plan.intervals[0], plan.tags[wanted.tag]
        if wanted.interval >= len(intervals):
            raise InvalidInput(
                "interval", f"the window has {len(intervals)} intervals", "Give a smaller one."
            )
        wish, config = _wish(wanted.figure), _configuration(wanted.configuration, tag)
        exact = wanted.exact or not core.merges(wish, tag.value_type, config)
        (read,) = self._reader.read_each([Wanted(tag, plan.archive_ids[tag.uid], intervals, exact)])
        if read.refused is not None:
            raise read.refused
        second = self._others(plan, intervals, [wanted.figure])
        core.check(wish, tag.value_type, has_other=bool(second))
        found = core.compute(
            [wish], read.samples, intervals, config, unit=tag.unit, other=second.get(other or "")
        )[0]
        if isinstance(found, core.Table):
            raise InvalidInput("figure.stat", "a table explains itself", "Ask for a figure of one value.")
        made = core.explain(
            wish, read.samples, intervals, wanted.interval, config,
            result=found.result, unit=tag.unit, path=read.path,
        )  # fmt: skip
        return _explanation(made, tag, plan.calendar, self._named(tag, _codes(made)))

    def _over_window(self, wanted: s.FiguresIn, plan: _Plan, window: int) -> list[s.TagFiguresOut]:
        asked = _Asked(wanted.figures, wanted.configuration, wanted.exact)
        found = self._each(dict.fromkeys(wanted.tags, asked), plan, window)
        return [s.TagFiguresOut(tag=uid, window=window, figures=found[uid]) for uid in wanted.tags]

    def _each(self, asked: Mapping[str, _Asked], plan: _Plan, window: int) -> dict[str, list[s.FigureOut]]:
        """The figures of each tag over one window, in the order asked for."""
        intervals = plan.intervals[window]
        second = self._others(plan, intervals, [one for some in asked.values() for one in some.figures])
        found: dict[str, dict[int, s.FigureOut]] = {uid: {} for uid in asked}
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
        self, job: _Job, wanted: list[s.FigureIn], read: FigureSamples, intervals: Intervals,
        others: dict[str, Other],
    ) -> dict[int, s.FigureOut]:  # fmt: skip
        """The figures of one job by their places; those of one second tag (or none) share their work."""
        if read.refused is not None:
            return {i: _refused(wanted[i].stat, read.refused) for i in job.places}
        found: dict[int, s.FigureOut] = {}
        for other in sorted({wanted[i].other or "" for i in job.places}):
            places = [i for i in job.places if (wanted[i].other or "") == other]
            results = core.compute(
                [_wish(wanted[i]) for i in places], read.samples, intervals, job.config,
                unit=job.tag.unit, other=others.get(other),
            )  # fmt: skip
            for i, result in zip(places, results, strict=True):
                found[i] = self._out(result, job.tag, intervals, _path(read.path))
        return found

    def _out(
        self, found: core.Figure | core.Table, tag: Tag, intervals: Intervals, path: s.PathOut
    ) -> s.FigureOut:
        if isinstance(found, core.Table):
            made = _tables(found, intervals, self._names(tag, found))
        else:
            made = _values(found, tag, self._texts(tag, found), self._doubt_below)
        return made.model_copy(update={"path": path})

    def _plan(self, named: dict[str, str], windows: list[s.WindowIn], now_us: int) -> _Plan:
        """For tags by uid, each with the name of its archive ("": the fitting one)."""
        with self._store.snapshot() as tx:
            tags = setup.find_tags(tx, sorted(named))
            plant = setup.get_plant(tx)
            archives = {name: setup.find_archive(tx, name) for name in set(named.values()) if name}
        missing = [uid for uid in named if uid not in tags]
        if missing:
            raise InvalidInput("tags", f"there is no tag {missing[0]}", "Take a uid from /api/tags.")
        unknown = [name for name, archive_id in archives.items() if archive_id is None]
        if unknown:
            raise InvalidInput("archive", f"there is no archive {unknown[0]!r}", "Name one that exists.")
        archive_ids = {uid: archives[name] if name else None for uid, name in named.items()}
        pairs = [_intervals(one, plant.calendar, now_us) for one in windows]
        return _Plan(tags, plant.calendar, archive_ids, [w for w, _ in pairs], [i for _, i in pairs])

    def _others(self, plan: _Plan, intervals: Intervals, wishes: list[s.FigureIn]) -> dict[str, Other]:
        uids = sorted({one.other for one in wishes if one.other is not None})
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


def catalogue() -> list[s.CatalogueEntry]:
    """Every figure there is."""
    return [
        s.CatalogueEntry(
            name=name, formula=one.formula, source=one.source, kind=one.result,
            types=sorted(t.name.lower() for t in one.types), standard=name in AGGREGATES,
        )
        for name, one in core.all_figures().items()
    ]  # fmt: skip


def _jobs(wanted: _Asked, tag: Tag, refused: dict[int, s.FigureOut]) -> list[_Job]:
    """A tag's figures parted by whether rollups can tell them; those without a meaning go to `refused`."""
    config = _configuration(wanted.configuration, tag)
    by_way: dict[bool, list[int]] = {}
    for i, one in enumerate(wanted.figures):
        wish = _wish(one)
        try:
            core.check(wish, tag.value_type, has_other=one.other is not None)
        except InvalidInput as exc:
            refused[i] = _refused(one.stat, exc)
        else:
            exact = wanted.exact or not core.merges(wish, tag.value_type, config)
            by_way.setdefault(exact, []).append(i)
    return [_Job(tag, config, exact, places) for exact, places in by_way.items()]


def _refused(stat: str, why: InvalidInput) -> s.FigureOut:
    return s.FigureOut(
        stat=stat, refused=FieldProblem(field=why.field, problem=why.problem, remedy=why.remedy)
    )


def _wish(one: s.FigureIn) -> Wish:
    condition = one.condition
    return Wish(
        one.stat, one.percent, one.weight, one.base, one.bins, one.low, one.high, one.base_us,
        None if condition is None else Condition(condition.comparison, condition.threshold),
    )  # fmt: skip


def _configuration(one: s.ConfigurationIn, tag: Tag) -> Configuration:
    return Configuration.parse(
        treat_uncertain_as_bad=one.treat_uncertain_as_bad, percent_bad=one.percent_bad,
        percent_good=one.percent_good, sloped_extrapolation=one.sloped_extrapolation,
        stepped=tag.stepped if one.stepped is None else one.stepped,
    )  # fmt: skip


def _intervals(one: s.WindowIn, calendar: PlantCalendar, now_us: int) -> tuple[Window, Intervals]:
    """The window and its intervals; an explicit end before the start runs backward."""
    if one.start_us is not None and one.end_us is not None and one.end_us < one.start_us:
        if one.split.unit is not None:
            raise InvalidInput("split", "the calendar only runs forward", "Split by a duration.")
        found = split_by_duration(Window(one.start_us, one.end_us), one.split.interval_us)
        return Window(one.end_us, one.start_us), found
    wish = WindowWish(one.last_us, one.start_us, one.end_us, one.unit, one.which)
    window = resolve(wish, calendar, now_us)
    if one.split.unit is None:
        return window, split_by_duration(window, one.split.interval_us)
    if one.split.interval_us:
        raise InvalidInput("split", "it says two things", "Give interval_us or unit.")
    return window, split_by_unit(window, one.split.unit, calendar)


def _window(window: Window, calendar: PlantCalendar) -> s.WindowOut:
    return s.WindowOut(
        start_us=str(window.start_us), end_us=str(window.end_us),
        start_local=local_text(window.start_us, calendar.zone),
        end_local=local_text(window.end_us, calendar.zone),
    )  # fmt: skip


def _path(path: core.Path) -> s.PathOut:
    return s.PathOut(
        name=path.name, width_us=path.width_us, read_samples=path.read_samples,
        summed_samples=path.summed_samples, thinned=path.thinned,
    )  # fmt: skip


def _values(found: core.Figure, tag: Tag, names: dict[int, str], doubt_below: float) -> s.FigureOut:
    result = found.result
    values = []
    for i, code in enumerate(result.codes.tolist()):
        values.append(
            s.ValueOut(
                start_us=str(result.begin_us[i]),
                end_us=str(result.end_us[i]),
                time_us=str(result.ts_us[i]),
                value=_shown(result.value(i), found.result_kind, tag.value_type, names),
                quality=status.severity_name(code),
                status_code=f"{code:08X}",
                good=round(float(found.good[i]), 4),
                doubtful=found.doubtful(i, doubt_below),
            )
        )
    return s.FigureOut(stat=found.wish.name, unit=found.unit, values=values)


def _shown(value: float | int | None, kind: str, value_type: ValueType, names: dict[int, str]) -> Scalar:
    if value is None:
        return None
    if kind == "status":
        return status.code_name(int(value))
    if kind != "source":
        return value
    if value_type is ValueType.TEXT:
        return names.get(int(value), "")
    # A difference of two booleans is no boolean.
    return wire.scalar(value, value_type if value in (0, 1) else ValueType.INTEGER)


def _tables(found: core.Table, intervals: Intervals, names: dict[int, str]) -> s.FigureOut:
    order = slice(None) if intervals.forward else slice(None, None, -1)
    edges = zip(intervals.begin_us[order].tolist(), intervals.end_us[order].tolist(), strict=True)
    tables = [_table(row, begin, end, names) for (begin, end), row in zip(edges, found.rows, strict=True)]
    return s.FigureOut(stat=found.wish.name, unit=found.unit, tables=tables)


def _table(row: Histogram | tuple[StateTime, ...], begin: int, end: int, names: dict[int, str]) -> s.TableOut:
    where = {"start_us": str(begin), "end_us": str(end)}
    if isinstance(row, Histogram):
        low, high = row.edges[:-1].tolist(), row.edges[1:].tolist()
        rows = zip(low, high, row.amounts.tolist(), strict=True)
        bins = [s.BinOut(low=a, high=b, amount=n) for a, b, n in rows]
        return s.TableOut(**where, bins=bins, below=row.below, above=row.above)
    states = [
        s.StateOut(state=names.get(one.state, one.state), seconds=one.seconds, entries=one.entries,
                   longest=one.longest)
        for one in row
    ]  # fmt: skip
    return s.TableOut(**where, states=states)


def _codes(made: core.Explanation) -> set[int]:
    """The values that an explanation shows."""
    bounds = (made.start_bound, made.end_bound)
    values = [made.value, *(b.value for b in bounds), *(v for b in bounds for _, v in b.from_samples)]
    values += [one.value for one in made.samples or ()]
    return {int(value) for value in values if value is not None}


def _explanation(
    made: core.Explanation, tag: Tag, calendar: PlantCalendar, names: dict[int, str]
) -> s.ExplanationOut:
    kind, config = tag.value_type, made.configuration

    def shown(value: float | int | None) -> Scalar:
        if kind is ValueType.TEXT and value is not None:
            return names.get(int(value), "")
        return wire.scalar(value, kind)

    bounds = [
        s.BoundOut(
            at_us=str(one.at_us), value=shown(one.value), status=one.status, how=one.how,
            from_samples=[(str(t), shown(v)) for t, v in one.from_samples],
        )
        for one in (made.start_bound, made.end_bound)
    ]  # fmt: skip
    samples = None if made.samples is None else [
        s.SampleOut(time_us=str(x.ts_us), value=shown(x.value), quality=x.quality, is_mark=x.is_mark)
        for x in made.samples
    ]  # fmt: skip
    return s.ExplanationOut(
        figure=made.figure, formula=made.formula, source=made.source, unit=made.unit,
        value=_shown(made.value, made.result_kind, kind, names),
        status_code=f"{made.status_code:08X}", status=made.status, window=_window(made.window, calendar),
        forward=made.forward, options=made.options,
        configuration=s.ConfigurationIn(
            treat_uncertain_as_bad=config.treat_uncertain_as_bad, percent_good=config.percent_good,
            percent_bad=config.percent_bad, sloped_extrapolation=config.sloped_extrapolation,
            stepped=made.stepped,
        ),
        good=made.good, uncertain=made.uncertain, bad=made.bad, good_s=made.good_s,
        uncertain_s=made.uncertain_s, bad_s=made.bad_s, covered=made.covered,
        known_until_us=str(made.known_until_us), bounds_rule=made.bounds_rule, start_bound=bounds[0],
        end_bound=bounds[1], ingredients=made.ingredients, samples=samples, path=_path(made.path),
    )  # fmt: skip

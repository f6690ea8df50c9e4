"""Calculated tags at work: evaluated at each reading of an input, once every input is known up to there."""

from __future__ import annotations

import heapq
import logging
from collections import defaultdict, deque
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Final, NamedTuple
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.addresses.calculated import Calculation, Kind, parse_calculation
from cronaca.core.addresses.names import CALCULATED
from cronaca.core.bits import from_bits
from cronaca.core.errors import InvalidInput
from cronaca.core.formulas import (
    Column,
    Formula,
    Instants,
    Meter,
    Needs,
    Windowed,
    needs_of,
    order_of,
    running_for,
)
from cronaca.core.formulas.meters import INPUT
from cronaca.core.logger_rules import latest_tick
from cronaca.core.model import SECOND, Tag, Times, ValueType, Window
from cronaca.core.ports import LastKnown, Remembered
from cronaca.core.readings import Readings, Values
from cronaca.core.setup.whole import Setup
from cronaca.core.windows import PlantCalendar, Shift
from cronaca.recorder.live import LiveTable
from cronaca.recorder.stages.stage import Moment, Stage, StageContext

_SHORTEST_TICK_US: Final = SECOND // 50
_PATIENCE_US: Final = 3 * SECOND
"""A source that is slower than this does not hold a result up."""


class Recall(NamedTuple):
    """A statistic, the tag that it is of, and the window that it needs of it."""

    tag_id: int
    of_tag: int
    window: Window


_log = logging.getLogger(__name__)


@dataclass(slots=True)
class _Input:
    """What was heard of an input and not used yet, and what it was before: time, value, quality."""

    heard: deque[tuple[int, float, int]] = field(default_factory=deque)
    held: tuple[int, float, int] = (0, float("nan"), q.BAD_WAITING_FOR_INITIAL_DATA)


@dataclass(slots=True)
class _Calculated:
    """One calculated tag at work. `sources` are those that all of it comes from, in the end."""

    tag: Tag
    place: Calculation
    running: Formula | Meter | Windowed
    settings: tuple[object, ...]
    """As long as these stay the same it goes on as it is."""
    inputs: dict[str, _Input]
    input_ids: dict[str, int]
    sources: frozenset[int]
    done_us: int
    order: int = 0
    """Its place: behind all that it needs."""
    recalled: bool = False
    """What was recorded before it began has been asked for."""

    @property
    def has_ticks(self) -> bool:
        """Its value changes while its inputs stay the same."""
        return not isinstance(self.running, Formula) or self.running.looks_back


class Calculator(Stage):
    """All calculated tags of a recorder. Its results are readings like those of any source."""

    name = "calculations"

    def __init__(self, live: LiveTable) -> None:
        self._live = live
        self._works: dict[int, _Calculated] = {}
        """By tag, each after those it needs."""
        self._users: dict[int, list[tuple[_Calculated, _Input]]] = {}
        """By the tag that is listened to."""
        self._awake: set[int] = set()
        """Tags with something to calculate: an input was heard, or a tick of their own has come."""
        self._woken: list[int] = []
        """Those that the last result woke."""
        self._ticks: list[tuple[int, int]] = []
        """When those that change by themselves are calculated next."""
        self._limits: dict[frozenset[int], int] = {}
        """Up to where everything was calculated at the last step, by the sources that it comes from."""
        self._done_us = 0
        self._listens = np.zeros(0, np.bool_)
        self._own_sources: frozenset[int] = frozenset()
        self._unusable: dict[int, str] = {}
        self._stood: dict[int, float] = {}
        self._calendar = PlantCalendar(ZoneInfo("UTC"))

    def restore(self, last: LastKnown) -> None:
        """What meters stood at when the recorder before this one committed last."""
        present = last.present
        rows = zip(
            present.tag_ids.tolist(), present.value_types.tolist(), present.bits.tolist(),
            present.quality.tolist(), strict=True,
        )  # fmt: skip
        self._stood = {
            tag_id: float(from_bits(bits, ValueType(kind)))
            for tag_id, kind, bits, quality in rows
            if quality < q.BAD and kind in (ValueType.FLOAT, ValueType.INTEGER)
        }

    def follow(self, setup: Setup, context: StageContext, now_us: int) -> list[Readings]:
        """Goes over to a set-up. Returns what is to be said at once: meters stand where they stood, what
        cannot be calculated is Bad."""
        kinds = {source.source_id: source for source in setup.sources if source.protocol == CALCULATED}
        self._own_sources = frozenset(kinds)
        mine = [tag for tag in setup.tags if tag.source_id in kinds]
        enabled = [tag for tag in mine if kinds[tag.source_id].enabled]
        by_uid = {tag.uid: tag for tag in context.tags.values()}
        before = self._works
        self._works, self._users, self._unusable = {}, defaultdict(list), {}
        said = [
            self._bad(tag, now_us, q.BAD_NO_COMMUNICATION)
            for tag in mine
            if not kinds[tag.source_id].enabled and tag.tag_id in before
        ]
        self._calendar = _calendar_of(setup)
        needs = self._needs(enabled)
        for uid in self._order(needs, by_uid):
            try:
                work = self._work(by_uid[uid], needs[uid], by_uid, before.get(by_uid[uid].tag_id), now_us)
            except InvalidInput as exc:  # its input has become what the statistic has no meaning for
                self._refuse(by_uid[uid], exc)
                continue
            self._works[work.tag.tag_id] = work
            if isinstance(work.running, Meter) and work.tag.tag_id not in before:
                said.append(self._standing(work.tag, work.running.value, now_us))
        said += [
            self._bad(tag, now_us, q.BAD_CONFIGURATION) for tag in enabled if tag.tag_id in self._unusable
        ]
        self._listens = np.zeros(len(self._live.tag_ids), np.bool_)
        self._listens[self._live.slots_of(list(self._users))] = True
        self._wake_all(now_us)
        return said

    def _wake_all(self, now_us: int) -> None:
        for place, work in enumerate(self._works.values()):
            work.order = place
        self._awake = set(self._works)
        self._ticks = [(now_us, tag_id) for tag_id, work in self._works.items() if work.has_ticks]
        heapq.heapify(self._ticks)
        self._limits = dict.fromkeys((work.sources for work in self._works.values()), 0)
        self._done_us = min((work.done_us for work in self._works.values()), default=now_us)

    def _needs(self, tags: Sequence[Tag]) -> dict[str, tuple[Calculation, Needs]]:
        places: dict[str, Calculation] = {}
        needs = {}
        for tag in tags:
            try:
                places[tag.uid] = parse_calculation(tag.address, tag.value_type)
            except InvalidInput as exc:
                self._refuse(tag, exc)
        for tag in tags:
            if tag.uid in places:
                try:
                    needs[tag.uid] = places[tag.uid], needs_of(places[tag.uid], places)
                except InvalidInput as exc:
                    self._refuse(tag, exc)
        return needs

    def _order(self, needs: dict[str, tuple[Calculation, Needs]], by_uid: Mapping[str, Tag]) -> list[str]:
        """Each after those it needs. One whose input is gone, and what needs it in turn, is left out."""
        names = {uid: tag.name for uid, tag in by_uid.items()}
        while True:
            lost = {
                uid
                for uid, (_, need) in needs.items()
                if any(
                    other not in by_uid or by_uid[other].tag_id in self._unusable
                    for other in need.inputs.values()
                )
            }
            if not lost:
                break
            for uid in lost:
                self._refuse(
                    by_uid[uid],
                    InvalidInput("inputs", "tag-needs-gone", "a tag it needs is gone", "Choose another."),
                )
                del needs[uid]
        try:
            return order_of({uid: need.inputs for uid, (_, need) in needs.items()}, names)
        except InvalidInput as exc:  # the set-up refuses circles: here one must not stop the others
            for uid in needs:
                self._refuse(by_uid[uid], exc)
            return []

    def _refuse(self, tag: Tag, exc: InvalidInput) -> None:
        _log.error("%s cannot be calculated: %s", tag.name, exc)
        self._unusable[tag.tag_id] = f"{tag.name}: {exc}"

    def _work(
        self, tag: Tag, need: tuple[Calculation, Needs], by_uid: Mapping[str, Tag],
        before: _Calculated | None, now_us: int,
    ) -> _Calculated:  # fmt: skip
        place, needs = need
        tags = {name: by_uid[uid] for name, uid in needs.inputs.items()}
        stepped = tags[INPUT].stepped if INPUT in tags else True
        kind = tags[INPUT].value_type if INPUT in tags else ValueType.FLOAT
        settings = (
            needs.node, place.kind, place.edge, place.per, tag.scan_us, stepped,
            place.figure, place.percent, place.window, self._calendar if place.kind is Kind.FIGURE else None,
            tuple((name, tag.tag_id, tag.value_type) for name, tag in tags.items()),
        )  # fmt: skip
        if before is not None and before.settings == settings:
            before.tag, work = tag, before
        else:
            running = (
                Windowed(place, tag.scan_us, kind, self._calendar, stepped=stepped)
                if place.kind is Kind.FIGURE
                else running_for(place, needs, tag.scan_us, stepped=stepped)
            )
            if isinstance(running, Meter):
                running.value = self._stood_at(tag.tag_id, before)
            inputs = {name: _Input() for name in tags}
            ids = {name: tag.tag_id for name, tag in tags.items()}
            work = _Calculated(tag, place, running, settings, inputs, ids, frozenset(), now_us)
            self._catch_up(work, tags, now_us)
        for name, of_tag in tags.items():
            self._users[of_tag.tag_id].append((work, work.inputs[name]))
        work.sources = frozenset().union(*(self._sources_of(tag) for tag in tags.values()))
        return work

    def _stood_at(self, tag_id: int, before: _Calculated | None) -> float:
        if before is not None and isinstance(before.running, Meter):
            return before.running.value
        return self._stood.get(tag_id, 0.0)

    def _catch_up(self, work: _Calculated, tags: Mapping[str, Tag], now_us: int) -> None:
        """What the inputs are when it begins: some of them may not change for long."""
        for name, tag in tags.items():
            reading = self._live.at(self._live.slots_of([tag.tag_id]), now_us)
            column = Column.of_bits(reading.bits, reading.quality, tag.value_type)
            work.inputs[name].heard.append((now_us, float(column.values[0]), int(column.quality[0])))

    def _sources_of(self, tag: Tag) -> frozenset[int]:
        work = self._works.get(tag.tag_id)
        return frozenset({tag.source_id}) if work is None else work.sources

    def _bad(self, tag: Tag, now_us: int, quality: int) -> Readings:
        values = Values(np.zeros(1, np.int64), np.array([quality], np.uint16))
        return Readings.of(self._live.slots_of([tag.tag_id]), now_us, values)

    def _standing(self, tag: Tag, value: float, now_us: int) -> Readings:
        column = Column(np.array([value]), np.array([q.UNCERTAIN_LAST_USABLE], np.uint16))
        bits, quality = column.to_bits(tag.value_type)
        return Readings.of(self._live.slots_of([tag.tag_id]), now_us, Values(bits, quality))

    def wakes_on(self) -> Collection[int]:
        """The inputs of what is calculated."""
        return self._users.keys()

    def on(self, readings: Readings) -> None:
        """Takes note of readings of inputs."""
        inside = readings.slots < len(self._listens)
        mine = np.zeros(len(readings), np.bool_)
        mine[inside] = self._listens[readings.slots[inside]]
        if not mine.any():
            return
        heard = readings.take(mine)
        values = _floats(heard.bits, self._live.types[heard.slots] == ValueType.FLOAT, heard.quality)
        rows = zip(
            self._live.tag_ids[heard.slots].tolist(), heard.ts_us.tolist(), values.tolist(),
            heard.quality.tolist(), strict=True,
        )  # fmt: skip
        self._woken.clear()
        for tag_id, at_us, value, quality in rows:
            self._hear(tag_id, at_us, value, quality)
        self._woken.clear()

    def _hear(self, tag_id: int, at_us: int, value: float, quality: int) -> None:
        for work, operand in self._users.get(tag_id, ()):
            operand.heard.append((at_us, value, quality))
            self._awake.add(work.tag.tag_id)
            self._woken.append(work.tag.tag_id)

    def on_time(self, moment: Moment) -> list[Readings]:
        """Calculates what can be, and returns the results in order of time."""
        now_us, known = moment.now_us, moment.sources
        results: dict[int, list[tuple[int, int, int]]] = defaultdict(list)
        while self._ticks and self._ticks[0][0] <= now_us:
            self._awake.add(heapq.heappop(self._ticks)[1])
        limits = {
            sources: max(min((known.get(n, now_us) for n in sources), default=now_us), now_us - _PATIENCE_US)
            for sources in self._limits
        }
        queue = [(self._works[tag_id].order, tag_id) for tag_id in self._awake if tag_id in self._works]
        heapq.heapify(queue)
        seen: set[int] = set()
        while queue:
            _, tag_id = heapq.heappop(queue)
            if tag_id in seen:
                continue
            seen.add(tag_id)
            self._awake.discard(tag_id)
            work = self._works[tag_id]
            self._woken.clear()
            self._run_one(work, limits[work.sources], now_us, results)
            for other in self._woken:  # what needs its result is calculated in the same step
                if other not in seen:
                    heapq.heappush(queue, (self._works[other].order, other))
        self._limits = limits
        self._done_us = min(limits.values(), default=now_us)
        return [_readings(at_us, rows) for at_us, rows in sorted(results.items())]

    def _run_one(
        self, work: _Calculated, limit_us: int, now_us: int, results: dict[int, list[tuple[int, int, int]]]
    ) -> None:
        """Calculates one tag up to a limit. One that fails is Bad from then on, and says why."""
        tag_id = work.tag.tag_id
        if tag_id in self._unusable:
            for operand in work.inputs.values():
                operand.heard.clear()
            return
        # While it slept it was known to have nothing to say: up to where that was, it is done.
        work.done_us = max(work.done_us, self._limits[work.sources])
        try:
            at, column = self._results(work, limit_us)
            bits, quality = column.to_bits(work.tag.value_type)
        except Exception as exc:  # noqa: BLE001 - kept where it happened, and said
            _log.error("%s cannot be calculated", work.tag.name, exc_info=exc)
            self._unusable[tag_id] = f"{work.tag.name}: {type(exc).__name__}: {exc}"
            for operand in work.inputs.values():
                operand.heard.clear()
            at, bits = np.array([limit_us], np.int64), np.zeros(1, np.int64)
            column = Column(np.array([np.nan]), np.array([q.BAD_CONFIGURATION], np.uint16))
            quality = column.quality
            work.done_us = limit_us
        rows = zip(at.tolist(), column.values.tolist(), bits.tolist(), quality.tolist(), strict=True)
        for at_us, value, bit, code in rows:
            results[at_us].append((self._live.slots[tag_id], bit, code))
            self._hear(tag_id, at_us, value, code)
        if work.has_ticks:
            tick = latest_tick(limit_us - 1, work.tag.scan_us) + work.tag.scan_us
            heapq.heappush(self._ticks, (max(tick, now_us + _SHORTEST_TICK_US), tag_id))
        if any(operand.heard for operand in work.inputs.values()):
            self._awake.add(tag_id)

    def _results(self, work: _Calculated, limit_us: int) -> tuple[Times, Column]:
        if isinstance(work.running, Windowed):
            return _moved_on(work, work.running, limit_us)
        at = self._instants(work, limit_us)
        if not len(at):
            return at, Column(np.empty(0), np.empty(0, np.uint16))
        return at, work.running.run(
            Instants(at, {n: _take(operand, at) for n, operand in work.inputs.items()})
        )

    def _instants(self, work: _Calculated, limit_us: int) -> Times:
        """When it is to be evaluated: at the readings before the limit, and at its own last tick."""
        begin_us = work.done_us
        at = {t for operand in work.inputs.values() for t, _, _ in operand.heard if begin_us <= t < limit_us}
        if work.has_ticks:
            tick = latest_tick(limit_us - 1, work.tag.scan_us)
            at |= {tick} if tick >= begin_us else set()
        work.done_us = max(begin_us, limit_us)
        return np.array(sorted(at), np.int64)

    def next_time(self, now_us: int) -> int:
        """When there is something to calculate even if no reading comes; now when something waits."""
        if self._awake:
            return now_us
        return self._ticks[0][0] if self._ticks else now_us + SECOND

    def known_until(self, now_us: int) -> int:
        """Up to here everything is calculated; called from the flusher's thread too."""
        return self._done_us if self._works else now_us

    def readings_until(self, now_us: int) -> int:
        """Up to here its results were handed on."""
        return self.known_until(now_us)

    def lower_known(self, known: dict[int, int], now_us: int) -> None:
        """Of the sources of calculated tags."""
        for number in self._own_sources:
            known[number] = min(known.get(number, now_us), self.known_until(now_us))

    def has(self, tag_id: int) -> bool:
        """Whether it is one of the calculated tags at work."""
        return tag_id in self._works

    def set_meter(self, tag_id: int, value: float, now_us: int) -> Readings:
        """A person sets what a meter stands at (0: resets it). Raises InvalidInput."""
        work = self._works[tag_id]
        if not isinstance(work.running, Meter):
            raise InvalidInput(
                "value",
                "value-follows-formula",
                "its value follows from its formula",
                "Only counters and meters are set.",
            )
        work.running.value = value
        return self._standing(work.tag, value, max(now_us, work.done_us))

    def tear(self, now_us: int) -> None:
        """A hole was torn, or the clock was set: nothing is carried across it but what meters stand at, and
        what the inputs were last."""
        for work in self._works.values():
            if isinstance(work.running, Meter):
                work.running.tear()
            else:
                work.running, work.recalled = work.running.afresh(), False
            work.done_us = now_us
            for operand in work.inputs.values():
                operand.held = (0, *operand.held[1:])
                operand.heard = deque(row for row in operand.heard if row[0] >= now_us)
        self._wake_all(now_us)

    def forgotten(self, now_us: int) -> list[Recall]:
        """What statistics need of the time before they began; each is told once."""
        recalls = []
        for tag_id, work in self._works.items():
            if isinstance(work.running, Windowed) and not work.recalled:
                work.recalled = True
                window = Window(work.running.begin_us(now_us), now_us)
                recalls.append(Recall(tag_id, work.input_ids[INPUT], window))
        return recalls

    def remember(self, tag_id: int, past: Remembered) -> None:
        """Tells a statistic what was recorded before it began."""
        work = self._works.get(tag_id)
        if work is not None and isinstance(work.running, Windowed):
            work.running.remember(past.series, past.known_until_us)

    def unusable(self, tags: Iterable[int]) -> str:
        """Why some of these tags cannot be calculated, or nothing."""
        return "; ".join(self._unusable[tag_id] for tag_id in tags if tag_id in self._unusable)[:500]


def _moved_on(work: _Calculated, running: Windowed, limit_us: int) -> tuple[Times, Column]:
    """A statistic hears every reading, and is told at its own last tick."""
    begin_us, heard = work.done_us, work.inputs[INPUT].heard
    work.done_us = max(begin_us, limit_us)
    rows = []
    while heard and heard[0][0] < limit_us:
        rows.append(heard.popleft())
    running.hear(rows)
    tick = latest_tick(limit_us - 1, running.every_us)
    if tick < begin_us:
        return np.empty(0, np.int64), Column(np.empty(0), np.empty(0, np.uint16))
    return np.array([tick], np.int64), running.at(tick)


def _calendar_of(setup: Setup) -> PlantCalendar:
    shifts = tuple(Shift("", minute) for minute in setup.shift_starts)
    return PlantCalendar(ZoneInfo(setup.zone), shifts=shifts)


def _take(operand: _Input, at: Times) -> Column:
    """What the input was at the instants; uses up what was heard until the last of them."""
    rows = [operand.held]
    while operand.heard and operand.heard[0][0] <= at[-1]:
        row = operand.heard.popleft()
        if row[0] >= rows[-1][0]:  # a late one tells nothing of now
            rows.append(row)
    operand.held = rows[-1]
    times = np.array([row[0] for row in rows], np.int64)
    positions = np.searchsorted(times, at, side="right") - 1
    values = np.array([row[1] for row in rows])[positions]
    return Column.of(values, np.array([row[2] for row in rows], np.uint16)[positions])


def _floats(
    bits: NDArray[np.int64], is_float: NDArray[np.bool_], quality: q.QualityArray
) -> NDArray[np.float64]:
    values = np.where(is_float, bits.view(np.float64), bits.astype(np.float64))
    return np.where(q.is_bad(quality), np.nan, values)


def _readings(at_us: int, rows: Sequence[tuple[int, int, int]]) -> Readings:
    slots, bits, quality = zip(*rows, strict=True)
    values = Values(np.array(bits, np.int64), np.array(quality, np.uint16))
    return Readings.of(np.array(slots, np.intp), at_us, values)

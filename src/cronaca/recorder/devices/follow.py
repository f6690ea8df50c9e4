"""Following one source that reports by itself: its samples keep the times that the device gave them.

Everything here runs on the device's clock, which may go wrong: readings of one device stay in their order.
"""

from __future__ import annotations

import asyncio
import logging
from collections import deque
from collections.abc import Awaitable, Callable, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.errors import CronacaError, SourceUnreachable, StoreError
from cronaca.core.logger_rules import latest_tick
from cronaca.core.model import SECOND, Series, SourceSetup, SourceState, Tag, Times, Window
from cronaca.core.ports import Clock, Heard, ReportingDriver
from cronaca.core.readings import Readings, Slots, Values
from cronaca.recorder.devices.source import OnReadings, Sleep, SourceWorker
from cronaca.recorder.live import LiveTable

OnPast = Callable[[Tag, Window, Series], Awaitable[None]]
_UNDER_WAY_US: Final = SECOND // 2
"""A report may be so long on its way."""
_ALIVE_US: Final = 5 * SECOND
"""Between two signs of life a value is not called old."""
_UNSURE_US: Final = 10 * SECOND
"""So long after a connection began the device's clock is not known, unless something changes."""
_NOTED_SKEW_US: Final = 3 * SECOND
_NOT_YET: Final = -1
_LONGEST_LAG_US: Final = 60 * SECOND
"""What comes later than this was buffered somewhere: no measure of what is still on its way."""
_CARRIED: Final = ("bits", "quality", "heard_us", "offered_us", "lost_us", "lag_us", "since_us", "fresh")
_LAGS: Final = 20
"""So many reports are looked back on for how far the clock of the values is off."""
_AGAIN_S: Final = 5.0
_log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class _Hole:
    """Of one tag: the last sample heard before an outage, and where readings go on."""

    tag: Tag
    last_us: int
    end_us: int


@dataclass(slots=True)
class _State:
    """What is known of each tag, in columns."""

    tags: list[Tag]
    place: dict[int, int]
    slots: Slots
    bits: Times
    quality: q.QualityArray
    heard_us: Times
    """The device's own time of the newest sample; 0 before there is one."""
    offered_us: Times
    """The time of what was handed on last."""
    lost_us: Times
    """`heard_us` when the device was lost, while nothing was heard since; else 0."""
    lag_us: Times
    """How long after its own time a sample came, at most."""
    since_us: Times
    """What the device says of earlier times is not handed on under them: nobody listened then."""
    scan_us: Times
    fresh: NDArray[np.bool_]
    """Nothing was heard over this connection yet."""

    @classmethod
    def of(cls, tags: Sequence[Tag], live: LiveTable, since_us: int, before: _State | None) -> _State:
        """Of these tags; one that is the same as before goes on as it was."""
        count = len(tags)
        state = cls(
            list(tags), {tag.tag_id: i for i, tag in enumerate(tags)},
            live.slots_of([t.tag_id for t in tags]), np.zeros(count, np.int64),
            np.full(count, q.BAD_WAITING_FOR_INITIAL_DATA, np.uint16), np.zeros(count, np.int64),
            np.zeros(count, np.int64), np.zeros(count, np.int64), np.zeros(count, np.int64),
            np.full(count, since_us, np.int64), np.array([t.scan_us for t in tags], np.int64),
            np.ones(count, np.bool_),
        )  # fmt: skip
        for old, tag in enumerate(before.tags if before else []):
            new = state.place.get(tag.tag_id)
            if before is not None and new is not None and tag == tags[new]:
                for name in _CARRIED:
                    getattr(state, name)[new] = getattr(before, name)[old]
        return state


class SourceFollower(SourceWorker):
    """Hands on what a device reports. Where it is silent because nothing changes, its values are handed on
    again at each scan, so that rules and figures see what a polled device would show."""

    def __init__(
        self, setup: SourceSetup, driver: ReportingDriver, tags: Sequence[Tag], live: LiveTable,
        on_readings: OnReadings, clock: Clock, on_past: OnPast, sleep: Sleep = asyncio.sleep,
    ) -> None:  # fmt: skip
        super().__init__(setup, driver, live, on_readings, clock, sleep)
        self._reporting = driver
        self._on_past = on_past
        self._lags: deque[int] = deque(maxlen=_LAGS)
        self._known = _State.of(tags, live, clock.now_us(), None)
        self._changed = True
        self._serving = False
        self._beaten: dict[int, int] = {}
        self._holes: deque[_Hole] = deque()
        self._hole_closed = asyncio.Event()

    @property
    def tag_count(self) -> int:
        """How many tags are followed."""
        return len(self._known.tags)

    def set_tags(self, tags: Sequence[Tag]) -> None:
        """Follows these tags from the next report on."""
        self._known = _State.of(tags, self._live, self._clock.now_us() + self._skew_us, self._known)
        self._changed = True

    def known_until_us(self, now_us: int) -> int:
        """What comes later is sorted in."""
        return now_us - _UNDER_WAY_US if self._serving else now_us

    async def _serve(self) -> None:
        self._known.fresh[:] = True
        self._changed = True
        filling = asyncio.create_task(self._fill_holes())
        try:
            while not filling.done():
                if self._changed:
                    self._changed = False
                    await self._reporting.follow(self._known.tags)
                if not self._known.tags:
                    self._enter(SourceState.UP, "")
                    await self._sleep(0.5)
                    continue
                heard = await self._reporting.hear()
                self._serving = True
                self._take(heard)
        finally:
            filling.cancel()
        await filling

    def _after_loss(self) -> None:
        self._serving = False

    @property
    def _skew_us(self) -> int:
        """How far the clock of the values is ahead of ours: what every report of late was off by."""
        if not self._lags:
            return 0
        least = min(self._lags, key=abs)
        usual = int(self._known.scan_us.max(initial=0)) + _NOTED_SKEW_US
        return -least if abs(least) > usual else 0

    def _take(self, heard: Heard) -> None:
        now_us = self._clock.now_us()
        self._hand_on(heard, now_us)
        self._enter(SourceState.UP, _skew_in_words(self._skew_us))
        heard_of = self._known.slots[~self._known.fresh]
        self._live.confirm(heard_of, now_us + _ALIVE_US)
        self._repeat(now_us)

    def _hand_on(self, heard: Heard, now_us: int) -> None:
        """The samples of each tag in the order of their times: first the first of each, then the second."""
        known = self._known
        mine = np.isin(heard.tag_ids, list(known.place))
        order = np.argsort(heard.ts_us[mine], kind="stable")
        places = np.array([known.place[n] for n in heard.tag_ids[mine][order].tolist()], np.intp)
        own_ts = heard.ts_us[mine][order]
        self._learn_lag(places, own_ts, now_us)
        self._note_torn(places[heard.torn[mine][order]], own_ts[heard.torn[mine][order]])
        ts = self._times(places, own_ts, now_us + self._skew_us)
        bits, quality = heard.bits[mine][order], heard.quality[mine][order]
        self._show(ts == _NOT_YET, places, bits, quality, now_us)
        turns = np.where(ts == _NOT_YET, -1, _turns(places))
        for turn in range(int(turns.max(initial=-1)) + 1):
            chosen = turns == turn
            if chosen.any():
                self._offer(places[chosen], ts[chosen], bits[chosen], quality[chosen])
        known.heard_us[places] = np.maximum(known.heard_us[places], own_ts)
        known.fresh[places] = False

    def _note_torn(self, places: Slots, ts_us: Times) -> None:
        """Samples that the device had to drop may be in its past."""
        known = self._known
        for place, at_us in zip(places.tolist(), ts_us.tolist(), strict=True):
            if not known.fresh[place]:
                self._holes.append(_Hole(known.tags[place], int(known.heard_us[place]), at_us))
                self._hole_closed.set()

    def _learn_lag(self, places: Slots, ts_us: Times, now_us: int) -> None:
        """From samples that were taken while we listened; the first of a connection may be old."""
        known = self._known
        lately = ~known.fresh[places]
        if lately.any():
            lags = now_us - ts_us[lately]
            self._lags.append(int(lags.min()))
            late = np.minimum(lags, _LONGEST_LAG_US + abs(self._skew_us))
            known.lag_us[places[lately]] = np.maximum(known.lag_us[places[lately]], late)

    def _times(self, places: Slots, ts_us: Times, device_us: int) -> Times:
        """The times under which samples are handed on: their own, but the first of a connection says what
        holds now. While the device's clock is not known, nobody knows what now is there: such a one is shown,
        and loggers get it with the first repeat."""
        known, given = self._known, ts_us.copy()
        seen: set[int] = set()
        for i, place in enumerate(places.tolist()):
            if not known.fresh[place] or place in seen:
                continue
            seen.add(place)
            lost_us = int(known.lost_us[place])
            since_us = int(known.since_us[place])
            if given[i] <= since_us:
                sure = self._lags or lost_us
                given[i] = max(device_us, since_us + 1) if sure else _NOT_YET
            if lost_us:
                known.lost_us[place] = 0
                self._holes.append(_Hole(known.tags[place], lost_us, int(given[i])))
                self._hole_closed.set()
        return given

    def _show(
        self, which: NDArray[np.bool_], places: Slots, bits: Times, quality: q.QualityArray, now_us: int
    ) -> None:
        """Shows values that are not handed on yet."""
        known, shown = self._known, places[which]
        known.bits[shown], known.quality[shown] = bits[which], quality[which]
        values = Values(bits[which], quality[which])
        self._live.update(Readings.of(known.slots[shown], now_us, values))

    def _offer(self, places: Slots, ts_us: int | Times, bits: Times, quality: q.QualityArray) -> None:
        """Hands on one sample of each of these tags."""
        known = self._known
        known.bits[places], known.quality[places] = bits, quality
        known.offered_us[places] = np.maximum(known.offered_us[places], ts_us)
        self._on_readings(Readings.of(known.slots[places], ts_us, Values(bits, quality)))

    def _repeat(self, now_us: int) -> None:
        """Hands values on again that did not change until a scan's time: never before what may still come."""
        if not self._lags and now_us - self._since_us < _UNSURE_US:
            return
        known = self._known
        for scan_us in np.unique(known.scan_us).tolist():
            tick = latest_tick(now_us + self._skew_us - scan_us - _UNDER_WAY_US, scan_us)
            ahead_us = self._beaten.get(scan_us, 0) - tick
            if 0 <= ahead_us < _LONGEST_LAG_US:  # further ahead: our clock was set back
                continue
            self._beaten[scan_us] = tick
            sure = (known.offered_us < tick) & (known.since_us < tick) & (tick <= now_us - known.lag_us)
            places = np.flatnonzero((known.scan_us == scan_us) & ~known.fresh & sure)
            if len(places):
                self._offer(places, tick, known.bits[places], known.quality[places])

    def _say_bad(self) -> None:
        known, count = self._known, len(self._known.tags)
        lost_us = max(self._clock.now_us() + self._skew_us, int(known.offered_us.max(initial=0)) + 1)
        bad = np.full(count, q.BAD_NO_COMMUNICATION, np.uint16)
        self._offer(np.arange(count), lost_us, np.zeros(count, np.int64), bad)
        known.since_us[:] = lost_us
        known.lost_us = np.where(known.lost_us > 0, known.lost_us, known.heard_us)

    async def _fill_holes(self) -> None:
        """Asks the device for what was missed, tag by tag, beside its reports. What fails because something
        is away is tried again; what is refused is given up, and said."""
        while True:
            if not self._holes:
                self._hole_closed.clear()
                await self._hole_closed.wait()
            hole = self._holes[0]
            try:
                await self._fill(hole)
            except (SourceUnreachable, StoreError) as exc:
                _log.warning("The past of %s waits: %s", hole.tag.name, exc)
                self._holes.rotate(-1)
                await self._sleep(_AGAIN_S)
                continue
            except CronacaError as exc:
                _log.error("The past of %s stays a gap: %s", hole.tag.name, exc)
            except Exception:  # noqa: BLE001 - its gap stays on record; the log says why
                _log.exception("The past of %s stays a gap", hole.tag.name)
            self._holes.popleft()

    async def _fill(self, hole: _Hole) -> None:
        if hole.end_us <= hole.last_us + 1:
            return
        asked = Window(hole.last_us, hole.end_us - 1)
        past = await self._reporting.read_past(hole.tag, asked)
        if past is None or not len(past):
            return
        # With the sample that was heard last nothing can be missing between it and the rest.
        first = int(past.ts_us[0])
        start = hole.last_us + 1 if first == hole.last_us else first
        await self._on_past(hole.tag, Window(start, hole.end_us), past)


def _turns(places: Slots) -> NDArray[np.intp]:
    """Which of the samples of its tag each one is, counted from 0."""
    order = np.argsort(places, kind="stable")
    ranked = places[order]
    first = np.searchsorted(ranked, ranked)
    turns = np.empty(len(places), np.intp)
    turns[order] = np.arange(len(places)) - first
    return turns


def _skew_in_words(skew_us: int) -> str:
    if abs(skew_us) < _NOTED_SKEW_US:
        return ""
    return f"Its clock is {abs(skew_us) / 1e6:.0f} s {'ahead of' if skew_us > 0 else 'behind'} ours."

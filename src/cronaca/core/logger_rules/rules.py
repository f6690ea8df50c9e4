"""Rules of an on-change logger, one tag at a time: deadband, rate limit, extremes, longest silence, and
straight-line compression. The recorder and a rehearsal run these very objects.

A rule is offered every reading in order of time and says which samples to keep. What it holds back comes out
when its time is over, told by `pass_time` or by the next reading, whichever is first: the samples are the
same either way. All times in µs.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from itertools import islice
from typing import Final, NamedTuple, Protocol

from cronaca.core import quality as q
from cronaca.core.errors import InvalidInput

NEVER: Final = 1 << 62
_BAD: Final = q.BAD


class Sample(NamedTuple):
    """One reading of a tag, or a sample to keep. A Bad one carries no value that means anything."""

    ts_us: int
    value: float | int
    quality: int

    @property
    def usable(self) -> bool:
        """Whether it has a value."""
        return self.quality < q.BAD


class SampleLists(NamedTuple):
    """Many readings of one tag in order of time, as columns of plain numbers."""

    ts_us: list[int]
    values: list[float | int]
    quality: list[int]

    def at(self, place: int) -> Sample:
        """One of them."""
        return Sample(self.ts_us[place], self.values[place], self.quality[place])

    def add(self, more: Iterable[Sample]) -> None:
        """Puts readings behind these."""
        for ts_us, value, quality in more:
            self.ts_us.append(ts_us)
            self.values.append(value)
            self.quality.append(quality)


class Rule(Protocol):
    """What decides for one tag."""

    def offer_all(self, readings: SampleLists) -> SampleLists:
        """`offer` of each in turn, quicker: a rehearsal replays millions."""
        ...

    def offer(self, reading: Sample) -> list[Sample]:
        """The samples to keep, in order of time, now that this was read."""
        ...

    def pass_time(self, now_us: int) -> list[Sample]:
        """The samples to keep because time has passed; every reading up to `now_us` was offered."""
        ...

    def finish(self) -> list[Sample]:
        """What was held back comes out: the logger stops."""
        ...

    @property
    def holds_since_us(self) -> int | None:
        """The earliest time that a sample still to come may have; None when nothing is held back."""
        ...


@dataclass(frozen=True, slots=True)
class ChangeSettings:
    """An on-change rule. A value has changed when it differs from the one kept last by more than `deadband`.
    `rate_limit_us`: at most one change in so long, the newest of the others when it is over; `keep_extremes`:
    the lowest and highest of them too. `stamp_kept`: what was held gets the time at which it was kept.
    `longest_silence_us`: an unchanged value is kept again after so long (0: never). `bridge`: after a
    silence the last reading before a change is kept too, so that a sloped line does not lie."""

    deadband: float = 0.0
    rate_limit_us: int = 0
    keep_extremes: bool = False
    stamp_kept: bool = False
    longest_silence_us: int = 0
    bridge: bool = False

    def checked(self) -> ChangeSettings:
        """The same; raises InvalidInput that names the field."""
        if not self.deadband >= 0 or math.isinf(self.deadband):
            raise InvalidInput(
                "deadband",
                "deadband-not-width",
                "{deadband} is not a width",
                "Give 0 or more.",
                deadband=self.deadband,
            )
        times = {"rate_limit": self.rate_limit_us, "longest_silence": self.longest_silence_us}
        for field, value in times.items():
            if value < 0:
                raise InvalidInput(
                    field, "rules-negative", "it is negative", "Give a duration, or 0 for none."
                )
        if self.longest_silence_us and self.rate_limit_us > self.longest_silence_us:
            raise InvalidInput(
                "rate_limit",
                "longer-longest-silence",
                "it is longer than the longest silence",
                "Make the silence at least as long.",
            )
        if self.keep_extremes and not self.rate_limit_us:
            raise InvalidInput(
                "keep_extremes", "no-rate-limit", "there is no rate limit", "Give one, or leave it out."
            )
        return self


class ChangeRule:
    """Keeps changes of one tag."""

    __slots__ = (
        "_before",
        "_held",
        "_high",
        "_kept",
        "_low",
        "_open_us",
        "_settings",
        "_silent_us",
        "_width",
    )

    def __init__(self, settings: ChangeSettings) -> None:
        self._settings = settings
        self._width = settings.deadband
        self._kept: Sample | None = None
        self._before: Sample | None = None
        """The last reading, when it was not kept."""
        self._open_us = -NEVER
        """After this a change is kept at once."""
        self._silent_us = NEVER
        """From here on even an unchanged value is kept."""
        self._held: Sample | None = None
        self._low: Sample | None = None
        self._high: Sample | None = None

    @property
    def holds_since_us(self) -> int | None:
        """The earliest time that a sample still to come may have."""
        held = [sample.ts_us for sample in (self._low, self._high, self._held) if sample is not None]
        return min(held) if held else None

    def offer(self, reading: Sample) -> list[Sample]:
        """Decides on a reading; the first one of all is kept."""
        kept = self._kept
        if kept is not None and self._held is None and kept.quality == reading.quality < _BAD:
            # What nearly every reading is, decided in as few steps as can be: millions are replayed.
            width, ts_us = self._width, reading.ts_us
            if self._open_us < ts_us < self._silent_us:
                if -width <= reading.value - kept.value <= width:
                    self._before = reading
                    return []
                if self._before is None:
                    return self._keep([reading])
        return self._decide(reading)

    def offer_all(self, readings: SampleLists) -> SampleLists:
        """`offer` of each in turn; those that are passed over cost neither a call nor an object."""
        result = SampleLists([], [], [])
        place, count = 0, len(readings.ts_us)
        while place < count:
            place = self._plain(readings, place, result)
            if place < count and not (passed := self._held_back(readings, place)):
                result.add(self.offer(readings.at(place)))
                place += 1
            elif place < count:
                place += passed
        return result

    def _plain(self, readings: SampleLists, first: int, lists: SampleLists) -> int:
        """Takes the readings from `first` on that are unchanged, or change with nothing held back, and adds
        what is kept of them to `found`. Returns the place of the first other one."""
        if self._kept is None or self._held is not None or self._kept.quality >= _BAD:
            return first
        _, value, quality = self._kept
        width, bridge = self._width, self._settings.bridge
        rate_us, silence_us = self._settings.rate_limit_us, self._settings.longest_silence_us or NEVER
        open_us, silent_us = self._open_us, self._silent_us
        kept, before, unsure, place = -1, -1, self._before is not None, first
        for place, ts_us in enumerate(islice(readings.ts_us, first, None), first):
            if not open_us < ts_us < silent_us or readings.quality[place] != quality:
                break
            new = readings.values[place]
            if -width <= new - value <= width:
                before = place
                continue
            if before >= 0:
                if bridge and readings.ts_us[before] < ts_us:
                    lists.add([readings.at(before)])
            elif unsure:
                break  # the one before it is not among these readings
            kept, before, unsure, value = place, -1, False, new
            open_us, silent_us = ts_us + rate_us, ts_us + silence_us
            lists.ts_us.append(ts_us)
            lists.values.append(new)
            lists.quality.append(quality)
        else:
            place += 1
        if kept >= 0:
            self._keep([readings.at(kept)])
        if before >= 0:
            self._before = readings.at(before)
        return place

    def _held_back(self, readings: SampleLists, first: int) -> int:
        """Takes the readings from `first` on that the rate limit holds back; how many they are."""
        kept, ts_us, open_us = self._kept, readings.ts_us, self._open_us
        if kept is None or kept.quality >= _BAD or ts_us[first] > open_us:
            return 0
        place = first
        while place < len(ts_us) and ts_us[place] <= open_us and readings.quality[place] == kept.quality:
            place += 1
        if self._settings.keep_extremes:
            values = readings.values[first:place]
            for value in (min(values), max(values)) if values else ():
                self._hold(readings.at(first + values.index(value)))
        if place > first:
            self._held = readings.at(place - 1)
        return place - first

    def _decide(self, reading: Sample) -> list[Sample]:
        samples: list[Sample] = [] if self._held is None else self.pass_time(reading.ts_us)
        kept = self._kept
        if kept is None:
            return self._keep([reading])
        if kept.quality != reading.quality:
            # A change of quality is never held back: neither a failure nor its end may be lost.
            return samples + self._keep([*self._flushed(), *self._bridge(reading), reading])
        if reading.ts_us <= self._open_us:
            self._hold(reading)
            return samples
        if self._differs(reading, kept):
            return samples + self._keep([*self._bridge(reading), reading])
        if reading.usable and reading.ts_us >= self._silent_us:
            return samples + self._keep([reading])
        self._before = reading
        return samples

    def pass_time(self, now_us: int) -> list[Sample]:
        """What was held comes out when the rate limit is over."""
        if self._held is None or now_us <= self._open_us:
            return []
        over_us = self._open_us
        chosen = self._flushed()
        if self._settings.stamp_kept and chosen:
            chosen[-1] = chosen[-1]._replace(ts_us=over_us)
        if not chosen:
            return []
        self._keep(chosen)
        # The limit counts from when it was kept, not from when it was taken.
        self._open_us = over_us + self._settings.rate_limit_us
        return chosen

    def finish(self) -> list[Sample]:
        """What was held comes out as it was taken."""
        chosen = self._flushed()
        return self._keep(chosen) if chosen else []

    def _hold(self, reading: Sample) -> None:
        self._held = reading
        if self._settings.keep_extremes and reading.usable:
            if self._low is None or reading.value < self._low.value:
                self._low = reading
            if self._high is None or reading.value > self._high.value:
                self._high = reading

    def _flushed(self) -> list[Sample]:
        """What of the held readings is kept: the extremes that were left, and the newest if that moved."""
        held, extremes = self._held, {self._low, self._high} - {None}
        self._held = self._low = self._high = None
        if held is None or self._kept is None:
            return []
        chosen: list[Sample] = []
        last = self._kept
        for extreme in sorted((e for e in extremes if e is not None), key=lambda r: r.ts_us):
            if self._differs(extreme, last):
                chosen.append(extreme)
                last = extreme
        if self._differs(held, last):
            chosen.append(held)
        elif held.ts_us > last.ts_us:
            self._before = held
        return chosen

    def _bridge(self, reading: Sample) -> list[Sample]:
        before, kept = self._before, self._kept
        if not self._settings.bridge or before is None or kept is None or not before.usable:
            return []
        return [before] if kept.ts_us < before.ts_us < reading.ts_us else []

    def _differs(self, reading: Sample, kept: Sample) -> bool:
        if reading.quality != kept.quality:
            return True
        return abs(reading.value - kept.value) > self._settings.deadband and reading.usable

    def _keep(self, readings: list[Sample]) -> list[Sample]:
        self._kept = readings[-1]
        self._before = None
        self._open_us = self._kept.ts_us + self._settings.rate_limit_us
        silence = self._settings.longest_silence_us
        self._silent_us = self._kept.ts_us + silence if silence else NEVER
        return readings


@dataclass(frozen=True, slots=True)
class SwingingDoorSettings:
    """Straight-line compression: no reading differs from the line between the samples kept around it by more
    than `largest_error`; nothing is held longer than `longest_silence_us` (0: as long as the line holds)."""

    largest_error: float
    longest_silence_us: int = 0

    def checked(self) -> SwingingDoorSettings:
        """The same; raises InvalidInput that names the field."""
        if not self.largest_error > 0 or math.isinf(self.largest_error):
            raise InvalidInput(
                "largest_error",
                "not-error",
                "{largest_error} is not an error",
                "Give a value above 0.",
                largest_error=self.largest_error,
            )
        if self.longest_silence_us < 0:
            raise InvalidInput(
                "longest_silence", "rules-negative", "it is negative", "Give a duration, or 0 for none."
            )
        return self


class SwingingDoorRule:
    """Keeps what a straight line cannot tell (Bristol, US patent 4,669,097, expired; in the strict form: a
    line must lead to the very reading that is kept, so the error is bounded by `largest_error`)."""

    __slots__ = ("_highest", "_kept", "_last", "_longest_us", "_lowest", "_room")

    def __init__(self, settings: SwingingDoorSettings) -> None:
        self._room = settings.largest_error
        self._longest_us = settings.longest_silence_us or NEVER
        self._kept: Sample | None = None
        self._last: Sample | None = None
        """The reading that the present line leads to."""
        self._lowest, self._highest = -math.inf, math.inf
        """Between these slopes a line from the sample kept last passes near enough all readings since."""

    @property
    def holds_since_us(self) -> int | None:
        """The time of the reading that is held."""
        return None if self._last is None else self._last.ts_us

    def offer(self, reading: Sample) -> list[Sample]:
        """Decides on a reading; the first one, and every change of quality, is kept."""
        kept, last = self._kept, self._last
        if kept is None:
            return self._restart(reading, [reading])
        if reading.ts_us <= (last or kept).ts_us:
            return []  # of samples of the same time the first stands
        if not kept.quality == reading.quality < _BAD:
            if reading.quality == kept.quality:
                return []  # it stays Bad
            before = [] if last is None else [last]
            return self._restart(reading, [*before, reading])
        if self._takes(reading, kept):
            return []
        if last is None:
            return self._restart(reading, [reading])  # the silence was over with the first reading
        self._restart(last, [last])
        if self._takes(reading, last):
            return [last]
        return [last, *self._restart(reading, [reading])]  # the silence was over before it came

    def pass_time(self, now_us: int) -> list[Sample]:
        """Time alone makes nothing come out: the next reading decides."""
        del now_us
        return []

    def finish(self) -> list[Sample]:
        """The reading that the line leads to."""
        return [] if self._last is None else self._restart(self._last, [self._last])

    def offer_all(self, readings: SampleLists) -> SampleLists:
        """`offer` of each in turn; those on the present line cost neither a call nor an object."""
        result = SampleLists([], [], [])
        place, count = 0, len(readings.ts_us)
        while place < count:
            passed = self._on_line(readings, place)
            if passed:
                place += passed
            else:
                result.add(self.offer(readings.at(place)))
                place += 1
        return result

    def _on_line(self, readings: SampleLists, first: int) -> int:
        """Takes the readings from `first` on that the line from the sample kept last leads to, as `_takes`
        does; how many they are."""
        kept, last = self._kept, self._last
        if kept is None or last is None or kept.quality >= _BAD:
            return 0
        kept_us, value, quality = kept
        lowest, highest, room, longest_us = self._lowest, self._highest, self._room, self._longest_us
        before_us = last.ts_us
        place = first
        for place in range(first, len(readings.ts_us)):
            ts_us = readings.ts_us[place]
            length, rise = ts_us - kept_us, readings.values[place] - value
            if ts_us <= before_us or length > longest_us or readings.quality[place] != quality:
                break
            if not lowest <= rise / length <= highest:
                break
            before_us, low, high = ts_us, (rise - room) / length, (rise + room) / length
            # Not max and min: two calls for each of millions.
            lowest = low if low > lowest else lowest
            highest = high if high < highest else highest
        else:
            place += 1
        if place > first:
            self._lowest, self._highest, self._last = lowest, highest, readings.at(place - 1)
        return place - first

    def _takes(self, reading: Sample, kept: Sample) -> bool:
        """Takes the reading into the line from the sample kept last, if one leads to it."""
        length = reading.ts_us - kept.ts_us
        rise = reading.value - kept.value
        if length > self._longest_us or not self._lowest <= rise / length <= self._highest:
            return False
        room = self._room
        low, high = (rise - room) / length, (rise + room) / length
        self._lowest = max(self._lowest, low)
        self._highest = min(self._highest, high)
        self._last = reading
        return True

    def _restart(self, kept: Sample, readings: list[Sample]) -> list[Sample]:
        self._kept, self._last = kept, None
        self._lowest, self._highest = -math.inf, math.inf
        return readings

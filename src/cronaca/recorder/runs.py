"""Runs: stretches of time that begin and end with a tag, a change of its value, or a logger."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from typing import Final

import numpy as np

from cronaca.core.bits import from_bits
from cronaca.core.model import SECOND, RunOrigin, RunRule, Setup, Tag, Times, ValueType
from cronaca.core.ports import Reading, RunFact, RunMark
from cronaca.core.quality import BAD
from cronaca.recorder.live import LiveTable, Slots
from cronaca.recorder.queue import SampleQueue

_PATIENCE_US: Final = SECOND
"""A source that is slower than this does not hold a run's facts up."""


@dataclass(slots=True)
class _Watched:
    """A rule at work: what its tag was last, and since when a run lasts."""

    rule: RunRule
    tag: Tag | None
    last: float | None = None
    open_since_us: int | None = None
    pending: list[tuple[int, bool, str]] = field(default_factory=list)
    """Marks whose facts are still to be taken: instant, whether it begins, name."""


class RunWatcher:
    """Watches for the beginnings and ends of runs. A Bad value tells nothing: a run goes on through it."""

    def __init__(self, live: LiveTable, queue: SampleQueue) -> None:
        self._live = live
        self._queue = queue
        self._tags: Mapping[int, Tag] = {}
        self._watched: dict[int, _Watched] = {}
        self._by_logger = False
        self._listens: set[int] = set()

    def follow(self, setup: Setup, now_us: int) -> None:
        """Goes over to a set-up. Runs of rules that are gone, or are other ones by now, end."""
        self._tags = {tag.tag_id: tag for tag in setup.tags}
        before, self._watched = self._watched, {}
        for rule in setup.runs:
            old = before.get(rule.rule_id)
            if not rule.enabled or (rule.tag_id is not None and rule.tag_id not in self._tags):
                continue
            tag = None if rule.tag_id is None else self._tags[rule.tag_id]
            if old is not None and _same(old.rule, rule):
                before.pop(rule.rule_id)
                old.rule, old.tag = rule, tag
                self._watched[rule.rule_id] = old
            else:
                self._watched[rule.rule_id] = _Watched(rule, tag)
        for gone in before.values():
            self._end(gone, now_us)
            self._take_all(gone)
        self._by_logger = any(one.rule.origin is RunOrigin.LOGGER for one in self._watched.values())
        self._listens = {
            self._live.slots[one.tag.tag_id]
            for one in self._watched.values()
            if one.tag is not None and one.tag.tag_id in self._live.slots
        }

    def on_reading(self, slots: Slots, ts_us: int | Times, reading: Reading) -> None:
        """Looks at readings of different tags."""
        if not self._listens or self._listens.isdisjoint(slots.tolist()):
            return
        for one in self._watched.values():
            if one.tag is None:
                continue
            found = np.flatnonzero(slots == self._live.slots.get(one.tag.tag_id, -1))
            if len(found):
                i = int(found[0])
                at_us = int(np.broadcast_to(ts_us, slots.shape)[i])
                self._offer(one, one.tag, at_us, int(reading.bits[i]), int(reading.quality[i]))

    def _offer(self, one: _Watched, tag: Tag, at_us: int, bits: int, quality: int) -> None:
        if quality >= BAD:
            return
        value = from_bits(bits, tag.value_type)
        before, one.last = one.last, float(value)
        if one.rule.origin is RunOrigin.TAG:
            if value and one.open_since_us is None:
                self._begin(one, at_us, one.rule.name)
            elif not value:
                self._end(one, at_us)
        elif before is None or before != value:
            self._end(one, at_us)
            shown = f"{value:g}" if tag.value_type is ValueType.FLOAT else f"{int(value)}"
            self._begin(one, at_us, f"{one.rule.name} {shown}")

    def look_at_loggers(self, recording: Callable[[], Iterable[int]], now_us: int) -> None:
        """`recording` tells the loggers that are wanted, whether an inhibit tag holds them off or not."""
        if not self._by_logger:
            return
        wanted = set(recording())
        for one in self._watched.values():
            if one.rule.origin is not RunOrigin.LOGGER:
                continue
            if one.rule.logger_id in wanted and one.open_since_us is None:
                self._begin(one, now_us, one.rule.name)
            elif one.rule.logger_id not in wanted:
                self._end(one, now_us)

    def _begin(self, one: _Watched, at_us: int, name: str) -> None:
        one.open_since_us = at_us
        one.pending.append((at_us, True, name))

    def _end(self, one: _Watched, at_us: int) -> None:
        if one.open_since_us is not None:
            one.open_since_us = None
            one.pending.append((at_us, False, ""))

    def take_due(self, now_us: int, scanned_until_us: int) -> None:
        """Takes the facts of what began or ended, once every reading of the instant was handed on."""
        for one in self._watched.values():
            while one.pending:
                at_us = one.pending[0][0]
                if scanned_until_us <= at_us and now_us < at_us + _PATIENCE_US:
                    break
                self._take(one, *one.pending[0])
                one.pending.pop(0)

    @property
    def waits(self) -> bool:
        """Whether something began or ended whose facts are still to be taken."""
        return any(one.pending for one in self._watched.values())

    def finish(self) -> None:
        """The recorder ends: what waits is taken as things stand."""
        for one in self._watched.values():
            self._take_all(one)

    def _take_all(self, one: _Watched) -> None:
        while one.pending:
            self._take(one, *one.pending.pop(0))

    def _take(self, one: _Watched, at_us: int, begins: bool, name: str) -> None:
        tags = [self._tags[number] for number in one.rule.facts if number in self._tags]
        reading = self._live.at(self._live.slots_of([tag.tag_id for tag in tags]), at_us)
        facts = tuple(
            RunFact(tag.tag_id, int(tag.value_type), int(bits), int(quality))
            for tag, bits, quality in zip(tags, reading.bits, reading.quality, strict=True)
        )
        origin = one.rule.origin.value
        self._queue.note_run(RunMark(one.rule.rule_id, origin, at_us, begins, name, facts))

    @property
    def waits_since_us(self) -> int | None:
        """The first instant whose facts are still to be taken."""
        waiting = [one.pending[0][0] for one in list(self._watched.values()) if one.pending]
        return min(waiting, default=None)


def _same(a: RunRule, b: RunRule) -> bool:
    """Another name or other facts are no reason to end a run."""
    return (a.origin, a.tag_id, a.logger_id) == (b.origin, b.tag_id, b.logger_id)

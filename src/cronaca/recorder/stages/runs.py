"""Runs: stretches of time that begin and end with a tag, a change of its value, or a logger."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from typing import Final

import numpy as np

from cronaca.core.bits import from_bits
from cronaca.core.model import SECOND, RunOrigin, RunRule, Setup, Tag, Times
from cronaca.core.ports import Reading, RunFact, RunMark
from cronaca.core.runs import RunEdge, RunFinder
from cronaca.recorder.live import LiveTable, Slots
from cronaca.recorder.outputs.queue import SampleQueue

_PATIENCE_US: Final = SECOND
"""A source that is slower than this does not hold a run's facts up."""


@dataclass(slots=True)
class _Watched:
    """A rule at work."""

    finder: RunFinder
    tag: Tag | None
    pending: list[RunEdge] = field(default_factory=list)
    """Beginnings and ends whose facts are still to be taken."""

    @property
    def rule(self) -> RunRule:
        """As it is set up now."""
        return self.finder.rule


class RunWatcher:
    """Watches for the beginnings and ends of runs, and takes their facts."""

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
                old.finder.rule, old.tag = rule, tag
                self._watched[rule.rule_id] = old
            else:
                self._watched[rule.rule_id] = _Watched(RunFinder(rule), tag)
        for gone in before.values():
            gone.pending += gone.finder.end(now_us)
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
                value = from_bits(int(reading.bits[i]), one.tag.value_type)
                quality = int(reading.quality[i])
                one.pending += one.finder.offer(at_us, value, quality, one.tag.value_type)

    def look_at_loggers(self, recording: Callable[[], Iterable[int]], now_us: int) -> None:
        """`recording` tells the loggers that are wanted, whether an inhibit tag holds them off or not."""
        if not self._by_logger:
            return
        wanted = set(recording())
        for one in self._watched.values():
            if one.rule.origin is not RunOrigin.LOGGER:
                continue
            if one.rule.logger_id not in wanted:
                one.pending += one.finder.end(now_us)
            elif not one.finder.lasts:
                one.pending += one.finder.begin(now_us, one.rule.name)

    def take_due(self, now_us: int, scanned_until_us: int) -> None:
        """Takes the facts of what began or ended, once every reading of the instant was handed on."""
        for one in self._watched.values():
            while one.pending:
                at_us = one.pending[0].at_us
                if scanned_until_us <= at_us and now_us < at_us + _PATIENCE_US:
                    break
                self._take(one, one.pending[0])
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
            self._take(one, one.pending.pop(0))

    def _take(self, one: _Watched, edge: RunEdge) -> None:
        tags = [self._tags[number] for number in one.rule.facts if number in self._tags]
        reading = self._live.at(self._live.slots_of([tag.tag_id for tag in tags]), edge.at_us)
        facts = tuple(
            RunFact(tag.tag_id, int(tag.value_type), int(bits), int(quality))
            for tag, bits, quality in zip(tags, reading.bits, reading.quality, strict=True)
        )
        origin = one.rule.origin.value
        self._queue.note_run(RunMark(one.rule.rule_id, origin, edge.at_us, edge.begins, edge.name, facts))

    @property
    def waits_since_us(self) -> int | None:
        """The first instant whose facts are still to be taken."""
        waiting = [one.pending[0].at_us for one in list(self._watched.values()) if one.pending]
        return min(waiting, default=None)


def _same(a: RunRule, b: RunRule) -> bool:
    """Another name or other facts are no reason to end a run."""
    return (a.origin, a.tag_id, a.logger_id) == (b.origin, b.tag_id, b.logger_id)

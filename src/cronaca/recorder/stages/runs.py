"""Runs: stretches of time that begin and end with a tag, a change of its value, or a logger."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Final

from cronaca.core.bits import from_bits
from cronaca.core.model import SECOND, RunOrigin, RunRule, Tag
from cronaca.core.outputs import Output, RunAttribute, RunMark
from cronaca.core.readings import Readings
from cronaca.core.runs import RunEdge, RunFinder
from cronaca.core.setup.whole import Setup
from cronaca.recorder.live import LiveTable
from cronaca.recorder.stages.stage import Moment, Stage, StageContext

_PATIENCE_US: Final = SECOND
"""A source that is slower than this does not hold a run's attributes up."""


@dataclass(slots=True)
class _Watched:
    """A rule at work."""

    finder: RunFinder
    tag: Tag | None
    pending: list[RunEdge] = field(default_factory=list)
    """Beginnings and ends whose attributes are still to be taken."""

    @property
    def rule(self) -> RunRule:
        """As it is set up now."""
        return self.finder.rule


class RunWatcher(Stage):
    """Watches for the beginnings and ends of runs, and takes their attributes."""

    name = "runs"

    def __init__(self, live: LiveTable, wanted_loggers: Callable[[], Iterable[int]]) -> None:
        """`wanted_loggers` tells the loggers that are wanted, whether an inhibit tag holds them off or
        not."""
        self._live = live
        self._wanted_loggers = wanted_loggers
        self._emit: Callable[[Output], None] = lambda _output: None
        self._tags: Mapping[int, Tag] = {}
        self._watched: dict[int, _Watched] = {}
        self._by_logger = False

    def follow(self, setup: Setup, context: StageContext, now_us: int) -> Sequence[Readings]:
        """Goes over to a set-up. Runs of rules that are gone, or are other ones by now, end."""
        self._emit = context.emit
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
        self._by_logger = any(watched.rule.origin is RunOrigin.LOGGER for watched in self._watched.values())
        return ()

    def wakes_on(self) -> Collection[int]:
        """The tags of its rules."""
        return [watched.tag.tag_id for watched in self._watched.values() if watched.tag is not None]

    def on(self, readings: Readings) -> None:
        """Looks for beginnings and ends in readings of different tags."""
        for watched in self._watched.values():
            i = None if watched.tag is None else readings.find(self._live.slots.get(watched.tag.tag_id, -1))
            if watched.tag is not None and i is not None:
                value = from_bits(int(readings.bits[i]), watched.tag.value_type)
                at_us, quality = int(readings.ts_us[i]), int(readings.quality[i])
                watched.pending += watched.finder.offer(at_us, value, quality, watched.tag.value_type)

    def on_time(self, moment: Moment) -> Sequence[Readings]:
        """Takes the attributes of what began or ended, once every reading of the instant was handed on."""
        self._look_at_loggers(moment.now_us)
        for watched in self._watched.values():
            while watched.pending:
                at_us = watched.pending[0].at_us
                if moment.until_us <= at_us and moment.now_us < at_us + _PATIENCE_US:
                    break
                self._take(watched, watched.pending[0])
                watched.pending.pop(0)
        return ()

    def next_time(self, now_us: int) -> int:
        """Now, while attributes are still to be taken."""
        return now_us if any(watched.pending for watched in self._watched.values()) else now_us + SECOND

    def known_until(self, now_us: int) -> int:
        """The first instant whose attributes are still to be taken."""
        return min(
            [
                now_us,
                *(watched.pending[0].at_us for watched in list(self._watched.values()) if watched.pending),
            ]
        )

    def _look_at_loggers(self, now_us: int) -> None:
        if not self._by_logger:
            return
        loggers = set(self._wanted_loggers())
        for watched in self._watched.values():
            if watched.rule.origin is not RunOrigin.LOGGER:
                continue
            if watched.rule.logger_id not in loggers:
                watched.pending += watched.finder.end(now_us)
            elif not watched.finder.lasts:
                watched.pending += watched.finder.begin(now_us, watched.rule.name)

    def finish(self) -> None:
        """The recorder ends: what waits is taken as things stand."""
        for watched in self._watched.values():
            self._take_all(watched)

    def _take_all(self, watched: _Watched) -> None:
        while watched.pending:
            self._take(watched, watched.pending.pop(0))

    def _take(self, watched: _Watched, edge: RunEdge) -> None:
        tags = [self._tags[number] for number in watched.rule.attributes if number in self._tags]
        reading = self._live.at(self._live.slots_of([tag.tag_id for tag in tags]), edge.at_us)
        attributes = tuple(
            RunAttribute(tag.tag_id, int(tag.value_type), int(bits), int(quality))
            for tag, bits, quality in zip(tags, reading.bits, reading.quality, strict=True)
        )
        origin = watched.rule.origin.value
        self._emit(RunMark(watched.rule.rule_id, origin, edge.at_us, edge.begins, edge.name, attributes))


def _same(a: RunRule, b: RunRule) -> bool:
    """Another name or other attributes are no reason to end a run."""
    return (a.origin, a.tag_id, a.logger_id) == (b.origin, b.tag_id, b.logger_id)

"""On-change loggers at work: core's rules, one for each tag, fed with readings and time.

A set-up that changes makes new loggers; each takes over from the one before what its members have been
through, so that a tag whose rule stays the same notices nothing.
"""

from __future__ import annotations

import logging
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cronaca.core import logger_rules as rules
from cronaca.core.bits import to_bits
from cronaca.core.errors import InvalidInput
from cronaca.core.logger_rules import Rule, rule_for
from cronaca.core.loggers import Logger, OnChange
from cronaca.core.model import NO_RULE, Gap, GapReason, RuleSpec, Tag, ValueType, Window
from cronaca.core.readings import Readings, Slots
from cronaca.recorder.outputs.queue import Samples
from cronaca.recorder.stages.logger_stage import NEVER, LoggerStage, mine_of
from cronaca.recorder.stages.stage import Moment, StageContext

_log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class _Member:
    """One tag of an on-change logger; its rule carries on as long as all of this stays the same."""

    history: int
    spec: RuleSpec
    settings: tuple[float, float, bool]
    """Range and kind of line: a rule may depend on them."""


class ChangeLogger(LoggerStage):
    """Records its tags by rules of their own; what a rule holds back comes when its time is over."""

    def __init__(self, logger: Logger, context: StageContext, before: ChangeLogger | None = None) -> None:
        super().__init__(logger, context, before)
        mode = logger.mode_as(OnChange)
        self._tags = [context.tags[tag_id] for tag_id in logger.tags]
        types = context.live.types[self._slots]
        self._types = [ValueType(n) for n in types.tolist()]
        self._is_float = types == ValueType.FLOAT
        self._keys = self.keys
        own = dict(mode.overrides)
        self._members: list[_Member] = []
        for tag, history in zip(self._tags, self._histories.tolist(), strict=True):
            settings = tag.range_low, tag.range_high, tag.stepped
            self._members.append(_Member(history, own.get(tag.tag_id, mode.rule), settings))
        known = {} if before is None else dict(zip(before._members, before._rules, strict=True))
        self._rules: list[Rule] = [
            known[member] if member in known else _rule_for(member.spec, tag)
            for member, tag in zip(self._members, self._tags, strict=True)
        ]
        self._holding = {i for i, rule in enumerate(self._rules) if rule.holds_since_us is not None}
        if before is not None:
            self._finish_others(before)

    def _finish_others(self, before: ChangeLogger) -> None:
        """Members that left, or whose rule is another one: what was held back is recorded."""
        mine = {id(rule) for rule in self._rules}
        left = [i for i in sorted(before._holding) if id(before._rules[i]) not in mine]
        before._put([(i, sample) for i in left for sample in before._rules[i].finish()])

    def _reads(self) -> Sequence[int]:
        """Its members."""
        return self.setup.tags

    def _take(self, readings: Readings) -> None:
        """Offers readings to the rules of their members."""
        if self.held:
            return
        mine, members = self._mine(readings)
        if not len(members):
            return
        offered = readings.take(mine)
        values = _values(offered.bits, self._is_float[members])
        samples = []
        rows = zip(members.tolist(), offered.ts_us.tolist(), values, offered.quality.tolist(), strict=True)
        for i, time_us, value, quality in rows:
            rule = self._rules[i]
            samples += [(i, sample) for sample in rule.offer(rules.Sample(time_us, value, quality))]
            if rule.holds_since_us is None:
                self._holding.discard(i)
            else:
                self._holding.add(i)
        self._put(samples)

    def _pass_time(self, moment: Moment) -> None:
        """Records what was held back long enough."""
        if not self.held:
            self.pass_time(moment.until_us)

    def _next_time(self) -> int:
        """As soon as possible while something is held back."""
        return 0 if self._holding else NEVER

    def ask(self, _now_us: int) -> None:
        """The next value of each member is recorded."""
        self.tear()

    def miss(self, slots: Slots, window: Window, detail: str) -> None:
        """Nobody read these slots over a window: their members have a gap, and begin anew behind it."""
        _, members = mine_of(self._member_of, slots)
        numbers = members[~self._off[members]].tolist()
        keys = tuple(self._keys[i] for i in numbers)
        if not keys:
            return
        self._put([(i, sample) for i in numbers for sample in self._rules[i].finish()])
        self._context.emit(Gap(window.start_us, window.end_us, GapReason.RECORDER_LATE, detail, keys))
        for i in numbers:
            self._rules[i] = _rule_for(self._members[i].spec, self._tags[i])
            self._holding.discard(i)

    def pass_time(self, until_us: int) -> None:
        """Records what was held back long enough; every reading until then was handed on."""
        samples = []
        for i in sorted(self._holding):
            rule = self._rules[i]
            samples += [(i, sample) for sample in rule.pass_time(until_us)]
            if rule.holds_since_us is None:
                self._holding.discard(i)
        self._put(samples)

    def _take_sample(self, ts_us: int, reason: str) -> None:
        """What is held back comes before it, and the next value of each member is kept."""
        self.tear()
        super()._take_sample(ts_us, reason)

    def _finish_member(self, member: int) -> None:
        """What is held back of a member is recorded."""
        self._put([(member, sample) for sample in self._rules[member].finish()])
        self._holding.discard(member)

    def _restart_member(self, member: int) -> None:
        """The next value of a member is kept, as after a start."""
        self._rules[member] = _rule_for(self._members[member].spec, self._tags[member])

    def finish(self) -> None:
        """What is held back is recorded."""
        self._put([(i, sample) for i in sorted(self._holding) for sample in self._rules[i].finish()])
        self._holding.clear()

    def tear(self) -> None:
        """Records what is held back; then the next value of each member is kept, as after a start."""
        self.finish()
        self._rules = [_rule_for(m.spec, tag) for m, tag in zip(self._members, self._tags, strict=True)]

    def _put(self, samples: list[tuple[int, rules.Sample]]) -> None:
        if not samples:
            return
        members = np.array([i for i, _ in samples], np.intp)
        ts = np.array([sample.ts_us for _, sample in samples], np.int64)
        bits = [to_bits(sample.value, self._types[i]) for i, sample in samples]
        quality = np.array([sample.quality for _, sample in samples], np.uint16)
        self._context.emit(Samples(self._histories[members], ts, np.array(bits, np.int64), quality))
        self.kept += len(samples)


def _rule_for(spec: RuleSpec, tag: Tag) -> Rule:
    """The rule for a tag. One without a meaning for it (the set-up refuses that) must not stop the others."""
    try:
        return rule_for(spec, tag)
    except InvalidInput as exc:
        _log.error("%s is recorded at every change: %s", tag.name, exc)
        return rule_for(NO_RULE, tag)


def _values(bits: NDArray[np.int64], is_float: NDArray[np.bool_]) -> list[float | int]:
    """The values of 64-bit columns of mixed types, exact."""
    values: list[float | int] = bits.tolist()
    if is_float.any():
        floats = bits.view(np.float64)
        for i in np.flatnonzero(is_float).tolist():
            values[i] = float(floats[i])
    return values

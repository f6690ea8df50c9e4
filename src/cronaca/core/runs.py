"""When the runs of a rule begin and end, by what its tag was: live, and over what was recorded before."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cronaca.core.model import RunOrigin, RunRule, Series, ValueType
from cronaca.core.quality import BAD


@dataclass(frozen=True, slots=True)
class RunEdge:
    """A run begins (and has a name), or the one that lasts ends."""

    at_us: int
    begins: bool
    name: str = ""


class RunFinder:
    """Watches one rule. A Bad value tells nothing: a run goes on through it."""

    def __init__(self, rule: RunRule) -> None:
        self.rule = rule
        self.lasts = False
        self._last: float | None = None

    def offer(self, at_us: int, value: float | int | bool, quality: int, kind: ValueType) -> list[RunEdge]:
        """What a reading of the rule's tag begins and ends."""
        if quality >= BAD:
            return []
        before, self._last = self._last, float(value)
        if self.rule.origin is RunOrigin.TAG:
            if not value:
                return self.end(at_us)
            return [] if self.lasts else self.begin(at_us, self.rule.name)
        if before == value:
            return []
        shown = f"{value:g}" if kind is ValueType.FLOAT else f"{int(value)}"
        return [*self.end(at_us), *self.begin(at_us, f"{self.rule.name} {shown}")]

    def begin(self, at_us: int, name: str) -> list[RunEdge]:
        """A run begins."""
        self.lasts = True
        return [RunEdge(at_us, begins=True, name=name)]

    def end(self, at_us: int) -> list[RunEdge]:
        """The run that lasts ends, if one does."""
        if not self.lasts:
            return []
        self.lasts = False
        return [RunEdge(at_us, begins=False)]


def changes(series: Series) -> NDArray[np.intp]:
    """Positions of the usable samples whose value is not that of the usable one before; the first is one."""
    usable = np.flatnonzero(series.quality < BAD)
    values = series.values[usable]
    result: NDArray[np.intp] = usable[np.r_[True, values[1:] != values[:-1]][: len(usable)]]
    return result

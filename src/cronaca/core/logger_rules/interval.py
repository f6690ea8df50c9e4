"""Mean, lowest or highest of the readings of an interval, for loggers by the clock."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.errors import InvalidInput
from cronaca.core.model import Keeps, Tag, Times, ValueType

Floats = NDArray[np.float64]


@dataclass(slots=True)
class _Sums:
    """Of the readings of one interval, per member."""

    count: NDArray[np.int64]
    doubtful: NDArray[np.bool_]
    total: Floats
    low: Floats
    high: Floats

    @classmethod
    def none(cls, members: int) -> _Sums:
        """No reading yet."""
        return cls(
            np.zeros(members, np.int64), np.zeros(members, np.bool_), np.zeros(members),
            np.full(members, np.inf), np.full(members, -np.inf),
        )  # fmt: skip


class IntervalValues:
    """Collects readings by the interval [start, start + length) in which they were taken. A reading at the
    very tick belongs to the interval that begins there."""

    def __init__(self, members: int, keeps: Keeps, interval_us: int, phase_us: int) -> None:
        self._members = members
        self._keeps = keeps
        self._interval_us = interval_us
        self._phase_us = phase_us
        self._open: dict[int, _Sums] = {}

    def offer(
        self, members: NDArray[np.intp], ts_us: int | Times, values: Floats, quality: q.QualityArray
    ) -> None:
        """Readings of some members, one of each, at one time or each at its own."""
        numbers = (np.broadcast_to(ts_us, members.shape) - self._phase_us) // self._interval_us
        for number in np.unique(numbers).tolist():
            chosen = numbers == number
            self._add(number, members[chosen], values[chosen], quality[chosen])

    def _add(self, number: int, members: NDArray[np.intp], values: Floats, quality: q.QualityArray) -> None:
        sums = self._open.setdefault(number, _Sums.none(self._members))
        sums.doubtful[members] |= ~q.is_good(quality)
        usable = ~q.is_bad(quality)
        members, values = members[usable], values[usable]
        sums.count[members] += 1
        sums.total[members] += values
        sums.low[members] = np.minimum(sums.low[members], values)
        sums.high[members] = np.maximum(sums.high[members], values)

    def take(self, tick_us: int) -> tuple[Floats, q.QualityArray]:
        """Values and qualities of the interval that ends at a tick: Good when all readings were, Bad without
        a usable one, Uncertain otherwise. Older intervals are forgotten."""
        number = (tick_us - self._phase_us) // self._interval_us - 1
        sums = self._open.pop(number, None) or _Sums.none(self._members)
        self._open = {k: v for k, v in self._open.items() if k > number}
        some = sums.count > 0
        chosen = {Keeps.LOW: sums.low, Keeps.HIGH: sums.high}.get(
            self._keeps, sums.total / np.maximum(sums.count, 1)
        )
        quality = np.where(sums.doubtful, q.UNCERTAIN, q.GOOD)
        return np.where(some, chosen, 0.0), np.where(some, quality, q.BAD_NO_DATA).astype(np.uint16)


def check_keeps(keeps: Keeps, tag: Tag) -> None:
    """Raises InvalidInput where the figure has no meaning for a tag."""
    kinds = {
        Keeps.VALUE: tuple(ValueType),
        Keeps.MEAN: (ValueType.FLOAT,),
        Keeps.LOW: (ValueType.FLOAT, ValueType.INTEGER),
        Keeps.HIGH: (ValueType.FLOAT, ValueType.INTEGER),
    }[keeps]
    if tag.value_type not in kinds:
        raise InvalidInput(
            "keeps",
            "no-values",
            "{tag} has no {keeps} of its values",
            "Keep the value at the tick.",
            tag=tag.name,
            keeps=keeps.value,
        )

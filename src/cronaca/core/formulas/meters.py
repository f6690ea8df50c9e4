"""Counters and meters: values that grow, with a reset; what they stand at is kept over a restart."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass
from typing import Final

import numpy as np

from cronaca.core import quality as q
from cronaca.core.addresses.calculated import Calculation, Kind
from cronaca.core.formulas.columns import Column, Flags, Floats, Instants
from cronaca.core.model import SECOND, Edge, Times

PER_SECONDS: Final = {"s": 1.0, "min": 60.0, "h": 3600.0}
INPUT: Final = "input"
RESET: Final = "reset"
_MOST_STEPS: Final = 3


@dataclass(frozen=True, slots=True)
class _Stretches:
    """Seconds from each instant to the next, and the input at them: one more than there are stretches."""

    spans: Floats
    x: Column


class Meter(ABC):
    """Runs over instants like a formula. While its input is Bad it stands still and is Uncertain."""

    def __init__(self, bridge_us: int) -> None:
        self.value = 0.0
        """What it stands at."""
        self._bridge_us = bridge_us
        self._reset_last: float | None = None
        self._last_us: int | None
        self._last: Column
        self.tear()

    def run(self, instants: Instants) -> Column:
        """The results at these instants; a rising edge of the reset sets it to zero there."""
        x = instants.inputs[INPUT]
        first_us = instants.ts_us[:1] if self._last_us is None else np.array([self._last_us], np.int64)
        since = Column(np.append(self._last.values, x.values), np.append(self._last.quality, x.quality))
        spans = self._spans(np.append(first_us, instants.ts_us))
        grown = self.value + np.cumsum(self._steps(_Stretches(spans, since)))
        result = self._with_resets(grown, instants.inputs.get(RESET))
        self.value = float(result[-1])
        self._last_us = int(instants.ts_us[-1])
        self._last = Column(x.values[-1:], x.quality[-1:])
        quality = np.where(x.usable, x.quality, np.uint16(q.UNCERTAIN_LAST_USABLE))
        return Column.of(result, quality)

    def tear(self) -> None:
        """A hole begins here: the time until the next instant does not count."""
        self._last_us = None
        self._last = Column(np.array([np.nan]), np.array([q.BAD_WAITING_FOR_INITIAL_DATA], np.uint16))

    @abstractmethod
    def _steps(self, since: _Stretches) -> Floats:
        """What it grows by at each instant."""

    def _with_resets(self, grown: Floats, reset: Column | None) -> Floats:
        if reset is None:
            return grown
        at = rising(reset, self._reset_last)
        usable = reset.values[reset.usable]
        if len(usable):
            self._reset_last = float(usable[-1])
        last = np.maximum.accumulate(np.where(at, np.arange(len(grown)), -1))
        return np.where(last < 0, grown, grown - grown[np.maximum(last, 0)])

    def _spans(self, ts_us: Times) -> Floats:
        """Seconds between instants; none across a hole, which nobody has seen into."""
        spans = np.diff(ts_us)
        return np.where((spans > self._bridge_us) | (spans < 0), 0, spans) / SECOND


def rising(x: Column, before: float | None, edge: Edge = Edge.RISING) -> Flags:
    """Where the usable values have an edge; Bad ones are passed over, the first usable one is none."""
    result = np.zeros(len(x), np.bool_)
    at = np.flatnonzero(x.usable)
    values = x.values[at]
    known = values[:1] if before is None else np.array([before])
    earlier = np.concatenate([known, values[:-1]])[: len(values)]
    rises, falls = (earlier == 0) & (values != 0), (earlier != 0) & (values == 0)
    result[at] = {Edge.RISING: rises, Edge.FALLING: falls}.get(edge, rises | falls)
    return result


class Counter(Meter):
    """Counts edges."""

    def __init__(self, bridge_us: int, edge: Edge) -> None:
        super().__init__(bridge_us)
        self._edge = edge
        self._usable: float | None = None

    def _steps(self, since: _Stretches) -> Floats:
        x = since.x
        now = Column(x.values[1:], x.quality[1:])
        steps = rising(now, self._usable, self._edge)
        usable = now.values[now.usable]
        if len(usable):
            self._usable = float(usable[-1])
        return steps.astype(np.float64)


class Hours(Meter):
    """Sums up the time for which its input is not zero, in the unit of time it is set up with."""

    def __init__(self, bridge_us: int, per: str) -> None:
        super().__init__(bridge_us)
        self._per_s = PER_SECONDS[per]

    def _steps(self, since: _Stretches) -> Floats:
        return np.where(since.x.true[:-1], since.spans, 0.0) / self._per_s


class Total(Meter):
    """Sums up a rate: held between instants, or along straight lines between them."""

    def __init__(self, bridge_us: int, per: str, *, stepped: bool) -> None:
        super().__init__(bridge_us)
        self._per_s = PER_SECONDS[per]
        self._stepped = stepped

    def _steps(self, since: _Stretches) -> Floats:
        first, then = since.x.values[:-1], since.x.values[1:]
        height = first if self._stepped else np.where(np.isnan(then), first, (first + then) / 2)
        return np.nan_to_num(height * since.spans) / self._per_s


def meter_for(place: Calculation, scan_us: int, *, stepped: bool) -> Meter:
    """A meter as it is set up; `stepped` says how its input reads between samples. Time is bridged for at
    most three of its scans, and 3 s."""
    bridge_us = _MOST_STEPS * max(scan_us, SECOND)
    if place.kind is Kind.COUNTER:
        return Counter(bridge_us, place.edge)
    if place.kind is Kind.HOURS:
        return Hours(bridge_us, place.per)
    return Total(bridge_us, place.per, stepped=stepped)

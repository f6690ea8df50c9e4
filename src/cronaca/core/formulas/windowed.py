"""A statistic of a tag over a window that moves on: the last so many seconds, or the present hour, shift or
day. It is the very figure that is computed of recorded samples, here of the values as they are read."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Final

import numpy as np

from cronaca.core import quality as q
from cronaca.core.addresses.calculated import Calculation
from cronaca.core.aggregates import Configuration, Samples, status
from cronaca.core.aggregates.intervals import by_duration
from cronaca.core.errors import InvalidInput
from cronaca.core.figures import Figure, check, compute
from cronaca.core.formulas.columns import Column
from cronaca.core.model import SECOND, Series, ValueType, concatenate
from cronaca.core.statistics import StatSpec
from cronaca.core.windows import PlantCalendar, Unit, start_of

_MOST_A_WINDOW: Final = 1_000
"""So often a window is summed up while it moves by its own length: a long one does not keep the recorder
busy."""
_LONGEST_UNIT_S: Final = {Unit.HOUR: 3_600.0, Unit.SHIFT: 43_200.0, Unit.DAY: 90_000.0}
_BRIDGE_US: Final = 5 * SECOND
"""What is committed lags behind what is read by less than this: no hole."""
Row = tuple[int, float, int]


class Windowed:
    """Keeps what its window needs. Where nothing was recorded of the time before it began, its figures are
    Uncertain until the window has passed once."""

    def __init__(
        self, place: Calculation, scan_us: int, kind: ValueType, calendar: PlantCalendar, *, stepped: bool
    ) -> None:
        self._facts = place, scan_us, kind, calendar, stepped
        check_windowed(place, kind, calendar)
        self._wish = wish_of(place)
        self._kind = kind
        self._configuration = Configuration(treat_uncertain_as_bad=False, stepped=stepped)
        self._begin = _begin_of(place, calendar)
        step_us = max(scan_us, SECOND)
        length_us = round(_longest_s(place) * SECOND)
        self.every_us = -(-length_us // (_MOST_A_WINDOW * step_us)) * step_us
        """How often it is evaluated: at whole multiples of this."""
        self._series = Series.empty(kind)
        self._heard: list[Row] = []

    def afresh(self) -> Windowed:
        """The same, with nothing behind it."""
        place, scan_us, kind, calendar, stepped = self._facts
        return Windowed(place, scan_us, kind, calendar, stepped=stepped)

    def hear(self, rows: Iterable[Row]) -> None:
        """Takes note of readings: time, value, quality. One that is not newer than the last tells nothing."""
        last_us = self._heard[-1][0] if self._heard else self._newest_us()
        for row in rows:
            if row[0] > last_us:
                self._heard.append(row)
                last_us = row[0]

    def begin_us(self, at_us: int) -> int:
        """Where the window begins that ends at an instant."""
        return self._begin(at_us)

    def remember(self, past: Series, known_until_us: int) -> None:
        """What was recorded before the first reading; what was between the two is not known, if that is
        long."""
        self._join()
        first_us = int(self._series.ts_us[0]) if len(self._series) else known_until_us
        older = past.take(past.ts_us < first_us)
        if past.value_type is not self._kind or not len(older):
            return
        parts = [older, self._series]
        if first_us - known_until_us > _BRIDGE_US:
            hole_us = max(known_until_us, int(older.ts_us[-1]) + 1)
            parts.insert(1, Series.of(self._kind, [hole_us], [0], [q.BAD_NO_DATA]))
        self._series = concatenate(parts, self._kind)

    def at(self, at_us: int) -> Column:
        """The figure of the window that ends at an instant."""
        self._join()
        begin_us = self._begin(at_us)
        self._forget(begin_us)
        samples = Samples(self._series, known_until_us=at_us)
        (figure,) = compute([self._wish], samples, by_duration(begin_us, at_us), self._configuration)
        if not isinstance(figure, Figure):
            raise TypeError(self._wish.name)
        value, code = figure.result.value(0), int(figure.result.codes[0])
        quality = code >> 16
        if quality < q.UNCERTAIN and code & status.PARTIAL:
            quality = int(q.UNCERTAIN_DATA_SUB_NORMAL)
        number = np.nan if value is None else float(value)
        if value is None and quality < q.BAD:
            quality = int(q.BAD_NO_DATA)
        return Column.of(np.array([number]), np.array([quality], np.uint16))

    def _newest_us(self) -> int:
        return int(self._series.ts_us[-1]) if len(self._series) else -1

    def _join(self) -> None:
        if not self._heard:
            return
        ts_us, values, quality = zip(*self._heard, strict=True)
        more = Column.of(np.array(values), np.array(quality, np.uint16)).to_series(
            np.array(ts_us, np.int64), self._kind
        )
        self._series = concatenate([self._series, more], self._kind)
        self._heard = []

    def _forget(self, begin_us: int) -> None:
        """Drops what lies before the window, but for what it began with: the last sample before it, and the
        last one that had a value, for an edge may lie at its very beginning."""
        before = int(self._series.ts_us.searchsorted(begin_us))
        usable = np.flatnonzero(~q.is_bad(self._series.quality[:before]))
        first = int(usable[-1]) if len(usable) else before - 1
        if first > 0:
            self._series = self._series.take(slice(first, None))


def check_windowed(place: Calculation, kind: ValueType, calendar: PlantCalendar) -> None:
    """Raises InvalidInput for a statistic without a meaning for its input, or a window that the plant does
    not have."""
    check(wish_of(place), kind, has_other=False)
    if place.window == Unit.SHIFT and not calendar.shifts:
        raise InvalidInput(
            "window",
            "plant-no-shift-calendar",
            "the plant has no shift calendar",
            "Enter its shifts in the set-up.",
        )


def wish_of(place: Calculation) -> StatSpec:
    """The figure that is asked for; raises InvalidInput for one that is no single number of one tag."""
    spec = StatSpec(place.figure, place.percent)
    if place.figure in _NO_NUMBERS:
        raise InvalidInput(
            "figure",
            "not-number-one-tag",
            "{figure} is not a number of one tag",
            "Choose another figure.",
            figure=place.figure,
        )
    return spec.checked()


_NO_NUMBERS: Final = frozenset({
    "Histogram", "TimeInStates", "Correlation", "CountWhile", "AnnotationCount", "WorstQuality",
    "WorstQuality2",
})  # fmt: skip


def _begin_of(place: Calculation, calendar: PlantCalendar) -> Callable[[int], int]:
    """Where the window begins that ends at an instant; at the very start of a unit it is the one before."""
    if isinstance(place.window, float):
        length_us = round(place.window * SECOND)
        return lambda at_us: at_us - length_us
    unit = Unit(place.window)
    return lambda at_us: start_of(unit, at_us - 1, calendar)


def _longest_s(place: Calculation) -> float:
    return place.window if isinstance(place.window, float) else _LONGEST_UNIT_S[Unit(place.window)]

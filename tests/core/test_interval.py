"""Figures of the readings between two ticks."""

from __future__ import annotations

import numpy as np
import pytest

from cronaca.core import quality as q
from cronaca.core.errors import InvalidInput
from cronaca.core.logger_rules.interval import IntervalValues, check_keeps
from cronaca.core.model import SECOND, Keeps, ValueType
from tests.support.builders import NOW, a_tag

TEN = 10 * SECOND
START = NOW - NOW % TEN


def offer(values: IntervalValues, seconds: float, *readings: tuple[float, int]) -> None:
    members = np.arange(len(readings))
    column, quality = np.array([v for v, _ in readings]), np.array([k for _, k in readings], np.uint16)
    values.offer(members, START + round(seconds * SECOND), column, quality)


@pytest.mark.parametrize(
    ("keeps", "first", "second"), [(Keeps.MEAN, 2.0, 7.5), (Keeps.LOW, 1.0, 5.0), (Keeps.HIGH, 3.0, 10.0)]
)
def test_a_reading_at_the_tick_belongs_to_the_interval_that_begins(
    keeps: Keeps, first: float, second: float
) -> None:
    values = IntervalValues(1, keeps, TEN, 0)
    for seconds, value in ((0, 1.0), (5, 3.0), (9.99, 2.0), (10, 5.0), (12, 10.0)):
        offer(values, seconds, (value, q.GOOD))
    assert [values.take(START + TEN)[0].tolist(), values.take(START + 2 * TEN)[0].tolist()] == [
        [first],
        [second],
    ]


def test_quality_says_what_the_figure_is_worth() -> None:
    """All Good; one Bad among Good ones; one Uncertain; all Bad; none at all."""
    values = IntervalValues(5, Keeps.MEAN, TEN, 0)
    good, bad, doubt = q.GOOD, q.BAD_NO_COMMUNICATION, q.UNCERTAIN
    offer(values, 1, (4, good), (4, good), (4, doubt), (0, bad))
    offer(values, 2, (6, good), (0, bad), (6, good), (0, bad))
    found, quality = values.take(START + TEN)
    assert found.tolist() == [5.0, 4.0, 5.0, 0.0, 0.0]
    assert quality.tolist() == [good, doubt, doubt, q.BAD_NO_DATA, q.BAD_NO_DATA]


def test_a_phase_moves_the_intervals_and_missed_ones_are_forgotten() -> None:
    values = IntervalValues(1, Keeps.MEAN, TEN, 3 * SECOND)
    for seconds in range(0, 60, 2):
        offer(values, seconds, (float(seconds), q.GOOD))
    found, _ = values.take(START + 53 * SECOND)
    assert found.tolist() == [np.mean([44, 46, 48, 50, 52])]
    assert len(values._open) == 1, "those before are gone, the one that is open stays"


@pytest.mark.parametrize(
    ("keeps", "kind"), [(Keeps.MEAN, ValueType.INTEGER), (Keeps.HIGH, ValueType.BOOLEAN)]
)
def test_a_figure_without_a_meaning_is_refused(keeps: Keeps, kind: ValueType) -> None:
    with pytest.raises(InvalidInput):
        check_keeps(keeps, a_tag("t", kind))

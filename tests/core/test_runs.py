"""When runs begin and end: what a reading of a rule's tag does."""

from __future__ import annotations

import numpy as np

from cronaca.core import quality as q
from cronaca.core.model import RunOrigin, RunRule, Series, ValueType
from cronaca.core.runs import RunEdge, RunFinder, changes


def edges(origin: RunOrigin, *readings: tuple[int, float, int]) -> list[tuple[int, str]]:
    finder = RunFinder(RunRule(1, "r", "Lot", origin, 7))
    found: list[RunEdge] = []
    for at_us, value, quality in readings:
        found += finder.offer(at_us, value, quality, ValueType.INTEGER)
    return [(edge.at_us, edge.name if edge.begins else "ends") for edge in found]


def test_each_change_ends_one_run_and_begins_the_next() -> None:
    found = edges(RunOrigin.CHANGE, (0, 5, q.GOOD), (1, 5, q.GOOD), (2, 6, q.UNCERTAIN), (3, 6, q.GOOD))
    assert found == [(0, "Lot 5"), (2, "ends"), (2, "Lot 6")]


def test_a_run_goes_on_through_bad_values() -> None:
    found = edges(RunOrigin.CHANGE, (0, 5, q.GOOD), (1, 0, q.BAD), (2, 5, q.GOOD))
    assert found == [(0, "Lot 5")]


def test_while_a_tag_is_not_zero() -> None:
    found = edges(
        RunOrigin.TAG, (0, 0, q.GOOD), (1, 1, q.GOOD), (2, 1, q.GOOD), (3, 0, q.GOOD), (4, 0, q.GOOD)
    )
    assert found == [(1, "Lot"), (3, "ends")]


def test_only_changes_of_usable_values_are_looked_at() -> None:
    quality = [q.BAD, q.GOOD, q.GOOD, q.BAD, q.GOOD, q.GOOD]
    series = Series.of(ValueType.INTEGER, range(6), [0, 4, 4, 0, 4, 5], quality)
    assert changes(series).tolist() == [1, 5]
    assert changes(series.take(np.array([0]))).tolist() == []

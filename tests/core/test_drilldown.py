"""Pareto shares, what a contact was in and when, one scale for all."""

from __future__ import annotations

import pytest

from cronaca.core import quality as q
from cronaca.core.model import DAY, HOUR, MINUTE, Series, ValueType, Window
from cronaca.core.statistics.drilldown import (
    Stretch,
    common_scale,
    drawn_band,
    pareto,
    stretch_length,
    timeline,
)
from cronaca.core.statistics.norms import Band


def test_pareto_orders_and_adds_up() -> None:
    """Counted by hand: 50, 30, 15 and 5 of 100."""
    found = pareto([15.0, 50.0, None, 5.0, 30.0, -1.0, float("nan")])
    assert [one.index for one in found] == [1, 4, 0, 3]
    assert [one.share for one in found] == [0.5, 0.3, 0.15, 0.05]
    assert [one.cumulative for one in found] == pytest.approx([0.5, 0.8, 0.95, 1.0])
    assert pareto([0.0, None]) == []
    assert pareto([]) == []


def contact(*samples: tuple[int, int, int]) -> Series:
    times, values, codes = zip(*samples, strict=True) if samples else ((), (), ())
    return Series.of(ValueType.BOOLEAN, times, values, codes)


def test_a_timeline_covers_the_window_and_joins_what_is_the_same() -> None:
    """By hand: off from before the window, on from 20 to 40 (told twice), bad from 60, off again from 80."""
    series = contact((-5, 0, 0), (20, 1, 0), (30, 1, 0), (40, 0, 0), (60, 0, q.BAD), (80, 0, 0), (120, 1, 0))
    assert timeline(series, Window(0, 100)) == [
        Stretch(0, 20, 0), Stretch(20, 40, 1), Stretch(40, 60, 0), Stretch(60, 80, None), Stretch(80, 100, 0),
    ]  # fmt: skip


def test_before_the_first_sample_nothing_is_known() -> None:
    assert timeline(contact((30, 1, 0)), Window(0, 100)) == [Stretch(0, 30, None), Stretch(30, 100, 1)]
    assert timeline(contact(), Window(0, 100)) == [Stretch(0, 100, None)]
    assert timeline(contact((0, 1, 0)), Window(0, 100)) == [Stretch(0, 100, 1)], "from the very start"


@pytest.mark.parametrize(
    ("length", "stretch"),
    [(10 * MINUTE, MINUTE), (8 * HOUR, 30 * MINUTE), (DAY, HOUR), (7 * DAY, 8 * HOUR), (60 * DAY, 3 * DAY)],
)
def test_stretches_are_round_and_few(length: int, stretch: int) -> None:
    found = stretch_length(Window(0, length))
    assert found == stretch
    assert -(-length // found) <= 24


def test_a_band_is_drawn_as_far_as_figures_can_lie_in_it() -> None:
    band = Band(-5.0, 2.0, 9.0, 4)
    assert drawn_band(band, "Travel") == Band(0.0, 2.0, 9.0, 4)
    assert drawn_band(band, "TimeAverage2") == band
    assert drawn_band(None, "Travel") is None


def test_one_scale_holds_every_value_and_band() -> None:
    low, high = common_scale([[70.0, 72.0], [None, 71.0]], [Band(69.0, 71.0, 73.0), None])
    assert low < 69.0
    assert high > 73.0
    assert common_scale([[5.0, 1.0]], [])[0] == 0.0
    assert common_scale([[None]], []) == (0.0, 1.0)
    low, high = common_scale([[3.0]], [])
    assert low < 3.0 < high

"""On-change rules on arrays: tables by hand, and laws that hold for every signal."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cronaca.core import quality as q
from cronaca.core.errors import InvalidInput
from cronaca.core.logger_rules import (
    ChangeRule,
    ChangeSettings,
    Rehearsal,
    Rule,
    Sample,
    SwingingDoorRule,
    SwingingDoorSettings,
    compare,
    rehearse,
    replay,
)
from cronaca.core.logger_rules.backfill import backfilled
from cronaca.core.logger_rules.rehearse import missed_edges
from cronaca.core.logger_rules.rules import SampleLists
from cronaca.core.loggers import Periodic
from cronaca.core.model import SECOND, Series, ValueType, Window
from tests.support.builders import a_tag

BAD = q.BAD_SENSOR_FAILURE


def series(values: list[float | None], kind: ValueType = ValueType.FLOAT) -> Series:
    """A reading a second; None is a failed probe."""
    quality = [BAD if v is None else q.GOOD for v in values]
    return Series.of(kind, [i * SECOND for i in range(len(values))], [v or 0 for v in values], quality)


Settings = ChangeSettings | SwingingDoorSettings


def kept(settings: Settings, values: list[float | None]) -> list[tuple[float, float | None]]:
    rule: Rule = (
        ChangeRule(settings.checked())
        if isinstance(settings, ChangeSettings)
        else SwingingDoorRule(settings.checked())
    )
    found = replay(rule, series(values))
    bad = q.is_bad(found.quality)
    return [(t / SECOND, None if b else v) for t, v, b in zip(found.ts_us, found.values, bad, strict=True)]


@pytest.mark.parametrize("settings,values,expected", [
    # without anything: each change, never an unchanged value again
    (ChangeSettings(), [1, 1, 2, 2, 2, 1], [(0, 1), (2, 2), (5, 1)]),
    # the deadband counts from the value kept, and is itself no change
    (ChangeSettings(deadband=1), [0, 1, 1.5, 2, 3, 2.6], [(0, 0), (2, 1.5), (4, 3)]),
    # a failure and its end are kept at once
    (ChangeSettings(deadband=5), [0, 1, None, None, 1, 2], [(0, 0), (2, None), (4, 1)]),
    # rate limit: the newest when it is over, with the time at which it was taken
    (ChangeSettings(rate_limit_us=3 * SECOND), [0, 1, 2, 3, 4, 5, 6, 7], [(0, 0), (3, 3), (6, 6), (7, 7)]),
    # there and back within the limit: nothing, or, with extremes, the spike and the way back
    (ChangeSettings(rate_limit_us=3 * SECOND), [5, 9, 5, 5, 5, 5], [(0, 5)]),
    (ChangeSettings(rate_limit_us=3 * SECOND, keep_extremes=True), [5, 9, 1, 5, 5, 5],
     [(0, 5), (1, 9), (2, 1), (3, 5)]),
    # after a limit in which nothing moved a change is kept at once
    (ChangeSettings(rate_limit_us=2 * SECOND), [0, 0, 0, 0, 7, 8, 8, 8], [(0, 0), (4, 7), (6, 8)]),
    # a failure inside the limit is not held back, nor what was held before it
    (ChangeSettings(rate_limit_us=9 * SECOND), [0, 1, 2, None, 3], [(0, 0), (2, 2), (3, None), (4, 3)]),
    # stamped when it was kept
    (ChangeSettings(rate_limit_us=3 * SECOND, stamp_kept=True), [0, 1, 1, 1, 1, 1], [(0, 0), (3, 1)]),
    # longest silence
    (ChangeSettings(longest_silence_us=2 * SECOND), [4, 4, 4, 4, 4, 5, 5], [(0, 4), (2, 4), (4, 4), (5, 5)]),
    # the last reading before a change, so that a slope does not begin too early
    (ChangeSettings(bridge=True), [4, 4, 4, 4, 9, 9], [(0, 4), (3, 4), (4, 9)]),
    (ChangeSettings(bridge=True, deadband=1), [4, 4.5, 4.5, 9], [(0, 4), (2, 4.5), (3, 9)]),
    (ChangeSettings(bridge=True), [4, 9, 9], [(0, 4), (1, 9)]),
    # straight-line compression: a ramp needs its ends only
    (SwingingDoorSettings(0.1), [0, 1, 2, 3, 4, 4, 4, 4], [(0, 0), (4, 4), (7, 4)]),
    (SwingingDoorSettings(0.1, 3 * SECOND), [0, 1, 2, 3, 4, 5, 6], [(0, 0), (3, 3), (6, 6)]),
    (SwingingDoorSettings(0.1), [0, 1, None, None, 2, 3], [(0, 0), (1, 1), (2, None), (4, 2), (5, 3)]),
])  # fmt: skip
def test_by_hand(
    settings: Settings,
    values: list[float | None],
    expected: list[tuple[float, float | None]],
) -> None:
    assert kept(settings, values) == expected


@pytest.mark.parametrize("settings,field", [
    (ChangeSettings(deadband=-1), "deadband"), (ChangeSettings(deadband=float("nan")), "deadband"),
    (ChangeSettings(rate_limit_us=-1), "rate_limit"),
    (ChangeSettings(longest_silence_us=-1), "longest_silence"),
    (ChangeSettings(rate_limit_us=2, longest_silence_us=1), "rate_limit"),
    (ChangeSettings(keep_extremes=True), "keep_extremes"), (SwingingDoorSettings(0), "largest_error"),
    (SwingingDoorSettings(1, -1), "longest_silence"),
])  # fmt: skip
def test_a_rule_that_means_nothing_names_its_field(settings: Settings, field: str) -> None:
    with pytest.raises(InvalidInput) as error:
        settings.checked()
    assert error.value.field == field


signals = st.lists(
    st.one_of(st.integers(-20, 20).map(lambda n: n / 2), st.just(None), st.just(3.0)), min_size=1, max_size=60
)
change_facts = st.builds(
    ChangeSettings,
    deadband=st.sampled_from([0.0, 0.5, 2.0]),
    rate_limit_us=st.sampled_from([0, 2 * SECOND, 5 * SECOND]),
    stamp_kept=st.booleans(),
    longest_silence_us=st.sampled_from([0, 7 * SECOND]),
    bridge=st.booleans(),
)


@given(change_facts, st.booleans(), signals)
def test_what_is_kept_is_in_order_and_never_says_the_same_twice(
    settings: ChangeSettings, extremes: bool, values: list[float | None]
) -> None:
    settings = with_extremes(settings, extremes)
    found = replay(ChangeRule(settings), series(values))
    assert (np.diff(found.ts_us) > 0).all()
    if not settings.longest_silence_us and not settings.bridge and not settings.stamp_kept:
        pairs = list(zip(found.values, q.is_bad(found.quality), strict=True))
        for (v0, b0), (v1, b1) in pairwise(pairs):
            assert b0 != b1 or abs(v1 - v0) > settings.deadband


def with_extremes(settings: ChangeSettings, extremes: bool) -> ChangeSettings:
    return ChangeSettings(
        settings.deadband, settings.rate_limit_us, extremes and settings.rate_limit_us > 0,
        settings.stamp_kept, settings.longest_silence_us, settings.bridge,
    )  # fmt: skip


@given(st.sampled_from([0.0, 0.5, 2.0]), st.booleans(), signals)
def test_without_a_limit_no_reading_is_further_from_what_is_kept_than_the_deadband(
    deadband: float, bridge: bool, values: list[float | None]
) -> None:
    readings = series(values)
    made = rehearse(
        ChangeRule(ChangeSettings(deadband, bridge=bridge)), readings, Window(0, 60 * SECOND), stepped=True
    )
    assert made.largest_error <= deadband


@given(st.sampled_from([2, 5]), st.booleans(), signals)
def test_with_a_limit_changes_are_that_far_apart_and_no_extreme_is_lost(
    seconds: int, extremes: bool, values: list[float | None]
) -> None:
    usable = [v for v in values if v is not None]
    readings = series(list(usable))
    found = replay(
        ChangeRule(ChangeSettings(rate_limit_us=seconds * SECOND, keep_extremes=extremes)), readings
    )
    if not extremes:
        # The last sample comes out when the logger stops.
        assert (np.diff(found.ts_us[:-1]) >= seconds * SECOND).all()
    elif usable:
        assert found.values.min() == min(usable)
        assert found.values.max() == max(usable)
    if usable:
        assert found.values[-1] == usable[-1], "the newest is never lost"


@given(change_facts, st.booleans(), signals, st.integers(1, 3))
def test_time_that_passes_meanwhile_changes_nothing(
    settings: ChangeSettings, extremes: bool, values: list[float | None], ticks: int
) -> None:
    """A recorder asks again and again; a rehearsal only offers the readings."""
    settings = with_extremes(settings, extremes)
    readings = series(values)
    rule, found = ChangeRule(settings), []
    columns = (readings.ts_us.tolist(), readings.values.tolist(), readings.quality.tolist())
    for reading in map(Sample, *columns):
        held = rule.holds_since_us
        for part in range(ticks):
            more = rule.pass_time(reading.ts_us - SECOND + (part + 1) * SECOND // (ticks + 1))
            assert not more or (held is not None and more[0].ts_us >= held), "nothing older than was said"
            found += more
        found += rule.offer(reading)
    found += rule.finish()
    alone = replay(ChangeRule(settings), readings)
    assert [one.ts_us for one in found] == alone.ts_us.tolist()


rough_signals = st.lists(
    st.tuples(
        st.sampled_from([0, 1, 1, 1, 1, 4]), st.integers(-4, 4).map(lambda n: n / 2),
        st.sampled_from([q.GOOD] * 8 + [q.UNCERTAIN, BAD]),
    ),
    max_size=80,
)  # fmt: skip
"""Seconds since the one before (none: of the same time), value and quality."""


@given(
    st.one_of(
        st.builds(with_extremes, change_facts, st.booleans()),
        st.builds(SwingingDoorSettings, st.sampled_from([0.25, 1.0]), st.sampled_from([0, 6 * SECOND])),
    ),
    rough_signals, st.lists(st.integers(0, 80), max_size=3),
)  # fmt: skip
def test_many_at_once_are_decided_as_one_by_one(
    settings: Settings, signal: list[tuple[int, float, int]], cuts: list[int]
) -> None:
    times = np.cumsum([SECOND * step for step, _, _ in signal], dtype=np.int64)
    readings = SampleLists(
        times.tolist(), [value for _, value, _ in signal], [worth for _, _, worth in signal]
    )
    slow: Rule = ChangeRule(settings) if isinstance(settings, ChangeSettings) else SwingingDoorRule(settings)
    quick: Rule = ChangeRule(settings) if isinstance(settings, ChangeSettings) else SwingingDoorRule(settings)
    expected, found = SampleLists([], [], []), SampleLists([], [], [])
    for place in range(len(signal)):
        expected.add(slow.offer(readings.at(place)))
    expected.add(slow.finish())
    edges = sorted({0, len(signal), *(min(cut, len(signal)) for cut in cuts)})
    for start, end in pairwise(edges):
        ts, values, worths = readings
        piece = quick.offer_all(SampleLists(ts[start:end], values[start:end], worths[start:end]))
        found.add(piece.at(place) for place in range(len(piece.ts_us)))
    found.add(quick.finish())
    assert found == expected


@given(st.sampled_from([0.25, 1.0, 4.0]), st.sampled_from([0, 6]), signals)
def test_straight_lines_tell_every_reading_within_the_largest_error(
    error: float, silence: int, values: list[float | None]
) -> None:
    readings = series(values)
    rule = SwingingDoorRule(SwingingDoorSettings(error, silence * SECOND))
    made = rehearse(rule, readings, Window(0, 60 * SECOND), stepped=False)
    assert made.largest_error <= error * (1 + 1e-12)
    assert set(made.kept.ts_us.tolist()) <= set(readings.ts_us.tolist()), "only real readings"


def test_the_classic_mistake_is_seen_before_it_is_made() -> None:
    """A jam contact on a long rate limit misses jams; on change it misses none and stores little."""
    values = np.zeros(86_400)
    for at in range(3_600, 86_400, 3_601):
        values[at : at + 3] = 1
    contact = Series.of(ValueType.BOOLEAN, np.arange(86_400) * SECOND, values)
    day = Window(0, 86_400 * SECOND)
    on_change = rehearse(ChangeRule(ChangeSettings()), contact, day, stepped=True)
    limited = rehearse(ChangeRule(ChangeSettings(rate_limit_us=3_600 * SECOND)), contact, day, stepped=True)
    assert (on_change.missed_edges, len(on_change.kept), on_change.largest_error) == (0, 47, 0)
    assert limited.missed_edges > 20
    by_clock = _by_clock(10, contact, day)
    assert by_clock.missed_edges == 2 * sum(at % 10 not in (0, 8, 9) for at in range(3_600, 86_400, 3_601))
    assert on_change.samples_per_day == 47
    assert 0 < on_change.megabytes_per_year < 1


def _by_clock(seconds: int, contact: Series, window: Window) -> Rehearsal:
    tag = a_tag("Cutter jam", ValueType.BOOLEAN)
    return compare(
        backfilled(Periodic(seconds * SECOND), tag, contact, window), contact, window, stepped=True
    )


@pytest.mark.parametrize("kept_at,missed", [
    ((0, 10, 20, 30), (3, 7, 13, 15, 33)),
    ((0, 5, 10, 14, 20, 30, 40), ()),
    ((0, 40), (3, 7, 13, 15, 22, 33)),
    ((), (3, 7, 13, 15, 22, 33)),
])  # fmt: skip
def test_the_edges_that_samples_do_not_show_are_told_by_their_times(
    kept_at: tuple[int, ...], missed: tuple[int, ...]
) -> None:
    """On from 3 to 7, 13 to 15, 22 to 33 s. Between samples that differ the last edge is the one they show;
    by hand."""
    seconds = np.arange(0, 41)
    on = np.isin(seconds, [*range(3, 7), *range(13, 15), *range(22, 33)])
    readings = Series.of(ValueType.BOOLEAN, seconds * SECOND, on.astype(np.int64))
    kept = readings.take(np.isin(seconds, kept_at))
    assert (missed_edges(readings, kept) // SECOND).tolist() == list(missed)


@given(st.lists(st.booleans(), min_size=2, max_size=60), st.sets(st.integers(0, 59)))
def test_edges_missed_and_edges_shown_are_all_there_are(values: list[bool], chosen: set[int]) -> None:
    times = np.arange(len(values))
    readings = Series.of(ValueType.BOOLEAN, times * SECOND, np.array(values, np.int64))
    kept = readings.take(np.isin(times, sorted(chosen)))
    shown = int((np.diff(kept.values) != 0).sum())
    assert len(missed_edges(readings, kept)) == int((np.diff(readings.values) != 0).sum()) - shown

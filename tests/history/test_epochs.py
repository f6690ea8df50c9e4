"""Epochs: where a live window ends, and where the gap before a recorder does."""

from __future__ import annotations

import pytest

from cronaca.core.errors import LeaseLost
from cronaca.core.model import SECOND, Gap, GapReason, Series, ValueType, Window
from cronaca.db import Store
from cronaca.history.tables import epochs, gaps
from cronaca.services.sink import StoreSink
from tests.support.builders import NOW, a_flush, a_tag, plant_with


def live_end_us(store: Store, now_us: int) -> int:
    with store.snapshot() as tx:
        return epochs.live_end_us(tx, now_us)


def test_a_live_window_ends_at_what_is_known_while_it_is_recorded(store: Store) -> None:
    key = plant_with(store, [a_tag("t")])["t"]
    sink = StoreSink(store)
    assert live_end_us(store, NOW) == NOW, "nothing was ever recorded"
    epoch = sink.open_epoch("test", NOW)
    assert epoch is not None
    series = Series.of(ValueType.FLOAT, [NOW], [1.0])
    sink.commit(a_flush(epoch, 1, {key: series}))
    with store.snapshot() as tx:
        last = epochs.find_last_epoch(tx)
    assert last is not None
    known = last.known_until_us
    assert live_end_us(store, known + SECOND * 7 // 10) == known, "the last moments are on their way"
    assert live_end_us(store, known + 60 * SECOND) == known + 60 * SECOND, "a minute late is late"
    sink.close_epoch(epoch, known, "stopped")
    assert live_end_us(store, known + SECOND) == known + SECOND


def whole_gaps(store: Store) -> list[Gap]:
    with store.snapshot() as tx:
        return gaps.list_gaps(tx, Window(0, NOW + 1000 * SECOND))


@pytest.mark.parametrize(
    ("ended_us", "reason"),
    [(NOW, GapReason.RECORDER_STOPPED), (NOW + 11 * SECOND, GapReason.RECORDER_DOWN)],
    ids=["before", "ahead"],
)
def test_the_gap_before_an_epoch_lasts_until_its_recorder_begins(
    store: Store, ended_us: int, reason: GapReason
) -> None:
    """Also where the clock of the machine that recorded before was ahead."""
    sink = StoreSink(store)
    first = sink.open_epoch("first", NOW - SECOND) or 0
    sink.begin_epoch(first, NOW)
    assert whole_gaps(store) == [], "nothing was recorded before the first"
    sink.close_epoch(first, ended_us, "stopped")
    second = sink.open_epoch("second", NOW + 10 * SECOND) or 0
    sink.begin_epoch(second, NOW + 12 * SECOND)
    (gap,) = whole_gaps(store)
    assert (gap.start_us, gap.end_us, gap.reason) == (ended_us, NOW + 12 * SECOND, reason)
    with store.snapshot() as tx:
        last = epochs.find_last_epoch(tx)
    assert last is not None and last.opened_us == last.known_until_us == NOW + 12 * SECOND
    with pytest.raises(LeaseLost):
        sink.begin_epoch(first, NOW + 13 * SECOND)

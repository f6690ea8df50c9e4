"""Where a live window ends: at what is known, unless recording stands still."""

from __future__ import annotations

from cronaca.core.model import SECOND, Series, ValueType
from cronaca.store import Store, epochs
from cronaca.store.sink import StoreSink
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

"""No hole without a reason: what recorders commit, spool, fill in and lose is there, or on record."""

from __future__ import annotations

import itertools
import random
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import pytest

from cronaca.core import quality as q
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import LeaseLost
from cronaca.core.model import SECOND, Gap, GapReason, Series, ValueType, Window
from cronaca.core.outputs import CoverageMark
from cronaca.core.ports import Flush
from cronaca.db import Store
from cronaca.history.read.series import SeriesReader
from cronaca.history.tables import epochs, gaps
from cronaca.plant import coverage
from cronaca.services.sink import StoreSink
from tests.support.builders import NOW, a_flush, a_tag, plant_with

FAR = Window(0, 10**16)


@dataclass
class Teller:
    """A recorder as the store sees it: it takes a sample a second, commits or spools it, may be late or cut
    off."""

    sink: StoreSink
    key: HistoryKey
    name: str
    epoch: int = 0
    seq: int = 0
    known_us: int = 0
    spooled: list[Flush] = field(default_factory=list)

    def open(self, at_us: int) -> None:
        number = self.sink.open_epoch(self.name, at_us)
        assert number is not None
        self.epoch, self.seq, self.known_us = number, 0, at_us

    def take(self, until_us: int, missed: Window | None = None) -> Flush:
        """The flush of all ticks up to a moment, but those of a stretch that was missed."""
        self.seq += 1
        ticks = range(first_tick(self.known_us), until_us, SECOND)
        found = [t for t in ticks if missed is None or not missed.start_us <= t < missed.end_us]
        late = [] if missed is None else [gap_of(missed, self.key)]
        series = Series.of(ValueType.FLOAT, found, [t / SECOND % 100 for t in found])
        flush = a_flush(self.epoch, self.seq, {self.key: series} if found else {}, until_us, late)
        flush = replace(flush, since_us=self.known_us)
        self.known_us = until_us
        return flush


def first_tick(since_us: int) -> int:
    return -(-since_us // SECOND) * SECOND


def gap_of(missed: Window, key: HistoryKey) -> Gap:
    return Gap(missed.start_us, missed.end_us, GapReason.RECORDER_LATE, "", (key,))


def lapse(store: Store) -> None:
    """The lease of the recorder that stands still runs out."""
    with store.transaction() as tx:
        tx.execute("UPDATE recorder_epoch SET lease_until = UTC_TIMESTAMP(6) - INTERVAL 1 SECOND")


def holes_without_reason(store: Store, key: HistoryKey, began_us: int) -> list[tuple[int, int]]:
    """Pairs of neighbouring samples further apart than a tick with no gap on record that tells why."""
    (answer,) = SeriesReader(store).read_keys([key], FAR)
    with store.snapshot() as tx:
        known = [*gaps.list_gaps(tx, FAR), *gaps.list_scoped(tx, FAR, [key])[key]]
        last = epochs.find_last_epoch(tx)
    assert last is not None
    times = [began_us - SECOND, *answer.recorded.ts_us.tolist(), max(last.known_until_us, began_us)]
    found = []
    for before, after in itertools.pairwise(times):
        if after - before <= SECOND:
            continue
        told = [g for g in known if g.start_us < after and (g.end_us or 0) > before]
        reach = before
        for gap in sorted(told, key=lambda g: g.start_us):
            if gap.start_us <= reach + SECOND:
                reach = max(reach, gap.end_us or 0)
        if reach + SECOND < after:
            found.append((before - NOW, after - NOW))
    return found


def drawn_across(store: Store, key: HistoryKey) -> list[int]:
    """Gaps on record that a line would be drawn across: nothing marks them in the series."""
    (answer,) = SeriesReader(store).read_keys([key], FAR)
    series = answer.series
    with store.snapshot() as tx:
        known = [*gaps.list_gaps(tx, FAR), *gaps.list_scoped(tx, FAR, [key])[key]]
    found = []
    for gap in known:
        end_us = gap.end_us or 0
        before = int(series.ts_us.searchsorted(end_us)) - 1
        if end_us - gap.start_us > SECOND and before >= 0 and series.quality[before] < q.BAD:
            found.append(gap.start_us - NOW)
    return found


@pytest.mark.parametrize("seed", range(12))
def test_whatever_recorders_do_there_is_no_hole_without_a_reason(store: Store, seed: int) -> None:
    live_through(store, random.Random(seed), 14)


def live_through(store: Store, chance: random.Random, acts: int) -> None:
    """Two recorders with a spool each commit, spool, are late, die, are cut off and fill in, in any order."""
    tag = a_tag("t")
    key = plant_with(store, [tag], 0)["t"]
    sink = StoreSink(store)
    recorders = [Teller(sink, key, "one"), Teller(sink, key, "two")]
    acting, now_us = recorders[0], NOW
    acting.open(now_us)
    for _ in range(acts):
        now_us += chance.randint(1, 9) * SECOND // 2
        act = chance.choice(["commit", "commit", "late", "spool", "forward", "die", "cut off", "repeat"])
        if act in ("commit", "late") and not acting.spooled:
            sink.commit(acting.take(now_us, _missed(acting, now_us) if act == "late" else None))
        elif act in ("spool", "late"):
            acting.spooled.append(acting.take(now_us, _missed(acting, now_us)))
        elif act == "forward":
            _forward(sink, acting)
        elif act == "repeat" and acting.spooled:
            _store(sink, acting, acting.spooled[0])  # the answer was lost: it is there, and waits still
        elif act == "die":
            now_us += chance.randint(0, 8) * SECOND
            lapse(store)
            acting.open(now_us)
        elif act == "cut off":
            acting.spooled.append(acting.take(now_us))
            lapse(store)
            other = recorders[1 - recorders.index(acting)]
            other.open(now_us + SECOND)
            with pytest.raises(LeaseLost):
                sink.commit(acting.spooled[-1])
            acting, now_us = other, now_us + SECOND
    _forward(sink, acting)
    assert holes_without_reason(store, key, NOW) == []
    assert drawn_across(store, key) == []
    (answer,) = SeriesReader(store).read_keys([key], FAR)
    assert answer.recorded.values.tolist() == [t / SECOND % 100 for t in answer.recorded.ts_us.tolist()]


def _missed(acting: Teller, now_us: int) -> Window | None:
    """Some ticks of the flush that is to come were missed."""
    start = first_tick(acting.known_us)
    return Window(start, start + 2 * SECOND) if start + 2 * SECOND < now_us else None


def _forward(sink: StoreSink, acting: Teller) -> None:
    while acting.spooled:
        _store(sink, acting, acting.spooled[0])
        acting.spooled.pop(0)


def _store(sink: StoreSink, acting: Teller, flush: Flush) -> None:
    if flush.epoch == acting.epoch:
        sink.commit(flush)
    else:
        sink.fill(acting.epoch, flush)


def test_filling_in_again_writes_nothing_twice_even_when_the_journal_was_pruned(store: Store) -> None:
    key = plant_with(store, [a_tag("t")], 0)["t"]
    sink = StoreSink(store)
    first = Teller(sink, key, "one")
    first.open(NOW)
    sink.commit(first.take(NOW + 2 * SECOND))
    waiting = replace(
        first.take(NOW + 9 * SECOND),
        outputs=(Gap(NOW + 4 * SECOND, NOW + 5 * SECOND, GapReason.SPOOL_OVERFLOW, "x"),),
    )
    lapse(store)
    second = Teller(sink, key, "two")
    second.open(NOW + 12 * SECOND)
    sink.fill(second.epoch, waiting)
    with store.transaction() as tx:
        tx.execute("DELETE FROM journal WHERE epoch = 1")
        before = gaps.list_gaps(tx, FAR)
    sink.fill(second.epoch, waiting)
    with store.snapshot() as tx:
        assert gaps.list_gaps(tx, FAR) == before
        assert tx.fetch_one("SELECT COUNT(*) FROM journal WHERE epoch = 1") == (0,)


def test_the_end_mark_of_an_earlier_recorder_does_not_close_what_the_present_one_covers(store: Store) -> None:
    key = plant_with(store, [a_tag("t")], NOW)["t"]
    sink = StoreSink(store)
    first = Teller(sink, key, "one")
    first.open(NOW)
    paused = replace(
        first.take(NOW + 5 * SECOND),
        outputs=(CoverageMark((key,), NOW + 4 * SECOND, GapReason.LOGGER_PAUSED),),
    )
    lapse(store)
    second = Teller(sink, key, "two")
    second.open(NOW + 10 * SECOND)
    for _ in range(2):
        sink.fill(second.epoch, paused)
    with store.snapshot() as tx:
        covered = coverage.list_coverage(tx, [key])[key]
    assert [(c.start_us - NOW, c.end_us and c.end_us - NOW) for c in covered] == [
        (0, 4 * SECOND), (10 * SECOND, None),
    ]  # fmt: skip


def test_a_gap_of_single_tags_is_theirs_alone(store: Store) -> None:
    keys = plant_with(store, [a_tag("a"), a_tag("b")], 0)
    sink = StoreSink(store)
    recorder = Teller(sink, keys["a"], "one")
    recorder.open(NOW)
    both: Sequence[HistoryKey] = [keys["a"], keys["b"]]
    times = [NOW + SECOND, NOW + 9 * SECOND]
    series = {key: Series.of(ValueType.FLOAT, times, [1.0, 2.0]) for key in both}
    missed = Window(NOW + 2 * SECOND, NOW + 9 * SECOND)
    sink.commit(a_flush(1, 1, series, NOW + 10 * SECOND, [gap_of(missed, keys["a"])]))
    a, b = SeriesReader(store).read_keys(both, Window(NOW, NOW + 10 * SECOND))
    assert a.series.quality.tolist() == [q.GOOD, q.BAD_NO_DATA, q.GOOD]
    assert b.series.quality.tolist() == [q.GOOD, q.GOOD]
    assert GapReason.RECORDER_LATE in {gap.reason for gap in a.blanks}
    assert GapReason.RECORDER_LATE not in {gap.reason for gap in b.blanks}


def test_a_source_that_is_slow_holds_back_its_own_curves_alone(store: Store) -> None:
    key = plant_with(store, [a_tag("t")], 0)["t"]
    sink = StoreSink(store)
    recorder = Teller(sink, key, "one")
    recorder.open(NOW)
    with store.snapshot() as tx:
        ((source_id,),) = tx.fetch("SELECT source_id FROM tag")
    flush = replace(recorder.take(NOW + 3 * SECOND), sources_known=((source_id, NOW + 8 * SECOND), (99, NOW)))
    sink.commit(flush)
    (answer,) = SeriesReader(store).read_keys([key], Window(NOW, NOW + 20 * SECOND))
    assert answer.known_until_us == NOW + 8 * SECOND

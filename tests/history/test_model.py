"""The store agrees with a plain dictionary, whatever is written, corrected, compacted and summed up."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import InvalidInput
from cronaca.core.model import DAY, MINUTE, SECOND, Series, ValueType, Window, merge
from cronaca.core.rollup import levels
from cronaca.core.trends import reduce_m4
from cronaca.db import Store
from cronaca.history.jobs.compaction import StoreCompaction
from cronaca.history.jobs.pyramid import PyramidBuilder
from cronaca.history.read.curves import CurveReader
from cronaca.history.read.series import SeriesReader
from cronaca.history.write import edits
from cronaca.history.write.edits import Author, HistoryEditor
from cronaca.services.sink import StoreSink
from tests.support.builders import FixedClock, a_flush, a_tag, plant_with

FLOAT = ValueType.FLOAT
STEP = 10 * MINUTE
BASE = int(datetime(2026, 9, 29, tzinfo=UTC).timestamp()) * SECOND
"""Two days before the end of a month; 500 steps reach a day and a half into the next one."""
NOW = BASE + 6 * DAY
PLACES = st.integers(0, 500)
TIMES = st.lists(PLACES, min_size=1, max_size=30, unique=True)
ACTIONS = st.lists(
    st.one_of(
        st.tuples(st.just("write"), TIMES),
        st.tuples(st.just("write"), TIMES),
        st.tuples(st.sampled_from(["insert", "replace", "update"]), TIMES),
        st.tuples(st.just("delete"), st.tuples(PLACES, PLACES)),
        st.tuples(st.sampled_from(["compact", "build"]), st.just([])),
    ),
    min_size=1,
    max_size=14,
)
TABLES = (
    "logger_member", "logger", "history", "archive", "tag", "source", "segment", "journal", "recorder_epoch",
    "compaction_mark", "gap", "history_month", "rollup", "summary_hour", "summary_day", "history_edit",
    "history_edit_part", "coverage",
)  # fmt: skip


class Machine:
    """The store and its model, side by side."""

    def __init__(self, store: Store) -> None:
        with store.transaction() as tx:
            for table in TABLES:
                tx.execute(f"DELETE FROM {table}")
        self.store = store
        self.key: HistoryKey = plant_with(store, [a_tag("t")], BASE)["t"]
        self.sink = StoreSink(store)
        epoch = self.sink.open_epoch("test", BASE)
        assert epoch is not None
        self.epoch, self.seq = epoch, 0
        clock = FixedClock(NOW)
        self.compaction, self.builder = StoreCompaction(store, clock), PyramidBuilder(store, clock)
        self.editor = HistoryEditor(store)
        self.reader = SeriesReader(store)
        self.curves = CurveReader(store, self.reader)
        self.model: dict[int, float] = {}
        self.replaced: list[list[tuple[int, float]]] = []

    def do(self, action: str, detail: Any) -> None:  # noqa: ANN401
        self.seq += 1
        if action == "compact":
            self.compaction.compact_step()
        elif action == "build":
            self.builder.build_some(60)
        elif action == "write":
            self.write(self.samples(detail))
        elif action == "delete":
            self.delete(BASE + min(detail) * STEP, BASE + max(detail) * STEP + 1)
        else:
            self.edit(action, self.samples(detail))

    def samples(self, places: list[int]) -> Series:
        rows = [(BASE + place * STEP, float(self.seq * 1000 + place)) for place in sorted(places)]
        return Series.of(FLOAT, [t for t, _ in rows], [v for _, v in rows])

    def write(self, series: Series) -> None:
        self.sink.commit(a_flush(self.epoch, self.seq, {self.key: series}, known_until_us=NOW))
        for ts, value in zip(series.ts_us.tolist(), series.values.tolist(), strict=True):
            self.model.setdefault(ts, value)

    def delete(self, start: int, end: int) -> None:
        self.editor.delete(self.key, Window(start, end), Author("Ada", NOW, "test"))
        gone = sorted(ts for ts in self.model if start <= ts < end)
        self.replaced.append([(ts, self.model.pop(ts)) for ts in gone])

    def edit(self, action: str, series: Series) -> None:
        rows = dict(zip(series.ts_us.tolist(), series.values.tolist(), strict=True))
        standing = [ts for ts in rows if ts in self.model]
        refused = (action == "insert" and standing) or (action == "replace" and len(standing) < len(rows))
        work = getattr(self.editor, action)
        if refused:
            with pytest.raises(InvalidInput):
                work(self.key, series, Author("Ada", NOW, "test"))
            return
        work(self.key, series, Author("Ada", NOW, "test"))
        self.replaced.append([(ts, self.model[ts]) for ts in standing])
        self.model.update(rows)

    def check(self, window: Window) -> None:
        (answer,) = self.reader.read_many([self.key.tag_id], window)
        inside = sorted(ts for ts in self.model if window.start_us <= ts < window.end_us)
        before = sorted(ts for ts in self.model if ts < window.start_us)[-1:]
        behind = sorted(ts for ts in self.model if ts >= window.end_us)[:1]
        expected = [*before, *inside, *behind]
        assert answer.recorded.ts_us.tolist() == expected
        assert answer.recorded.values.tolist() == [self.model[ts] for ts in expected]
        assert answer.samples == len(inside)
        (curve,) = self.curves.read_many([self.key.tag_id], window, 20)
        assert curve.answer.samples == len(inside)
        assert curve.series.equals(reduce_m4(answer.series, window, 20, max(curve.width_us, 1)))

    def check_modified(self) -> None:
        with self.store.snapshot() as tx:
            found = edits.list_edits(tx, self.key, Window(BASE, NOW))
            parts = [merge(edits.read_replaced(tx, edit.edit_id), FLOAT) for edit in found]
        rows = [list(zip(p.ts_us.tolist(), p.values.tolist(), strict=True)) for p in parts]
        assert rows == self.replaced
        assert [edit.replaced for edit in found] == [len(row) for row in rows]


@settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(ACTIONS, PLACES, st.integers(1, 500))
def test_the_store_agrees_with_a_plain_dictionary(
    store: Store, actions: list[tuple[str, Any]], start: int, length: int
) -> None:
    """Random writes of any age, insertions, replacements, deletions, compactions, summing up, reads."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(levels, "WORTH", 1)  # sparse samples get a pyramid too
        machine = Machine(store)
        for action, detail in actions:
            machine.do(action, detail)
        machine.check(Window(BASE + start * STEP, BASE + (start + length) * STEP))
        machine.check(Window(BASE, NOW))
        machine.check_modified()


class TestEdits:
    @pytest.fixture
    def machine(self, store: Store) -> Machine:
        machine = Machine(store)
        machine.do("write", [1, 2, 3, 4])
        return machine

    def test_an_equal_sample_is_harmless(self, machine: Machine) -> None:
        again = machine.samples([1, 2, 3, 4])
        same = Series.of(FLOAT, again.ts_us, [machine.model[t] for t in again.ts_us.tolist()])
        edit = machine.editor.insert(machine.key, same, Author("Ada", NOW, "sent twice"))
        assert (edit.written, edit.replaced) == (0, 0)
        machine.check(Window(BASE, NOW))

    def test_who_when_and_why_are_kept(self, machine: Machine) -> None:
        edit = machine.editor.delete(machine.key, Window(BASE, NOW), Author("Ada", NOW, "probe was out"))
        assert (edit.person, edit.created_us, edit.reason, edit.replaced) == ("Ada", NOW, "probe was out", 4)
        with machine.store.snapshot() as tx:
            assert edits.list_edits(tx, machine.key, Window(BASE, NOW)) == [edit]

    def test_a_correction_without_a_reason_is_refused(self, machine: Machine) -> None:
        with pytest.raises(InvalidInput, match="reason"):
            machine.editor.delete(machine.key, Window(BASE, NOW), Author("Ada", NOW, " "))

    def test_times_must_rise(self, machine: Machine) -> None:
        twice = Series.of(FLOAT, [BASE, BASE], [1, 2])
        with pytest.raises(InvalidInput, match="do not rise"):
            machine.editor.update(machine.key, twice, Author("Ada", NOW, "test"))

    def test_a_correction_of_what_still_waits_in_the_journal_stands(self, machine: Machine) -> None:
        machine.do("delete", (2, 3))
        machine.do("compact", [])
        machine.check(Window(BASE, NOW))

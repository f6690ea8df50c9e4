"""Two recording groups side by side: each has a lease, epochs, gaps, requests and stage states of its own."""

from __future__ import annotations

from dataclasses import replace

from cronaca.core.groups import WHOLE_PLANT
from cronaca.core.model import SECOND, Window
from cronaca.core.outputs import RunMark, StageState
from cronaca.core.requests import RecordNow
from cronaca.db import Store
from cronaca.history.tables import gaps
from cronaca.history.tables.stage_states import list_states
from cronaca.logbook import runs
from cronaca.logbook.runs import RunFilter
from cronaca.services.control import StoreControl, ask
from cronaca.services.outputs import HANDLERS
from cronaca.services.sink import StoreSink
from tests.support.builders import NOW, a_flush

OTHER = 2
FAR = Window(0, NOW + 10**12)


def lapse(store: Store) -> None:
    with store.transaction() as tx:
        tx.execute("UPDATE recorder_epoch SET lease_until = UTC_TIMESTAMP(6) - INTERVAL 1 SECOND")


def test_each_has_its_own_lease_and_epochs_are_numbered_through(store: Store) -> None:
    one, other = StoreSink(store), StoreSink(store, HANDLERS, OTHER)
    assert (one.open_epoch("a", NOW), other.open_epoch("b", NOW)) == (1, 2)
    assert one.open_epoch("c", NOW) is None
    assert other.open_epoch("c", NOW) is None
    one.commit(a_flush(1, 1, {}, NOW + SECOND))
    other.commit(a_flush(2, 1, {}, NOW + 5 * SECOND))
    lapse(store)
    assert one.open_epoch("c", NOW + 9 * SECOND) == 3
    with store.snapshot() as tx:
        rows = tx.fetch("SELECT group_id, start_us, end_us, reason FROM gap")
    assert rows == [(WHOLE_PLANT, NOW + SECOND, NOW + 9 * SECOND, "recorder_down")], "the other one goes on"


def test_the_end_of_one_ends_no_run_of_the_other_and_fills_no_gap_of_it(store: Store) -> None:
    one, other = StoreSink(store), StoreSink(store, HANDLERS, OTHER)
    epochs = one.open_epoch("a", NOW) or 0, other.open_epoch("b", NOW) or 0
    for sink, epoch in zip((one, other), epochs, strict=True):
        mark = RunMark(epoch, "tag", NOW, True, f"Run {epoch}", ())
        sink.commit(replace(a_flush(epoch, 1, {}, NOW + SECOND), outputs=(mark,)))
    lapse(store)
    again = one.open_epoch("c", NOW + 20 * SECOND) or 0
    with store.snapshot() as tx:
        found = {run.name: run.end_us for run in runs.list_runs(tx, FAR, RunFilter())}
    assert found == {"Run 1": NOW + SECOND, "Run 2": None}
    other.open_epoch("d", NOW + 20 * SECOND)
    one.fill(again, replace(a_flush(epochs[0], 2, {}, NOW + 8 * SECOND), since_us=NOW + SECOND))
    with store.snapshot() as tx:
        rows = tx.fetch("SELECT group_id, start_us FROM gap ORDER BY group_id")
    assert rows == [(WHOLE_PLANT, NOW + 8 * SECOND), (OTHER, NOW + SECOND)]


def test_requests_have_an_addressee_and_stages_a_state_for_each(store: Store) -> None:
    store.run(lambda tx: ask(tx, "Operator", RecordNow(1), OTHER))
    assert StoreControl(store).look(0).requests == ()
    (request,) = StoreControl(store, OTHER).look(0).requests
    assert request.kind == "record_now"
    one, other = StoreSink(store), StoreSink(store, HANDLERS, OTHER)
    for sink, name in ((one, b"one"), (other, b"other")):
        epoch = sink.open_epoch("a", NOW) or 0
        sink.commit(replace(a_flush(epoch, 1, {}), outputs=(StageState("peaks", name),)))
    with store.snapshot() as tx:
        assert list_states(tx)["peaks"][1] == b"one"
        assert list_states(tx, OTHER)["peaks"][1] == b"other"
        assert [gap.reason for gap in gaps.list_gaps(tx, FAR)] == []

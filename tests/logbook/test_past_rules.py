"""Runs and records of what was recorded before their rule was made."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import pytest

from cronaca.core import quality as q
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import InvalidInput, NotFound
from cronaca.core.loggers import Logger, TriggerSpec
from cronaca.core.model import DAY, HOUR, SECOND, Edge, LoggerMode, RunOrigin, Series, ValueType, Window
from cronaca.core.setup import RunRuleSpec
from cronaca.db import Store
from cronaca.db.transaction import Transaction
from cronaca.history.write.bulk import backfill
from cronaca.logbook import records, runs
from cronaca.logbook.past_rules import PastRules
from cronaca.logbook.runs import RunFilter
from cronaca.plant.archives import insert_archive
from cronaca.plant.changes import By
from cronaca.plant.loggers import insert_logger
from cronaca.plant.run_rules import add_rule
from tests.support.builders import NOW, a_logger, a_tag, plant_with, remade

START = NOW - 3 * DAY
WINDOW = Window(START, NOW)
LOTS = ((0, 48_200), (30 * HOUR, 48_201), (50 * HOUR, 48_202))
"""When each lot began, after the start."""


@pytest.fixture
def plant(store: Store) -> dict[str, HistoryKey]:
    """Three lots in three days, told every half hour (with an hour without a link), and a level that grows by
    one an hour."""
    keys = plant_with(store, [a_tag("lot", ValueType.INTEGER), a_tag("level"), a_tag("never")])
    times = range(0, 3 * DAY, HOUR // 2)
    lots = [[lot for since, lot in LOTS if since <= at][-1] for at in times]
    quality = [q.BAD_NO_COMMUNICATION if 10 * HOUR <= at < 11 * HOUR else q.GOOD for at in times]
    hours = range(0, 3 * DAY, HOUR)
    found = {
        keys["lot"]: Series.of(ValueType.INTEGER, [START + at for at in times], lots, quality),
        keys["level"]: Series.of(ValueType.FLOAT, [START + at for at in hours], [at / HOUR for at in hours]),
    }
    backfill(store, found, WINDOW)
    return keys


def rule(store: Store, origin: RunOrigin = RunOrigin.CHANGE) -> str:
    spec = RunRuleSpec("Lot", origin, a_tag("lot").uid, attributes=(a_tag("level").uid, a_tag("never").uid))
    return store.run(lambda tx: add_rule(tx, spec, By("test", NOW)))


def listed(store: Store) -> list[runs.Run]:
    with store.snapshot() as tx:
        return runs.list_runs(tx, WINDOW, RunFilter())[::-1]


def trigger_logger(
    store: Store, keys: dict[str, HistoryKey], changed: Callable[[Logger], Logger] = lambda one: one
) -> str:
    tags = (keys["lot"].tag_id, keys["level"].tag_id)
    trigger = TriggerSpec(tags[0], Edge.CHANGE)

    def add(tx: Transaction) -> None:
        archive_id = insert_archive(tx, "a" * 36, "Lots")
        usual = a_logger(0, "l" * 36, "Lots", archive_id, LoggerMode.ON_TRIGGER, 0, tags, trigger=trigger)
        insert_logger(tx, changed(usual), NOW)

    store.run(add)
    return "l" * 36


@pytest.mark.usefixtures("plant")
def test_past_lots_are_runs_with_the_values_at_their_ends(store: Store) -> None:
    assert PastRules(store).add_runs(rule(store), WINDOW) == 3
    found = listed(store)
    starts = [START + since for since, _ in LOTS]
    assert [(run.name, run.start_us, run.end_us, run.cut) for run in found] == [
        ("Lot 48200", starts[0], starts[1], False),
        ("Lot 48201", starts[1], starts[2], False),
        ("Lot 48202", starts[2], NOW, True),
    ]
    assert [run.start_attributes[0].value for run in found] == [0.0, 30.0, 50.0]
    assert [fact.value for run in found[:2] for fact in run.end_attributes] == [30.0, None, 50.0, None]


@pytest.mark.usefixtures("plant")
def test_runs_that_are_on_record_are_not_found_again(store: Store) -> None:
    uid, past = rule(store), PastRules(store)
    assert past.add_runs(uid, Window(START + 40 * HOUR, NOW)) == 2
    assert past.add_runs(uid, WINDOW) == 2
    assert past.add_runs(uid, WINDOW) == 0
    assert [(run.name, run.cut) for run in listed(store)] == [
        ("Lot 48200", False), ("Lot 48201", True), ("Lot 48201", False), ("Lot 48202", True),
    ]  # fmt: skip


def test_past_records_are_numbered_in_order_of_time(store: Store, plant: dict[str, HistoryKey]) -> None:
    uid = trigger_logger(store, plant)
    assert PastRules(store).add_records(uid, WINDOW) == 2
    with store.snapshot() as tx:
        ((number, _, _),) = records.list_loggers(tx)
        rows = records.read_records(tx, number, records.list_columns(tx, number))
    assert [(row.number, row.ts_us, row.reason, row.values) for row in rows] == [
        (2, START + 50 * HOUR, "lot = 48202", (48_202, 50.0)),
        (1, START + 30 * HOUR, "lot = 48201", (48_201, 30.0)),
    ]
    with pytest.raises(InvalidInput, match="already"):
        PastRules(store).add_records(uid, WINDOW)


@pytest.mark.parametrize(("changed", "why"), [
    (lambda one: replace(one, inhibit_tag=2), "inhibited at times"),
    (lambda one: remade(one, trigger=TriggerSpec()), "no records at a tag's edge"),
])  # fmt: skip
def test_what_cannot_be_told_of_the_past_is_refused(
    store: Store, plant: dict[str, HistoryKey], changed: Callable[[Logger], Logger], why: str
) -> None:
    uid = trigger_logger(store, plant, changed)
    with pytest.raises(InvalidInput, match=why):
        PastRules(store).add_records(uid, WINDOW)


def test_a_rule_that_is_not_there_is_said(store: Store) -> None:
    for wanted in (PastRules(store).add_runs, PastRules(store).add_records):
        call: Callable[[str, Window], int] = wanted
        with pytest.raises(NotFound):
            call("nowhere", Window(START, START + SECOND))

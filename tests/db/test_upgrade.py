"""A whole plant of an older version, brought up to date: nothing is lost.

`tests/fixtures/schema_20` was made by the program of schema 20 (before recording groups, logger settings as
one value and stage states): a database with segments and a journal that is not empty, the spool that its
recorder left when it was killed without a database, a set-up file and a tag file."""

from __future__ import annotations

import gzip
import json
import shutil
import subprocess
from dataclasses import replace
from pathlib import Path

import pytest

from cronaca.core.codec.batch import HistoryKey
from cronaca.core.loggers import (
    OnChange,
    OnTrigger,
    Periodic,
    PrePostTrigger,
    TriggerSpec,
    WhenSpec,
    own_fields,
)
from cronaca.core.model import HOUR, SECOND, Edge, GapReason, Keeps, RuleSpec, WeekSpan, Window
from cronaca.core.ports import Flush, LiveValues
from cronaca.core.setup.document import as_named_now
from cronaca.db import Store
from cronaca.db.migrate import check_schema, migrate
from cronaca.exchange import sheets as tables
from cronaca.exchange import tag_table
from cronaca.history.read.series import SeriesReader
from cronaca.history.tables import gaps
from cronaca.logbook import notes, records, reports, runs
from cronaca.logbook.runs import RunFilter
from cronaca.plant import changes, document, loggers, sources
from cronaca.plant.changes import By
from cronaca.plant.coverage import list_coverage
from cronaca.plant.tags import list_tags
from cronaca.plant.whole import read_setup
from cronaca.recorder.outputs.spool import Entry, Spool
from cronaca.services.sink import StoreSink
from cronaca.views import sheets
from tests.support.builders import NOW, REPORT, a_flush

OLD = Path(__file__).parents[1] / "fixtures" / "schema_20"
WHOLE = Window(NOW - HOUR, NOW + HOUR)
BY = By("Operator", NOW)


@pytest.fixture
def old(empty_store: Store) -> Store:
    """The old database, loaded and brought up to date."""
    address = empty_store.address
    subprocess.run(
        [
            "mariadb", f"-h{address.host}", f"-P{address.port}", f"-u{address.user}", f"-p{address.password}",
            address.database,
        ],
        input=gzip.decompress((OLD / "database.sql.gz").read_bytes()), check=True, capture_output=True,
    )  # fmt: skip
    migrate(empty_store)
    check_schema(empty_store)
    return empty_store


def numbers_of(store: Store) -> dict[str, int]:
    with store.snapshot() as tx:
        return {tag.name.removeprefix("Line 1 "): tag.tag_id for tag in list_tags(tx)}


def test_each_logger_is_set_up_as_it_was(old: Store) -> None:
    tag = numbers_of(old)
    with old.snapshot() as tx:
        found = {one.name.removeprefix("Line 1 "): one for one in read_setup(tx).loggers}
    every, changes, lots, around = (found[name] for name in ("every second", "changes", "lots", "around"))
    assert every.mode == Periodic(SECOND, 100_000, Keeps.MEAN, 20 * SECOND)
    assert every.wanted
    assert every.tags == (tag["Cooler product moisture"], tag["Cutter speed"])
    assert every.inhibit_tag == tag["Dryer door open"]
    week = WeekSpan((1, 2, 3, 4, 5), 360, 1320)
    assert every.when == WhenSpec(tag["State"], (week,), tag["Interval"])
    change = changes.mode_as(OnChange)
    assert change.rule == RuleSpec(width=0.5, longest_silence_us=60 * SECOND)
    assert dict(change.overrides) == {
        tag["Dryer door open"]: RuleSpec(), tag["Lot number"]: RuleSpec(width=1, rate_limit_us=SECOND),
    }  # fmt: skip
    columns = ((tag["Cooler product moisture"], "Final moisture"),)
    assert lots.mode == OnTrigger(TriggerSpec(tag["Lot number"], Edge.CHANGE), columns)
    door = TriggerSpec(tag["Dryer door open"], Edge.RISING)
    assert around.mode == PrePostTrigger(door, 5 * SECOND, 10 * SECOND)
    assert [one.inhibits for one in found.values()] == [()] * 4


def samples(store: Store, name: str) -> list[tuple[int, float]]:
    (answer,) = SeriesReader(store).read_many([numbers_of(store)[name]], WHOLE)
    recorded = answer.recorded
    rows = zip(recorded.ts_us.tolist(), recorded.values.tolist(), recorded.quality.tolist(), strict=True)
    return [((ts - NOW) // SECOND, value) for ts, value, quality in rows if quality == 0]


def test_what_was_recorded_is_there_compacted_or_in_the_journal(old: Store) -> None:
    assert samples(old, "Cooler product moisture") == [(second, second * 0.5) for second in range(120)]
    assert samples(old, "Lot number") == [(0, 0.0), (60, 60.0)]
    speed = HistoryKey(1, numbers_of(old)["Cutter speed"], 1)
    with old.snapshot() as tx:
        assert tx.fetch_one("SELECT COUNT(*) FROM journal") == (2,)
        scoped = gaps.list_scoped(tx, WHOLE, [speed])
    assert [gap.detail for found in scoped.values() for gap in found] == ["held up"]


def test_runs_records_notes_sheets_and_reports_are_there(old: Store) -> None:
    with old.snapshot() as tx:
        found = {run.name: run for run in runs.list_runs(tx, WHOLE, RunFilter())}
        ((number, _, _),) = records.list_loggers(tx)
        columns = records.list_columns(tx, number)
        taken = records.read_records(tx, number, columns)
        (sheet,) = sheets.list_sheets(tx, "Operator")
        (note,) = notes.list_notes(tx, WHOLE)
        earlier = notes.list_earlier(tx, note.uid)
        (report,) = reports.list_reports(tx)
        (issue,) = reports.list_issues(tx)
        file = reports.get_file(tx, issue.uid, "html")
    assert set(found) == {"Trial", "Line 1 lot 4711", "Line 1 lot 4712"}
    assert found["Line 1 lot 4712"].end_us is None
    assert [fact.value for fact in found["Line 1 lot 4711"].start_attributes] == [12.5]
    assert [column.name for column in columns] == ["Line 1 Lot number", "Final moisture"]
    assert [(row.number, row.values) for row in taken] == [(2, (4712, 12.5)), (1, (4711, 12.5))]
    assert (sheet.folder, sheet.name) == ("Line 1", "Dryer")
    assert (note.text, [one.text for one in earlier]) == ("steam was too low", ["steam was low"])
    assert (report.spec.name, issue.period, file[1]) == ("Shift", "Early", b"<p>a report</p>")


def test_what_waits_in_the_spool_is_filled_in(old: Store, tmp_path: Path) -> None:
    """Samples, a record, ends and beginnings of runs, a gap and a mark of coverage, by the next recorder."""
    (tmp_path / "0").mkdir()
    shutil.copy(OLD / "00000001.spool", tmp_path / "0")
    with old.transaction() as tx:
        tx.execute("UPDATE recorder_epoch SET lease_until = UTC_TIMESTAMP(6) - INTERVAL 1 SECOND")
    sink, spool, kinds = StoreSink(old), Spool(tmp_path), []
    epoch = sink.open_epoch("new", NOW + 200 * SECOND)
    assert epoch == 2
    while (entry := spool.peek()) is not None:
        kinds += [type(output).__name__ for output in entry.outputs]
        sink.fill(epoch, flush_of(entry))
        spool.pop()
    spool.close()
    assert kinds == ["Gap", "RunMark", "RunMark", "Record", "CoverageMark"]
    assert samples(old, "Cooler product moisture") == [(second, second * 0.5) for second in range(180)]
    lot = HistoryKey(1, numbers_of(old)["Lot number"], 1)
    with old.snapshot() as tx:
        found = {run.name: run for run in runs.list_runs(tx, WHOLE, RunFilter())}
        ((number, _, _),) = records.list_loggers(tx)
        assert records.count_records(tx, number) == 3
        covered = list_coverage(tx, [lot])[lot]
        down = [gap for gap in gaps.list_gaps(tx, WHOLE) if gap.reason is GapReason.RECORDER_DOWN]
    assert found["Line 1 lot 4712"].end_us == NOW + 130 * SECOND
    assert "Line 1 lot 4713" in found
    (let_go,) = [one for one in covered if one.start_us == NOW + 90 * SECOND]
    assert (let_go.end_us, let_go.after) == (NOW + 160 * SECOND, GapReason.LOGGER_INHIBITED)
    assert [(gap.start_us, gap.end_us) for gap in down] == [(NOW + 180 * SECOND, NOW + 200 * SECOND)]


def flush_of(entry: Entry) -> Flush:
    plain = a_flush(entry.epoch, entry.seq, entry.batch.series, entry.known_until_us)
    return replace(
        plain, outputs=entry.outputs, since_us=entry.since_us, sources_known=entry.sources_known,
        live=LiveValues.none(), report=REPORT,
    )  # fmt: skip


def test_its_set_up_file_changes_nothing_there_and_sets_up_an_empty_plant(old: Store) -> None:
    whole = json.loads((OLD / "setup.json").read_text())
    assert old.run(lambda tx: document.write_document(tx, whole, BY)) == []
    with old.snapshot() as tx:
        assert {one["uid"] for one in document.read_document(tx)["loggers"]} == {
            one["uid"] for one in whole["loggers"]
        }


def test_its_set_up_file_is_read_into_an_empty_plant(store: Store) -> None:
    whole = json.loads((OLD / "setup.json").read_text())
    store.run(lambda tx: document.write_document(tx, whole, BY))
    with store.snapshot() as tx:
        found = document.read_document(tx)
    for part in ("sources", "tags", "archives", "loggers", "runs"):
        # Of a logger the fields of its own mode are written now; rules for runs have attributes.
        said = [own_fields(one) if part == "loggers" else as_named_now(part, one) for one in whole[part]]
        older = {name for one in said for name in one}
        assert [{k: v for k, v in one.items() if k in older} for one in found[part]] == said


def test_its_tag_file_is_read_without_a_difference(old: Store) -> None:
    rows = list(tables.read_rows((OLD / "tags.csv").read_bytes()))
    with old.snapshot() as tx:
        named = {row.spec.name: row.uid for row in sources.list_rows(tx)}
        tags = {tag.name: tag.uid for tag in list_tags(tx)}
    lines = tag_table.read_tags(rows, named, tags)
    assert sorted(line.spec.name for line in lines if line.spec is not None) == sorted(tags)


def test_a_change_of_before_can_be_taken_back(old: Store) -> None:
    """Names of columns were pairs in the record of changes."""
    with old.snapshot() as tx:
        found = changes.list_changes(tx, kind="logger")
        added = next(one for one in found if one.name == "Line 1 lots")
        spec = loggers.get_row(tx, added.uid).spec
    old.run(lambda tx: loggers.remove_logger(tx, added.uid, BY))
    removed = replace(added, action="removed", before=added.after, after=None)
    old.run(lambda tx: document.restore(tx, removed, BY))
    with old.snapshot() as tx:
        assert loggers.get_row(tx, added.uid).spec == spec

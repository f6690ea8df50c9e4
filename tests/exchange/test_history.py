"""Import, export and verification of whole histories, on the real store and by the command line."""

from __future__ import annotations

import csv
import os
import subprocess
import sys
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import pymysql
import pytest

from cronaca.core import quality as q
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import InvalidInput
from cronaca.core.model import DAY, HOUR, MINUTE, SECOND, Series, ValueType, Window
from cronaca.db import Store
from cronaca.db.private_server import PrivateServer
from cronaca.exchange.tables import OnBad
from cronaca.history.jobs.pyramid import PyramidBuilder
from cronaca.history.jobs.sizes import list_sizes
from cronaca.history.jobs.verify import Fault, verify
from cronaca.history.read.series import SeriesReader
from cronaca.history.write.bulk import backfill
from cronaca.logbook import texts
from cronaca.plant import histories
from cronaca.plant.archives import find_archive
from cronaca.plant.tags import list_tags
from cronaca.services.history_files import ImportOptions, export_history, import_history
from cronaca.services.sink import StoreSink
from tests.support.builders import NOW, FixedClock, a_flush, a_tag, plant_with
from tests.support.checks import now_us

ALL = Window(0, 9 * 10**15)
TAGS = {
    "Line 1 temperature": ValueType.FLOAT,
    "Line 1 noise": ValueType.FLOAT,
    "Line 1 counter": ValueType.INTEGER,
    "Line 1 door": ValueType.BOOLEAN,
    "Line 1 mode": ValueType.STATE,
    "Line 1 lot": ValueType.TEXT,
}


def quiet(_: float, __: int) -> None:
    """No progress is shown."""


def sample_history(store: Store, keys: dict[str, HistoryKey]) -> dict[HistoryKey, Series]:
    """All types with their extremes, over the end of a month, some Bad and Uncertain."""
    rng = np.random.default_rng(4)
    times = NOW + np.cumsum(rng.integers(1, 40 * MINUTE, 3000))
    quality = rng.choice([q.GOOD, q.GOOD, q.UNCERTAIN, q.BAD_SENSOR_FAILURE, 0x80AB], 3000)
    with store.transaction() as tx:
        codes = texts.codes_of(tx, ["L-48200", 'quoted "x", with ; and ,', "späte Charge", ""])
    values = {
        "Line 1 temperature": np.round(rng.normal(70, 3, 3000), 1),
        "Line 1 noise": rng.normal(0, 1, 3000) * 10.0 ** rng.integers(-300, 300, 3000),
        "Line 1 counter": np.r_[[2**63 - 1, -(2**63), 2**53 + 1], np.arange(2997)],
        "Line 1 door": rng.integers(0, 2, 3000),
        "Line 1 mode": rng.integers(-(2**31), 2**31 - 1, 3000),
        "Line 1 lot": np.array(codes)[rng.integers(0, 4, 3000)],
    }
    return {keys[n]: Series.of(TAGS[n], times, v, quality) for n, v in values.items()}


@pytest.fixture
def keys(store: Store) -> dict[str, HistoryKey]:
    return plant_with(store, [a_tag(name, kind) for name, kind in TAGS.items()])


def read_all(store: Store, keys: dict[str, HistoryKey]) -> dict[HistoryKey, Series]:
    answers = SeriesReader(store).read_keys(list(keys.values()), ALL)
    return {key: answer.recorded for key, answer in zip(keys.values(), answers, strict=True)}


@pytest.mark.parametrize("ending", [".csv", ".parquet"])
def test_an_export_imported_again_gives_bit_equal_history(
    store: Store, keys: dict[str, HistoryKey], tmp_path: Path, ending: str
) -> None:
    history = sample_history(store, keys)
    backfill(store, history, Window(NOW, NOW + 60 * DAY))
    path = tmp_path / f"all{ending}"
    assert export_history(store, path, [], ALL, quiet) == 18_000
    with store.transaction() as tx:
        for table in ("segment", "history_month"):
            tx.execute(f"DELETE FROM {table}")
    done = import_history(store, ImportOptions(path), "Ada", NOW, quiet)
    assert (done.samples, done.tags, done.rejected.lines) == (18_000, 6, [])
    found = read_all(store, keys)
    assert all(found[key].equals(history[key]) for key in keys.values())
    assert list(verify(store, lambda _: None)) == []


def test_nothing_is_seen_before_the_end_and_nothing_after_a_stop(
    store: Store, keys: dict[str, HistoryKey], tmp_path: Path
) -> None:
    path = tmp_path / "in.csv"
    lines = [f"{NOW + i * SECOND},Line 1 temperature,{i}" for i in range(1000)]
    path.write_text("\n".join(["time,tag,value", *lines]))
    seen = []

    def stop(_: float, __: int) -> None:
        seen.append(sum(len(s) for s in read_all(store, keys).values()))
        raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        import_history(store, ImportOptions(path, time_format="epoch_us"), "Ada", NOW, stop)
    assert seen == [0]
    assert sum(len(s) for s in read_all(store, keys).values()) == 0
    with store.snapshot() as tx:
        assert tx.fetch("SELECT COUNT(*) FROM import_segment") == [(0,)]
        assert [state for (state,) in tx.fetch("SELECT state FROM import_run")] == ["cancelled"]


def test_what_stands_already_stays_and_the_rest_comes_in(
    store: Store, keys: dict[str, HistoryKey], tmp_path: Path
) -> None:
    key = keys["Line 1 temperature"]
    backfill(store, {key: Series.of(ValueType.FLOAT, [NOW, NOW + 2], [1, 3])}, Window(NOW, NOW + 3))
    path = tmp_path / "in.csv"
    path.write_text(f"time,value\n{NOW},-1\n{NOW + 1},2\n{NOW + 2},-3\nnever,4\n")
    spec = ImportOptions(path, time_format="epoch_us", tag="Line 1 temperature", on_bad=OnBad.SKIP)
    done = import_history(store, spec, "Ada", NOW, quiet)
    assert [line.line for line in done.rejected.lines] == [5]
    assert read_all(store, keys)[key].values.tolist() == [1, 2, 3]


def test_an_unknown_archive_or_tag_is_refused(
    store: Store, keys: dict[str, HistoryKey], tmp_path: Path
) -> None:
    path = tmp_path / "in.csv"
    path.write_text("time,value\n1,1\n")
    with pytest.raises(InvalidInput, match="archive"):
        import_history(store, ImportOptions(path, archive="none"), "Ada", NOW, quiet)
    with pytest.raises(InvalidInput, match="tag"):
        export_history(store, tmp_path / "x.csv", ["nobody"], ALL, quiet)


class TestVerify:
    @pytest.fixture
    def filled(self, store: Store, keys: dict[str, HistoryKey]) -> Store:
        times = np.arange(NOW - 3 * DAY, NOW, 2 * SECOND)
        values = np.round(np.random.default_rng(5).normal(70, 1, len(times)), 1)
        series = Series.of(ValueType.FLOAT, times, values)
        backfill(store, {keys["Line 1 temperature"]: series}, Window(NOW - 3 * DAY, NOW))
        assert PyramidBuilder(store, FixedClock(NOW)).build_some(60) > 0
        assert self.faults(store) == []
        return store

    def faults(self, store: Store) -> list[Fault]:
        return list(verify(store, lambda _: None))

    @pytest.mark.parametrize("share", [0.0, 0.001, 0.5, 0.9999])
    @pytest.mark.parametrize(
        ("table", "column"), [("segment", "payload"), ("rollup", "shape"), ("rollup", "figures")]
    )
    def test_a_single_flipped_byte_is_found(
        self, filled: Store, table: str, column: str, share: float
    ) -> None:
        with filled.transaction() as tx:
            width = "AND width_us = 600000000" if table == "rollup" else ""
            ((data,),) = tx.fetch(f"SELECT {column} FROM {table} WHERE archive_id > 0 {width} LIMIT 1")[:1]
            broken = bytearray(data)
            broken[int(share * len(broken))] ^= 0x10
            tx.execute(
                f"UPDATE {table} SET {column} = %(new)s WHERE {column} = %(old)s", new=bytes(broken), old=data
            )
        assert len(self.faults(filled)) == 1

    @pytest.mark.parametrize(
        ("change", "said"),
        [
            ("UPDATE segment SET high = high + 1 LIMIT 1", "columns"),
            ("UPDATE segment SET start_us = start_us - 1 LIMIT 1", "columns"),
            ("DELETE FROM segment LIMIT 1", "sums"),
            ("UPDATE summary_hour SET mean = mean + 0.001 LIMIT 1", "hourly"),
            ("DELETE FROM summary_hour LIMIT 1", "hourly"),
            ("DELETE FROM history_month", "does not know of"),
        ],
    )
    def test_what_does_not_agree_is_found(self, filled: Store, change: str, said: str) -> None:
        with filled.transaction() as tx:
            tx.execute(change)
        assert any(said in str(fault) for fault in self.faults(filled))


class TestCommands:
    @pytest.fixture
    def cronaca(self, store: Store, keys: dict[str, HistoryKey]) -> Callable[..., tuple[int, str]]:
        env = {**os.environ, "PYTHONPATH": "src", "CRONACA_DATABASE_URL": store.address.url, "COLUMNS": "200"}

        def run(*arguments: str, stdin: str = "", admin: str = "") -> tuple[int, str]:
            command = [sys.executable, "-m", "cronaca.cli", "history", *arguments]
            done = subprocess.run(
                command, env={**env, "CRONACA_ADMIN_DATABASE_URL": admin}, capture_output=True, text=True,
                check=False, input=stdin,
            )  # fmt: skip
            return done.returncode, done.stdout + done.stderr

        return run

    def test_import_export_stats_and_verify(
        self,
        store: Store,
        keys: dict[str, HistoryKey],
        cronaca: Callable[..., tuple[int, str]],
        tmp_path: Path,
    ) -> None:
        path = tmp_path / "in.csv"
        path.write_text("time;tag;value\n2026-11-23 12:00:00;Line 1 temperature;1,5\nx;Line 1 noise;2\n")
        code, said = cronaca("import", str(path))
        assert code == 1 and "zone" in said and "--zone" in said
        code, said = cronaca("import", str(path), "--zone", "Europe/Rome", "--on-bad", "skip")
        assert code == 0 and "1 samples of 1 tags" in said and "line 3: 'x' is no time" in said
        code, said = cronaca("export", str(tmp_path / "out.csv"), "--tag", "Line 1 temperature")
        assert code == 0 and "1 samples" in said
        with (tmp_path / "out.csv").open(newline="") as stream:
            rows = list(csv.reader(stream))
        assert rows[0] == ["time", "tag", "value", "quality"]
        assert rows[1:] == [["2026-11-23T11:00:00.000000Z", "Line 1 temperature", "1.5", "Good"]]
        code, said = cronaca("export", str(tmp_path / "out.csv"))
        assert code == 1 and "--overwrite" in said
        code, said = cronaca("verify")
        assert code == 0 and "No fault found" in said
        code, said = cronaca("stats")
        assert code == 0 and "Line 1 temperature" in said and "bytes a sample" in said
        with store.transaction() as tx:
            tx.execute("UPDATE segment SET payload = CONCAT(payload, 'x')")
        code, said = cronaca("verify")
        assert code == 1 and "1 faults" in said

    def test_names_and_texts_that_look_like_formulas_are_guarded_and_come_back_as_they_were(
        self, store: Store, keys: dict[str, HistoryKey], tmp_path: Path
    ) -> None:
        words = ["=1+1", "'=1+1", "plain", "-5", "@a"]
        key = keys["Line 1 lot"]
        with store.transaction() as tx:
            tx.execute("UPDATE tag SET name = '=HYPERLINK(1)' WHERE name = 'Line 1 lot'")
            codes = texts.codes_of(tx, words)
        times = NOW + np.arange(len(words)) * SECOND
        backfill(store, {key: Series.of(ValueType.TEXT, times, codes)}, Window(NOW, NOW + HOUR))
        path = tmp_path / "out.csv"
        assert export_history(store, path, ["=HYPERLINK(1)"], Window(0, NOW + HOUR), quiet) == len(words)
        with path.open(newline="") as stream:
            cells = [cell for row in csv.reader(stream) for cell in row]
        assert not [cell for cell in cells if cell.startswith(("=", "+", "-", "@"))]
        with store.transaction() as tx:
            tx.execute("DELETE FROM segment")
            tx.execute("DELETE FROM history_month")
        import_history(store, ImportOptions(path), "engineer", NOW + HOUR, quiet)
        (answer,) = SeriesReader(store).read_keys([key], Window(NOW, NOW + HOUR))
        with store.snapshot() as tx:
            known = texts.texts_of(tx, answer.recorded.values.tolist())
        assert [known[code] for code in answer.recorded.values.tolist()] == words

    def test_a_file_is_of_one_archive(
        self, store: Store, keys: dict[str, HistoryKey], tmp_path: Path
    ) -> None:
        key = keys["Line 1 temperature"]
        with store.transaction() as tx:
            tx.execute("INSERT INTO archive (uid, name) SELECT UUID(), 'Second'")
            number = find_archive(tx, "Second")
            assert number is not None
            tag = next(one for one in list_tags(tx) if one.tag_id == key.tag_id)
            other = histories.open_history(tx, number, tag, 0).key
        series = {k: Series.of(ValueType.FLOAT, [NOW], [value]) for k, value in ((key, 1.0), (other, 2.0))}
        backfill(store, series, Window(NOW, NOW + HOUR))
        path, spec = tmp_path / "out.csv", ["Line 1 temperature"]
        with pytest.raises(InvalidInput, match="Second") as refused:
            export_history(store, path, spec, Window(0, NOW + HOUR), quiet)
        assert refused.value.field == "archive" and not path.exists()
        assert export_history(store, path, spec, Window(0, NOW + HOUR), quiet, "Second") == 1
        assert ',"2",' in path.read_text()
        with pytest.raises(InvalidInput, match="no archive 'Third'"):
            export_history(store, path, spec, Window(0, NOW + HOUR), quiet, "Third")

    def test_a_file_has_what_lies_in_the_journal_alone(
        self, store: Store, keys: dict[str, HistoryKey], tmp_path: Path
    ) -> None:
        """Nothing of this month was compacted yet, and so no month is on record."""
        now = now_us()
        sink = StoreSink(store)
        epoch = sink.open_epoch("test", now)
        assert epoch is not None
        series = Series.of(ValueType.FLOAT, [now - SECOND], [21.5])
        sink.commit(a_flush(epoch, 1, {keys["Line 1 temperature"]: series}, now))
        path, window = tmp_path / "out.csv", Window(now - HOUR, now + HOUR)
        assert export_history(store, path, ["Line 1 temperature"], window, quiet) == 1
        assert ',"21.5",' in path.read_text()

    def test_a_reporting_account_reads_the_views_and_nothing_else(
        self, store: Store, database: PrivateServer, cronaca: Callable[..., tuple[int, str]]
    ) -> None:
        name = f"report_{store.address.database}"
        admin = replace(database.admin_address, database=store.address.database).url
        assert cronaca("reporting-account", name, stdin="short\n", admin=admin)[0] == 1
        code, said = cronaca("reporting-account", name, stdin="long enough, surely\n")
        assert code == 1 and "CREATE USER" in said, "the program's own account makes no accounts"
        code, said = cronaca("reporting-account", name, stdin="long enough, surely\n", admin=admin)
        assert code == 0, said
        connection = pymysql.connect(
            host=store.address.host, port=store.address.port, user=name, password="long enough, surely",
            database=store.address.database,
        )  # fmt: skip
        with connection.cursor() as cursor:
            for view in ("report_tags", "report_hours", "report_days", "report_gaps"):
                cursor.execute(f"SELECT * FROM {view}")
            for table in ("segment", "tag", "journal", "recorder_epoch"):
                with pytest.raises(pymysql.OperationalError, match="denied"):
                    cursor.execute(f"SELECT * FROM {table}")
            with pytest.raises(pymysql.OperationalError, match="denied"):
                cursor.execute("DELETE FROM report_gaps")
        connection.close()


def test_sizes_say_bytes_a_sample(store: Store, keys: dict[str, HistoryKey]) -> None:
    times = np.arange(NOW, NOW + HOUR, SECOND)
    series = Series.of(ValueType.FLOAT, times, np.round(np.sin(times / float(MINUTE)), 1).astype(np.float64))
    backfill(store, {keys["Line 1 temperature"]: series}, Window(NOW, NOW + HOUR))
    with store.snapshot() as tx:
        (size,) = list_sizes(tx)
    assert (size.tag, size.samples, size.segments) == ("Line 1 temperature", 3600, 1)
    assert size.bytes_per_sample is not None and 0 < size.bytes_per_sample < 1

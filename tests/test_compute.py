"""`cronaca compute`: a file in, aggregates out, as scripts rely on it; no server, no database."""

from __future__ import annotations

import csv
import io
import json
import os
import subprocess
import sys
from contextlib import redirect_stderr, redirect_stdout
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from unittest.mock import patch

import pytest

from cronaca.cli import main
from cronaca.core import quality as q
from cronaca.core.aggregates import Samples
from cronaca.core.model import SECOND
from tests.core.aggregates.annex_a import HISTORIAN_1, HISTORIAN_2, HISTORIAN_4, START, read_tables
from tests.core.aggregates.test_part13_tables import DEVIATIONS
from tests.support.application import ROOT

FROM, TO = "2026-01-01T12:00:00Z", "2026-01-01T12:01:40Z"
WORDS = {q.GOOD: "Good", q.BAD: "Bad", q.UNCERTAIN: "0x40000000"}


@dataclass(frozen=True)
class Done:
    returncode: int
    stdout: str
    stderr: str


def run(*options: str) -> Done:
    """The command in this process: starting Python anew takes longer than all it does."""
    out, err = io.StringIO(), io.StringIO()
    with (
        redirect_stdout(out),
        redirect_stderr(err),
        patch.object(sys, "argv", ["cronaca", "compute", *options]),
    ):
        try:
            main()
        except SystemExit as exc:
            if isinstance(exc.code, str):
                return Done(1, out.getvalue(), err.getvalue() + exc.code)
            return Done(int(exc.code or 0), out.getvalue(), err.getvalue())
    return Done(0, out.getvalue(), err.getvalue())


def test_it_needs_neither_server_nor_database(one: Path) -> None:
    env = {
        **os.environ,
        "PYTHONPATH": str(ROOT / "src"),
        "CRONACA_DATABASE_URL": "mysql://x:y@127.0.0.1:1/none",
    }
    options = ["--csv", str(one), "--stat", "Average", "--start", FROM, "--end", TO]
    command = [sys.executable, "-m", "cronaca.cli", "compute", *options]
    done = subprocess.run(command, env=env, capture_output=True, text=True, check=True, timeout=60)
    assert json.loads(done.stdout) == answer(one, "--stat", "Average")


def answer(file: Path, *options: str, start: str = FROM, end: str = TO) -> list[dict[str, Any]]:
    done = run("--csv", str(file), "--start", start, "--end", end, *options)
    assert done.returncode == 0, done.stderr
    found: list[dict[str, Any]] = json.loads(done.stdout)
    return found


def write(file: Path, samples: Samples, *, words: bool = False) -> Path:
    """The historian as a file, its lines not in order."""
    rows = ["time,value,quality"]
    series = samples.series
    for ts, value, quality in zip(
        series.ts_us.tolist(), series.values.tolist(), series.quality.tolist(), strict=True
    ):
        second = (ts - START) // SECOND
        shown = "" if quality >= q.BAD else ("True" if value else "False") if words else f"{value:g}"
        rows.append(f"2026-01-01T13:{second // 60:02}:{second % 60:02}+01:00,{shown},{WORDS[quality]}")
    file.write_text("\n".join([rows[0], *rows[:0:-1]]) + "\n")
    return file


@pytest.fixture
def one(tmp_path: Path) -> Path:
    return write(tmp_path / "historian1.csv", HISTORIAN_1)


@pytest.mark.parametrize("historian", [1, 2])
def test_the_tables_of_the_standard_through_the_command(tmp_path: Path, historian: int) -> None:
    file = write(tmp_path / "h.csv", (HISTORIAN_1, HISTORIAN_2)[historian - 1])
    tables = [t for t in read_tables() if t.interval_us == 16 * SECOND and t.aggregate != "WorstQuality"]
    stats = [option for t in tables for option in ("--stat", t.aggregate)]
    bad = "--no-treat-uncertain-as-bad" if historian == 1 else "--treat-uncertain-as-bad"
    rows = iter(answer(file, *stats, "--interval", "PT16S", bad, "--sloped", "--percent-good", "100"))
    for table in tables:
        for cell in table.rows:
            row = next(rows)
            assert (row["stat"], row["start"][11:19]) == (table.aggregate, cell.start)
            if (table.aggregate, cell.start, historian) not in DEVIATIONS:
                code = int(row["status_code"], 16)
                expected = cell.cell(historian)
                seconds = float(row["time"][17:-1]) + 60 * float(row["time"][14:16])
                at_us = START + round(seconds * SECOND)
                assert expected.agrees(row["value"], code, at_us, is_status=False), (row, expected)


def test_one_object_per_interval_and_statistic(one: Path) -> None:
    rows = answer(one, "--stat", "Average", "--stat", "WorstQuality", "--interval", "PT50S")
    assert [tuple(row) for row in rows] == [
        ("stat", "start", "end", "time", "value", "quality", "status_code")] * 4  # fmt: skip
    assert rows[0] == {"stat": "Average", "start": FROM, "end": "2026-01-01T12:00:50Z", "time": FROM,
                       "value": 20.0, "quality": "Uncertain", "status_code": "40A40405"}  # fmt: skip
    assert [row["value"] for row in rows[2:]] == ["Bad", "Uncertain"]


def test_csv_has_the_same_cells(one: Path) -> None:
    done = run("--csv", str(one), "--stat", "Count", "--start", FROM, "--end", TO, "--interval", "PT16S",
               "--format", "csv")  # fmt: skip
    rows = list(csv.DictReader(io.StringIO(done.stdout)))
    assert [row["value"] for row in rows] == [
        str(r["value"]) for r in answer(one, "--stat", "Count", "--interval", "PT16S")
    ]


def test_a_contact_is_seen_from_its_values_and_texts_come_back(tmp_path: Path) -> None:
    contact = write(tmp_path / "contact.csv", HISTORIAN_4, words=True)
    (row,) = answer(contact, "--stat", "DurationInStateNonZero", "--stepped", end="2026-01-01T12:00:32Z")
    assert row["value"] == 27_000
    text = tmp_path / "lot.csv"
    text.write_text("time,value\n2026-01-01T12:00:00Z,Penne 412\n2026-01-01T12:00:30Z,Fusilli 413\n")
    (last, changes) = answer(text, "--stat", "End", "--stat", "NumberOfTransitions")
    assert (last["value"], changes["value"]) == ("Fusilli 413", 1)


def test_backward_in_time(one: Path) -> None:
    rows = answer(one, "--stat", "Start", "--interval", "PT50S", start=TO, end=FROM)
    assert [(r["start"][14:19], r["end"][14:19], r["value"]) for r in rows] == [
        ("01:40", "00:50", 90), ("00:50", "00:00", 50)]  # fmt: skip


@pytest.mark.parametrize("options,words", [
    (["--stat", "Mean"], "'Mean' is not a standard aggregate"),
    (["--stat", "Average", "--interval", "16"], "interval: '16' is not a duration"),
    (["--stat", "Average", "--interval", "PT0S"], "interval: 'PT0S' is not a duration"),
    (["--stat", "Average", "--start", "2026-01-01"], "start: '2026-01-01' has no zone"),
    (["--stat", "Average", "--end", FROM], "end: the window has no length"),
    (["--stat", "Average", "--percent-good", "0", "--percent-bad", "80"], "percent_good"),
    (["--stat", "Average", "--csv", "nowhere.csv"], "there is no file"),
])  # fmt: skip
def test_what_cannot_be_is_one_clear_line(one: Path, options: list[str], words: str) -> None:
    done = run("--csv", str(one), "--start", FROM, "--end", TO, *options)
    assert done.returncode == 1
    assert words in done.stderr
    assert done.stdout == ""
    assert len(done.stderr.strip().splitlines()) == 1


def test_a_line_that_cannot_be_used_is_named(tmp_path: Path) -> None:
    file = tmp_path / "broken.csv"
    file.write_text("time,value,quality\n2026-01-01T12:00:00Z,1,Good\n2026-01-01T12:00:01Z,2,Great\n")
    done = run("--csv", str(file), "--stat", "Average", "--start", FROM, "--end", TO)
    assert done.returncode == 1
    assert "line 3: 'Great' is no quality" in done.stderr


def test_whole_numbers_that_floats_do_not_hold_stay_whole(tmp_path: Path) -> None:
    file = tmp_path / "counter.csv"
    file.write_text(f"time,value\n2026-01-01T12:00:00Z,{2**53 + 1}\n2026-01-01T12:00:10Z,{2**53 + 3}\n")
    stats = ["--stat", "Delta", "--stat", "Maximum", "--stat", "VariancePopulation"]
    assert [row["value"] for row in answer(file, *stats)] == [2, 2**53 + 3, 1.0]


def test_what_the_values_are_can_be_said(tmp_path: Path) -> None:
    file = tmp_path / "level.csv"
    file.write_text("time,value\n2026-01-01T12:00:00Z,0\n2026-01-01T12:01:40Z,10\n")
    assert answer(file, "--stat", "TimeAverage2")[0]["value"] == 5.0, "floats lie on a slope"
    held = answer(file, "--stat", "TimeAverage2", "--type", "integer")
    assert held[0]["value"] == 0.0, "whole numbers are held"
    file.write_text("time,value\n2026-01-01T12:00:00Z,0.5\n")
    done = run("--csv", str(file), "--start", FROM, "--end", TO, "--stat", "Count", "--type", "integer")
    assert done.returncode == 1 and "line 2" in done.stderr


@pytest.mark.parametrize("length", ["P1M", "P1Y", "P1Y2M3D"])
def test_months_and_years_are_refused_for_they_differ_in_length(one: Path, length: str) -> None:
    options = ["--csv", str(one), "--start", FROM, "--end", TO, "--stat", "Count", "--interval", length]
    done = run(*options)
    assert done.returncode == 1 and "interval" in done.stderr and "P30D" in done.stderr

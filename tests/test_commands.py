"""The commands as a person meets them: start, refusal, end."""

from __future__ import annotations

import os
import re
import signal
import socket
import subprocess
import sys
from pathlib import Path

import pytest

from cronaca.db.ports import find_free_port
from cronaca.db.private_server import PrivateServer
from cronaca.demo.people import PEOPLE
from cronaca.main.demo import free_port
from cronaca.recorder.outputs.quarantine import Quarantine, Refused
from tests.support.application import ROOT

PYTHON = [sys.executable, "-m", "cronaca.cli"]


def environment(**more: str) -> dict[str, str]:
    return {**os.environ, "PYTHONPATH": str(ROOT / "src"), **more}


def run(*command: str, **more: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [*PYTHON, *command], env=environment(**more), capture_output=True, text=True, check=False, timeout=60
    )


@pytest.mark.parametrize("command", ["recorder", "worker", "server", "migrate"])
def test_without_a_database_there_is_one_clear_line_and_an_exit_code(command: str) -> None:
    done = run(command, CRONACA_DATABASE_URL="mysql://nobody:x@127.0.0.1:1/nothing")
    assert done.returncode == 1
    assert "127.0.0.1:1/nothing does not answer" in done.stderr
    assert "CRONACA_DATABASE_URL" in done.stderr
    assert "Traceback" not in done.stderr
    assert len(done.stderr.strip().splitlines()) == 1


def test_commands_find_the_database_of_a_demo_by_themselves(tmp_path: Path) -> None:
    beside = {"CRONACA_DATABASE_URL": "", "CRONACA_DATA_DIR": str(tmp_path)}
    done = run("history", "stats", **beside)
    assert done.returncode == 1
    assert f"no database of a demo in {tmp_path}" in done.stderr and "make demo" in done.stderr
    server = PrivateServer(tmp_path / "mariadb")
    server.start()
    try:
        assert "0001_bones.sql" in run("migrate", **beside).stdout
        assert "0 histories" in run("history", "stats", **beside).stdout
        assert "No fault found" in run("history", "verify", **beside).stdout
        made = subprocess.run(
            [*PYTHON, "history", "reporting-account", "reader"], env=environment(**beside),
            capture_output=True, text=True, check=False, timeout=60, input="long enough, surely\n",
        )  # fmt: skip
        assert "reader can read report_tags" in made.stdout, made.stderr
    finally:
        server.stop()
    assert "does not answer" in run("history", "stats", **beside).stderr, "it is not started by a command"


@pytest.mark.parametrize(
    ("name", "value"),
    [("CRONACA_DATABASE_URL", "ftp://x"), ("CRONACA_PORT", "70000"), ("CRONACA_PLANT_SPEED", "0")],
)
def test_an_unusable_setting_is_named(name: str, value: str) -> None:
    done = run("migrate", **{name: value})
    assert done.returncode == 1
    assert name in done.stderr
    assert "Traceback" not in done.stderr


def test_help_names_every_command() -> None:
    text = run("--help").stdout
    for command in ("demo", "migrate", "recorder", "worker", "server", "demo-plant", "openapi"):
        assert re.search(rf"\b{command}\b", text)


def test_a_taken_port_is_left_for_the_next_one_and_that_is_said(capsys: pytest.CaptureFixture[str]) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        found = free_port("127.0.0.1", port)
    assert found > port
    assert f"Port {port} is taken; using {found}." in capsys.readouterr().out


def children_of(pid: int) -> set[int]:
    """All processes below one, by their parents in /proc."""
    found: set[int] = set()
    for path in Path("/proc").glob("[0-9]*/stat"):
        try:
            fields = path.read_text().rsplit(")", 1)[1].split()
        except (FileNotFoundError, ProcessLookupError):
            continue
        if int(fields[1]) == pid:
            child = int(path.parent.name)
            found |= {child} | children_of(child)
    return found


def test_the_demo_prints_its_address_and_ctrl_c_ends_all_it_started(tmp_path: Path) -> None:
    env = environment(
        CRONACA_DATA_DIR=str(tmp_path / "data"),
        CRONACA_PORT=str(find_free_port()),
        CRONACA_PLANT_PORT=str(find_free_port()),
        CRONACA_DEMO_HISTORY="false",
        CRONACA_WEB_DIR=str(ROOT / "web" / "dist"),
    )
    demo = subprocess.Popen(
        [*PYTHON, "demo"], env=env, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True
    )
    assert demo.stdout is not None
    try:
        lines: list[str] = []
        while not any("Cronaca is running" in line for line in lines):
            lines.append(demo.stdout.readline())
            assert lines[-1], f"the demo ended: {lines}"
        while "Ctrl-C" not in lines[-1]:
            lines.append(demo.stdout.readline())
        told = "".join(lines)
        assert all(re.search(rf"{name} +[-0-9a-f]{{19}}", told) for name in PEOPLE), "with what to sign in"
        assert "Token for programs" in told
        started = children_of(demo.pid)
        assert len(started) == 5, "database, plant, recorder, worker, server"
        demo.send_signal(signal.SIGINT)
        assert demo.wait(40) == 0
        assert [pid for pid in started if Path(f"/proc/{pid}").exists()] == []
        assert (tmp_path / "data" / "plant.npz").is_file(), "the plant goes on where it was at the next start"
    finally:
        demo.kill()
        demo.stdout.close()


def test_the_quarantine_is_listed_shown_and_emptied(tmp_path: Path) -> None:
    Quarantine(tmp_path / "quarantine").put([Refused("samples", (5,), "out of range", 1, 2, {})], 7)
    here = {"CRONACA_DATA_DIR": str(tmp_path)}
    listed = run("quarantine", **here).stdout
    assert "samples  tags 5: out of range" in listed
    assert '"reason": "out of range"' in run("quarantine", listed.split()[0], **here).stdout
    assert run("quarantine", "--empty", **here).stdout == "1 removed.\n"
    assert run("quarantine", **here).stdout == ""

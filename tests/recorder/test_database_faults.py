"""The database, the disk and the network go away while the whole application records."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from cronaca.core.model import SECOND, GapReason
from cronaca.db.private_server import PrivateServer
from tests.support.application import Application, lasts, wait_for
from tests.support.checks import Checker, now_us
from tests.support.proxy import Proxy


@pytest.fixture
def server(tmp_path: Path) -> Iterator[PrivateServer]:
    """A database that a test may kill."""
    found = PrivateServer(tmp_path / "mariadb")
    found.start()
    yield found
    found.stop()


@pytest.fixture
def alone(server: PrivateServer, tmp_path: Path) -> Iterator[Application]:
    """The application on a database of its own."""
    found = Application(server.address, tmp_path)
    found.device.set({"head_pressure": 98.0})
    found.start()
    yield found
    found.stop()


def test_a_database_killed_while_recording_costs_no_sample(server: PrivateServer, alone: Application) -> None:
    checker = Checker(alone)
    alone.wait_for_readings(3)
    checker.look()
    server.kill()
    assert wait_for(lambda: not alone.health(), 30, "the server's word that the database is away")
    lasts(5)
    server.start()
    wait_for(lambda: alone.health().get("status") == "ok", 30, "the return")
    alone.wait_for_readings(2)
    assert checker.gaps() == [], "every second is there, those without a database too"
    assert len(checker.seen) >= 10


@pytest.mark.parametrize("seconds", [12, pytest.param(60, marks=pytest.mark.slow)])
def test_a_database_stopped_for_a_while_costs_no_sample(
    server: PrivateServer, alone: Application, seconds: int
) -> None:
    """Under load: the spool takes what comes, and forwards it while new samples go on coming."""
    checker = Checker(alone)
    alone.wait_for_readings(2)
    server.stop()
    lasts(seconds)
    server.start()
    wait_for(lambda: alone.health().get("status") == "ok", 40, "the return")
    wait_for(lambda: alone.health()["recorder"]["queued_samples"] < 200, 20, "an empty spool")
    alone.wait_for_readings(1)
    assert checker.gaps() == []
    assert len(checker.seen) >= seconds + 2


def test_a_recorder_killed_while_the_database_is_away_forwards_its_spool_afterwards(
    server: PrivateServer, alone: Application
) -> None:
    checker = Checker(alone)
    alone.wait_for_readings(2)
    server.stop()
    lasts(4)
    killed = now_us()
    alone.kill("recorder")
    server.start()
    lasts(1)
    alone.start_part("recorder")
    wait_for(lambda: alone.epoch() == 2 and alone.health().get("status") == "ok", 40, "the return")
    wait_for(
        lambda: all(g.start_us > killed - 2 * SECOND for g in checker.gaps()), 20, "samples safe to its death"
    )
    (gap,) = checker.gaps()
    assert gap.reason is GapReason.RECORDER_DOWN
    assert gap.start_us <= killed, "up to its death, samples were safe on disk, and not after it"


def test_a_full_disk_under_the_spool_is_on_record(server: PrivateServer, alone: Application) -> None:
    alone.end("recorder")
    limited = ["prlimit", "--fsize=4000"]
    alone.start_part("recorder", prefix=limited, CRONACA_SPOOL_FULL="newest")
    wait_for(
        lambda: alone.epoch() == 2 and alone.health()["recorder"]["state"] == "running", 40, "the restart"
    )
    wait_for(lambda: alone.health()["recorder"]["faults"], 20, "the word about the other file")
    (fault,) = alone.get("/api/recorder")["faults"]
    assert "set-up could not be kept on disk" in str(fault), (
        "it is larger than may be written, and costs no sample"
    )
    checker = Checker(alone)
    alone.wait_for_readings(2)
    server.stop()
    lasts(15)
    server.start()
    wait_for(lambda: (alone.health().get("recorder") or {}).get("state") == "running", 40, "the return")
    wait_for(lambda: checker.gaps() and checker.gaps()[-1].end_us is not None, 20, "the record")
    gaps = checker.gaps()
    # Mostly one; more when a flush with few samples fitted after one with many did not (see test_spool).
    assert {g.reason for g in gaps} == {GapReason.SPOOL_OVERFLOW}, gaps
    lost = sum((g.end_us or now_us()) - g.start_us for g in gaps)
    assert 2 * SECOND < lost < 15 * SECOND, f"what fitted is there: {gaps}"
    times = np.array(sorted(checker.seen))
    for gap in gaps:
        assert not ((times >= gap.start_us) & (times < (gap.end_us or now_us()))).any(), gap
    health = alone.health()
    assert health["status"] == "degraded" and health["recorder"]["dropped_samples"] > 0


def test_a_recorder_cut_off_while_its_successor_writes_fills_only_uncovered_time(
    server: PrivateServer, alone: Application
) -> None:
    alone.end("recorder")
    proxy = Proxy(server.address.host, server.address.port)
    through = replace(server.address, port=proxy.port).url
    alone.start_part("recorder", "first", CRONACA_DATABASE_URL=through)
    wait_for(lambda: alone.epoch() == 2 and alone.health().get("status") == "ok", 20, "the first one")
    checker = Checker(alone)
    alone.start_part("recorder", "second")
    alone.wait_for_readings(3)
    proxy.cut()
    wait_for(lambda: alone.epoch() == 3, 20, "the successor")
    alone.wait_for_readings(3)
    proxy.mend()
    wait_for(lambda: not alone.alive("first"), 15, "the word that it was cut off")
    assert [g.reason for g in checker.gaps()] == [GapReason.RECORDER_DOWN]
    alone.start_part("recorder", "first")
    alone.wait_for_readings(2)
    assert alone.epoch() == 3, "it waits for the lease now"
    alone.end("second")
    wait_for(lambda: alone.epoch() == 4 and alone.health().get("status") == "ok", 20, "the takeover")
    alone.wait_for_readings(2)
    gaps = checker.gaps()
    proxy.close()
    assert [g.reason for g in gaps] == [GapReason.RECORDER_STOPPED], "the first gap is filled from the spool"

"""Twenty rounds of faults of every kind at random moments: no committed sample lost, none twice, order
kept, each hole with its reason."""

from __future__ import annotations

import os
import random
import signal
import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from cronaca.core.model import GapReason
from cronaca.db.private_server import PrivateServer
from cronaca.history.jobs.verify import verify
from tests.support.application import Application, wait_for
from tests.support.checks import Checker
from tests.support.proxy import Proxy

pytestmark = [pytest.mark.slow, pytest.mark.timeout(3000)]
ROUNDS = 20


class Works:
    """A recorder behind a network that can be cut, a second one that waits, a database that can be killed."""

    def __init__(self, folder: Path, chance: random.Random) -> None:
        self.chance = chance
        self.server = PrivateServer(folder / "mariadb")
        address = self.server.start()
        self.proxy = Proxy(address.host, address.port)
        self.through = replace(address, port=self.proxy.port).url
        self.application = Application(address, folder)
        self.application.device.set({"head_pressure": 98.0})
        self.application.device.on()
        self.start_first()
        for part in ("worker", "server"):
            self.application.start_part(part)
        self.well()
        self.checker = Checker(self.application)

    def start_first(self) -> None:
        self.application.start_part("recorder", "first", CRONACA_DATABASE_URL=self.through)

    def well(self) -> None:
        wait_for(lambda: self.application.health().get("status") == "ok", 60, "the recovery")

    def pause(self, least: float, most: float) -> None:
        time.sleep(self.chance.uniform(least, most))

    def kill_recorder(self) -> None:
        before = self.application.epoch()
        self.application.kill("first")
        self.pause(0, 3)
        self.start_first()
        wait_for(lambda: self.application.epoch() == before + 1, 30, "the takeover")

    def kill_database(self) -> None:
        self.server.kill()
        self.pause(1, 8)
        self.server.start()

    def stop_database(self) -> None:
        self.server.stop()
        self.pause(1, 15)
        self.server.start()

    def kill_recorder_while_the_database_is_away(self) -> None:
        before = self.application.epoch()
        self.server.kill()
        self.pause(1, 5)
        self.application.kill("first")
        self.server.start()
        self.start_first()
        wait_for(lambda: self.application.epoch() == before + 1, 40, "the takeover")

    def kill_worker(self) -> None:
        self.application.kill("worker")
        self.application.start_part("worker")
        self.pause(0.5, 4)
        self.application.kill("worker")
        self.application.start_part("worker")

    def freeze_database(self) -> None:
        """It hangs instead of dying: what a full disk under it, or a stalled one, looks like."""
        process = self.server._process
        assert process is not None
        os.kill(process.pid, signal.SIGSTOP)
        self.pause(1, 12)
        os.kill(process.pid, signal.SIGCONT)

    def cut_off(self) -> None:
        """The network of the first recorder breaks; a second one takes over, and hands back."""
        before = self.application.epoch()
        self.application.start_part("recorder", "second")
        self.pause(2, 3)
        self.proxy.cut()
        wait_for(lambda: self.application.epoch() == before + 1, 30, "the successor")
        self.pause(1, 5)
        self.proxy.mend()
        wait_for(lambda: not self.application.alive("first"), 30, "the word that it was cut off")
        self.start_first()
        self.pause(0, 2)
        self.application.end("second")
        wait_for(lambda: self.application.epoch() == before + 2, 30, "the way back")

    def full_disk(self) -> None:
        """The spool cannot grow while the database is away: the drop is on record."""
        before = self.application.epoch()
        self.application.end("first")
        limited = ["prlimit", "--fsize=4000"]
        self.application.start_part("recorder", "first", limited, CRONACA_DATABASE_URL=self.through)
        wait_for(lambda: self.application.epoch() == before + 1, 30, "the start")
        self.pause(1, 2)
        self.server.stop()
        self.pause(5, 12)
        self.server.start()
        wait_for(lambda: (self.application.health().get("recorder") or {}).get("state") == "running", 60)
        time.sleep(2)
        self.application.end("first")
        self.start_first()
        wait_for(lambda: self.application.epoch() == before + 2, 30, "the start without a limit")

    def faults(self) -> list[Callable[[], None]]:
        return [
            self.kill_recorder, self.kill_database, self.stop_database, self.kill_worker,
            self.kill_recorder_while_the_database_is_away, self.freeze_database, self.cut_off, self.full_disk,
        ]  # fmt: skip

    def stop(self) -> None:
        self.application.stop()
        self.proxy.close()
        self.server.stop()


@pytest.fixture
def works(tmp_path: Path) -> Iterator[Works]:
    found = Works(tmp_path, random.Random(int(os.environ.get("CRONACA_TEST_SEED", "1"))))
    yield found
    found.stop()


def test_twenty_rounds_of_random_faults(works: Works) -> None:
    faults = works.faults()
    order = [*faults, *(works.chance.choice(faults) for _ in range(ROUNDS - len(faults)))]
    works.chance.shuffle(order)
    for fault in order:
        works.pause(1, 4)
        works.checker.look()
        print(fault.__name__, flush=True)
        fault()
        works.well()
        works.checker.look()
    time.sleep(3)
    expected = {GapReason.RECORDER_DOWN, GapReason.RECORDER_STOPPED, GapReason.SPOOL_OVERFLOW}
    assert {gap.reason for gap in works.checker.gaps()} <= expected
    assert len(works.checker.seen) > 60
    assert list(verify(works.application.store, lambda _: None)) == []

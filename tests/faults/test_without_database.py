"""After a common power cut the recorder samples before the database is back, and nothing of it is lost."""

from __future__ import annotations

import hashlib
import json
import time
from pathlib import Path

import pytest

from cronaca.core.addresses.names import CALCULATED, GENERATOR
from cronaca.core.loggers import OnChange
from cronaca.core.model import SECOND, LoggerMode, RuleSpec, Window
from cronaca.db import Store
from cronaca.db.migrate import migrate
from cronaca.db.private_server import PrivateServer
from cronaca.history.read.series import SeriesReader
from cronaca.history.tables import epochs, gaps
from cronaca.main.setup_cache import SetupCache
from cronaca.plant import histories
from cronaca.plant.archives import insert_archive
from cronaca.plant.loggers import insert_logger
from cronaca.plant.site import Plant, put_plant
from cronaca.plant.sources import insert_source
from cronaca.plant.tags import insert_tag, list_tags
from cronaca.plant.whole import read_setup
from cronaca.services import control
from tests.support.application import Processes, lasts, wait_for
from tests.support.builders import a_logger, a_tag

FAR = Window(0, 10**16)


def a_plant(store: Store) -> None:
    """A generated signal and twice its value, recorded every second."""
    with store.transaction() as tx:
        put_plant(tx, Plant("Pastificio Ombralta", "Europe/Rome", 1, ()))
        source = insert_source(tx, "s" * 36, "Signals", GENERATOR, {})
        wave = '{"shape": "sine", "low": 0, "high": 10, "period_s": 20}'
        signal = a_tag("signal", source_id=source, address=wave)
        number = insert_tag(tx, signal)
        sums = insert_source(tx, "c" * 36, "Calculated", CALCULATED, {})
        formula = f'{{"kind": "formula", "formula": "2 * a", "inputs": {{"a": "{signal.uid}"}}}}'
        twice = insert_tag(tx, a_tag("twice", source_id=sums, address=formula))
        archive = insert_archive(tx, "a" * 36, "Process values")
        logger = a_logger(0, "l" * 36, "every second", archive, LoggerMode.PERIODIC, SECOND, (number, twice))
        insert_logger(tx, logger, 0)


def times(store: Store, name: str) -> list[int]:
    with store.snapshot() as tx:
        (tag,) = [one for one in list_tags(tx) if one.name == name]
        (history,) = histories.list_choices(tx, [tag.tag_id], {})[tag.tag_id]
    (answer,) = SeriesReader(store).read_keys([history.key], FAR)
    good = answer.recorded.quality < 0x8000
    found: list[int] = answer.recorded.ts_us[good].tolist()
    return found


def test_a_recorder_that_starts_before_its_database_loses_nothing(tmp_path: Path) -> None:
    server = PrivateServer(tmp_path / "db")
    store = Store(server.start())
    migrate(store)
    a_plant(store)
    parts = Processes(store.address, tmp_path)
    try:
        parts.start_part("recorder")
        wait_for(lambda: len(times(store, "twice")) > 2, 40, "a first recording")
        wait_for((tmp_path / "setup.json").exists)
        parts.kill("recorder")
        server.kill()
        parts.start_part("recorder")
        spool = tmp_path / "spool" / "0"
        wait_for(lambda: sum(p.stat().st_size for p in spool.glob("*.spool")) > 2_000, 40, "sampling")
        began_us = time.time_ns() // 1000
        lasts(3.0)  # the stretch that is looked for afterwards
        back_us = time.time_ns() // 1000
        server.start()
        wait_for(lambda: [t for t in times(store, "twice") if t > back_us], 60, "the rest")
        wait_for(lambda: not list(spool.glob("*.spool")), 30)
        inside = [t for t in times(store, "signal") if began_us <= t < back_us]
        assert len(inside) >= 2, "what was sampled without the database is there"
        with store.snapshot() as tx:
            last = epochs.find_last_epoch(tx)
            torn = gaps.list_gaps(tx, Window(began_us, back_us))
        assert last is not None and last.epoch == 2
        assert torn == [], "and no gap stands for it"
        assert "Recording begins without the database" in (tmp_path / "recorder.log").read_text()
    finally:
        parts.end_all()
        store.close()
        server.stop()


def test_what_is_kept_comes_back_whole_and_what_is_damaged_is_not_used(
    store: Store, tmp_path: Path, caplog: pytest.LogCaptureFixture
) -> None:
    a_plant(store)
    with store.snapshot() as tx:
        plan, histories = read_setup(tx), control.read_histories(tx)
    cache = SetupCache(tmp_path / "setup.json")
    assert cache.load() is None
    cache.keep(7, plan, histories)
    kept = cache.load()
    assert kept is not None
    assert (kept.epoch, kept.setup, kept.history_of()) == (7, plan, histories)
    assert (tmp_path / "setup.json").stat().st_mode & 0o777 == 0o600
    text = (tmp_path / "setup.json").read_text()
    (tmp_path / "setup.json").write_text(text.replace("signal", "sig_al"))
    assert cache.load() is None
    assert "damaged" in caplog.text


def test_one_of_the_version_before_is_read(tmp_path: Path) -> None:
    """It wrote the fields of all modes for each logger, and what is a member's own as pairs."""
    older = {
        "logger_id": 3, "uid": "l" * 36, "name": "Line 1 changes", "archive": 1, "mode": "on_change",
        "interval_us": 0, "phase_us": 0, "rule": {"kind": "change", "width": 0.5}, "tags": [11, 12],
        "overrides": [[12, {"width": 2.0}]], "wanted": True, "inhibit_tag": None, "trigger": None,
        "columns": [], "keeps": "value", "when": {"tag": None, "spans": [], "interval_tag": None},
        "before_us": 0, "after_us": 0, "late_us": 0, "inhibits": [[11, 12]], "sample_on": None,
    }  # fmt: skip
    setup = {"sources": [], "tags": [], "loggers": [older], "zone": "Europe/Rome", "runs": []}
    body = json.dumps({"epoch": 4, "setup": setup, "histories": [[1, 11, [1, 11, 1], 1]]}).encode()
    path = tmp_path / "setup.json"
    path.write_bytes(hashlib.sha256(body).hexdigest().encode() + b"\n" + body)
    kept = SetupCache(path).load()
    assert kept is not None
    (logger,) = kept.setup.loggers
    assert logger.mode == OnChange(RuleSpec(width=0.5), ((12, RuleSpec(width=2.0)),))
    assert (logger.tags, logger.inhibits, kept.setup.zone) == ((11, 12), ((11, 12),), "Europe/Rome")

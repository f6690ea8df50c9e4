"""What a large plant costs while nothing in it changes: `python -m bench.idle [seconds]`."""

from __future__ import annotations

import sys
import tempfile
import time
from dataclasses import replace
from pathlib import Path

import psutil
from tests.support.application import Processes, wait_for
from tests.support.builders import a_logger, a_tag

from bench.load import write
from cronaca.core.addresses.names import CALCULATED, INTERNAL
from cronaca.core.model import HOUR, LoggerMode, Tag
from cronaca.db import Store
from cronaca.db.migrate import migrate
from cronaca.db.private_server import PrivateServer
from cronaca.history.tables.epochs import find_last_epoch
from cronaca.plant.archives import insert_archive
from cronaca.plant.loggers import insert_logger
from cronaca.plant.site import Plant, put_plant
from cronaca.plant.sources import insert_source
from cronaca.plant.tags import insert_tag

SIGNALS, FORMULAS, LOGGERS = 8_000, 2_000, 500
HEADING = "## A plant in which nothing changes"
SETTLE_S = 20.0


def a_plant(store: Store) -> None:
    """10,000 tags, of them 2,000 formulas of the others, recorded on change by 500 loggers."""
    with store.transaction() as tx:
        put_plant(tx, Plant("Pastificio Ombralta", "Europe/Rome", 1, ()))
        inside = insert_source(tx, "s" * 36, "Internal", INTERNAL, {})
        sums = insert_source(tx, "c" * 36, "Calculated", CALCULATED, {})
        archive = insert_archive(tx, "a" * 36, "Process values")
        tags: list[Tag] = []
        for i in range(SIGNALS + FORMULAS):
            tag = a_tag(f"tag {i}", source_id=inside, address='{"initial": 1}', scan_us=HOUR)
            if i >= SIGNALS:
                tag = replace(tag, source_id=sums, address=_formula(tags[i - SIGNALS], tags[i - SIGNALS + 1]))
            tags.append(replace(tag, tag_id=insert_tag(tx, tag)))
        for i in range(LOGGERS):
            mine = tags[i::LOGGERS]
            members = tuple(tag.tag_id for tag in mine)
            insert_logger(
                tx, a_logger(0, f"{i:036}", f"logger {i}", archive, LoggerMode.ON_CHANGE, 0, members), 0, mine
            )


def _formula(a: Tag, b: Tag) -> str:
    return f'{{"kind": "formula", "formula": "2 * a + b", "inputs": {{"a": "{a.uid}", "b": "{b.uid}"}}}}'


def measure(folder: Path, length_s: float) -> float:
    """The share of a core that the recorder's process takes."""
    server = PrivateServer(folder / "idle")
    store = Store(server.start(), timeout_s=60)
    migrate(store)
    a_plant(store)
    parts = Processes(store.address, folder)
    try:
        parts.start_part("recorder")
        wait_for(lambda: _recording(store), 120, "the recorder")
        time.sleep(SETTLE_S)
        process = psutil.Process(parts.pid("recorder"))
        before = _used(process)
        time.sleep(length_s)
        used = _used(process) - before
        if not process.is_running() or not _recording(store) or used <= 0:
            raise RuntimeError("The recorder did not run through the measurement.")
        return used / length_s
    finally:
        parts.end("recorder")
        store.close()
        server.stop()


def _recording(store: Store) -> bool:
    with store.snapshot() as tx:
        last = find_last_epoch(tx)
        return last is not None and last.running and len(last.report.get("loggers", [])) == LOGGERS


def _used(process: psutil.Process) -> float:
    times = process.cpu_times()
    return float(times.user + times.system)


def section(share: float, length_s: float) -> list[str]:
    """The words for the document."""
    return [
        HEADING, "",
        f"{SIGNALS + FORMULAS:,} tags, of them {FORMULAS:,} formulas of two others each, recorded on "
        f"change by {LOGGERS} loggers; nothing is read, no value changes. The recorder takes "
        f"**{share:.1%} of a core** over {length_s:g} s (bar 3 %): two flushes a second, the lease, asking "
        "for requests and a new set-up.",
        "",
    ]  # fmt: skip


if __name__ == "__main__":
    seconds = float(sys.argv[1]) if len(sys.argv) > 1 else 60.0
    with tempfile.TemporaryDirectory() as name:
        lines = section(measure(Path(name), seconds), seconds)
    print("\n".join(lines))
    write(lines)

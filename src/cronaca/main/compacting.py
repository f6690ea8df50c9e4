"""The compactor's process."""

from __future__ import annotations

import threading
from functools import partial

from cronaca.history.jobs.compaction import StoreCompaction
from cronaca.history.jobs.pyramid import PyramidBuilder
from cronaca.history.jobs.retention import Retention
from cronaca.logbook.background import StoreBackground
from cronaca.main import BEHIND, holder_name, keep_files_private, on_signal, open_store, set_priority
from cronaca.main.supervisor import Heartbeat
from cronaca.recorder.clock import AnchoredClock
from cronaca.settings import Settings
from cronaca.worker.compact import run_compactor


def _beat(heartbeat: Heartbeat, clock: AnchoredClock) -> None:
    heartbeat.beat()
    clock.follow_wall()


def run_compaction(settings: Settings) -> None:
    """Compacts until told to end."""
    keep_files_private()
    set_priority(BEHIND)
    stop = threading.Event()
    on_signal(stop.set)
    store = open_store(settings)
    clock = AnchoredClock()
    builder = PyramidBuilder(store, clock)
    background = StoreBackground(store, "compactor", holder_name())
    run_compactor(
        StoreCompaction(store, clock), builder, Retention(store, clock), stop, background=background,
        beat=partial(_beat, Heartbeat(settings.heartbeat), clock),
    )  # fmt: skip
    store.close()

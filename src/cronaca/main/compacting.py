"""The compactor's process."""

from __future__ import annotations

import threading
from functools import partial

from cronaca.main import BEHIND, holder_name, keep_files_private, on_signal, open_store, set_priority
from cronaca.recorder.clock import AnchoredClock
from cronaca.recorder.compact import run_compactor
from cronaca.recorder.supervisor import Heartbeat
from cronaca.settings import Settings
from cronaca.store.background import StoreBackground
from cronaca.store.compaction import StoreCompaction
from cronaca.store.pyramid import PyramidBuilder
from cronaca.store.retention import Retention


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

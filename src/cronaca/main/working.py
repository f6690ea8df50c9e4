"""The worker's process."""

from __future__ import annotations

import threading
from functools import partial

from cronaca.db import Store
from cronaca.history.jobs.compaction import StoreCompaction
from cronaca.history.jobs.pyramid import PyramidBuilder
from cronaca.history.jobs.retention import Retention
from cronaca.history.read.curves import CurveReader
from cronaca.history.read.figures import FigureReader
from cronaca.history.read.series import SeriesReader
from cronaca.logbook.background import StoreBackground
from cronaca.main import BEHIND, holder_name, keep_files_private, on_signal, open_store, set_priority
from cronaca.main.memory import bound_memory
from cronaca.main.supervisor import Heartbeat
from cronaca.recorder.clock import AnchoredClock
from cronaca.services.figures import FigureService
from cronaca.services.reports import ReportService
from cronaca.services.statistics import StatisticsService
from cronaca.settings import Settings
from cronaca.worker.loop import run_loop


def _beat(heartbeat: Heartbeat, clock: AnchoredClock) -> None:
    heartbeat.beat()
    clock.follow_wall()


def _reports(store: Store, clock: AnchoredClock, settings: Settings) -> ReportService:
    reader = SeriesReader(store)
    figures = FigureService(store, FigureReader(store, reader), clock.now_us, settings.doubt_below)
    statistics = StatisticsService(figures, store)
    return ReportService(store, statistics, figures, CurveReader(store, reader), clock.now_us)


def run_worker(settings: Settings) -> None:
    """Compacts until told to end."""
    keep_files_private()
    bound_memory()
    set_priority(BEHIND)
    stop = threading.Event()
    on_signal(stop.set)
    store = open_store(settings)
    clock = AnchoredClock()
    builder = PyramidBuilder(store, clock)
    background = StoreBackground(store, "worker", holder_name())
    run_loop(
        StoreCompaction(store, clock), builder, Retention(store, clock),
        _reports(store, clock, settings), stop, background=background,
        beat=partial(_beat, Heartbeat(settings.heartbeat), clock),
    )  # fmt: skip
    store.close()

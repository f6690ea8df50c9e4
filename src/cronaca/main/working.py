"""The worker's process."""

from __future__ import annotations

import threading
from functools import partial

from cronaca.core.jobs import Queue
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
from cronaca.services.jobs import for_people, for_recorder
from cronaca.services.jobs.runner import JobRunner
from cronaca.services.people.rights import rights_of
from cronaca.services.reports import ReportService
from cronaca.services.statistics import StatisticsService
from cronaca.services.temporary import TemporaryTags
from cronaca.settings import Settings
from cronaca.worker.houses import Houses
from cronaca.worker.jobs import JobThreads, WithJobs
from cronaca.worker.loop import run_loop


def _beat(heartbeat: Heartbeat, clock: AnchoredClock) -> None:
    heartbeat.beat()
    clock.follow_wall()


def _figures(store: Store, clock: AnchoredClock, settings: Settings) -> FigureService:
    reader = FigureReader(store, SeriesReader(store))
    return FigureService(store, reader, clock.now_us, settings.doubt_below)


def _reports(store: Store, clock: AnchoredClock, settings: Settings) -> ReportService:
    reader, figures = SeriesReader(store), _figures(store, clock, settings)
    statistics = StatisticsService(figures, store)
    return ReportService(store, statistics, figures, CurveReader(store, reader), clock.now_us)


def _jobs(store: Store, clock: AnchoredClock, settings: Settings, stop: threading.Event) -> JobThreads:
    """Recorders and people have a queue each, with connections of their own."""
    apart = store.apart(4)
    people = for_people.handlers(apart, _figures(apart, clock, settings))
    work = (
        # A recorder is nobody whose rights could change.
        (Queue.RECORDER, for_recorder.handlers(apart), lambda *_: True),
        (Queue.PEOPLE, people, rights_of(apart)),
    )
    queues = [
        JobRunner(
            apart, queue, handlers, f"{holder_name()}/{queue.value}", clock.now_us, may_still=may_still,
            ends=stop.is_set,
        )
        for queue, handlers, may_still in work
    ]  # fmt: skip
    return JobThreads(queues, stop)


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
    jobs = _jobs(store, clock, settings, stop)
    jobs.start()
    background = WithJobs(StoreBackground(store, "worker", holder_name()), jobs)
    try:
        run_loop(
            StoreCompaction(store, clock), builder,
            Houses((Retention(store, clock), TemporaryTags(store, clock, rights_of(store)))),
            _reports(store, clock, settings), stop, background=background,
            beat=partial(_beat, Heartbeat(settings.heartbeat), clock),
        )  # fmt: skip
    finally:
        stop.set()
        jobs.join()
    store.close()

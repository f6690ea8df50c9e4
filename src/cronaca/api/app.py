"""The application: API under /api, everything else is the front end."""

from __future__ import annotations

import asyncio
import contextlib
import time
from collections.abc import AsyncIterator, Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path
from typing import Final

from fastapi import FastAPI
from fastapi.responses import JSONResponse
from starlette.middleware.gzip import GZipMiddleware
from starlette.routing import BaseRoute

from cronaca.api import errors
from cronaca.api.admission import Admission, Turns
from cronaca.api.background import Background
from cronaca.api.boundary import Boundary
from cronaca.api.describing import described
from cronaca.api.front_end import BasePath, Brand, serve_front_end
from cronaca.api.live import LiveHub
from cronaca.api.pushing import STATES, StatePusher
from cronaca.api.routes import (
    figures,
    formulas,
    health,
    history,
    jobs,
    live,
    people,
    recorder,
    records,
    reports,
    runs,
    samples,
    series,
    sessions,
    statistics,
    tags,
    trends,
    windows,
)
from cronaca.api.routes.setup import asking, changes, equipment, imports, loggers, sources
from cronaca.api.routes.setup import tags as setup_tags
from cronaca.api.signing import Gate
from cronaca.core.people import SessionLimits
from cronaca.db import Store
from cronaca.history.read.curves import CurveReader
from cronaca.history.read.figures import FigureReader
from cronaca.history.read.series import SeriesReader
from cronaca.history.write.edits import HistoryEditor
from cronaca.services.derived import DerivedReader
from cronaca.services.figures import DOUBT_BELOW, MOST_READ, FigureService
from cronaca.services.people import Guests, OwnRoles, Passwords, People, ProgramTokens, SignIns
from cronaca.services.rehearsals import RehearsalService
from cronaca.services.reports import ReportService
from cronaca.services.sample_tables import SampleTables
from cronaca.services.statistics import DrilldownService, ScatterService, StatisticsService, StretchesService


@dataclass(frozen=True, slots=True)
class ServerOptions:
    """How the server is to behave. `hosts`: names under which it is reached beside its addresses; `heavy`:
    how many heavy requests run at a time, `heavy_waiting` and `heavy_wait_s` how many wait, and how long."""

    hosts: tuple[str, ...] = ("localhost", "testserver")
    heavy: int = 2
    heavy_waiting: int = 64
    heavy_wait_s: float = 20.0
    doubt_below: float = DOUBT_BELOW
    """Figures that are not Good and rest on less than so many percent of their time are marked."""
    most_read: int = MOST_READ
    """Samples that one request for figures may have read."""
    base_path: str = ""
    """Under which path it is reached, as /cronaca; empty: none."""
    brand: Brand = field(default_factory=Brand)
    sessions: SessionLimits = field(default_factory=SessionLimits)
    beat: Callable[[], None] = lambda: None
    """Called as long as the event loop goes round: a sign of life."""


DEFAULTS: Final = ServerOptions()


def create_app(store: Store, web_dir: Path, options: ServerOptions = DEFAULTS) -> FastAPI:
    """The application on a store; follows the journal while it runs."""
    # The live link and health have connections and threads of their own: heavy work cannot use them up.
    watching = store.apart(3)
    apart = ThreadPoolExecutor(max_workers=3, thread_name_prefix="live")
    hub = LiveHub(watching, apart)
    background = Background()

    @contextlib.asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        background.start("sign of life", partial(_beat, options.beat))
        background.start("live", hub.run)
        pusher = StatePusher(hub, watching, apart, background.failures)
        for name in STATES:
            background.start(f"state {name}", partial(pusher.run, name))
        yield
        await background.stop()
        apart.shutdown(wait=False, cancel_futures=True)
        watching.close()

    app = FastAPI(
        title="Cronaca", version="1", lifespan=lifespan, docs_url=None, redoc_url=None, openapi_url=None
    )
    reader = SeriesReader(store)
    app.state.store, app.state.hub = store, hub
    _put_people(app, store, options)
    app.state.watching, app.state.apart, app.state.background = watching, apart, background
    app.state.reader, app.state.curves = reader, CurveReader(store, reader)
    app.state.made = DerivedReader(store, reader, app.state.curves)
    app.state.editor = HistoryEditor(store)
    app.state.figures = FigureService(
        store, FigureReader(store, reader), _now_us, options.doubt_below, options.most_read
    )
    app.state.statistics = StatisticsService(app.state.figures, store)
    app.state.drilldown = DrilldownService(app.state.figures, store, reader)
    app.state.stretches = StretchesService(app.state.figures, store)
    app.state.scatter = ScatterService(app.state.figures)
    app.state.reports = ReportService(
        store, app.state.statistics, app.state.figures, app.state.curves, _now_us
    )
    app.state.sample_tables = SampleTables(store, reader)
    app.state.rehearsals = RehearsalService(store, reader, _now_us)
    turns = Turns(options.heavy, options.heavy_waiting, options.heavy_wait_s)
    app.add_middleware(GZipMiddleware, minimum_size=2_000, compresslevel=1)
    app.add_middleware(Admission, turns=turns)
    app.add_middleware(Boundary, hosts=options.hosts)
    app.add_middleware(BasePath, base=options.base_path)
    errors.install(app)
    app.router.routes.extend(_routes())
    app.openapi = partial(described, app)  # type: ignore[method-assign]
    _serve_description(app)
    serve_front_end(app, web_dir, options.base_path, options.brand)
    return app


def _put_people(app: FastAPI, store: Store, options: ServerOptions) -> None:
    passwords = Passwords()
    app.state.people = People(store, passwords)
    app.state.signs = SignIns(store, passwords, _now_us, options.sessions)
    app.state.tokens = ProgramTokens(store, _now_us)
    app.state.guests, app.state.roles = Guests(store), OwnRoles(store)
    app.state.gate = Gate(
        app.state.signs, app.state.tokens, app.state.guests, options.base_path, options.sessions
    )
    app.state.find_actor = app.state.gate


async def _beat(beat: Callable[[], None]) -> None:
    while True:
        beat()
        await asyncio.sleep(1.0)


def _now_us() -> int:
    return time.time_ns() // 1000


def _routes() -> list[BaseRoute]:
    """Those of the API. They hold nothing of an application, so that several in a process share them."""
    modules = (
        health, tags, trends, windows, series, figures, history, live, sources, changes, asking,
        imports, setup_tags,
        loggers, equipment, recorder, records, samples, formulas, runs, statistics, reports, jobs,
        sessions, people,
    )  # fmt: skip
    return [route for module in modules for route in module.router.routes]


def _serve_description(app: FastAPI) -> None:
    @app.get("/api/openapi.json", include_in_schema=False)
    def description() -> JSONResponse:
        """Made when it is asked for first: that takes a second or two, in a thread, and few ask for it."""
        return JSONResponse(app.openapi())

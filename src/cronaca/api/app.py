"""The application: API under /api, everything else is the front end."""

from __future__ import annotations

import asyncio
import contextlib
import time
from collections.abc import AsyncIterator
from pathlib import Path
from typing import Final

from fastapi import APIRouter, FastAPI, Request, Response
from fastapi.responses import FileResponse
from starlette.exceptions import HTTPException
from starlette.middleware.base import RequestResponseEndpoint
from starlette.middleware.gzip import GZipMiddleware

from cronaca.api import errors
from cronaca.api.closer import CloserService
from cronaca.api.figures import FigureService
from cronaca.api.live import LiveHub
from cronaca.api.rehearsing import RehearsalService
from cronaca.api.reports import ReportService
from cronaca.api.routes import (
    figures,
    formulas,
    health,
    history,
    live,
    recorder,
    records,
    reports,
    runs,
    series,
    setup_asking,
    setup_equipment,
    setup_loggers,
    setup_sources,
    setup_tags,
    statistics,
    tags,
    trends,
)
from cronaca.api.scatter import ScatterService
from cronaca.api.schemas import Problem
from cronaca.api.statistics import StatisticsService
from cronaca.api.stretches import StretchesService
from cronaca.store import Store
from cronaca.store.curves import CurveReader
from cronaca.store.edits import HistoryEditor
from cronaca.store.figures import FigureReader
from cronaca.store.made import MadeReader
from cronaca.store.series import SeriesReader

_POLICY: Final = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "
    "connect-src 'self' ws: wss:; frame-ancestors 'self'; base-uri 'self'; object-src 'none'"
)


def create_app(store: Store, web_dir: Path) -> FastAPI:
    """The application on a store; follows the journal while it runs."""
    hub = LiveHub(store)

    @contextlib.asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        at_work = [asyncio.create_task(hub.run()), asyncio.create_task(app.state.reports.run())]
        yield
        for task in at_work:
            task.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await task

    app = FastAPI(title="Cronaca", version="1", lifespan=lifespan, docs_url=None, redoc_url=None,
                  openapi_url="/api/openapi.json")  # fmt: skip
    reader = SeriesReader(store)
    app.state.store, app.state.hub = store, hub
    app.state.reader, app.state.curves = reader, CurveReader(store, reader)
    app.state.made = MadeReader(store, reader, app.state.curves)
    app.state.editor = HistoryEditor(store)
    app.state.figures = FigureService(store, FigureReader(store, reader), _now_us)
    app.state.statistics = StatisticsService(app.state.figures, store)
    app.state.closer = CloserService(app.state.figures, store, reader)
    app.state.stretches = StretchesService(app.state.figures, store)
    app.state.scatter = ScatterService(app.state.figures)
    app.state.reports = ReportService(
        store, app.state.statistics, app.state.figures, app.state.curves, _now_us
    )
    app.state.rehearsals = RehearsalService(store, reader, _now_us)
    app.add_middleware(GZipMiddleware, minimum_size=2_000, compresslevel=1)
    app.middleware("http")(_secure)
    errors.install(app)
    app.include_router(_api())
    _serve_front_end(app, web_dir.resolve())
    return app


def _now_us() -> int:
    return time.time_ns() // 1000


def _api() -> APIRouter:
    problems = {
        422: {"model": Problem},
        404: {"model": Problem},
        409: {"model": Problem},
        503: {"model": Problem},
    }
    api = APIRouter(prefix="/api", responses={code: dict(facts) for code, facts in problems.items()})
    modules = (
        health, tags, trends, series, figures, history, live, setup_sources, setup_asking, setup_tags,
        setup_loggers, setup_equipment, recorder, records, formulas, runs, statistics, reports,
    )  # fmt: skip
    for module in modules:
        api.include_router(module.router)
    return api


async def _secure(request: Request, call_next: RequestResponseEndpoint) -> Response:
    response = await call_next(request)
    response.headers["Content-Security-Policy"] = _POLICY
    response.headers["X-Content-Type-Options"] = "nosniff"
    response.headers["Referrer-Policy"] = "same-origin"
    return response


def _serve_front_end(app: FastAPI, web_dir: Path) -> None:
    @app.get("/{path:path}", include_in_schema=False)
    def front_end(path: str) -> FileResponse:
        """A built file, or the page itself: the front end knows its own deep links."""
        if path == "api" or path.startswith("api/"):
            raise HTTPException(404, f"There is no /{path}.")
        wanted = (web_dir / path).resolve()
        if path and wanted.is_file() and wanted.is_relative_to(web_dir):
            return FileResponse(wanted, headers={"Cache-Control": _cache(path)})
        page = web_dir / "index.html"
        if not page.is_file():
            raise HTTPException(404, "The front end is not built. Run `make web`.")
        return FileResponse(page, headers={"Cache-Control": "no-cache"})


def _cache(path: str) -> str:
    """Built assets carry a hash in their name: they never change. A browser asks for the icon again whenever
    the address changes, which is at each step of a zoom."""
    if path.startswith("assets/"):
        return "public, max-age=31536000, immutable"
    return "public, max-age=86400" if path == "icon.svg" else "no-cache"

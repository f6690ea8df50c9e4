"""The built front end, and the page that loads it: the page says under what path and name it is served, who
looks at it, and how often what had changed when it was sent."""

from __future__ import annotations

import html
import json
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from functools import lru_cache
from pathlib import Path
from typing import Final

from fastapi import FastAPI, Request
from fastapi.responses import FileResponse, HTMLResponse, Response
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Receive, Scope, Send

from cronaca.api.built_files import built_file
from cronaca.api.page_files import page_links
from cronaca.core.access import Actor
from cronaca.core.errors import NotSignedIn, StoreError

_BASE: Final = '<base href="/" />'
_CONFIGURATION: Final = '<meta name="configuration" content="{}" />'
_HEAD_END: Final = "</head>"
"""What index.html has in the places that are filled in here."""


@dataclass(frozen=True, slots=True)
class Brand:
    """How an installation calls itself, and its accent colours (#rrggbb) by theme; empty: those of the
    product."""

    name: str = "Cronaca"
    accent_day: str = ""
    accent_night: str = ""


class BasePath:
    """ASGI middleware: takes the path under which the application is reached off each request. A proxy that
    has taken it off already works, too."""

    def __init__(self, app: ASGIApp, base: str) -> None:
        self._app = app
        self._base = base

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Hands the request on."""
        path = scope.get("path", "")
        if self._base and (path == self._base or path.startswith(f"{self._base}/")):
            scope = {**scope, "path": path[len(self._base) :] or "/"}
        await self._app(scope, receive, send)


def serve_front_end(app: FastAPI, web_dir: Path, base: str, brand: Brand) -> None:
    """Adds the route that answers all that the API does not: built files, and the page for the rest, because
    the front end knows its own deep links."""
    web_dir = web_dir.resolve()

    @app.get("/{path:path}", include_in_schema=False)
    def front_end(request: Request, path: str) -> Response:
        if path == "api" or path.startswith("api/"):
            raise HTTPException(404, f"There is no /{path}.")
        try:
            file = (web_dir / path).resolve()
        except (OSError, ValueError, RuntimeError) as exc:
            raise HTTPException(404, "There is no such address.") from exc
        if path not in ("", "index.html") and file.is_file() and file.is_relative_to(web_dir):
            if path.startswith("assets/"):
                return built_file(file, request.headers.get("accept-encoding", ""))
            return FileResponse(file, headers={"Cache-Control": _cache(path)})
        told = _configuration(base, brand, _person(request), request.app.state.hub.counts)
        return _page(web_dir, path, base, told)


def _person(request: Request) -> Actor | None:
    """Who asks for the page; None: nobody is signed in, or that is not known while the database is away."""
    try:
        actor: Actor = request.app.state.find_actor(request)
    except (NotSignedIn, StoreError):
        return None
    return actor


def _configuration(base: str, brand: Brand, actor: Actor | None, counts: Mapping[str, int]) -> str:
    """What the page is told, as JSON."""
    person = None
    if actor is not None:
        person = {
            "name": actor.name, "permissions": sorted(actor.permissions), "account": actor.account or None,
            "must_change": actor.must_change, "is_guest": actor.is_guest,
        }  # fmt: skip
    told = {
        "base": base,
        "brand": asdict(brand),
        "person": person,
        "counts": {topic: str(count) for topic, count in counts.items()},
    }
    return json.dumps(told)


def _page(web_dir: Path, path: str, base: str, configuration: str) -> Response:
    index = web_dir / "index.html"
    if not index.is_file():
        raise HTTPException(404, "The front end is not built. Run `make web`.")
    text = _text(index, index.stat().st_mtime_ns)
    text = text.replace(_BASE, f'<base href="{base}/" />')
    text = text.replace(_HEAD_END, f"{page_links(web_dir, path, text)}{_HEAD_END}", 1)
    text = text.replace(_CONFIGURATION, _CONFIGURATION.replace("{}", html.escape(configuration)))
    # It names who asked for it: nobody keeps it.
    return HTMLResponse(text, headers={"Cache-Control": "no-store"})


@lru_cache(maxsize=4)
def _text(index: Path, _changed_ns: int) -> str:
    return index.read_text(encoding="utf-8")


def _cache(path: str) -> str:
    """A browser asks for the icon again whenever the address changes, which is at each step of a zoom."""
    return "public, max-age=86400" if path == "icon.svg" else "no-cache"

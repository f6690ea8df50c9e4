"""Figures of recorded values: aggregates and statistics, how they were made, and live ones by WebSocket.

WebSocket /figures/live: the client's first message is a request as for POST /figures, with `every_s`.
Server: {"type": "figures", "answer": FiguresOut}   at first and whenever something is different
        {"type": "database", "up": false}           the figures shown are the last ones known
        {"type": "refused", "detail"}               then the connection ends
"""

from __future__ import annotations

import asyncio
import contextlib
import re
from typing import Annotated, Any, Final, cast

import orjson
from fastapi import Depends, Request, WebSocket, WebSocketDisconnect
from pydantic import Field, ValidationError

from cronaca.api.figures import catalogue, explanation_out
from cronaca.api.permissions import Views, end_with_session
from cronaca.api.routing import api_router
from cronaca.api.schemas.figures import CatalogueEntry, ExplainIn, ExplanationOut, FiguresIn, FiguresOut
from cronaca.api.schemas.specs import spec_of
from cronaca.core.errors import CronacaError, StoreError
from cronaca.services.figures import FigureService, FiguresSpec

router = api_router("/figures", "figures")
_PATIENCE_S: Final = 10.0
_POLICY_VIOLATION: Final = 1008


class FiguresLive(FiguresIn):
    """The first message of a client that wants figures of sliding windows."""

    every_s: float = Field(1.0, ge=0.2, le=3600.0)


def get_service(request: Request) -> FigureService:
    """The application's figures."""
    return cast(FigureService, request.app.state.figures)


ServiceDep = Annotated[FigureService, Depends(get_service)]


@router.get("/catalogue")
def get_catalogue() -> list[CatalogueEntry]:
    """Every figure: its formula, where it is defined, for which types of tags it has a meaning."""
    return catalogue()


@router.post("")
def compute_figures(service: ServiceDep, body: FiguresIn) -> FiguresOut:
    """Figures of many tags over many windows, seen at one instant. A figure without a meaning for a tag is
    refused in its place, with the reason."""
    return FiguresOut.from_object(service.compute(spec_of(body)))


@router.post("/explain")
def explain_figure(service: ServiceDep, body: ExplainIn) -> ExplanationOut:
    """How one figure was made: enough to redo it by hand."""
    return explanation_out(service.explain(spec_of(body)))


@router.websocket("/live")
async def live_figures(socket: WebSocket, who: Views) -> None:
    """Computes the figures asked for again and again, and sends them when they are different."""
    await socket.accept()
    try:
        request = FiguresLive.model_validate_json(await asyncio.wait_for(socket.receive_text(), _PATIENCE_S))
    except (ValidationError, TimeoutError) as exc:
        await _refuse(socket, str(exc) or "no request came in time")
        return
    except KeyError:
        await _refuse(socket, "the request has to be a text frame")
        return
    except WebSocketDisconnect:
        return
    gone = asyncio.create_task(_wait_for_close(socket))
    ending = asyncio.create_task(end_with_session(socket, who.actor))
    try:
        with contextlib.suppress(WebSocketDisconnect, RuntimeError):
            await _follow(socket, request, gone)
    finally:
        ending.cancel()
        gone.cancel()


async def _follow(socket: WebSocket, request: FiguresLive, gone: asyncio.Task[None]) -> None:
    service = cast(FigureService, socket.app.state.figures)
    asked: FiguresSpec = spec_of(request)
    sent: list[Any] | None = None
    up = True
    while not gone.done():
        try:
            figures = await asyncio.to_thread(service.compute, asked)
        except StoreError:
            if up:
                await socket.send_text('{"type":"database","up":false}')
            up = False
        except CronacaError as exc:
            await _refuse(socket, str(exc))
            return
        else:
            up = True
            # The time of the answer alone is no news.
            answer = FiguresOut.from_object(figures).model_dump()
            if answer["results"] != sent:
                sent = answer["results"]
                await socket.send_text(_dump({"type": "figures", "answer": answer}))
        await asyncio.wait({gone}, timeout=request.every_s)


async def _refuse(socket: WebSocket, detail: str) -> None:
    with contextlib.suppress(WebSocketDisconnect, RuntimeError):  # it may have left meanwhile
        await socket.send_text(_dump({"type": "refused", "detail": re.sub(r"\s+", " ", detail)[:500]}))
        await socket.close(_POLICY_VIOLATION)


async def _wait_for_close(socket: WebSocket) -> None:
    with contextlib.suppress(WebSocketDisconnect, RuntimeError, KeyError):
        while True:
            await socket.receive_text()


def _dump(message: dict[str, Any]) -> str:
    return orjson.dumps(message).decode()

"""How the routes of the API are made."""

from __future__ import annotations

from typing import Final

from fastapi import APIRouter

from cronaca.api.schemas import Problem

PROBLEMS: Final = (400, 403, 404, 405, 409, 413, 415, 422, 500, 503)
"""Statuses that any route may answer with beside its own."""


def api_router(prefix: str = "", tag: str = "") -> APIRouter:
    """A router below /api, whose routes may answer with any refusal. Its routes are used as they are: to
    include it in another router would make each of them again, which takes time at every start; so would a
    model for each refusal of each route. One status names it, `describing` does the rest."""
    refusals: dict[int | str, dict[str, object]] = {code: {} for code in PROBLEMS}
    refusals[500] = {"model": Problem}
    return APIRouter(prefix=f"/api{prefix}", tags=[tag] if tag else None, responses=refusals)

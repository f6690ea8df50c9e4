"""How the routes of the API are made."""

from __future__ import annotations

from enum import Enum
from typing import Final

from fastapi import APIRouter, Depends

from cronaca.api.permissions import May
from cronaca.api.schemas import Problem
from cronaca.core.access import Permission

PROBLEMS: Final = (400, 401, 403, 404, 405, 409, 413, 415, 422, 429, 500, 503)
"""Statuses that any route may answer with beside its own."""


def api_router(prefix: str = "", tag: str = "", permission: Permission | None = Permission.VIEW) -> APIRouter:
    """A router below /api, whose routes may answer with any refusal. All of them need the permission (None:
    they are open to whoever reaches the server), those that change something state a further one. Its routes
    are used as they are: to include it in another router would make each of them again, which takes time at
    every start; so would a model for each refusal of each route. One status names it, `describing` does the
    rest."""
    refusals: dict[int | str, dict[str, object]] = {code: {} for code in PROBLEMS}
    refusals[500] = {"model": Problem}
    needs = [] if permission is None else [Depends(May(permission))]
    tags: list[str | Enum] | None = [tag] if tag else None
    return APIRouter(prefix=f"/api{prefix}", tags=tags, responses=refusals, dependencies=needs)

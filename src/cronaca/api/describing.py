"""The description of the API (OpenAPI), with errors as they are sent: problem documents of their own type."""

from __future__ import annotations

import threading
from typing import Any, Final

from fastapi import FastAPI
from fastapi.openapi.utils import get_openapi

from cronaca.api.errors import MEDIA_TYPE
from cronaca.api.routing import PROBLEMS

_PROBLEM: Final = {"$ref": "#/components/schemas/Problem"}
_lock: Final = threading.Lock()


def described(app: FastAPI) -> dict[str, Any]:
    """The description, made once."""
    with _lock:
        if app.openapi_schema is None:
            made = get_openapi(title=app.title, version=app.version, routes=app.routes)
            for path in made["paths"].values():
                for operation in path.values():
                    _correct(operation["responses"])
            for name in ("HTTPValidationError", "ValidationError"):
                made["components"]["schemas"].pop(name, None)
            app.openapi_schema = made
    return app.openapi_schema


def _correct(responses: dict[str, Any]) -> None:
    """Problem documents are not sent as plain JSON, and all refusals have their shape."""
    for status, response in responses.items():
        content = response.get("content", {})
        schema = content.get("application/json", {}).get("schema", {})
        shaped = schema.get("$ref", "").endswith(("/Problem", "/HTTPValidationError"))
        if shaped or (int(status) in PROBLEMS and not content):
            response["content"] = {MEDIA_TYPE: {"schema": _PROBLEM}}

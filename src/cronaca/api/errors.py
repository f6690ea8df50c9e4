"""Errors as RFC 9457 problem details: one table from our exceptions to HTTP."""

from __future__ import annotations

import logging
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Final, TypeVar

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel, ValidationError
from starlette.exceptions import HTTPException

from cronaca.core.addresses import PROTOCOLS
from cronaca.core.errors import (
    Cancelled,
    CorruptPayload,
    CronacaError,
    EditConflict,
    InvalidInput,
    NotFound,
    NotPermitted,
    NotSignedIn,
    Overloaded,
    PasswordChangeNeeded,
    StoreBusy,
    StoreConflict,
    StoreError,
    StoreRejected,
    StoreUnavailable,
    TooLarge,
    TooManyAttempts,
    WrongType,
)
from cronaca.core.model import LoggerMode

ParsedModel = TypeVar("ParsedModel", bound=BaseModel)
_log = logging.getLogger(__name__)
MEDIA_TYPE: Final = "application/problem+json"
_BASE: Final = "urn:cronaca:problem:"
_INSTANCE: Final = "urn:cronaca:occurrence:"
_RETRY_AFTER_S: Final = 5
_MOST_ERRORS: Final = 20
_LONGEST_DETAIL: Final = 2_000
_UNION_TAGS: Final = frozenset({*PROTOCOLS, *LoggerMode})


@dataclass(frozen=True, slots=True)
class _Kind:
    status: int
    name: str
    title: str


_TABLE: Final[dict[type[CronacaError], _Kind]] = {
    InvalidInput: _Kind(422, "invalid-input", "Something in the request cannot be used"),
    NotFound: _Kind(404, "not-found", "Not found"),
    EditConflict: _Kind(409, "edit-conflict", "Someone else has changed it"),
    NotSignedIn: _Kind(401, "not-signed-in", "Sign in"),
    PasswordChangeNeeded: _Kind(403, "password-change-needed", "Change your password first"),
    TooManyAttempts: _Kind(429, "too-many-attempts", "Too many wrong passwords"),
    NotPermitted: _Kind(403, "not-permitted", "You do not have permission to do this"),
    WrongType: _Kind(415, "wrong-type", "This content type is not accepted here"),
    TooLarge: _Kind(413, "too-large", "The request is too large"),
    CorruptPayload: _Kind(500, "corrupt-history", "Stored history cannot be read"),
    Overloaded: _Kind(503, "overloaded", "Too many requests at once"),
    Cancelled: _Kind(503, "cancelled", "The work was cancelled"),
    StoreBusy: _Kind(503, "database-busy", "Every connection to the database is in use"),
    StoreRejected: _Kind(422, "not-storable", "The database rejected the data"),
    StoreUnavailable: _Kind(503, "database-away", "The database does not answer"),
    StoreConflict: _Kind(503, "database-busy", "The database is busy; try again"),
    StoreError: _Kind(500, "database-error", "The database refused"),
    CronacaError: _Kind(500, "internal-error", "Something went wrong"),
}


def problem(status: int, name: str, title: str, detail: str, **more: Any) -> JSONResponse:  # noqa: ANN401
    """A problem document; `type` is stable, for programs to rely on."""
    return _answer(_body(status, name, title, detail, **more))


def _body(status: int, name: str, title: str, detail: str, **more: Any) -> dict[str, Any]:  # noqa: ANN401
    return {"type": _BASE + name, "title": title, "status": status, "detail": detail, **more}


def _answer(body: dict[str, Any], retry_after_s: int | None = None) -> JSONResponse:
    headers = {} if retry_after_s is None else {"Retry-After": str(retry_after_s)}
    return JSONResponse(body, status_code=body["status"], media_type=MEDIA_TYPE, headers=headers)


def response_of(exc: CronacaError) -> JSONResponse:
    """The answer for one of our exceptions; one that passes says when to come again."""
    body = body_of(exc)
    if isinstance(exc, Overloaded | TooManyAttempts):
        return _answer(body, exc.retry_after_s)
    return _answer(body, _RETRY_AFTER_S if body["status"] == 503 else None)


def kind_of(exc: CronacaError) -> _Kind:
    """The row of the table for an exception: its own, or that of its nearest base."""
    return next(_TABLE[base] for base in type(exc).__mro__ if base in _TABLE)


def install(app: FastAPI) -> None:
    """Makes every error of the application a problem document."""
    app.add_exception_handler(CronacaError, _on_ours)
    app.add_exception_handler(RequestValidationError, _on_validation)
    app.add_exception_handler(HTTPException, _on_http)


def body_of(exc: CronacaError) -> dict[str, Any]:
    """The problem document of one of our exceptions."""
    kind = kind_of(exc)
    if kind.status == 500:
        _log.error("%s: %s", kind.name, exc)
    more: dict[str, Any] = {"parameters": dict(exc.parameters)} if exc.parameters else {}
    if isinstance(exc, InvalidInput):
        more = {"errors": [_entry(exc)]}
    return _body(kind.status, kind.name, kind.title, str(exc), **more)


def _entry(exc: InvalidInput) -> dict[str, Any]:
    """What is wrong with a field: the code and the parameters are for programs and other languages, the
    English texts for whoever reads them."""
    return {
        "field": exc.field,
        "code": exc.code,
        "parameters": dict(exc.parameters),
        "problem": exc.problem,
        "remedy": exc.remedy,
    }


async def _on_ours(_: Request, exc: Exception) -> JSONResponse:
    if not isinstance(exc, CronacaError):
        raise exc
    return response_of(exc)


async def _on_validation(_: Request, exc: Exception) -> JSONResponse:
    if not isinstance(exc, RequestValidationError):
        raise exc
    errors = [
        _entry(_refusal(_field(error["loc"][1:], error, exc.body), error))
        for error in exc.errors()[:_MOST_ERRORS]
    ]
    kind = _TABLE[InvalidInput]
    detail = "; ".join(f"{e['field']}: {e['problem']}" for e in errors)
    more = len(exc.errors()) - len(errors)
    if more > 0:
        detail += f"; and {more:,} more"
    return problem(kind.status, kind.name, kind.title, detail[:_LONGEST_DETAIL], errors=errors)


def parsed(model: type[ParsedModel], data: object) -> ParsedModel:
    """Data that no route's signature has checked as what it has to be; raises InvalidInput for what is wrong
    first."""
    try:
        return model.model_validate(data)
    except ValidationError as exc:
        first = exc.errors()[0]
        raise _refusal(_field(first["loc"], dict(first), data) or "body", dict(first)) from exc


def _refusal(field: str, error: Mapping[str, Any]) -> InvalidInput:
    """What Pydantic found, under its own name for it."""
    refusal = InvalidInput(field, str(error["type"]).replace("_", "-"), error["msg"], _remedy(error))
    refusal.parameters = {name: str(value) for name, value in error.get("ctx", {}).items()}
    return refusal


def _field(place: Sequence[int | str], error: Mapping[str, Any], data: object) -> str:
    """The path to what is wrong in the data. Which kind of a union something was taken for is no part of it;
    where that could not be told, it is the field that says it."""
    parts = []
    for part in place:
        if isinstance(data, dict) and part not in data and part in _UNION_TAGS:
            continue
        parts.append(str(part))
        data = _inside(data, part)
    if str(error["type"]).startswith("union_tag"):
        parts.append(str(error["ctx"]["discriminator"]).strip("'"))
    return ".".join(parts)


def _inside(data: object, part: int | str) -> object:
    if isinstance(data, dict):
        return data.get(part)
    return data[part] if isinstance(data, list) and isinstance(part, int) and part < len(data) else None


def _remedy(error: Mapping[str, Any]) -> str:
    limits = {k: v for k, v in error.get("ctx", {}).items() if isinstance(v, int | float | str)}
    if limits:
        return "Keep to " + ", ".join(f"{k.replace('_', ' ')} {v}" for k, v in limits.items()) + "."
    return "Give this field." if error["type"] == "missing" else "See the description at /api/openapi.json."


async def _on_http(_: Request, exc: Exception) -> JSONResponse:
    if not isinstance(exc, HTTPException):
        raise exc
    answer = problem(exc.status_code, f"http-{exc.status_code}", str(exc.detail), str(exc.detail))
    answer.headers.update(exc.headers or {})
    return answer


_OF_THE_INPUT: Final[dict[type[Exception], tuple[str, str, str]]] = {
    UnicodeError: (
        "not-unicode",
        "a text contains characters that are not valid Unicode",
        "Send Unicode without lone surrogates.",
    ),
    RecursionError: (
        "nested-too-deeply",
        "the input is nested too deeply, or refers to itself",
        "Reduce the nesting.",
    ),
    OverflowError: ("number-too-large", "a number is too large", "Give a smaller one."),
}
"""What no rule has caught before, and what it means nevertheless: the first base that fits."""


def unforeseen(exc: Exception) -> JSONResponse:
    """The answer for an exception that nobody foresaw, with a number that the log has too."""
    number = uuid.uuid4().hex[:12]
    _log.error("Problem %s", number, exc_info=exc)
    for base, found in _OF_THE_INPUT.items():
        if isinstance(exc, base):
            refused = InvalidInput("body", *found)
            return _answer({**body_of(refused), "instance": _INSTANCE + number})
    kind = _TABLE[CronacaError]
    detail = f"An unexpected error occurred. The server's log has it under {number}."
    return _answer(_body(kind.status, kind.name, kind.title, detail, instance=_INSTANCE + number))

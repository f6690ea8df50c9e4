"""What people ask of a running recorder (core/requests.py), answered as JSON."""

from __future__ import annotations

import asyncio
import json
import time
from collections.abc import Awaitable, Callable
from dataclasses import dataclass
from typing import Any, Final

from cronaca.core import quality as q
from cronaca.core.bits import from_bits
from cronaca.core.errors import CronacaError, InvalidInput, SourceError
from cronaca.core.model import SECOND, SourceSetup, Tag
from cronaca.core.ports import Answering, Driver, Request
from cronaca.core.requests import (
    Browse,
    Discover,
    PlaceToRead,
    RecordNow,
    SourceTest,
    WriteValue,
    from_text,
)
from cronaca.recorder.work import MakeDriver, Work

_LONGEST_S: Final = 8.0


async def _refuse(*_: object) -> dict[str, Any]:
    raise InvalidInput(
        "protocol", "recorder-asks-no-servers", "this recorder does not access servers", "Use another one."
    )


@dataclass(frozen=True, slots=True)
class Servers:
    """How servers are asked beside being read; `browse` gets the password too."""

    discover: Callable[[Discover], Awaitable[dict[str, Any]]] = _refuse
    browse: Callable[[Browse, str], Awaitable[dict[str, Any]]] = _refuse


async def serve(asked: Request, make_driver: MakeDriver, work: Work, servers: Servers) -> dict[str, Any]:
    """Does what is asked; a failure is an answer too."""
    try:
        request = from_text(asked.kind, asked.content)
        if isinstance(request, RecordNow):
            return _answer(work.ask_for_record(request.logger_id))
        if isinstance(request, WriteValue):
            return _answer(await work.write_value(request.tag_id, request.value))
        return await asyncio.wait_for(_ask(request, make_driver, work, servers), _LONGEST_S)
    except TimeoutError:
        return _answer(f"It took longer than {_LONGEST_S:g} s.")
    except SourceError as exc:
        return _answer(exc.reason)
    except CronacaError as exc:
        return _answer(str(exc))


def _answer(refused: str) -> dict[str, Any]:
    return {"ok": not refused, "reason": refused, "values": []}


async def _ask(
    request: SourceTest | Discover | Browse, make_driver: MakeDriver, work: Work, servers: Servers
) -> dict[str, Any]:
    """Asks a device for something, on a connection of its own."""
    if isinstance(request, Discover):
        return await servers.discover(request)
    signed = request.signed
    secret = signed.secret or work.secret_for(signed.source, request.protocol, request.config)
    if isinstance(request, Browse):
        return await servers.browse(request, secret)
    return await _test_source(request, secret, make_driver)


async def _test_source(request: SourceTest, secret: str, make_driver: MakeDriver) -> dict[str, Any]:
    """Connects as the source would and reads the places named, on a connection of its own."""
    source = SourceSetup(0, "", "test", request.protocol, json.dumps(request.config), True, secret)
    tags = [_tag(i, place) for i, place in enumerate(request.places)]
    driver = make_driver(source)
    started = time.perf_counter()
    try:
        await driver.connect()
        if isinstance(driver, Answering):
            await driver.check_answers()
        values = [await _read_one(driver, tag) for tag in tags]
    finally:
        await driver.close()
    took_ms = round((time.perf_counter() - started) * 1000, 1)
    return {"ok": True, "reason": "", "values": values, "took_ms": took_ms}


async def _read_one(driver: Driver, tag: Tag) -> dict[str, Any]:
    try:
        reading = await driver.read([tag])
    except InvalidInput as exc:
        return {"value": None, "quality": q.BAD_CONFIGURATION, "text": str(exc)}
    quality = int(reading.quality[0])
    value = None if q.is_bad(reading.quality)[0] else from_bits(int(reading.bits[0]), tag.value_type)
    return {"value": value, "quality": quality, "text": q.describe(quality)}


def _tag(number: int, place: PlaceToRead) -> Tag:
    return Tag(number, "", "", "", place.value_type, "", 0, 1, 0, True, "", 0, place.address, SECOND)

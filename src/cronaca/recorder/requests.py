"""What people ask of a running recorder, answered as JSON."""

from __future__ import annotations

import asyncio
import json
import time
from collections.abc import Awaitable, Callable, Mapping
from typing import Any, Final

from cronaca.core import quality as q
from cronaca.core.addresses.protocols import OPC_UA
from cronaca.core.bits import from_bits
from cronaca.core.errors import CronacaError, InvalidInput, SourceError
from cronaca.core.model import SECOND, SourceSetup, Tag, ValueType
from cronaca.core.ports import Answering, Driver, Request
from cronaca.recorder.work import MakeDriver, Work

TEST_SOURCE: Final = "test_source"
RECORD_NOW: Final = "record_now"
WRITE: Final = "write"
_LONGEST_S: Final = 8.0


Ask = Callable[[dict[str, Any], str], Awaitable[dict[str, Any]]]
"""Something that sources can be asked beside being read; gets the facts of the request and a password."""


async def serve(
    request: Request, make_driver: MakeDriver, work: Work, asks: Mapping[str, Ask]
) -> dict[str, Any]:
    """Does what is asked; a failure is an answer too."""
    facts = json.loads(request.facts)
    if request.kind == RECORD_NOW:
        refused = work.ask_for_record(facts["logger_id"])
        return {"ok": not refused, "reason": refused, "values": []}
    if request.kind == WRITE:
        refused = await work.write_value(facts["tag_id"], facts["value"])
        return {"ok": not refused, "reason": refused, "values": []}
    try:
        secret = facts.get("secret") or work.secret_for(
            facts.get("source", ""), facts.get("protocol", OPC_UA), facts.get("config", {})
        )
    except InvalidInput as exc:
        return {"ok": False, "reason": str(exc), "values": []}
    asked: Awaitable[dict[str, Any]]
    if request.kind == TEST_SOURCE:
        asked = _test_source(facts, secret, make_driver)
    elif request.kind in asks:
        asked = asks[request.kind](facts, secret)
    else:
        return {"ok": False, "reason": f"This recorder does not know {request.kind!r}.", "values": []}
    try:
        return await asyncio.wait_for(asked, _LONGEST_S)
    except TimeoutError:
        return {"ok": False, "reason": f"It took longer than {_LONGEST_S:g} s.", "values": []}
    except SourceError as exc:
        return {"ok": False, "reason": exc.reason, "values": []}
    except CronacaError as exc:
        return {"ok": False, "reason": str(exc), "values": []}


async def _test_source(facts: dict[str, Any], secret: str, make_driver: MakeDriver) -> dict[str, Any]:
    """Connects as the source would and reads the places named, on a connection of its own."""
    source = SourceSetup(0, "", "test", facts["protocol"], json.dumps(facts["config"]), True, secret)
    tags = [_tag(i, one) for i, one in enumerate(facts.get("places", []))]
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


def _tag(number: int, facts: dict[str, Any]) -> Tag:
    kind = ValueType(facts["value_type"])
    return Tag(number, "", "", "", kind, "", 0, 1, 0, True, "", 0, facts["address"], SECOND)

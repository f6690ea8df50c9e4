"""Windows of time: by the plant's calendar, or as people type them."""

from __future__ import annotations

import time
from typing import Annotated

from fastapi import Query

from cronaca.api.deps import StoreDep
from cronaca.api.routing import api_router
from cronaca.api.schemas.windows import NamedWindow, WindowMeaning
from cronaca.core.errors import InvalidInput, NotFound
from cronaca.core.model import HOUR, Window
from cronaca.core.window_texts import read_window, window_text
from cronaca.core.windows import MOST_UNITS, PlantCalendar, Unit, Which, WindowRequest, changes_at, resolve
from cronaca.plant.site import find_plant

router = api_router("", "windows")


@router.get("/windows")
def get_window(
    store: StoreDep,
    unit: Unit | None = None,
    which: Which = Which.THIS,
    weekday: Annotated[int | None, Query(ge=1, le=7, description="1 Monday to 7 Sunday, until now")] = None,
    count: Annotated[int, Query(ge=1, le=MOST_UNITS, description="So many of the last ones")] = 1,
    text: Annotated[str | None, Query(max_length=200, description="As people type it")] = None,
    start: Annotated[int | None, Query(description="Of the window beside which the text stands, µs")] = None,
    end: Annotated[int | None, Query(description="Of the same; the last hour, where it is left out")] = None,
) -> NamedWindow:
    """A window by the plant's calendar: this or the last shifts, days, weeks or months; since a weekday; or
    what a text means. Where a text leaves something out, the window beside it says it."""
    with store.snapshot() as tx:
        plant = find_plant(tx)
    if plant is None:
        raise NotFound("plant", "1")
    now_us = time.time_ns() // 1000
    request = WindowRequest(unit=unit, which=which, weekday=weekday, count=count)
    if text is not None:
        if unit is not None or weekday is not None:
            raise InvalidInput(
                "text", "two-things", "it gives two alternatives", "Give text, or unit, or weekday."
            )
        request = read_window(text, plant.calendar, now_us, _beside(start, end, now_us))
    return _named(request, plant.calendar, now_us)


def _beside(start: int | None, end: int | None, now_us: int) -> Window:
    if start is None or end is None:
        return Window(now_us - HOUR, now_us)
    return Window.parse(start, end)


def _named(request: WindowRequest, calendar: PlantCalendar, now_us: int) -> NamedWindow:
    window, changes_us = resolve(request, calendar, now_us), changes_at(request, calendar, now_us)
    text_of = {name: None if us is None else str(us) for name, us in (
        ("last_us", request.last_us), ("start_us", request.start_us), ("end_us", request.end_us)
    )}  # fmt: skip
    meaning = WindowMeaning(
        **text_of, ago_us=str(request.ago_us), unit=request.unit, which=request.which,
        weekday=request.weekday, count=request.count,
    )  # fmt: skip
    return NamedWindow(
        start_us=str(window.start_us), end_us=str(window.end_us), goes_on=request.goes_on,
        changes_us=None if changes_us is None else str(changes_us), meaning=meaning,
        text=window_text(request, calendar, now_us),
    )  # fmt: skip

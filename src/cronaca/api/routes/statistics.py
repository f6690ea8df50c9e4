"""Statistics: equipment of one kind, sheets of figures beside what is normal, control charts."""

from __future__ import annotations

from typing import Annotated, cast

from fastapi import Depends, Request

from cronaca.api.routing import api_router
from cronaca.api.schemas.specs import spec_of
from cronaca.api.schemas.statistics import (
    ControlIn,
    ControlOut,
    DrilldownIn,
    DrilldownOut,
    KindOut,
    ScatterIn,
    ScatterOut,
    StatisticsIn,
    StatisticsOut,
)
from cronaca.api.schemas.stretches import StretchesIn, StretchesOut
from cronaca.services.statistics import (
    DrilldownService,
    ScatterService,
    StatisticsService,
    StretchesService,
)

router = api_router("/statistics", "statistics")


def get_service(request: Request) -> StatisticsService:
    """The application's statistics."""
    return cast(StatisticsService, request.app.state.statistics)


ServiceDep = Annotated[StatisticsService, Depends(get_service)]


@router.get("/kinds")
def list_kinds(service: ServiceDep) -> list[KindOut]:
    """Equipment that shares most of its members, found by what its tags are called."""
    return [KindOut.from_object(kind) for kind in service.kinds()]


@router.post("/sheet")
def compute_sheet(service: ServiceDep, body: StatisticsIn) -> StatisticsOut:
    """Figures in rows and columns, each placed beside what is normal for its column. A figure without a
    meaning for its tag is refused in its place."""
    return StatisticsOut.from_object(service.sheet(spec_of(body)))


@router.post("/drilldown")
def drill_down(request: Request, body: DrilldownIn) -> DrilldownOut:
    """A figure of several pieces over time beside what is normal for each stretch; how the values were
    spread; what each adds; what contacts were in, and when."""
    service = cast(DrilldownService, request.app.state.drilldown)
    return DrilldownOut.from_object(service.look(spec_of(body)))


@router.post("/stretches")
def compute_stretches(request: Request, body: StretchesIn) -> StretchesOut:
    """Figures of tags in rows over stretches of time in columns: intervals of a window, the same shift on
    other days, or runs, each beside what is normal for its row."""
    service = cast(StretchesService, request.app.state.stretches)
    return StretchesOut.from_object(service.table(spec_of(body)))


@router.post("/scatter")
def look_at_pairs(request: Request, body: ScatterIn) -> ScatterOut:
    """Pairs of tags against each other, at instants that all share, on common scales."""
    return ScatterOut.from_object(cast(ScatterService, request.app.state.scatter).look(spec_of(body)))


@router.post("/control")
def compute_control_chart(service: ServiceDep, body: ControlIn) -> ControlOut:
    """A control chart of a figure over the stretches of a window, with limits from a reference."""
    return ControlOut.from_object(service.control(spec_of(body)))

"""The demo's equipment class: its lines are gathered into one, with limits and a statistics card."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Final

from cronaca.core.equipment import CardFigure, ClassSpec
from cronaca.core.equipment.classes import Limits
from cronaca.db import Store
from cronaca.demo.names import uid_of
from cronaca.demo.plant.signals import STAGES
from cronaca.plant import equipment_changes
from cronaca.plant.changes import By
from cronaca.plant.equipment import list_classes

CLASS: Final = "Drying line"
_LIMITS: Final[dict[str, Limits]] = {
    "Cooler product moisture": (12.0, 13.0),
    "Press head pressure": (80.0, 110.0),
    "Press vacuum": (None, 90.0),
    "Zone 3 relative humidity": (70.0, 86.0),
}
_TREND: Final = (
    "Zone 1 air temperature", "Zone 2 air temperature", "Zone 3 air temperature", "Zone 3 relative humidity",
    "Zone 2 exhaust damper", "Cooler product moisture", "Cooler throughput", "Dryer door open", "Cutter jam",
)  # fmt: skip


def seed_class(store: Store, now_us: int, lines: int) -> None:
    """Gathers the lines into a class; the first time."""
    by, uid = By("demo", now_us), uid_of("class/line")
    with store.transaction() as tx:
        if lines < 2 or list_classes(tx):
            return
        gathered = equipment_changes.gather_kind(tx, CLASS, "Line")
        equipment = {uid_of(f"equipment/{name}"): spec for name, spec in gathered.equipment.items()}
        equipment_changes.put_class(tx, uid, _dressed(gathered.spec), by, equipment=equipment)


def _dressed(spec: ClassSpec) -> ClassSpec:
    members = tuple(replace(member, limits=_LIMITS.get(member.key, (None, None))) for member in spec.members)
    return replace(spec, members=members, trend=_TREND, card=tuple(_card()))


def _card() -> Iterator[CardFigure]:
    for stage in STAGES:
        yield CardFigure(f"{stage} air temperature", "TimeAverage2")
        yield CardFigure(f"{stage} relative humidity", "TimeAverage2")
        yield CardFigure(f"{stage} exhaust damper", "TimeAverage2")
        yield CardFigure(f"{stage} exhaust damper", "Travel")
    yield CardFigure("Cooler product moisture", "TimeAverage2")
    yield CardFigure("Cooler product moisture", "StandardDeviationPopulation")
    yield CardFigure("Cooler throughput", "TimeAverage2")
    yield CardFigure("Press head pressure", "TimeAverage2")
    yield CardFigure("Cutter jam", "Starts")
    yield CardFigure("Dryer door open", "Starts")
    yield CardFigure("Dryer door open", "DurationInStateNonZero")

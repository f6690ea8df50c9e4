"""Equipment classes (IEC 62264): what a class says, its pieces of equipment, and what a change of it does."""

from cronaca.core.equipment.classes import (
    CardFigure,
    ClassSpec,
    EquipmentSpec,
    Join,
    Limits,
    Member,
    Pattern,
    Slot,
)
from cronaca.core.equipment.expand import PARTS, Expanded, expand, uid_in
from cronaca.core.equipment.gather import Gathered, gather
from cronaca.core.equipment.planning import EquipmentChange, Plan, plan_change
from cronaca.core.equipment.views import trend_view

__all__ = [
    "PARTS",
    "CardFigure",
    "ClassSpec",
    "EquipmentChange",
    "EquipmentSpec",
    "Expanded",
    "Gathered",
    "Join",
    "Limits",
    "Member",
    "Pattern",
    "Plan",
    "Slot",
    "expand",
    "gather",
    "plan_change",
    "trend_view",
    "uid_in",
]  # fmt: skip

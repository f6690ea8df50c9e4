"""Equipment classes (IEC 62264): what a class says, its pieces of equipment, and what a change of it does."""

from cronaca.core.equipment.classes import (
    CardFigure,
    ClassFacts,
    Join,
    Limits,
    Member,
    Pattern,
    PieceFacts,
    Slot,
)
from cronaca.core.equipment.expand import PARTS, Expanded, expand, uid_in
from cronaca.core.equipment.gather import Gathered, gather
from cronaca.core.equipment.planning import PieceChange, Plan, plan_change
from cronaca.core.equipment.views import trend_view

__all__ = [
    "PARTS",
    "CardFigure",
    "ClassFacts",
    "Expanded",
    "Gathered",
    "Join",
    "Limits",
    "Member",
    "Pattern",
    "PieceChange",
    "PieceFacts",
    "Plan",
    "Slot",
    "expand",
    "gather",
    "plan_change",
    "trend_view",
    "uid_in",
]  # fmt: skip

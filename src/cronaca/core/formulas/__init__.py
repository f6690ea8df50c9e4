"""Calculated values: formulas over tags, counters, meters. One rule for live values and for history."""

from cronaca.core.formulas.build import Needs, needs_of, running_for
from cronaca.core.formulas.columns import Column, Instants
from cronaca.core.formulas.functions import FUNCTIONS, Function
from cronaca.core.formulas.grammar import parse_formula
from cronaca.core.formulas.history import evaluate_history
from cronaca.core.formulas.meters import Meter
from cronaca.core.formulas.nodes import Call, Input, Node, Number, inputs_of, walk
from cronaca.core.formulas.references import order_of
from cronaca.core.formulas.windowed import Windowed, check_windowed
from cronaca.core.formulas.working import Formula

__all__ = [
    "FUNCTIONS",
    "Call",
    "Column",
    "Formula",
    "Function",
    "Input",
    "Instants",
    "Meter",
    "Needs",
    "Node",
    "Number",
    "Windowed",
    "check_windowed",
    "evaluate_history",
    "inputs_of",
    "needs_of",
    "order_of",
    "parse_formula",
    "running_for",
    "walk",
]

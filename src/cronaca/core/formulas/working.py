"""A formula at work: built once from its tree, run over instants, going on from where it was."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

from cronaca.core.formulas.back import back_for
from cronaca.core.formulas.columns import Column, Instants
from cronaca.core.formulas.functions import FUNCTIONS
from cronaca.core.formulas.nodes import Call, Input, Node, Number, inputs_of, walk
from cronaca.core.model import SECOND

Step = Callable[[Instants], Column]
LOOKING_BACK: Final = frozenset(one.name for one in FUNCTIONS.values() if one.on_columns is None)


class Formula:
    """Runs over instants in order of time; each call goes on after the one before."""

    def __init__(self, node: Node) -> None:
        self.inputs = inputs_of(node)
        self.looks_back = any(isinstance(part, Call) and part.function in LOOKING_BACK for part in walk(node))
        """Its value changes while its inputs stay the same."""
        self._node = node
        self._step = _step(node)

    def afresh(self) -> Formula:
        """The same, with nothing behind it."""
        return Formula(self._node)

    def run(self, instants: Instants) -> Column:
        """The results at these instants. Every input has to be among them."""
        return self._step(instants)


def _step(node: Node) -> Step:
    if isinstance(node, Number):
        value = node.value
        return lambda instants: Column.constant(value, len(instants))
    if isinstance(node, Input):
        name = node.name
        return lambda instants: instants.inputs[name]
    if node.function in LOOKING_BACK:
        return _looking_back(node)
    on_columns = FUNCTIONS[node.function].on_columns
    if on_columns is None:  # such functions look back, and were taken above
        raise TypeError(node.function)
    steps = [_step(argument) for argument in node.arguments]
    return lambda instants: on_columns([step(instants) for step in steps])


def _looking_back(node: Call) -> Step:
    step = _step(node.arguments[0])
    length = node.arguments[1] if len(node.arguments) > 1 else Number(0.0)
    seconds = length.value if isinstance(length, Number) else 0.0
    if node.function == "rate":
        before = back_for("ago", round(seconds * SECOND))
        minus, divide = FUNCTIONS["-"].on_columns, FUNCTIONS["/"].on_columns

        def rate(instants: Instants) -> Column:
            x = step(instants)
            change = minus([x, before.run(instants.ts_us, x)]) if minus else x
            return divide([change, Column.constant(seconds, len(instants))]) if divide else change

        return rate
    back = back_for(node.function, round(seconds * SECOND))
    return lambda instants: back.run(instants.ts_us, step(instants))

"""From calculated tags as they are set up to what runs."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from cronaca.core.addresses.calculated import Calculation, Kind
from cronaca.core.errors import InvalidInput
from cronaca.core.formulas.grammar import parse_formula
from cronaca.core.formulas.meters import Meter, meter_for
from cronaca.core.formulas.nodes import Call, Input, Node, Number
from cronaca.core.formulas.working import Formula

_PRESET = "preset"


@dataclass(frozen=True, slots=True)
class Needs:
    """What a calculation runs on: inputs by name, as uids; and the tree of a formula (none: it is a
    meter)."""

    inputs: Mapping[str, str]
    node: Node | None


def needs_of(place: Calculation, places: Mapping[str, Calculation]) -> Needs:
    """`places` are all calculations by uid. Raises InvalidInput."""
    if place.kind is Kind.FORMULA:
        return Needs(place.inputs, parse_formula(place.formula))
    if place.kind is not Kind.REACHED:
        return Needs({name: uid for name, uid in place.inputs.items() if name != _PRESET}, None)
    counter = places.get(place.inputs["counter"])
    if counter is None or counter.kind is not Kind.COUNTER:
        raise InvalidInput(
            "inputs", "what-names-not-counter", "what it names is not a counter", "Choose a counter."
        )
    of_tag = counter.inputs.get(_PRESET)
    if of_tag is None and counter.preset is None:
        raise InvalidInput(
            "inputs", "counter-no-preset", "the counter has no preset", "Give the counter one first."
        )
    preset: Node = Number(counter.preset or 0.0) if of_tag is None else Input(_PRESET)
    inputs = {**place.inputs, **({} if of_tag is None else {_PRESET: of_tag})}
    return Needs(inputs, Call(">=", (Input("counter"), preset)))


def running_for(place: Calculation, needs: Needs, scan_us: int, *, stepped: bool) -> Formula | Meter:
    """What runs; `stepped` says how the input of a total reads between its samples."""
    return meter_for(place, scan_us, stepped=stepped) if needs.node is None else Formula(needs.node)

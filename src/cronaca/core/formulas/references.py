"""What calculated tags need of each other: nothing unknown, and no circle."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from cronaca.core.addresses.calculated import Calculation, Kind
from cronaca.core.errors import InvalidInput
from cronaca.core.figures import find_figure
from cronaca.core.formulas.grammar import parse_formula
from cronaca.core.formulas.nodes import inputs_of
from cronaca.core.formulas.windowed import wish_of

_FIELD: Final = "inputs"


def check_formula(place: Calculation) -> None:
    """Raises InvalidInput when the formula cannot be read or names an input that has no tag, or when there is
    no such statistic."""
    if place.kind is Kind.FIGURE:
        find_figure(wish_of(place).name)
    if place.kind is not Kind.FORMULA:
        return
    used = inputs_of(parse_formula(place.formula))
    for name in used:
        if name not in place.inputs:
            raise InvalidInput(
                _FIELD,
                "formulas-no-tag",
                "the formula's {name!r} has no tag",
                "Choose one, or correct the name.",
                name=name,
            )
    for name in place.inputs:
        if name not in used:
            raise InvalidInput(
                _FIELD,
                "not-formula",
                "{name!r} is not in the formula",
                "Use it there, or remove it.",
                name=name,
            )


def order_of(needs: Mapping[str, Mapping[str, str]], names: Mapping[str, str]) -> list[str]:
    """Calculated tags, by uid, each after those it needs. `needs` gives the inputs of each, `names` those of
    all
    tags that are there. Raises InvalidInput for one that is not there, and for a circle, with its path."""
    done: dict[str, None] = {}
    for uid in needs:
        _visit(uid, needs, names, done, [])
    return list(done)


def _visit(
    uid: str, needs: Mapping[str, Mapping[str, str]], names: Mapping[str, str], done: dict[str, None],
    path: list[str],
) -> None:  # fmt: skip
    if uid in done or uid not in needs:
        return
    if uid in path:
        circle = " → ".join(names.get(step, step) for step in [*path[path.index(uid) :], uid])
        raise InvalidInput(
            _FIELD,
            "goes-round-circle",
            "it is circular: {circle}",
            "Break it at one of these tags.",
            circle=circle,
        )
    for name, other in needs[uid].items():
        if other not in names:
            of = names.get(uid, "a tag")
            raise InvalidInput(
                _FIELD,
                "tag-not",
                "the tag for {name!r} of {of} is not there",
                "Choose another one.",
                name=name,
                of=of,
            )
        _visit(other, needs, names, done, [*path, uid])
    done[uid] = None

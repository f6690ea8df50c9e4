"""Formulas: what they are made of, and whether one can be used."""

from __future__ import annotations

import json

import numpy as np

from cronaca.api.deps import StoreDep
from cronaca.api.routing import api_router
from cronaca.api.schemas import Uid
from cronaca.api.schemas.formulas import FormulaIn, FormulaOut, FunctionOut
from cronaca.core import quality as q
from cronaca.core.addresses.calculated import parse_calculation
from cronaca.core.formulas import FUNCTIONS, Column, Formula, Instants, inputs_of, parse_formula
from cronaca.core.formulas.references import check_formula
from cronaca.core.model import Tag, ValueType
from cronaca.core.ports import LiveValues
from cronaca.history.tables.current import read_current
from cronaca.plant.tags import find_tags

router = api_router("/formulas", "set-up")


@router.get("/functions")
def list_functions() -> list[FunctionOut]:
    """The functions that formulas may use, with what they give."""
    return [
        FunctionOut(signature=function.signature, text=function.text)
        for function in FUNCTIONS.values()
        if function.named
    ]


@router.post("/check")
def check(store: StoreDep, body: FormulaIn) -> FormulaOut:
    """Reads a formula: what it needs, and, where each input has a tag, its value by the present values."""
    node = parse_formula(body.formula)
    names = inputs_of(node)
    missing = [name for name in names if name not in body.inputs]
    if missing:
        return FormulaOut(inputs=list(names), missing=missing, value=None, quality="")
    inputs = {name: body.inputs[name] for name in names}
    address = json.dumps({"kind": "formula", "formula": body.formula, "inputs": inputs})
    check_formula(parse_calculation(address, ValueType.FLOAT))
    column = _now(store, Formula(node), inputs)
    code = int(column.quality[0])
    value = None if code >= q.BAD else float(column.values[0])
    return FormulaOut(inputs=list(names), missing=[], value=value, quality=q.describe(code))


def _now(store: StoreDep, formula: Formula, inputs: dict[str, Uid]) -> Column:
    with store.snapshot() as tx:
        tags = find_tags(tx, list(inputs.values()))
        present = read_current(tx, (0, 0))[1]
    columns = {name: _present(tags.get(uid), present) for name, uid in inputs.items()}
    newest = int(present.ts_us.max(initial=0))
    return formula.run(Instants(np.array([newest], np.int64), columns))


def _present(tag: Tag | None, present: LiveValues) -> Column:
    """The present value of a tag; Bad where there is none."""
    at = np.flatnonzero(present.tag_ids == (-1 if tag is None else tag.tag_id))
    if tag is None or not len(at):
        return Column(np.array([np.nan]), np.array([q.BAD_WAITING_FOR_INITIAL_DATA], np.uint16))
    return Column.of_bits(present.bits[at[:1]], present.quality[at[:1]], tag.value_type)

"""Formulas over the wire."""

from __future__ import annotations

from pydantic import Field

from cronaca.api.schemas import Model, Uid


class FunctionOut(Model):
    """A function that formulas may use."""

    signature: str
    text: str


class FormulaIn(Model):
    """A formula, and the tags of its inputs as far as they are chosen."""

    formula: str = Field(max_length=2000)
    inputs: dict[str, Uid] = Field(default_factory=dict)


class FormulaOut(Model):
    """What a formula needs, and what it would be now."""

    inputs: list[str]
    missing: list[str]
    """Inputs that have no tag yet."""
    value: float | None
    quality: str

"""Rehearsals as they go over the wire."""

from __future__ import annotations

import json
from dataclasses import asdict
from typing import Final

from cronaca.api import wire
from cronaca.api.schemas.addresses import GeneratorAddressModel
from cronaca.api.schemas.loggers import RuleIn
from cronaca.api.schemas.setup import (
    AdviceOut,
    ClockRuleIn,
    CurveOut,
    RehearsalOut,
    RehearseIn,
    RehearseOut,
    TriedRule,
)
from cronaca.core.addresses.generator import GeneratorAddress, parse_generator_address
from cronaca.core.loggers import Periodic
from cronaca.core.model import RuleSpec, Series
from cronaca.services.rehearsals import RehearsalFound, RehearsalSpec, Tried

_MOST_MISSED: Final = 500


def rehearsal_spec(body: RehearseIn) -> RehearsalSpec:
    """What is asked for, as the service takes it."""
    return RehearsalSpec(
        tuple(_rule(rule) for rule in body.rules), body.tag,
        None if body.start_us is None else int(body.start_us),
        None if body.end_us is None else int(body.end_us),
        None if body.generator is None else _generator(body.generator),
        body.csv, body.stepped, body.width,
    )  # fmt: skip


def _rule(rule: TriedRule) -> RuleSpec | Periodic[int]:
    if isinstance(rule, ClockRuleIn):
        return Periodic(rule.interval_us, rule.phase_us, rule.keeps)
    return RuleSpec(**rule.model_dump())


def _generator(address: GeneratorAddressModel) -> GeneratorAddress:
    return parse_generator_address(json.dumps(address.model_dump()))


def rehearsal_out(result: RehearsalFound) -> RehearseOut:
    """The answer."""
    return RehearseOut(
        start_us=str(result.window.start_us), end_us=str(result.window.end_us), readings=result.readings,
        note=result.note, readings_curve=_curve(result.readings_curve),
        rehearsals=[_tried(tried) for tried in result.tried],
        advice=AdviceOut(rule=RuleIn(**asdict(result.advice.rule)), reason=result.advice.reason),
        stepped=result.stepped,
    )  # fmt: skip


def _tried(tried: Tried) -> RehearsalOut:
    rehearsal = tried.rehearsal
    kept = len(rehearsal.kept)
    return RehearsalOut(
        kept=kept, share=kept / rehearsal.readings, largest_error=rehearsal.largest_error,
        rms_error=rehearsal.rms_error, missed_edges=rehearsal.missed_edges,
        missed_us=wire.micros(rehearsal.missed_us[:_MOST_MISSED]),
        samples_per_day=rehearsal.samples_per_day,
        bytes_per_sample=rehearsal.bytes_per_sample, megabytes_per_year=rehearsal.megabytes_per_year,
        curve=_curve(tried.curve),
    )  # fmt: skip


def _curve(series: Series) -> CurveOut:
    return CurveOut(t_us=wire.micros(series.ts_us), v=wire.values(series))

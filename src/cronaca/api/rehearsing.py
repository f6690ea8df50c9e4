"""Rehearsals as they go over the wire."""

from __future__ import annotations

import json
from dataclasses import asdict

from cronaca.api import wire
from cronaca.api.schemas.addresses import GeneratorAddressModel
from cronaca.api.schemas.loggers import RuleIn
from cronaca.api.schemas.setup import AdviceOut, CurveOut, RehearsalOut, RehearseIn, RehearseOut
from cronaca.core.addresses.generator import GeneratorAddress, parse_generator_address
from cronaca.core.model import RuleSpec, Series
from cronaca.services.rehearsals import RehearsalFound, RehearsalSpec, Tried


def rehearsal_spec(wanted: RehearseIn) -> RehearsalSpec:
    """What is asked for, as the service takes it."""
    return RehearsalSpec(
        tuple(RuleSpec(**rule.model_dump()) for rule in wanted.rules), wanted.tag,
        None if wanted.start_us is None else int(wanted.start_us),
        None if wanted.end_us is None else int(wanted.end_us),
        None if wanted.generator is None else _generator(wanted.generator),
        wanted.csv, wanted.stepped, wanted.width,
    )  # fmt: skip


def _generator(address: GeneratorAddressModel) -> GeneratorAddress:
    return parse_generator_address(json.dumps(address.model_dump()))


def rehearsal_out(found: RehearsalFound) -> RehearseOut:
    """The answer."""
    return RehearseOut(
        start_us=str(found.window.start_us), end_us=str(found.window.end_us), readings=found.readings,
        note=found.note, readings_curve=_curve(found.readings_curve),
        rehearsals=[_tried(one) for one in found.tried],
        advice=AdviceOut(rule=RuleIn(**asdict(found.advice.rule)), reason=found.advice.reason),
    )  # fmt: skip


def _tried(tried: Tried) -> RehearsalOut:
    found = tried.rehearsal
    kept = len(found.kept)
    return RehearsalOut(
        kept=kept, share=kept / found.readings, largest_error=found.largest_error, rms_error=found.rms_error,
        missed_edges=found.missed_edges, samples_per_day=found.samples_per_day,
        bytes_per_sample=found.bytes_per_sample, megabytes_per_year=found.megabytes_per_year,
        curve=_curve(tried.curve),
    )  # fmt: skip


def _curve(series: Series) -> CurveOut:
    return CurveOut(t_us=wire.micros(series.ts_us), v=wire.values(series))

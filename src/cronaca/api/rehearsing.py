"""Rehearsing rules on readings: recorded, generated, or uploaded."""

from __future__ import annotations

import json
import tempfile
from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Final

import numpy as np

from cronaca.api import wire
from cronaca.api.deps import find_all_tags
from cronaca.api.schemas.setup import AdviceOut, CurveOut, RehearsalOut, RehearseIn, RehearseOut, RuleIn
from cronaca.core.addresses.generator import parse_generator_address
from cronaca.core.errors import InvalidInput
from cronaca.core.logger_rules import rehearse, rule_for
from cronaca.core.logger_rules.recommend import recommend
from cronaca.core.logger_rules.rehearse import Rehearsal
from cronaca.core.model import HOUR, SECOND, RuleWish, Series, Tag, ValueType, Window
from cronaca.core.trends import reduce_m4
from cronaca.db import Store
from cronaca.exchange.samples_file import read_samples
from cronaca.history.read.series import SeriesReader

MOST: Final = 6_000_000
"""Readings of one rehearsal: two months at 1 Hz."""


@dataclass(frozen=True, slots=True)
class _Material:
    """What rules are tried on."""

    tag: Tag
    readings: Series
    window: Window
    note: str


class RehearsalService:
    """Finds readings and lets rules run over them."""

    def __init__(self, store: Store, reader: SeriesReader, now_us: Callable[[], int]) -> None:
        self._store = store
        self._reader = reader
        self._now_us = now_us

    def rehearse(self, wanted: RehearseIn) -> RehearseOut:
        """Runs each rule over the readings."""
        material = self._material(wanted)
        if not len(material.readings):
            raise InvalidInput("start_us", "there are no readings in it", "Choose a window with readings.")
        tag, readings, window = material.tag, material.readings, material.window
        found = [
            rehearse(rule_for(RuleWish(**rule.model_dump()), tag), readings, window, stepped=tag.stepped)
            for rule in wanted.rules
        ]
        advice = recommend(readings, stepped=tag.stepped, decimals=tag.decimals)
        return RehearseOut(
            start_us=str(window.start_us), end_us=str(window.end_us), readings=len(readings),
            note=material.note, readings_curve=_curve(readings, window, wanted.width),
            rehearsals=[_out(one, window, wanted.width) for one in found],
            advice=AdviceOut(rule=RuleIn(**asdict(advice.rule)), reason=advice.reason),
        )  # fmt: skip

    def _material(self, wanted: RehearseIn) -> _Material:
        named = [one is not None for one in (wanted.tag, wanted.generator, wanted.csv)]
        if sum(named) != 1:
            raise InvalidInput("tag", "name one of tag, generator, csv", "Leave the others out.")
        if wanted.csv is not None:
            return _uploaded(wanted.csv, stepped=wanted.stepped)
        window = self._window(wanted)
        if wanted.generator is not None:
            return _generated(wanted.generator, window, stepped=wanted.stepped)
        (tag,) = find_all_tags(self._store, [wanted.tag or ""])
        return self._recorded(tag, window)

    def _recorded(self, tag: Tag, window: Window) -> _Material:
        (answer,) = self._reader.read_many([tag.tag_id], window)
        found = answer.series  # its holes are marked: neither a rule nor a picture goes across them
        inside = (found.ts_us >= window.start_us) & (found.ts_us < window.end_us)
        note = (
            "What was recorded stands for what was read: a value that was not kept then cannot be tried now."
        )
        return _Material(tag, found.take(inside), window, note)

    def _window(self, wanted: RehearseIn) -> Window:
        end = self._now_us() if wanted.end_us is None else int(wanted.end_us)
        start = end - HOUR if wanted.start_us is None else int(wanted.start_us)
        return Window.parse(start, end)


def _generated(facts: dict[str, object], window: Window, *, stepped: bool) -> _Material:
    address = parse_generator_address(json.dumps(facts))
    if window.length_us // SECOND > MOST:
        raise InvalidInput("start_us", f"these are more than {MOST} readings", "Choose a shorter window.")
    ts = np.arange(window.start_us, window.end_us, SECOND)
    readings = Series.of(ValueType.FLOAT, ts, address.values(ts))
    tag = _unnamed(ValueType.FLOAT, address.low, address.high, stepped=stepped)
    return _Material(tag, readings, window, "Generated, one reading a second.")


def _uploaded(text: str, *, stepped: bool) -> _Material:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "readings.csv"
        path.write_text(text, encoding="utf-8")
        try:
            readings, _ = read_samples(path)
        except InvalidInput as exc:
            raise InvalidInput("csv", exc.problem, exc.remedy) from exc
    if not len(readings):
        raise InvalidInput("csv", "it holds no sample", "Give lines of `time,value[,quality]`.")
    low, high = float(np.nanmin(readings.values)), float(np.nanmax(readings.values))
    tag = _unnamed(readings.value_type, low, max(high, low + 1e-9), stepped=stepped)
    window = Window.parse(int(readings.ts_us[0]), int(readings.ts_us[-1]) + SECOND)
    return _Material(tag, readings, window, "From the file.")


def _unnamed(kind: ValueType, low: float, high: float, *, stepped: bool) -> Tag:
    stepped = stepped or kind is not ValueType.FLOAT
    return Tag(0, "", "the signal", "", kind, "", low, high, 3, stepped, "", 0, "{}", SECOND)


def _out(found: Rehearsal, window: Window, width: int) -> RehearsalOut:
    kept = len(found.kept)
    return RehearsalOut(
        kept=kept, share=kept / found.readings, largest_error=found.largest_error, rms_error=found.rms_error,
        missed_edges=found.missed_edges, samples_per_day=found.samples_per_day,
        bytes_per_sample=found.bytes_per_sample, megabytes_per_year=found.megabytes_per_year,
        curve=_curve(found.kept, window, width),
    )  # fmt: skip


def _curve(series: Series, window: Window, width: int) -> CurveOut:
    whole = Window(window.start_us, max(window.end_us, int(series.ts_us[-1]) + 1)) if len(series) else window
    reduced = reduce_m4(series, whole, width) if len(series) > 4 * width else series
    return CurveOut(t_us=wire.micros(reduced.ts_us), v=wire.values(reduced))

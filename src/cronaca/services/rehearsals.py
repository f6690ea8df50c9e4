"""Rehearsing rules on readings: recorded, generated, or uploaded."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Final

import numpy as np

from cronaca.core.addresses.generator import GeneratorAddress
from cronaca.core.errors import InvalidInput
from cronaca.core.logger_rules import compare, rehearse, rule_for
from cronaca.core.logger_rules.backfill import backfilled
from cronaca.core.logger_rules.interval import check_keeps
from cronaca.core.logger_rules.recommend import Advice, recommend
from cronaca.core.logger_rules.rehearse import Rehearsal
from cronaca.core.loggers import Periodic
from cronaca.core.model import HOUR, SECOND, Keeps, RuleSpec, Series, Tag, ValueType, Window
from cronaca.core.trends import reduce_m4
from cronaca.db import Store
from cronaca.exchange.samples_file import read_samples
from cronaca.history.read.series import SeriesReader
from cronaca.plant.tags import find_tags

MOST: Final = 6_000_000
"""Readings of one rehearsal: two months at 1 Hz."""


@dataclass(frozen=True, slots=True)
class RehearsalSpec:
    """Rules to try on one signal, of loggers on change or by the clock: recorded history of a tag (by uid), a
    generated signal (the settings of its address) or a CSV text; `width`: columns of the curves."""

    rules: tuple[RuleSpec | Periodic[int], ...]
    tag: str | None = None
    start_us: int | None = None
    end_us: int | None = None
    generator: GeneratorAddress | None = None
    csv: str | None = None
    stepped: bool = False
    width: int = 800


@dataclass(frozen=True, slots=True)
class Tried:
    """What one rule makes of the readings, and what it keeps as a curve to draw."""

    rehearsal: Rehearsal
    curve: Series


@dataclass(frozen=True, slots=True)
class RehearsalFound:
    """All readings (`note`: what to know of them), and what each rule would keep. `stepped`: values are held
    between samples."""

    window: Window
    readings: int
    note: str
    readings_curve: Series
    tried: tuple[Tried, ...]
    advice: Advice
    stepped: bool


@dataclass(frozen=True, slots=True)
class _Material:
    """What rules are tried on."""

    tag: Tag
    readings: Series
    window: Window
    note: str

    @property
    def stepped(self) -> bool:
        """Whether values are held between samples."""
        return self.tag.stepped or self.tag.value_type is not ValueType.FLOAT


class RehearsalService:
    """Finds readings and lets rules run over them."""

    def __init__(self, store: Store, reader: SeriesReader, now_us: Callable[[], int]) -> None:
        self._store = store
        self._reader = reader
        self._now_us = now_us

    def rehearse(self, spec: RehearsalSpec) -> RehearsalFound:
        """Runs each rule over the readings."""
        material = self._material(spec)
        if not len(material.readings):
            raise InvalidInput(
                "start_us", "no-readings", "there are no readings in it", "Choose a window with readings."
            )
        tag, readings, window = material.tag, material.readings, material.window
        rehearsals = [_rehearsal(rule, i, material) for i, rule in enumerate(spec.rules)]
        advice = recommend(readings, stepped=material.stepped, decimals=tag.decimals)
        return RehearsalFound(
            window, len(readings), material.note, _curve(readings, window, spec.width),
            tuple(Tried(each, _curve(each.kept, window, spec.width)) for each in rehearsals), advice,
            material.stepped,
        )  # fmt: skip

    def _material(self, spec: RehearsalSpec) -> _Material:
        named = [given is not None for given in (spec.tag, spec.generator, spec.csv)]
        if sum(named) != 1:
            raise InvalidInput(
                "tag", "name-one-tag-generator", "name one of tag, generator, csv", "Leave the others out."
            )
        if spec.csv is not None:
            return _uploaded(spec.csv, stepped=spec.stepped)
        window = self._window(spec)
        if spec.generator is not None:
            return _generated(spec.generator, window, stepped=spec.stepped)
        return self._recorded(self._tag(spec.tag or ""), window)

    def _tag(self, uid: str) -> Tag:
        with self._store.snapshot() as tx:
            tag = find_tags(tx, [uid]).get(uid)
        if tag is None:
            raise InvalidInput(
                "tag", "tags-no-tag", "there is no tag {uid}", "Take a uid from /api/tags.", uid=uid
            )
        return tag

    def _recorded(self, tag: Tag, window: Window) -> _Material:
        (answer,) = self._reader.read_many([tag.tag_id], window)
        series = answer.series  # its holes are marked: neither a rule nor a picture goes across them
        inside = (series.ts_us >= window.start_us) & (series.ts_us < window.end_us)
        note = "Recorded values stand in for the readings: a reading that was not recorded cannot be tried."
        return _Material(tag, series.take(inside), window, note)

    def _window(self, spec: RehearsalSpec) -> Window:
        end = self._now_us() if spec.end_us is None else spec.end_us
        start = end - HOUR if spec.start_us is None else spec.start_us
        return Window.parse(start, end, "start_us", "end_us")


def _rehearsal(rule: RuleSpec | Periodic[int], place: int, material: _Material) -> Rehearsal:
    """Raises InvalidInput that names the place of the rule."""
    tag, readings, window = material.tag, material.readings, material.window
    try:
        if isinstance(rule, RuleSpec):
            return rehearse(rule_for(rule, tag), readings, window, stepped=material.stepped)
        kept = backfilled(_checked(rule, tag, window), tag, readings, window)
    except InvalidInput as exc:
        raise exc.at(f"rules.{place}.{exc.field}") from exc
    return compare(kept, readings, window, stepped=material.stepped)


def _checked(rule: Periodic[int], tag: Tag, window: Window) -> Periodic[int]:
    if not rule.interval_us:
        raise InvalidInput(
            "interval_us",
            "without-interval-nothing-recorded",
            "without an interval nothing is recorded",
            "Give an interval.",
        )
    check_keeps(rule.keeps, tag)
    step_us = rule.interval_us if rule.keeps is Keeps.VALUE else min(rule.interval_us, tag.scan_us)
    if window.length_us // step_us > MOST:
        raise InvalidInput(
            "interval_us",
            "makes-more-samples-window",
            "it makes more than {most:,} samples of the window",
            "Give a longer one, or choose a shorter window.",
            most=MOST,
        )
    return rule.checked(())


def _generated(address: GeneratorAddress, window: Window, *, stepped: bool) -> _Material:
    if window.length_us // SECOND > MOST:
        raise InvalidInput(
            "start_us",
            "more-readings",
            "these are more than {most} readings",
            "Choose a shorter window.",
            most=MOST,
        )
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
            raise exc.at("csv") from exc
    if not len(readings):
        raise InvalidInput(
            "csv", "holds-no-sample", "it holds no sample", "Give lines of `time,value[,quality]`."
        )
    low, high = float(np.nanmin(readings.values)), float(np.nanmax(readings.values))
    tag = _unnamed(readings.value_type, low, max(high, low + 1e-9), stepped=stepped)
    window = Window.parse(int(readings.ts_us[0]), int(readings.ts_us[-1]) + SECOND)
    return _Material(tag, readings, window, "From the file.")


def _unnamed(kind: ValueType, low: float, high: float, *, stepped: bool) -> Tag:
    stepped = stepped or kind is not ValueType.FLOAT
    return Tag(0, "", "the signal", "", kind, "", low, high, 3, stepped, "", 0, "{}", SECOND)


def _curve(series: Series, window: Window, width: int) -> Series:
    """What is drawn of a series, with every extreme, in so many columns."""
    whole = Window(window.start_us, max(window.end_us, int(series.ts_us[-1]) + 1)) if len(series) else window
    return reduce_m4(series, whole, width) if len(series) > 4 * width else series

"""Rules applied to what was recorded before they were made: runs and records of the past, found by the code
that finds them live."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise

from cronaca.core.bits import to_bits
from cronaca.core.errors import InvalidInput, NotFound
from cronaca.core.logger_rules.trigger import Trigger, reason_text
from cronaca.core.loggers import OnTrigger
from cronaca.core.model import DAY, RunOrigin, Tag, Window
from cronaca.core.outputs import Record, RunAttribute, RunMark
from cronaca.core.quality import BAD, BAD_NO_DATA
from cronaca.core.runs import RunEdge, RunFinder, changes
from cronaca.db.pool import Store
from cronaca.history.read.series import SeriesReader
from cronaca.logbook import records, runs
from cronaca.plant import run_rules
from cronaca.plant.loggers import list_loggers
from cronaca.plant.tags import list_tags

_Taken = tuple[int, int]
"""64 bits of a value, and its quality."""


class PastRules:
    """Finds runs and records of the past, and writes them: all of one rule, or none."""

    def __init__(self, store: Store) -> None:
        self._store = store
        self._reader = SeriesReader(store)

    def add_runs(self, rule_uid: str, window: Window) -> int:
        """The runs of a rule in a window, up to where its runs are on record already; how many. One that
        lasts beyond that is cut off there. Raises NotFound, InvalidInput."""
        with self._store.snapshot() as tx:
            rule = next((rule for rule in run_rules.list_rules(tx) if rule.uid == rule_uid), None)
            if rule is None:
                raise NotFound("rule", rule_uid)
            if rule.origin is RunOrigin.LOGGER or rule.tag_id is None:
                raise InvalidInput(
                    "origin",
                    "when-logger-recorded-not",
                    "when a logger recorded is not kept",
                    "Take a rule that goes by a tag.",
                )
            first_us = runs.first_start_us(tx, rule.rule_id)
            tags = {tag.tag_id: tag for tag in list_tags(tx)}
        until_us = window.end_us if first_us is None else min(window.end_us, first_us)
        if until_us <= window.start_us:
            return 0
        finder, edges = RunFinder(rule), list[RunEdge]()
        for at_us, value, quality in self._changes(tags[rule.tag_id], Window(window.start_us, until_us)):
            edges += finder.offer(at_us, value, quality, tags[rule.tag_id].value_type)
        kept = [tags[number] for number in rule.attributes if number in tags]
        marks = [
            RunMark(
                rule.rule_id, rule.origin.value, edge.at_us, edge.begins, edge.name,
                tuple(
                    RunAttribute(tag.tag_id, int(tag.value_type), *taken)
                    for tag, taken in zip(kept, self._at(kept, edge.at_us), strict=True)
                ),
            )
            for edge in edges
        ]  # fmt: skip
        with self._store.transaction() as tx:
            for begin, end in pairwise([*marks, None]):
                if begin is not None and begin.begins:
                    runs.add_past(tx, begin, end, until_us)
        return sum(mark.begins for mark in marks)

    def add_records(self, logger_uid: str, window: Window) -> int:
        """The records that a triggered logger would have taken in a window, before its first one; how many.
        Raises NotFound, InvalidInput."""
        records.ensure_tables(self._store)
        with self._store.snapshot() as tx:
            logger = next((logger for logger in list_loggers(tx) if logger.uid == logger_uid), None)
            if logger is None:
                raise NotFound("logger", logger_uid)
            tags = {tag.tag_id: tag for tag in list_tags(tx)}
        spec = logger.mode.trigger if isinstance(logger.mode, OnTrigger) else None
        if spec is None or spec.tag is None:
            raise InvalidInput(
                "logger",
                "takes-no-records-tags",
                "it takes no records at a tag's edge",
                "Take one that does.",
            )
        if logger.inhibit_tag is not None or not logger.when.always:
            raise InvalidInput(
                "logger",
                "held-off-times",
                "it is inhibited at times",
                "Take one without an inhibit tag and schedule.",
            )
        tag, trigger = tags[spec.tag], Trigger(spec.edge)
        members = [tags[number] for number in logger.tags]
        taken = []
        for at_us, value, quality in self._changes(tag, window):
            if trigger.offer(value, quality):
                bits, qualities = zip(*self._at(members, at_us), strict=True)
                reason = reason_text(tag.name, tag.value_type, value)
                taken.append(Record(logger.logger_id, at_us, reason, logger.tags, bits, qualities))
        with self._store.transaction() as tx:
            records.add_past(tx, taken)
        return len(taken)

    def _changes(self, tag: Tag, window: Window) -> Iterator[tuple[int, float | int, int]]:
        """Time, value and quality wherever the value changes; a day at a time, for a tag may have millions of
        samples. The first sample of each day comes again, which changes nothing."""
        for start_us in range(window.start_us, window.end_us, DAY):
            day = Window(start_us, min(start_us + DAY, window.end_us))
            (answer,) = self._reader.read_many([tag.tag_id], day)
            series = answer.series
            inside = series.take((series.ts_us >= day.start_us) & (series.ts_us < day.end_us))
            for i in changes(inside).tolist():
                yield int(inside.ts_us[i]), inside.values[i].item(), int(inside.quality[i])

    def _at(self, tags: Sequence[Tag], at_us: int) -> list[_Taken]:
        """What tags were at an instant."""
        answers = self._reader.read_many([tag.tag_id for tag in tags], Window(at_us, at_us + 1))
        taken: list[_Taken] = []
        for tag, answer in zip(tags, answers, strict=True):
            before = answer.series.take(answer.series.ts_us <= at_us)
            if not len(before):
                taken.append((0, BAD_NO_DATA))
                continue
            quality = int(before.quality[-1])
            value = before.values[-1].item() if quality < BAD else 0
            taken.append((to_bits(value, tag.value_type), quality))
        return taken

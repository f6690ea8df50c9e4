"""Reads what older versions of this program have left in a spool: outputs in four lists of plain rows."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import Gap, GapReason
from cronaca.core.outputs import CoverageMark, Output, Record, RunAttribute, RunMark


def outputs_of_version_1(head: Mapping[str, Any]) -> tuple[Output, ...]:
    """The outputs in the head of an entry. Raises ValueError, KeyError or TypeError for what is none."""
    gaps = (
        Gap(a, b, GapReason(reason), detail, tuple(tuple(key) for key in (histories[0] if histories else ())))
        for a, b, reason, detail, *histories in head["gaps"]
    )
    marks = (
        CoverageMark(tuple(HistoryKey(*key) for key in keys), at_us, GapReason(reason) if reason else None)
        for keys, at_us, reason in head.get("coverage", ())
    )
    records = (
        Record(number, ts_us, reason, tuple(tag_ids), tuple(bits), tuple(quality))
        for number, ts_us, reason, tag_ids, bits, quality in head.get("records", ())
    )
    runs = (
        RunMark(rule_id, origin, at_us, begins, name, tuple(RunAttribute(*row) for row in attributes))
        for rule_id, origin, at_us, begins, name, attributes in head.get("runs", ())
    )
    return (*gaps, *marks, *runs, *records)

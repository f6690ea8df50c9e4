"""Corrections of recorded history, as OPC UA Part 11 (IEC 62541-11) means them: insert, replace, update,
delete. What stood there before is not forgotten: the store keeps it as modified history."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Final

import numpy as np

from cronaca.core import quality as q
from cronaca.core.errors import InvalidInput
from cronaca.core.model import Series, Window, concatenate


class EditKind(StrEnum):
    """What a correction does (PerformUpdateType and HistoryUpdateType of IEC 62541-11; from memory)."""

    INSERT = "insert"
    """Adds samples; refused where one stands already."""
    REPLACE = "replace"
    """Exchanges samples; refused where none stands."""
    UPDATE = "update"
    """Adds or exchanges."""
    DELETE = "delete"
    """Removes all samples of a window."""


@dataclass(frozen=True, slots=True)
class Edited:
    """The samples of the window after the correction, those that it replaced or removed, and how many it
    wrote."""

    after: Series
    replaced: Series
    written: int


_SAMPLES: Final = "samples"


def apply_edit(kind: EditKind, before: Series, new: Series) -> Edited:
    """The correction of one history: `before` holds the samples of the window as they stand, `new` those
    brought (none for a deletion), in order of time. An equal sample that stands already is no conflict.

    Raises InvalidInput that names the first offending time; nothing is half done."""
    if kind is EditKind.DELETE:
        return Edited(before.take(slice(0, 0)), before, 0)
    if bool((np.diff(new.ts_us) <= 0).any()):
        raise InvalidInput(
            _SAMPLES, "times-not-rise", "their times do not rise", "Give each time once, in order."
        )
    standing = np.isin(new.ts_us, before.ts_us)
    places = np.searchsorted(before.ts_us, new.ts_us[standing])
    same = np.zeros(len(new), np.bool_)
    same[standing] = _equal(before.take(places), new.take(standing))
    if kind is EditKind.INSERT and bool((standing & ~same).any()):
        at = int(new.ts_us[np.argmax(standing & ~same)])
        raise InvalidInput(
            _SAMPLES,
            "sample-stands-already",
            "a sample stands at {at} µs already",
            "Replace it, or leave it out.",
            at=at,
        )
    if kind is EditKind.REPLACE and not bool(standing.all()):
        at = int(new.ts_us[np.argmin(standing)])
        raise InvalidInput(
            _SAMPLES, "no-sample-stands", "no sample stands at {at} µs", "Insert it, or leave it out.", at=at
        )
    changed = new.take(~same)
    gone = np.isin(before.ts_us, changed.ts_us)
    whole = concatenate([before.take(~gone), changed], before.value_type)
    after = whole.take(np.argsort(whole.ts_us, kind="stable"))
    return Edited(after, before.take(gone), len(changed))


def window_of(series: Series) -> Window:
    """The shortest window that holds all samples; raises InvalidInput when there is none."""
    if not len(series):
        raise InvalidInput(_SAMPLES, "edits-none", "there are none", "Give at least one sample.")
    return Window.parse(int(series.ts_us[0]), int(series.ts_us[-1]) + 1)


def _equal(left: Series, other: Series) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    bits = left.values.view(np.int64) == other.values.view(np.int64)
    equal: np.ndarray[tuple[int], np.dtype[np.bool_]] = bits & (left.quality == other.quality)
    return equal


_MARKS: Final = (q.BAD_NO_COMMUNICATION, q.UNCERTAIN_LAST_USABLE)
"""What a recorder writes of a device that it cannot hear."""


def fill_outage(before: Series, past: Series) -> Edited:
    """What a device remembered takes the place of what stands for its outage: marks of lost communication,
    values that were merely held, and samples that differ at the same time."""
    marks = np.isin(before.quality, _MARKS)
    filled = apply_edit(EditKind.UPDATE, before.take(~marks), past)
    gone = concatenate([before.take(marks), filled.replaced], before.value_type)
    return Edited(filled.after, gone.take(np.argsort(gone.ts_us, kind="stable")), filled.written)

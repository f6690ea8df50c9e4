"""What is known of a tag that nobody records: its last minutes."""

from __future__ import annotations

import logging
from dataclasses import replace
from typing import Final

import numpy as np

from cronaca.core.bits import column_of_bits
from cronaca.core.coverage import Knowledge
from cronaca.core.errors import CorruptPayload
from cronaca.core.model import Covered, Series, ValueType
from cronaca.history.read.series import Context, SeriesAnswer, answer, count_inside, frame
from cronaca.history.tables import recent

_log: Final = logging.getLogger(__name__)


def read_recent(context: Context, tag_id: int) -> SeriesAnswer | None:
    """Its readings in the window of the context, as far as they are remembered, with the recorder's gaps.

    None: there are none, or they cannot be read."""
    if context.window.end_us < context.known_until_us - recent.KEPT_US:
        return None
    try:
        rows = recent.read(context.tx, tag_id, context.window.start_us)
    except CorruptPayload as exc:
        # It is lost in minutes anyway; the other curves of this reading are not.
        _log.warning("What is remembered of tag %d cannot be read: %s", tag_id, exc)
        return None
    rows = rows[rows["type"] == rows["type"][-1]] if len(rows) else rows
    if not len(rows):
        return None
    # Of two readings of one instant the later one is what it was.
    rows = rows[np.r_[np.diff(rows["ts"]) > 0, True]]
    value_type = ValueType(int(rows["type"][-1]))
    values = column_of_bits(rows["bits"].astype(np.int64), value_type)
    series = Series.of(value_type, rows["ts"].astype(np.int64), values, rows["quality"].astype(np.uint16))
    framed = frame(series, context.window)
    known = Knowledge(
        (Covered(int(series.ts_us[0]), None),), context.gaps, context.known_until_us, context.silence,
        now_us=context.now_us,
    )  # fmt: skip
    found = answer(framed, known, context.window, count_inside(framed.ts_us, context.window))
    return replace(found, last_us=int(series.ts_us[-1]))

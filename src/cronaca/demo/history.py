"""History of line 1 for the demo's first start, by the same model that goes on live afterwards."""

from __future__ import annotations

import pickle
from collections.abc import Callable
from pathlib import Path
from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core.codec.batch import HistoryKey
from cronaca.core.logging import ChangeState, decide_change
from cronaca.core.model import HOUR, SECOND, Series, Times, Window
from cronaca.demo.plant import SIGNALS, DryingLine, Signal
from cronaca.demo.seed import tag_uid
from cronaca.store import Store, setup
from cronaca.store.backfill import backfill

LENGTH_US: Final = 6 * HOUR
_WARM_UP_STEPS: Final = 1500


def warmed_up(seed: int) -> DryingLine:
    """A line that has been running for a while."""
    line = DryingLine(seed)
    for _ in range(_WARM_UP_STEPS):
        line.step(5.0)
    return line


def write_history(
    store: Store,
    seed: int,
    now_us: Callable[[], int],
    tell: Callable[[float], None],
    *,
    length_us: int = LENGTH_US,
) -> DryingLine:
    """Writes a sample a second of the analog signals and every change of the contacts, up to now.

    `tell` gets the share done. Returns the line as it is now."""
    line = warmed_up(seed)
    steps = length_us // SECOND
    columns = {signal.key: np.empty(steps) for signal in SIGNALS}
    for i in range(steps):
        line.step(1.0)
        for key, value in line.values().items():
            columns[key][i] = value[0]
        if i % 600 == 0:
            tell(i / steps)
    end_us = now_us() // SECOND * SECOND  # asked for last: the model has taken its time
    times = np.arange(end_us - length_us, end_us, SECOND, dtype=np.int64)
    with store.snapshot() as tx:
        numbers = {tag.uid: tag.tag_id for tag in setup.list_tags(tx)}
        histories = {history.key.tag_id: history.key for history in setup.list_histories(tx)}
    found: dict[HistoryKey, Series] = {}
    for signal in SIGNALS:
        history = histories[numbers[tag_uid(signal.key)]]
        found[history] = _series(signal, times, columns[signal.key])
    backfill(store, found, Window(end_us - length_us, end_us))
    tell(1.0)
    return line


def _series(signal: Signal, times: Times, values: NDArray[np.float64]) -> Series:
    if signal.data_type == "float32":
        values = values.astype(np.float32).astype(np.float64)  # what the device's registers hold
    series = Series.of(signal.value_type, times, values)
    if not signal.value_type.discrete:
        return series
    state = ChangeState.fresh(1)
    one = np.zeros(1, np.intp)
    bits, quality = series.values.view(np.int64), series.quality
    kept = [decide_change(state, one, bits[i : i + 1], quality[i : i + 1])[0] for i in range(len(series))]
    return series.take(np.array(kept, np.bool_))


def save_line(line: DryingLine, path: Path) -> None:
    """Keeps the line for the stand-in to go on from. The file is our own, in the demo's folder."""
    path.write_bytes(pickle.dumps(line))


def load_line(path: Path, seed: int) -> DryingLine:
    """The line that was kept, or a fresh one."""
    if not path.is_file():
        return warmed_up(seed)
    line = pickle.loads(path.read_bytes())  # noqa: S301 - written by save_line
    path.unlink()  # used once: after a crash the plant has gone its own way
    return line if isinstance(line, DryingLine) else warmed_up(seed)

"""A fortnight of history of four lines for the demo's first start, by the same model that goes on live
afterwards. The fortnight is made in pieces side by side, each warmed up over the end of the piece before
it: chance is the same function of line and second there (plant/chance.py), so the pieces fit together."""

from __future__ import annotations

import logging
import os
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import DAY, HOUR, SECOND, Series, Times, Window
from cronaca.db import Store
from cronaca.demo.names import PROCESS_VALUES, tag_uid
from cronaca.demo.plant import SIGNALS, DryingLine, LineSettings, Signal
from cronaca.history.read.series import SeriesReader
from cronaca.history.write.bulk import backfill
from cronaca.plant.archives import find_archive
from cronaca.plant.histories import list_histories
from cronaca.plant.tags import list_tags

LENGTH_US: Final = 14 * DAY
LONGEST_PIECE_S: Final = 6 * 3600
SHORTEST_PIECE_S: Final = 600
_LEAST_PIECES: Final = 16
WARM_S: Final = 3 * 3600
LINES: Final = (
    LineSettings(1, first_lot=48_200),
    LineSettings(2, first_lot=51_740),
    LineSettings(3, first_lot=47_010, hunting=3.0),
    LineSettings(4, first_lot=60_330),
)
"""The lines that are set up, by number from 1; line 3's dampers stick."""
NOT_SET_UP: Final = (LineSettings(5, first_lot=55_120),)
"""Line 5 runs behind the same port, and is left for people to set up."""
_LINK_DROPS: Final = 4
"""Times in a fortnight that a line's link drops."""
_CATCH_UP_S: Final = 3600
Columns = NDArray[np.float32]
_log = logging.getLogger(__name__)


def warmed_up(lines: tuple[LineSettings, ...] = LINES) -> DryingLine:
    """Lines that have been running for a while."""
    line = DryingLine(lines)
    for _ in range(1500):
        line.step(5.0)
    return line


def write_history(
    store: Store,
    now_us: Callable[[], int],
    tell: Callable[[float], None],
    *,
    lines: tuple[LineSettings, ...] = LINES,
    length_us: int = LENGTH_US,
) -> tuple[DryingLine, int]:
    """Writes a sample a second of the analog signals and every change of the contacts.

    `tell` gets the share done. Returns the lines as they are at the end, and when that is: the writing takes
    its time."""
    seconds = length_us // SECOND
    made, plant = _run(lines, seconds, lambda share: tell(0.6 * share))
    end_us = now_us() // SECOND * SECOND  # asked for last: the model has taken its time
    window = Window(end_us - length_us, end_us)
    times = np.arange(window.start_us, window.end_us, SECOND, dtype=np.int64)
    keys = _keys_of(store, len(lines))
    for i, line in enumerate(lines):
        down = _link_drops(line.seed, times)
        series = {keys[signal.key, i]: _series(signal, times, made[place, :, i], down)
                 for place, signal in enumerate(SIGNALS)}  # fmt: skip
        for part in _some_at_once(series):
            backfill(store, part, window)
            tell(0.6 + 0.4 * (i + 1) / len(lines))
    return plant, end_us


def join_recording(
    store: Store, plant: DryingLine, since_us: int, now_us: Callable[[], int]
) -> Window | None:
    """Goes on from the end of the history to where each tag's recording has begun, so that nothing is missing
    between them; the stretch that was filled. None, and nothing written, while a tag has no usable sample."""
    keys = _keys_of(store, len(plant))
    answers = SeriesReader(store).read_keys(list(keys.values()), Window(since_us, now_us()))
    begins: dict[HistoryKey, int] = {}
    for key, answer in zip(keys.values(), answers, strict=True):
        usable = answer.recorded.ts_us[
            ~q.is_bad(answer.recorded.quality) & (answer.recorded.ts_us >= since_us)
        ]
        if not len(usable):
            return None
        begins[key] = int(usable[0])
    last_us = max(begins.values())
    times = np.arange(since_us, last_us, SECOND, dtype=np.int64)
    made = _go_on(plant, len(times))
    for (signal_key, i), key in keys.items():
        place = next(j for j, signal in enumerate(SIGNALS) if signal.key == signal_key)
        series = _series(SIGNALS[place], times, made[place, :, i], np.zeros(len(times), np.bool_))
        own = Window(since_us, begins[key])
        if own.length_us > 0:
            backfill(store, {key: series.take(series.ts_us < own.end_us)}, own)
    return Window(since_us, last_us)


def _keys_of(store: Store, lines: int) -> dict[tuple[str, int], HistoryKey]:
    """The histories by signal and line (from 0), in the archive of process values: some tags have one in the
    archive of records, too."""
    with store.snapshot() as tx:
        numbers = {tag.uid: tag.tag_id for tag in list_tags(tx)}
        archive_id = find_archive(tx, PROCESS_VALUES)
        histories = {
            history.key.tag_id: history.key
            for history in list_histories(tx)
            if history.key.archive_id == archive_id
        }
    return {
        (signal.key, i): histories[numbers[tag_uid(signal.key, i + 1)]]
        for i in range(lines)
        for signal in SIGNALS
    }


def _go_on(plant: DryingLine, seconds: int) -> Columns:
    """All signals of lines that go on as they do live (signal x second x line)."""
    made = np.empty((len(SIGNALS), seconds, len(plant)), np.float32)
    for i in range(seconds):
        raw = plant.raw()
        made[:, i, :] = [raw[signal.key] for signal in SIGNALS]
        plant.step(1.0)
    return made


def _run(
    lines: tuple[LineSettings, ...], seconds: int, tell: Callable[[float], None]
) -> tuple[Columns, DryingLine]:
    """All signals (signal x second x line), and the lines at the end."""
    piece = min(max(seconds // _LEAST_PIECES, SHORTEST_PIECE_S), LONGEST_PIECE_S, seconds)
    pieces = -(-seconds // piece)
    count, warm = len(lines), min(WARM_S, seconds)
    starts = [seconds - (pieces - p) * piece for p in range(pieces)]
    plant = DryingLine(
        [
            LineSettings(line.seed, start - warm, line.first_lot, line.hunting)
            for start in starts
            for line in lines
        ]
    )
    made = np.empty((len(SIGNALS), piece, pieces * count), np.float32)
    for i in range(warm + piece):
        if i == warm:
            plant.energy[:] = 0.0
        plant.step(1.0)
        if i >= warm:
            raw = plant.raw()
            np.stack([raw[signal.key] for signal in SIGNALS], out=made[:, i - warm, :], casting="same_kind")
        if i % 600 == 0:
            tell(i / (warm + piece))
    energy = _add_up_energy(made, count)
    whole = made.reshape(len(SIGNALS), piece, pieces, count).transpose(0, 2, 1, 3)
    whole = whole.reshape(len(SIGNALS), pieces * piece, count)[:, -seconds:, :]
    now = plant.select(list(range((pieces - 1) * count, pieces * count)))
    now.energy[:] = energy
    return whole, now


def _add_up_energy(made: Columns, count: int) -> NDArray[np.float64]:
    """Each piece counts from nothing: each begins where the one before it ended. The meters at the end."""
    place = next(i for i, signal in enumerate(SIGNALS) if signal.key == "energy")
    meter = np.full(count, 5_100_000.0)
    for first in range(0, made.shape[2], count):
        mine = made[place, :, first : first + count]
        mine += meter.astype(np.float32)
        meter = mine[-1].astype(np.float64)
    return meter


def _series(signal: Signal, times: Times, column: NDArray[np.float32], down: NDArray[np.bool_]) -> Series:
    """What the device's registers held, and nothing but a Bad sample at the start of a time without link."""
    values = np.asarray(np.round(column.astype(np.float64), signal.decimals), np.float64)
    if signal.data_type == "float32":
        values = np.asarray(values, np.float32).astype(np.float64)
    lost = np.flatnonzero(down & ~np.r_[False, down[:-1]])
    quality = np.zeros(len(times), np.uint16)
    quality[lost] = q.BAD_NO_COMMUNICATION
    keep = ~down
    if signal.value_type.discrete:
        keep &= np.r_[True, values[1:] != values[:-1]] | np.r_[False, down[:-1]]
    keep[lost] = True
    return Series.of(signal.value_type, times, values, quality).take(keep)


def _link_drops(seed: int, times: Times) -> NDArray[np.bool_]:
    """Now and then a link is away for some minutes."""
    rng = np.random.default_rng([seed, 11])
    down = np.zeros(len(times), np.bool_)
    if len(times) * SECOND < DAY:
        return down
    for start in rng.integers(HOUR // SECOND, len(times) - HOUR // SECOND, _LINK_DROPS).tolist():
        down[start : start + int(rng.integers(20, 900))] = True
    return down


def _some_at_once(samples: dict[HistoryKey, Series]) -> Iterator[dict[HistoryKey, Series]]:
    items = list(samples.items())
    for i in range(0, len(items), 8):
        yield dict(items[i : i + 8])


def save_line(line: DryingLine, path: Path, at_us: int) -> None:
    """Keeps the lines as they were at `at_us` for the stand-in to go on from. The file is our own, in the
    demo's folder."""
    with path.open("wb") as stream:
        np.savez(stream, allow_pickle=False, **line.state())
    os.utime(path, (at_us / SECOND, at_us / SECOND))


def load_line(path: Path, now_us: int, lines: tuple[LineSettings, ...] = LINES) -> DryingLine:
    """The lines that were kept, as they would be by now, or fresh ones. A plant that stood still for longer
    than an hour goes on where it stood."""
    if not path.is_file():
        return warmed_up(lines)
    line = DryingLine(lines)
    try:
        with np.load(path, allow_pickle=False) as state:
            line.go_on(state)
        behind_s = now_us / SECOND - path.stat().st_mtime
        for _ in range(round(behind_s) if 0 < behind_s < _CATCH_UP_S else 0):
            line.step(1.0)
    except (ValueError, OSError, EOFError, zipfile.BadZipFile) as exc:
        _log.warning("The demo's plant begins anew, its file %s cannot be used: %s", path, exc)
        line = warmed_up(lines)
    path.unlink()  # used once: after a crash the plant has gone its own way
    return line

"""The spool: order, bounds, torn and damaged files, a full disk."""

from __future__ import annotations

import json
import os
import resource
import struct
import subprocess
import sys
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
import pytest

from cronaca.core.codec import Batch, encode_batch
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import SECOND, Gap, GapReason, Series, ValueType
from cronaca.core.outputs import CoverageMark, Record, RunAttribute, RunMark
from cronaca.recorder.outputs import spool as module
from cronaca.recorder.outputs.spool import Entry, Spool, WhenFull

KEY = HistoryKey(1, 1, 1)


def entry(seq: int, samples: int = 10, gaps: tuple[Gap, ...] = ()) -> Entry:
    """Noise, so that the size on disk is that of the samples."""
    times = seq * SECOND + np.arange(samples)
    values = np.random.default_rng(seq).random(samples)
    batch = Batch({KEY: Series.of(ValueType.FLOAT, times, values)})
    return Entry(1, seq, (seq + 1) * SECOND, seq * SECOND, batch, gaps)


def drain(spool: Spool) -> list[int]:
    found = []
    while (one := spool.peek()) is not None:
        found.append(one.seq)
        spool.pop()
    return found


@contextmanager
def opened(
    folder: Path, most_bytes: int = 1 << 30, when_full: WhenFull = WhenFull.DROP_OLDEST
) -> Iterator[Spool]:
    spool = Spool(folder, most_bytes=most_bytes, when_full=when_full)
    yield spool
    spool.close()


def files(folder: Path) -> list[Path]:
    return sorted(folder.glob("*/*.spool"))


def torn(spool: Spool) -> tuple[Gap, ...]:
    return tuple(output for output in spool.take_outputs() if isinstance(output, Gap))


def test_entries_come_back_in_order_and_exactly_after_a_restart(tmp_path: Path) -> None:
    gap = Gap(1, 2, GapReason.QUEUE_OVERFLOW, "3 samples")
    with opened(tmp_path) as spool:
        for seq in range(1, 6):
            spool.append(entry(seq, gaps=(gap,)))
    with opened(tmp_path) as spool:
        assert spool.waiting == 50
        first = spool.peek()
        assert first is not None and first.outputs == (gap,)
        assert first.batch.series[KEY].equals(entry(1).batch.series[KEY])
        assert (first.epoch, first.known_until_us, first.received_us) == (1, 2 * SECOND, SECOND)
        assert drain(spool) == [1, 2, 3, 4, 5]
        assert spool.empty and spool.waiting == 0 and files(tmp_path) == []


def test_many_files_are_worked_off_oldest_first(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(module, "FILE_BYTES", 1000)
    with opened(tmp_path) as spool:
        for seq in range(1, 31):
            spool.append(entry(seq, 50))
        assert len(files(tmp_path)) > 5
        assert drain(spool) == list(range(1, 31))


@pytest.mark.parametrize("cut", [1, 5, 40])
def test_a_torn_last_entry_is_detected_and_the_rest_is_kept(tmp_path: Path, cut: int) -> None:
    with opened(tmp_path) as spool:
        for seq in (1, 2, 3):
            spool.append(entry(seq))
    (path,) = files(tmp_path)
    os.truncate(path, path.stat().st_size - cut)
    with opened(tmp_path) as spool:
        assert drain(spool) == [1, 2]
        spool.append(entry(4))
        assert drain(spool) == [4]


def test_a_flipped_byte_in_the_middle_loses_the_rest_of_its_file_and_says_so(tmp_path: Path) -> None:
    with opened(tmp_path) as spool:
        spool.note_known(SECOND)
        for seq in (1, 2, 3):
            spool.append(entry(seq))
        (path,) = files(tmp_path)
        data = bytearray(path.read_bytes())
        data[len(data) // 2] ^= 1
        path.write_bytes(bytes(data))
        assert drain(spool) == [1]
        (gap,) = torn(spool)
        assert (gap.start_us, gap.end_us, gap.reason) == (2 * SECOND, 4 * SECOND, GapReason.SPOOL_OVERFLOW)
        assert spool.dropped == 20 and spool.take_outputs() == ()


def test_a_full_spool_drops_the_oldest_counts_it_and_puts_it_on_record(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(module, "FILE_BYTES", 2000)
    with opened(tmp_path, most_bytes=8000) as spool:
        spool.note_known(SECOND)
        for seq in range(1, 41):
            spool.append(entry(seq, 50))
        assert spool.size <= 8000
        left = drain(spool)
        assert left == list(range(left[0], 41)), "the newest are there, none is missing in between"
        (gap,) = torn(spool)
        assert (gap.start_us, gap.end_us) == (SECOND, left[0] * SECOND)
        assert spool.dropped == 50 * (left[0] - 1) and gap.detail.startswith(str(spool.dropped))


def test_a_full_spool_may_drop_the_newest(tmp_path: Path) -> None:
    with opened(tmp_path, most_bytes=5000, when_full=WhenFull.DROP_NEWEST) as spool:
        for seq in range(1, 41):
            spool.append(entry(seq, 50))
        left = drain(spool)
        assert left == list(range(1, left[-1] + 1))
        (gap,) = torn(spool)
        assert (gap.start_us, gap.end_us) == ((left[-1] + 1) * SECOND, 41 * SECOND)


def test_a_small_flush_may_fit_where_a_large_one_did_not(tmp_path: Path) -> None:
    with opened(tmp_path, most_bytes=5000, when_full=WhenFull.DROP_NEWEST) as spool:
        for seq, samples in enumerate((200, 200, 400, 10, 400), start=1):
            spool.append(entry(seq, samples))
        assert [(g.start_us, g.end_us) for g in torn(spool)] == [
            (3 * SECOND, 4 * SECOND),
            (5 * SECOND, 6 * SECOND),
        ]
        assert drain(spool) == [1, 2, 4]


def test_gaps_that_dropped_entries_told_of_stay_on_record(tmp_path: Path) -> None:
    gap = Gap(1, 2, GapReason.QUEUE_OVERFLOW, "3 samples")
    with opened(tmp_path, most_bytes=5000, when_full=WhenFull.DROP_NEWEST) as spool:
        for seq in range(1, 31):
            spool.append(entry(seq, 50, (gap,) if seq in (1, 30) else ()))
        assert gap in spool.take_outputs(), "that of the last one, which was dropped"
        first = spool.peek()
        assert first is not None and first.outputs == (gap,)


def test_drops_told_of_by_flushes_that_are_dropped_too_stay_one_gap(tmp_path: Path) -> None:
    with opened(tmp_path, most_bytes=5000, when_full=WhenFull.DROP_NEWEST) as spool:
        for seq in range(1, 41):
            spool.append(entry(seq, 50, torn(spool)))
        (gap,) = torn(spool)
        left = drain(spool)
        assert (gap.start_us, gap.end_us) == ((left[-1] + 1) * SECOND, 41 * SECOND)
        assert gap.detail.startswith(f"{50 * (40 - left[-1])} ")


FULL_DISK = """
import resource, sys
from pathlib import Path
from tests.recorder.test_spool import drain, entry
from cronaca.recorder.outputs.spool import Spool, WhenFull
spool = Spool(Path(sys.argv[1]), when_full=WhenFull(sys.argv[2]))
for seq in range(1, 6):
    spool.append(entry(seq, 200))
size = spool.size
resource.setrlimit(resource.RLIMIT_FSIZE, (size + 100, size + 100))
for seq in range(6, 9):
    spool.append(entry(seq, 200))
print(drain(spool), spool.dropped, [(g.start_us, g.end_us) for g in spool.take_outputs()])
"""


@pytest.mark.parametrize(
    ("when_full", "said"),
    [
        ("newest", "[1, 2, 3, 4, 5] 600 [(6000000, 9000000)]"),
        # All five are in one file: it goes, and a new file is as long as the limit allows.
        ("oldest", "[6, 7, 8] 1000 [(0, 6000000)]"),
    ],
)
def test_a_full_disk_is_a_full_spool(tmp_path: Path, when_full: str, said: str) -> None:
    """The kernel refuses to let the file grow (a limit on its size), in the middle of an entry."""
    env = {**os.environ, "PYTHONPATH": "src:."}
    command = [sys.executable, "-c", FULL_DISK, str(tmp_path), when_full]
    done = subprocess.run(command, env=env, capture_output=True, text=True, check=False)
    assert done.stdout.strip() == said, done.stderr
    assert resource.getrlimit(resource.RLIMIT_FSIZE)[0] == resource.RLIM_INFINITY


def test_two_recorders_on_one_machine_have_folders_of_their_own(tmp_path: Path) -> None:
    with opened(tmp_path) as one, opened(tmp_path) as other:
        one.append(entry(1))
        other.append(entry(2))
        assert (drain(one), drain(other)) == ([1], [2])


def test_an_entry_of_the_version_before_is_read(tmp_path: Path) -> None:
    """Outputs stood in four lists of rows; gaps of the oldest are of all histories, and it does not say since
    when it tells."""
    head = {
        "epoch": 3, "seq": 9, "known_until_us": 7, "received_us": 8,
        "gaps": [[1, 2, "recorder_late", "held up"], [3, 4, "recorder_late", "", [[1, 2, 1]]]],
        "coverage": [[[[1, 2, 1]], 5, "logger_paused"], [[[1, 2, 1]], 6, None]],
        "records": [[7, 5, "lot = 2", [1, 2], [2, -9], [0, 32768]]],
        "runs": [[4, "tag", 6, True, "Lot 2", [[3, 1, 11, 0]]]],
    }  # fmt: skip
    text = json.dumps(head).encode()
    body = struct.pack("<I", len(text)) + text + encode_batch(Batch({}))
    folder = tmp_path / "0"
    folder.mkdir()
    entry = struct.pack("<2sBII", b"CP", 1, len(body), zlib.crc32(body)) + body
    (folder / "00000001.spool").write_bytes(entry)
    spool = Spool(tmp_path)
    found = spool.peek()
    assert found is not None
    history = HistoryKey(1, 2, 1)
    assert found.outputs == (
        Gap(1, 2, GapReason.RECORDER_LATE, "held up"),
        Gap(3, 4, GapReason.RECORDER_LATE, "", (history,)),
        CoverageMark((history,), 5, GapReason.LOGGER_PAUSED),
        CoverageMark((history,), 6, None),
        RunMark(4, "tag", 6, True, "Lot 2", (RunAttribute(3, 1, 11, 0),)),
        Record(7, 5, "lot = 2", (1, 2), (2, -9), (0, 32768)),
    )
    assert (found.epoch, found.seq, found.since_us, found.generation) == (3, 9, None, 0)
    spool.close()

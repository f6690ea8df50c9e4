"""The spool: flushes on disk while the database is away, bounded, checksummed, forwarded in order.

A folder of files `00000001.spool`, ... of about FILE_BYTES. An entry is magic "CP", version u8, length
u32, CRC-32 u32, then a JSON head (length u32 before it) and the journal batch. Every entry is on disk
(fsync) before `append` returns. What follows a damaged entry in its file cannot be trusted: it is
dropped, counted and put on record; a torn last entry is what a crash in the middle of writing leaves.
"""

from __future__ import annotations

import contextlib
import errno
import fcntl
import json
import logging
import os
import struct
import zlib
from collections import deque
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from pathlib import Path
from typing import Any, Final, NamedTuple

from cronaca.core.codec import Batch, decode_batch, encode_batch
from cronaca.core.errors import CorruptPayload, InvalidInput
from cronaca.core.model import Gap, GapReason
from cronaca.core.outputs import KINDS, Output, StageState, from_plain, to_plain
from cronaca.core.ports import Flush
from cronaca.recorder.outputs.spool_version_1 import outputs_of_version_1

FILE_BYTES: Final = 4 << 20
_MAGIC: Final = b"CP"
_VERSION: Final = 2
_HEAD: Final = struct.Struct("<2sBII")
_LENGTH: Final = struct.Struct("<I")
_DROPPED: Final = "samples of all tags did not fit into the spool and were dropped."
_MOST_FOLDERS: Final = 16
_NO_ROOM: Final = frozenset({errno.ENOSPC, errno.EDQUOT, errno.EFBIG})
_log = logging.getLogger(__name__)


class WhenFull(StrEnum):
    """What a full spool drops."""

    DROP_OLDEST = "oldest"
    DROP_NEWEST = "newest"


@dataclass(frozen=True, slots=True)
class Entry:
    """A flush that waits; present values and report are not kept: by then they are old."""

    epoch: int
    seq: int
    known_until_us: int
    received_us: int
    batch: Batch
    outputs: tuple[Output, ...] = ()
    since_us: int | None = None
    """Until when the flush before it knew; None in entries of older versions."""
    sources_known: tuple[tuple[int, int], ...] = ()
    generation: int = 0
    """How often the clock had been set since its recorder began."""

    @classmethod
    def of(cls, flush: Flush, generation: int = 0) -> Entry:
        """What is kept of a flush."""
        return cls(
            flush.epoch, flush.seq, flush.known_until_us, flush.received_us, flush.batch, flush.outputs,
            flush.since_us, flush.sources_known, generation,
        )  # fmt: skip


class _Waiting(NamedTuple):
    """What is known of an entry without reading it; `length` is that on disk."""

    length: int
    samples: int
    known_until_us: int
    outputs: tuple[Output, ...]
    """Those that are kept when its samples have to be dropped."""


@dataclass(slots=True)
class _File:
    """One file: where its next entry to forward begins, and what it holds from there on."""

    path: Path
    size: int = 0
    read_to: int = 0
    waiting: deque[_Waiting] = field(default_factory=deque)


class Spool:
    """Entries between a recorder and a database that is away. Not for two threads at once."""

    def __init__(
        self, root: Path, *, most_bytes: int = 1 << 30, when_full: WhenFull = WhenFull.DROP_OLDEST,
        kinds: Mapping[str, type[Output]] = KINDS,
    ) -> None:  # fmt: skip
        self._most_bytes = most_bytes
        self._kinds = kinds
        self._when_full = when_full
        self._folder, self._lock = _free_folder(root)
        self._files: deque[_File] = deque()
        self._known_us: int | None = None
        self._torn: list[Gap] = []
        self._kept: list[Output] = []
        self.states: dict[str, tuple[int, bytes]] = {}
        """States of stages in what an earlier life has left, each with its epoch."""
        self.dropped = 0
        self.waiting = 0
        for path in sorted(self._folder.glob("*.spool")):
            self._adopt(path)

    def close(self) -> None:
        """Gives the folder free."""
        os.close(self._lock)

    @property
    def empty(self) -> bool:
        """True when nothing waits."""
        return not any(file.waiting for file in self._files)

    @property
    def size(self) -> int:
        """What the spool takes on disk."""
        return sum(file.size for file in self._files)

    def append(self, entry: Entry) -> None:
        """Puts an entry on disk; drops by the chosen rule when there is no room. Never raises for that."""
        data = _encode(entry)
        while self.size + len(data) > self._most_bytes or not self._write(data):
            if self._when_full is WhenFull.DROP_NEWEST or not self._drop_oldest_file():
                self._drop(self._last_known(), [_waiting(0, entry)])
                return
        self._files[-1].waiting.append(_waiting(len(data), entry))
        self.waiting += entry.batch.sample_count

    def peek(self) -> Entry | None:
        """The oldest entry, or None. A damaged one is dropped with the rest of its file."""
        while True:
            file = next((f for f in self._files if f.waiting), None)
            if file is None:
                return None
            length = file.waiting[0].length
            try:
                with file.path.open("rb") as stream:
                    stream.seek(file.read_to)
                    return _decode(stream.read(length), self._kinds)
            except (CorruptPayload, OSError) as exc:
                self._lose(file, exc)

    def pop(self) -> None:
        """Forgets the oldest entry: it is safe in the database."""
        file = next(f for f in self._files if f.waiting)
        safe = file.waiting.popleft()
        file.read_to += safe.length
        self.waiting -= safe.samples
        self._known_us = safe.known_until_us
        if not file.waiting:
            self._files.remove(file)
            file.path.unlink()

    def take_outputs(self) -> tuple[Output, ...]:
        """The gaps that drops have torn since the last call, and the outputs in what was dropped that hold
        all the same."""
        outputs, self._torn, self._kept = (*self._torn, *self._kept), [], []
        return outputs

    def note_known(self, known_until_us: int) -> None:
        """Tells until when samples are safe: a drop tears from there on."""
        self._known_us = known_until_us

    def _adopt(self, path: Path) -> None:
        """Takes over what an earlier life has left."""
        data = path.read_bytes()
        file = _File(path, len(data))
        place = 0
        try:
            while place < len(data):
                length = _entry_length(data, place)
                entry = _decode(data[place : place + length], self._kinds)
                file.waiting.append(_waiting(length, entry))
                self.waiting += entry.batch.sample_count
                self._note_states(entry)
                place += length
        except CorruptPayload as exc:
            _log.warning("The spool's file %s ends torn at byte %d: %s", path.name, place, exc)
            os.truncate(path, place)
            file.size = place
        if file.waiting:
            self._files.append(file)
        else:
            path.unlink()

    def _note_states(self, entry: Entry) -> None:
        for output in entry.outputs:
            if isinstance(output, StageState) and entry.epoch >= self.states.get(output.stage, (0, b""))[0]:
                self.states[output.stage] = entry.epoch, output.state

    def _write(self, data: bytes) -> bool:
        """Appends to the newest file; False when the disk has no room (nothing is left half written)."""
        if not self._files or self._files[-1].size >= FILE_BYTES:
            number = int(self._files[-1].path.stem) + 1 if self._files else 1
            self._files.append(_File(self._folder / f"{number:08d}.spool"))
        file = self._files[-1]
        try:
            with file.path.open("ab") as stream:
                stream.write(data)
                stream.flush()
                os.fsync(stream.fileno())
        except OSError as exc:
            # A disk that is full is the expected case; one that fails otherwise must not end the recording
            # either: what does not fit is dropped, counted and on record.
            if exc.errno not in _NO_ROOM:
                _log.error("The spool cannot be written: %s", exc)
            with contextlib.suppress(OSError):
                if file.path.exists():
                    os.truncate(file.path, file.size)
            return False
        file.size += len(data)
        return True

    def _drop_oldest_file(self) -> bool:
        """Makes room; False when there is nothing older to drop."""
        file = next((f for f in self._files if f.waiting), None)
        if file is None:
            return False
        self._forget(file)
        return True

    def _lose(self, file: _File, exc: Exception) -> None:
        samples = sum(entry.samples for entry in file.waiting)
        _log.error("The spool's file %s is damaged, %d samples are lost: %s", file.path.name, samples, exc)
        self._forget(file)

    def _forget(self, file: _File) -> None:
        """Drops what is left of a file."""
        self._drop(self._known_us or 0, file.waiting)
        self.waiting -= sum(entry.samples for entry in file.waiting)
        self._known_us = file.waiting[-1].known_until_us
        self._files.remove(file)
        file.path.unlink(missing_ok=True)

    def _last_known(self) -> int:
        """Until when samples are on disk."""
        known = [file.waiting[-1].known_until_us for file in self._files if file.waiting]
        return known[-1] if known else self._known_us or 0

    def _drop(self, from_us: int, dropped: Sequence[_Waiting]) -> None:
        """Counts what is dropped and puts it on record, with the gaps that it would have told of."""
        count = sum(entry.samples for entry in dropped)
        self.dropped += count
        kept = [output for entry in dropped for output in entry.outputs]
        self._torn += [output for output in kept if isinstance(output, Gap)]
        self._kept += [output for output in kept if not isinstance(output, Gap)]
        # What was dropped before is on record already, be it by the very flush that is dropped now.
        from_us = max([from_us, *(g.end_us or 0 for g in self._torn if _of_drops(g))])
        if dropped[-1].known_until_us > from_us:
            detail = f"{count} {_DROPPED}"
            self._torn.append(Gap(from_us, dropped[-1].known_until_us, GapReason.SPOOL_OVERFLOW, detail))
        self._torn = _joined(self._torn)


def _joined(gaps: Sequence[Gap]) -> list[Gap]:
    """Gaps in order of time, those of drops that touch made one."""
    result: list[Gap] = []
    for gap in sorted(gaps, key=lambda g: g.start_us):
        last = result[-1] if result else None
        if last is None or last.end_us != gap.start_us or not _of_drops(last, gap):
            result.append(gap)
            continue
        count = sum(int(part.detail.split()[0]) for part in (last, gap))
        result[-1] = Gap(last.start_us, gap.end_us, GapReason.SPOOL_OVERFLOW, f"{count} {_DROPPED}")
    return result


def _of_drops(*gaps: Gap) -> bool:
    return all(g.reason is GapReason.SPOOL_OVERFLOW and g.detail.endswith(_DROPPED) for g in gaps)


def _waiting(length: int, entry: Entry) -> _Waiting:
    kept = tuple(output for output in entry.outputs if output.outlives_samples)
    return _Waiting(length, entry.batch.sample_count, entry.known_until_us, kept)


def _free_folder(root: Path) -> tuple[Path, int]:
    """The first folder under the root that no other recorder holds, locked until this process ends."""
    for number in range(_MOST_FOLDERS):
        folder = root / str(number)
        folder.mkdir(parents=True, exist_ok=True)
        handle = os.open(folder / "lock", os.O_RDWR | os.O_CREAT, 0o600)
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            os.close(handle)
            continue
        return folder, handle
    raise InvalidInput(
        "CRONACA_SPOOL_DIR",
        "held-recorders",
        "{root} is held by {most_folders} recorders",
        "Give another.",
        root=root,
        most_folders=_MOST_FOLDERS,
    )


def _encode(entry: Entry) -> bytes:
    head: dict[str, Any] = {
        "epoch": entry.epoch,
        "seq": entry.seq,
        "known_until_us": entry.known_until_us,
        "received_us": entry.received_us,
        "outputs": to_plain(entry.outputs),
        "since_us": entry.since_us,
        "sources": entry.sources_known,
        "generation": entry.generation,
    }
    text = json.dumps(head).encode()
    body = _LENGTH.pack(len(text)) + text + encode_batch(entry.batch)
    return _HEAD.pack(_MAGIC, _VERSION, len(body), zlib.crc32(body)) + body


def _entry_length(data: bytes, place: int) -> int:
    if len(data) < place + _HEAD.size:
        raise CorruptPayload("spool entry", "it is cut short")
    return int(_HEAD.unpack_from(data, place)[2]) + _HEAD.size


def _decode(data: bytes, kinds: Mapping[str, type[Output]]) -> Entry:
    if len(data) < _HEAD.size:
        raise CorruptPayload("spool entry", "it is cut short")
    magic, version, length, crc = _HEAD.unpack_from(data)
    body = data[_HEAD.size :]
    known = magic == _MAGIC and version in (1, _VERSION)
    if not known or len(body) != length or zlib.crc32(body) != crc:
        raise CorruptPayload("spool entry", "its checksum does not match")
    try:
        (size,) = _LENGTH.unpack_from(body)
        head = json.loads(body[_LENGTH.size : _LENGTH.size + size])
        outputs = outputs_of_version_1(head) if version == 1 else from_plain(head["outputs"], kinds)
        return Entry(
            head["epoch"], head["seq"], head["known_until_us"], head["received_us"],
            decode_batch(body[_LENGTH.size + size :]), outputs, head.get("since_us"),
            tuple((source_id, known_us) for source_id, known_us in head.get("sources", ())),
            head.get("generation", 0),
        )  # fmt: skip
    except (ValueError, KeyError, TypeError, struct.error) as exc:  # written by another version
        raise CorruptPayload("spool entry", f"its content is not known to this program ({exc})") from exc

"""The quarantine: what the database refuses for good, as readable files on disk.

A folder of JSON files, one for each refused part of a flush: when, why, which tags, and the values
themselves, so that nothing is lost that a person could still make use of. Bounded: when it is full only the
reason is kept in the log and in the count.
"""

from __future__ import annotations

import json
import logging
import os
from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final

from cronaca.core.errors import NotFound
from cronaca.core.ports import QuarantineReport

MOST_BYTES: Final = 64 << 20
MOST_FILES: Final = 10_000
_NEWEST: Final = 20
_log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class Refused:
    """A part of a flush that the database refused. `what` is its kind (samples, record, value of a record,
    run, gap, coverage, present values); `content` holds the values as plain JSON."""

    what: str
    tag_ids: tuple[int, ...]
    reason: str
    epoch: int
    seq: int
    content: dict[str, Any]


class Quarantine:
    """Writes refused parts to disk. Not for two threads at once."""

    def __init__(
        self, folder: Path | None, *, most_bytes: int = MOST_BYTES, most_files: int = MOST_FILES
    ) -> None:
        """Without a folder it only counts: for tests and for a recorder that has no disk."""
        self._folder = folder
        self._most_bytes = most_bytes
        self._most_files = most_files
        self._newest: deque[QuarantineReport] = deque(maxlen=_NEWEST)
        self.count = 0
        self._bytes = 0
        for item in list_items(folder) if folder is not None else ():
            self.count += 1
            self._bytes += item.size
            self._newest.append(item.report)

    @property
    def newest(self) -> tuple[QuarantineReport, ...]:
        """What was put in last, newest first."""
        return tuple(reversed(self._newest))

    def put(self, refused: Sequence[Refused], now_us: int) -> None:
        """Keeps refused parts. Never raises: a disk that is full must not stop what can be recorded."""
        for part in refused:
            _log.error("Not storable, put into the quarantine: %s of tags %s: %s", part.what,
                       list(part.tag_ids)[:20], part.reason)  # fmt: skip
            self._newest.append(QuarantineReport(now_us, part.what, part.tag_ids[:20], part.reason[:300]))
            self.count += 1
            self._write(part, now_us)

    def _write(self, part: Refused, now_us: int) -> None:
        if self._folder is None:
            return
        body = {
            "at_us": now_us, "what": part.what, "tag_ids": part.tag_ids, "reason": part.reason,
            "epoch": part.epoch, "seq": part.seq, **part.content,
        }  # fmt: skip
        data = json.dumps(body, indent=1).encode()
        if self._bytes + len(data) > self._most_bytes or self.count > self._most_files:
            _log.error("The quarantine in %s is full: the values themselves are not kept", self._folder)
            return
        try:
            self._folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            path = self._folder / f"{now_us}-{self.count:05d}.json"
            handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
            with os.fdopen(handle, "wb") as stream:
                stream.write(data)
                stream.flush()
                os.fsync(stream.fileno())
            self._bytes += len(data)
        except OSError as exc:
            _log.error("The quarantine in %s cannot be written: %s", self._folder, exc)


@dataclass(frozen=True, slots=True)
class Item:
    """A file of the quarantine."""

    name: str
    size: int
    report: QuarantineReport


def list_items(folder: Path) -> list[Item]:
    """What is in the quarantine, oldest first. A file that cannot be read is listed as such."""
    return [_item(path) for path in sorted(folder.glob("*.json"))]


def read_item(folder: Path, name: str) -> dict[str, Any]:
    """One file of the quarantine; raises NotFound."""
    path = folder / f"{name}.json"
    if path.parent != folder or not path.is_file():
        raise NotFound("item of the quarantine", name)
    return dict(json.loads(path.read_bytes()))


def remove_items(folder: Path) -> int:
    """Empties the quarantine; returns how many files there were."""
    paths = sorted(folder.glob("*.json"))
    for path in paths:
        path.unlink()
    return len(paths)


def _item(path: Path) -> Item:
    try:
        body = json.loads(path.read_bytes())
        report = QuarantineReport(
            int(body["at_us"]), str(body["what"]), tuple(body["tag_ids"])[:20], str(body["reason"])[:300]
        )
    except (OSError, ValueError, KeyError, TypeError) as exc:
        report = QuarantineReport(0, "unreadable file", (), f"{path.name}: {exc}")
    return Item(path.stem, path.stat().st_size, report)

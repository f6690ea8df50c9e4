"""The set-up that a recorder used last, on its own disk: after a common power cut it samples into the spool
before the database is back.

One file: a line with the SHA-256 of the rest, then JSON. It holds passwords of sources, and is for its owner
alone. A file that does not fit its checksum, or this program, is as good as none, and that is said.
"""

from __future__ import annotations

import hashlib
import logging
import os
from dataclasses import dataclass
from pathlib import Path

import msgspec

from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import ValueType
from cronaca.core.ports import HistoryOf
from cronaca.core.setup.whole import Setup

_log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Cached:
    """What is needed to record: the set-up, the open histories, and the epoch under which it was used."""

    epoch: int
    setup: Setup
    histories: list[tuple[int, int, tuple[int, int, int], ValueType]]

    def history_of(self) -> HistoryOf:
        """The open history of each (archive, tag)."""
        return {(archive, tag): (HistoryKey(*key), kind) for archive, tag, key, kind in self.histories}


class SetupCache:
    """A core.ports.SetupKeeper in a file."""

    def __init__(self, path: Path) -> None:
        self._path = path

    def keep(self, epoch: int, setup: Setup, histories: HistoryOf) -> None:
        """Keeps what is at work, in place of what was. Raises OSError."""
        rows = [(archive, tag, tuple(key), kind) for (archive, tag), (key, kind) in histories.items()]
        body = msgspec.json.encode(Cached(epoch, setup, rows))  # type: ignore[arg-type]
        self._path.parent.mkdir(parents=True, exist_ok=True)
        new = self._path.with_suffix(".new")
        handle = os.open(new, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
        with os.fdopen(handle, "wb") as stream:
            stream.write(hashlib.sha256(body).hexdigest().encode() + b"\n" + body)
            stream.flush()
            os.fsync(stream.fileno())
        new.replace(self._path)

    def load(self) -> Cached | None:
        """What was kept, or None."""
        try:
            digest, _, body = self._path.read_bytes().partition(b"\n")
        except OSError:
            return None
        if hashlib.sha256(body).hexdigest().encode() != digest:
            _log.error("The set-up kept in %s is damaged and is not used", self._path)
            return None
        try:
            return msgspec.json.decode(body, type=Cached)
        except msgspec.DecodeError as exc:
            _log.error("The set-up kept in %s is of another version and is not used: %s", self._path, exc)
            return None

"""The set-up that a recorder used last, on its own disk: after a common power cut it samples into the spool
before the database is back.

One file: a line with the SHA-256 of the rest, then JSON. It holds passwords of sources, and is for its owner
alone. A file that does not fit its checksum, or this program, is as good as none, and that is said.
"""

from __future__ import annotations

import hashlib
import logging
import os
from dataclasses import dataclass, fields
from pathlib import Path
from typing import Any, get_type_hints

import msgspec

from cronaca.core.codec.batch import HistoryKey
from cronaca.core.loggers import logger_from_plain, to_plain
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
        whole = {column.name: getattr(setup, column.name) for column in fields(setup)}
        whole["loggers"] = [to_plain(logger) for logger in setup.loggers]
        body = msgspec.json.encode({"epoch": epoch, "setup": whole, "histories": rows})
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
            return _cached(msgspec.json.decode(body, type=_Content))
        except (msgspec.DecodeError, LookupError, TypeError, ValueError) as exc:
            _log.error("The set-up kept in %s is of another version and is not used: %s", self._path, exc)
            return None


class _Content(msgspec.Struct):
    """The file's JSON. What the set-up consists of has types of its own, loggers one for each mode."""

    epoch: int
    setup: dict[str, Any]
    histories: list[tuple[int, int, tuple[int, int, int], ValueType]]


def _cached(content: _Content) -> Cached:
    hints = get_type_hints(Setup)
    loggers = tuple(logger_from_plain(logger) for logger in content.setup["loggers"])
    others = {
        name: msgspec.convert(value, hints[name])
        for name, value in content.setup.items()
        if name != "loggers"
    }
    return Cached(content.epoch, Setup(**others, loggers=loggers), content.histories)

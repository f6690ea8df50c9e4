"""Loggers: the one place that reads and writes them. What a logger is stands in `core/loggers.py`; here its
settings are one JSON value, and those of a member another, written by that module's own codec."""

from __future__ import annotations

import json
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields, replace
from typing import Any, Final

from cronaca.core.addresses import is_writable
from cronaca.core.errors import InvalidInput, NotFound
from cronaca.core.logger_rules.words import mode_text
from cronaca.core.loggers import (
    BY_MEMBER,
    Logger,
    LoggerBase,
    LoggerSpec,
    OnTrigger,
    Periodic,
    TriggerSpec,
    check_members,
    logger_from_plain,
    to_plain,
    with_tags,
)
from cronaca.core.model import GapReason, LoggerMode, Tag, ValueType
from cronaca.core.ordering import natural_key
from cronaca.db.transaction import Transaction
from cronaca.plant import coverage, histories
from cronaca.plant.changes import By, Log, check_revision
from cronaca.plant.tags import list_tags

_LIST: Final = """
SELECT logger_id, uid, name, archive_id, mode, wanted, settings FROM logger ORDER BY logger_id
"""
_LIST_MEMBERS: Final = """
SELECT logger_id, tag_id, settings FROM logger_member ORDER BY logger_id, position, tag_id
"""
_ADD: Final = """
INSERT INTO logger (logger_id, uid, name, archive_id, mode, wanted, settings)
VALUES (%(logger_id)s, %(uid)s, %(name)s, %(archive_id)s, %(mode)s, %(wanted)s, %(settings)s)
"""
_CHANGE: Final = """
UPDATE logger SET name = %(name)s, archive_id = %(archive_id)s, mode = %(mode)s, wanted = %(wanted)s,
    settings = %(settings)s, revision = revision + 1
WHERE uid = %(uid)s
"""
_REMOVE: Final = "DELETE FROM logger WHERE uid = %(uid)s"
_REMOVE_MEMBERS: Final = "DELETE FROM logger_member WHERE logger_id = %(logger_id)s"
_ADD_MEMBER: Final = (
    "INSERT INTO logger_member (logger_id, tag_id, position, settings) VALUES (%s, %s, %s, %s)"
)
_REVISIONS: Final = "SELECT uid, revision FROM logger"
_UIDS: Final = "SELECT tag_id, uid FROM tag WHERE removed_us IS NULL"
_ARCHIVES: Final = "SELECT archive_id, uid FROM archive"
_NAMES: Final = "SELECT archive_id, name FROM archive"
_RECORDING: Final = """
SELECT tag_id, logger_id, settings FROM logger_member WHERE tag_id IN %(tag_ids)s ORDER BY tag_id, logger_id
"""
_COUNTS: Final = "SELECT logger_id, COUNT(*) FROM logger_member GROUP BY logger_id"
_FIND_REMOVED: Final = "SELECT logger_id FROM removed_logger WHERE uid = %(uid)s"
_FORGET_REMOVED: Final = "DELETE FROM removed_logger WHERE uid = %(uid)s"
_REMEMBER: Final = """
INSERT INTO removed_logger (logger_id, uid, name)
SELECT logger_id, uid, name FROM logger WHERE uid = %(uid)s AND mode = 'on_trigger'
"""
_PROTOCOLS: Final = "SELECT source_id, protocol FROM source WHERE removed_us IS NULL"
_TAGS: Final = "SELECT tag_id, value_type, unit FROM tag WHERE tag_id IN %(tag_ids)s"
_COLUMNS: Final = frozenset({"name", "archive", "mode", "wanted", "tags", "logger_id", "uid", *BY_MEMBER})
"""Fields that have columns of their own, or belong to members."""


@dataclass(frozen=True, slots=True)
class LoggerRow:
    """A logger as it is set up."""

    logger_id: int
    uid: str
    revision: int
    spec: LoggerSpec[str]


@dataclass(frozen=True, slots=True)
class RecordedBy:
    """A logger that records a tag, and when, in words."""

    tag_id: int
    uid: str
    name: str
    archive: str
    mode: LoggerMode
    interval_us: int
    text: str


@dataclass(frozen=True, slots=True)
class LoggerSummary:
    """A logger without its members."""

    logger_id: int
    uid: str
    name: str
    archive: str
    text: str
    members: int


@dataclass(frozen=True, slots=True)
class _Recorded:
    tag_id: int
    value_type: ValueType
    unit: str


def list_loggers(tx: Transaction) -> list[Logger]:
    """All loggers with their members, tags and archives by number."""
    members: dict[int, list[tuple[int, dict[str, Any]]]] = {}
    for logger_id, tag_id, settings in tx.fetch(_LIST_MEMBERS):
        members.setdefault(logger_id, []).append((tag_id, json.loads(settings) if settings else {}))
    return [_logger(row, members.get(int(row[0]), [])) for row in tx.fetch(_LIST)]


def _logger(row: Sequence[Any], members: Sequence[tuple[int, Mapping[str, Any]]]) -> Logger:
    number, uid, name, archive_id, mode, enabled, settings = row
    own = {field: [(tag, its[field]) for tag, its in members if field in its] for field in BY_MEMBER}
    return logger_from_plain({
        **json.loads(settings), **own, "logger_id": number, "uid": uid, "name": name, "archive": archive_id,
        "mode": mode, "wanted": bool(enabled), "tags": [tag for tag, _ in members],
    })  # fmt: skip


def list_rows(tx: Transaction) -> list[LoggerRow]:
    """All loggers by name, as people set them up."""
    revisions: dict[str, int] = dict(tx.fetch(_REVISIONS))
    uids: dict[int, str] = dict(tx.fetch(_UIDS))
    archives: dict[int, str] = dict(tx.fetch(_ARCHIVES))
    rows = [
        LoggerRow(logger.logger_id, logger.uid, revisions[logger.uid], _by_uid(logger, uids, archives))
        for logger in list_loggers(tx)
    ]
    return sorted(rows, key=lambda row: natural_key(row.spec.name))


def get_row(tx: Transaction, uid: str) -> LoggerRow:
    """One logger; raises NotFound."""
    for row in list_rows(tx):
        if row.uid == uid:
            return row
    raise NotFound("logger", uid)


def list_recorded_by(tx: Transaction, tag_ids: Sequence[int]) -> list[RecordedBy]:
    """The loggers that record these tags."""
    rows = tx.fetch(_RECORDING, tag_ids=list(tag_ids)) if tag_ids else []
    loggers = _without_members(tx) if rows else {}
    names: dict[int, str] = dict(tx.fetch(_NAMES)) if rows else {}
    result = []
    for tag_id, logger_id, settings in rows:
        logger = _logger(loggers[logger_id], [(tag_id, json.loads(settings) if settings else {})])
        interval_us = logger.mode.interval_us if isinstance(logger.mode, Periodic) else 0
        result.append(RecordedBy(
            tag_id,
                logger.uid,
                logger.name,
                names[logger.archive],
                logger.mode.kind,
                interval_us,
            mode_text(logger.mode, tag_id),
        ))  # fmt: skip
    return result


def list_summaries(tx: Transaction) -> list[LoggerSummary]:
    """All loggers by name, however many tags they have."""
    counts: dict[int, int] = dict(tx.fetch(_COUNTS))
    names: dict[int, str] = dict(tx.fetch(_NAMES))
    loggers = [_logger(row, []) for row in _without_members(tx).values()]
    return [
        LoggerSummary(
            logger.logger_id, logger.uid, logger.name, names[logger.archive], mode_text(logger.mode),
            int(counts.get(logger.logger_id, 0)),
        )
        for logger in sorted(loggers, key=lambda logger: natural_key(logger.name))
    ]  # fmt: skip


def _without_members(tx: Transaction) -> dict[int, Sequence[Any]]:
    return {int(row[0]): row for row in tx.fetch(_LIST)}


def insert_logger(
    tx: Transaction, logger: Logger, now_us: int, tags: Sequence[histories.Recorded] | None = None
) -> int:
    """Adds a logger with its members (its `logger_id` is not looked at), and opens their histories. `tags`
    are the members, where they are at hand."""
    removed = tx.fetch_one(_FIND_REMOVED, uid=logger.uid)  # one that comes back has its records again
    known = None if removed is None else int(removed[0])
    number = tx.insert(_ADD, logger_id=known, **_columns_of(logger))
    if known is not None:
        tx.execute(_FORGET_REMOVED, uid=logger.uid)
        number = known
    _put_members(tx, number, logger)
    keys = histories.open_histories(tx, logger.archive, tags or _recorded(tx, logger), now_us)
    if logger.wanted:
        coverage.begin(tx, keys, now_us)
    return number


def _recorded(tx: Transaction, logger: Logger) -> list[_Recorded]:
    rows = tx.fetch(_TAGS, tag_ids=list(logger.tags)) if logger.tags else []
    return [_Recorded(tag_id, ValueType(kind), unit) for tag_id, kind, unit in rows]


def _columns_of(logger: Logger) -> dict[str, Any]:
    plain = to_plain(logger)
    settings = {name: value for name, value in plain.items() if name not in _COLUMNS}
    return {
        "uid": logger.uid, "name": logger.name, "archive_id": logger.archive, "mode": logger.mode.kind.value,
        "wanted": logger.wanted, "settings": json.dumps(settings),
    }  # fmt: skip


def _put_members(tx: Transaction, number: int, logger: Logger) -> None:
    plain = to_plain(logger)
    tx.execute(_REMOVE_MEMBERS, logger_id=number)
    rows = []
    for position, tag in enumerate(logger.tags):
        own = {name: plain[name][tag] for name in BY_MEMBER if tag in plain.get(name, ())}
        rows.append((number, tag, position, json.dumps(own) if own else None))
    tx.execute_many(_ADD_MEMBER, rows)


def add_logger(tx: Transaction, spec: LoggerSpec[str], by: By, uid: str = "") -> str:
    """Adds a logger; returns its uid. Raises InvalidInput, NotFound."""
    uid = uid or str(uuid.uuid4())
    writing = LoggerWriting(tx, by)
    writing.put(uid, spec)
    writing.finish()
    return uid


def change_logger(tx: Transaction, uid: str, spec: LoggerSpec[str], by: By, seen: int | None = None) -> None:
    """Changes a logger. What goes on being recorded in the same archive is covered without a break. Raises
    InvalidInput, NotFound, EditConflict."""
    writing = LoggerWriting(tx, by)
    row = get_row(tx, uid)
    check_revision(tx, "logger", uid, row.spec.name, has=row.revision, seen=seen)
    writing.put(uid, spec)
    writing.finish()


def remove_logger(tx: Transaction, uid: str, by: By, seen: int | None = None) -> None:
    """Removes a logger; what it recorded stays. Raises NotFound, EditConflict."""
    log = Log(tx, "logger", by)
    row = get_row(tx, uid)
    check_revision(tx, "logger", uid, row.spec.name, has=row.revision, seen=seen)
    old = next(logger for logger in list_loggers(tx) if logger.uid == uid)
    tx.execute(_REMOVE_MEMBERS, logger_id=row.logger_id)
    tx.execute(_REMEMBER, uid=uid)  # its records stay, and are found under its name
    tx.execute(_REMOVE, uid=uid)
    _follow_coverage(tx, old, replace(old, tags=()), [], by.created_us)
    log.note(uid, to_plain(row.spec), None)
    log.write()


class LoggerWriting:
    """Adds and changes loggers: what they are checked against is read once, for however many."""

    def __init__(self, tx: Transaction, by: By) -> None:
        self._log = Log(tx, "logger", by)
        self._known = _Known.read(tx)
        self._tx = tx

    def put(self, uid: str, spec: LoggerSpec[str]) -> None:
        """Writes one that is new or differs from what it was. Raises InvalidInput, NotFound."""
        tx, known, now_us = self._tx, self._known, self._log.by.created_us
        spec = spec.checked()
        new, tags = _resolved(known, uid, spec)
        old = known.loggers.get(uid)
        if old is None:
            new = replace(new, logger_id=insert_logger(tx, new, now_us, tags))
            self._log.note(uid, None, to_plain(spec))
        else:
            new = replace(new, logger_id=old.logger_id)
            before = _by_uid(old, known.uids, {number: uid for uid, number in known.archives.items()})
            tx.execute(_CHANGE, **_columns_of(new))
            _put_members(tx, new.logger_id, new)
            _follow_coverage(tx, old, new, tags, now_us)
            self._log.note(uid, to_plain(before), to_plain(spec))
        known.take(new)

    def finish(self) -> None:
        """Puts all on record."""
        self._log.write()


@dataclass(frozen=True, slots=True)
class _Known:
    """What a logger is checked against. `taken`: the logger that records a tag into an archive, by the
    numbers of both."""

    tags: dict[str, Tag]
    uids: dict[int, str]
    archives: dict[str, int]
    protocols: dict[int, str]
    loggers: dict[str, Logger]
    names: dict[str, str]
    taken: dict[tuple[int, int], str]

    @classmethod
    def read(cls, tx: Transaction) -> _Known:
        loggers = {logger.uid: logger for logger in list_loggers(tx)}
        known = cls(
            {tag.uid: tag for tag in list_tags(tx)},
            dict(tx.fetch(_UIDS)),
            {uid: number for number, uid in tx.fetch(_ARCHIVES)},
            dict(tx.fetch(_PROTOCOLS)),
            loggers, {}, {},
        )  # fmt: skip
        for logger in loggers.values():
            known.take(logger)
        return known

    def take(self, logger: Logger) -> None:
        """Keeps a logger as it is now in the place of what it was."""
        old = self.loggers.get(logger.uid)
        if old is not None:
            self.names.pop(old.name.casefold(), None)
            for tag_id in old.tags:
                self.taken.pop((old.archive, tag_id), None)
        self.loggers[logger.uid] = logger
        self.names[logger.name.casefold()] = logger.uid
        self.taken.update(dict.fromkeys(((logger.archive, t) for t in logger.tags), logger.uid))


def _follow_coverage(tx: Transaction, old: Logger, new: Logger, tags: Sequence[Tag], now_us: int) -> None:
    """Ends and begins coverage where a logger's change makes a difference; `tags` are the new members."""
    before = {(old.archive, t) for t in old.tags} if old.wanted else set()
    after = {(new.archive, t) for t in new.tags} if new.wanted else set()
    for archive_id in {a for a, _ in before | after}:
        left = [t for a, t in before - after if a == archive_id]
        stopped = set(new.tags) if archive_id == new.archive and not new.wanted else set()
        for tag_ids, reason in (
            ([t for t in left if t in stopped], GapReason.LOGGER_STOPPED),
            ([t for t in left if t not in stopped], GapReason.NOT_RECORDED),
        ):
            keys = [h.key for h in histories.find_histories(tx, tag_ids, archive_id).values()]
            coverage.end(tx, keys, now_us, reason)
        joined = [tag for tag in tags if (archive_id, tag.tag_id) in after - before]
        coverage.begin(tx, histories.open_histories(tx, archive_id, joined, now_us), now_us)


def _resolved(known: _Known, uid: str, spec: LoggerSpec[str]) -> tuple[Logger, list[Tag]]:
    """The logger by numbers, and its members; raises when it cannot run."""
    if known.names.get(spec.name.casefold(), uid) != uid:
        raise InvalidInput(
            "name", "logger-name-taken", "there is a logger {spec!r}", "Take another name.", spec=spec.name
        )
    if spec.archive not in known.archives:
        raise NotFound("archive", spec.archive)
    for tag in (*spec.tags, *spec.named_tags()):
        if tag not in known.tags:
            raise NotFound("tag", tag, field="tags")
    if isinstance(spec.mode, OnTrigger):
        _check_written(known, spec.mode.trigger)
    numbered = with_tags(spec, lambda tag: known.tags[tag].tag_id)
    numbered = replace(numbered, archive=known.archives[spec.archive])
    logger = Logger(**{name: getattr(numbered, name) for name in _FIELDS}, logger_id=0, uid=uid)
    members = [known.tags[tag] for tag in spec.tags]
    _check_members(known, logger, members)
    return logger, members


_FIELDS: Final = ("mode", *(one.name for one in fields(LoggerBase)))


def _check_written(known: _Known, trigger: TriggerSpec[str]) -> None:
    """What the plant is told has to be written somewhere that takes values."""
    written = {"number_tag": trigger.number_tag, "reset": trigger.tag if trigger.reset else None}
    for field, uid in written.items():
        if uid is None:
            continue
        tag = known.tags[uid]
        if not is_writable(known.protocols[tag.source_id], tag.address, tag.value_type):
            raise InvalidInput(
                field,
                "cannot-written",
                "{tag} cannot be written",
                "Take a tag in a coil or a holding register.",
                tag=tag.name,
            )


def _check_members(known: _Known, logger: Logger, tags: Sequence[Tag]) -> None:
    """Every rule has to have a meaning for its tag; and two loggers may not record a tag into one archive."""
    check_members(logger.mode, tags)
    for tag in tags:
        other = known.taken.get((logger.archive, tag.tag_id), logger.uid)
        if other != logger.uid:
            raise InvalidInput(
                "tags",
                "recorded-into-archive",
                "{tag} is recorded into this archive by {name}",
                "Remove it there, or choose another archive.",
                tag=tag.name,
                name=known.loggers[other].name,
            )


def _by_uid(logger: Logger, uids: Mapping[int, str], archives: Mapping[int, str]) -> LoggerSpec[str]:
    """As people know it; a tag that was removed meanwhile is left out."""
    spec = with_tags(logger, uids.get)
    values = {name: getattr(spec, name) for name in _FIELDS}
    return LoggerSpec(**{**values, "archive": archives[logger.archive]})

"""Loggers and archives: add, change, remove; members by one action from any list of tags."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from typing import Any, Final

from cronaca.core.addresses import is_writable
from cronaca.core.errors import InvalidInput, NotFound
from cronaca.core.logging import rule_for, wish_to_facts
from cronaca.core.logging.interval import check_keeps
from cronaca.core.model import GapReason, Logger, LoggerMode, Tag, TriggerWish
from cronaca.core.setup import ArchiveFacts, LoggerFacts, TriggerFacts
from cronaca.store import coverage, setup
from cronaca.store.editing.changes import By, Log, check_revision
from cronaca.store.editing.tags import TagRow, get_tags
from cronaca.store.transaction import Transaction

_REVISIONS: Final = "SELECT uid, revision FROM logger"
_CHANGE: Final = """
UPDATE logger SET name = %(name)s, archive_id = %(archive_id)s, mode = %(mode)s,
    interval_us = %(interval_us)s, phase_us = %(phase_us)s, rule = %(rule)s, wanted = %(wanted)s,
    inhibit_tag_id = %(inhibit_tag_id)s, trigger_facts = %(trigger_facts)s,
    keeps = %(keeps)s, revision = revision + 1
WHERE uid = %(uid)s
"""
_LEAVE: Final = "DELETE FROM logger_member WHERE logger_id = %(logger_id)s"
_REMOVE: Final = "DELETE FROM logger WHERE uid = %(uid)s"
_ARCHIVES: Final = """
SELECT a.archive_id, a.uid, a.revision, a.name, a.keep_us, a.keep_bytes, a.thin,
    (SELECT COUNT(*) FROM logger l WHERE l.archive_id = a.archive_id)
FROM archive a ORDER BY a.archive_id
"""
_ADD_ARCHIVE: Final = """
INSERT INTO archive (uid, name, keep_us, keep_bytes, thin)
VALUES (%(uid)s, %(name)s, %(keep_us)s, %(keep_bytes)s, %(thin)s)
"""
_CHANGE_ARCHIVE: Final = """
UPDATE archive SET name = %(name)s, keep_us = %(keep_us)s, keep_bytes = %(keep_bytes)s, thin = %(thin)s,
    revision = revision + 1
WHERE uid = %(uid)s
"""
_SIZES: Final = """
SELECT archive_id, SUM(sample_count), SUM(bytes), MIN(first_us), MAX(last_us) FROM history_month
GROUP BY archive_id
"""


@dataclass(frozen=True, slots=True)
class LoggerRow:
    """A logger as it is set up."""

    logger_id: int
    uid: str
    revision: int
    facts: LoggerFacts


@dataclass(frozen=True, slots=True)
class ArchiveRow:
    """An archive as it is set up, and what it holds in segments."""

    archive_id: int
    uid: str
    revision: int
    facts: ArchiveFacts
    loggers: int
    samples: int = 0
    bytes: int = 0
    first_us: int | None = None
    last_us: int | None = None


def list_loggers(tx: Transaction) -> list[LoggerRow]:
    """All loggers by name."""
    revisions: dict[str, int] = dict(tx.fetch(_REVISIONS))
    uids = {tag.tag_id: tag.uid for tag in setup.list_tags(tx)}
    archives = {row.archive_id: row.uid for row in list_archives(tx)}
    rows = [
        LoggerRow(one.logger_id, one.uid, revisions[one.uid], _facts(one, uids, archives))
        for one in setup.list_loggers(tx)
    ]
    return sorted(rows, key=lambda row: row.facts.name.casefold())


def get_logger(tx: Transaction, uid: str) -> LoggerRow:
    """One logger; raises NotFound."""
    for row in list_loggers(tx):
        if row.uid == uid:
            return row
    raise NotFound("logger", uid)


def add_logger(tx: Transaction, facts: LoggerFacts, by: By, uid: str = "") -> str:
    """Adds a logger; returns its uid. Raises InvalidInput, NotFound."""
    facts = facts.checked()
    log = Log(tx, "logger", by)
    uid = uid or str(uuid.uuid4())
    logger = _resolved(tx, uid, facts)
    setup.add_logger(tx, logger, by.made_us)
    log.note(uid, None, to_facts(facts))
    log.write()
    return uid


def change_logger(tx: Transaction, uid: str, facts: LoggerFacts, by: By, seen: int | None = None) -> None:
    """Changes a logger. What goes on being recorded in the same archive is covered without a break. Raises
    InvalidInput, NotFound, EditConflict."""
    facts = facts.checked()
    log = Log(tx, "logger", by)
    row = get_logger(tx, uid)
    check_revision(tx, "logger", uid, row.facts.name, has=row.revision, seen=seen)
    new = replace(_resolved(tx, uid, facts), logger_id=row.logger_id)
    old = next(one for one in setup.list_loggers(tx) if one.uid == uid)
    tx.execute(_CHANGE, uid=uid, **setup.logger_row(new))
    setup.put_members(tx, new)
    _follow_coverage(tx, old, new, by.made_us)
    log.note(uid, to_facts(row.facts), to_facts(facts))
    log.write()


def remove_logger(tx: Transaction, uid: str, by: By, seen: int | None = None) -> None:
    """Removes a logger; what it recorded stays. Raises NotFound, EditConflict."""
    log = Log(tx, "logger", by)
    row = get_logger(tx, uid)
    check_revision(tx, "logger", uid, row.facts.name, has=row.revision, seen=seen)
    old = next(one for one in setup.list_loggers(tx) if one.uid == uid)
    tx.execute(_LEAVE, logger_id=row.logger_id)
    tx.execute(_REMOVE, uid=uid)
    _follow_coverage(tx, old, replace(old, tag_ids=()), by.made_us)
    log.note(uid, to_facts(row.facts), None)
    log.write()


def _follow_coverage(tx: Transaction, old: Logger, new: Logger, now_us: int) -> None:
    """Ends and begins coverage where a logger's change makes a difference."""
    before = {(old.archive_id, t) for t in old.tag_ids} if old.wanted else set()
    after = {(new.archive_id, t) for t in new.tag_ids} if new.wanted else set()
    others = {
        (one.archive_id, tag_id)
        for one in setup.list_loggers(tx)
        if one.uid != new.uid and one.wanted
        for tag_id in one.tag_ids
    }
    for archive_id in {a for a, _ in before | after}:
        left = [t for a, t in before - after - others if a == archive_id]
        stopped = set(new.tag_ids) if archive_id == new.archive_id and not new.wanted else set()
        for tag_ids, reason in (
            ([t for t in left if t in stopped], GapReason.LOGGER_STOPPED),
            ([t for t in left if t not in stopped], GapReason.NOT_RECORDED),
        ):
            keys = [h.key for h in setup.find_histories(tx, tag_ids, archive_id).values()]
            coverage.end(tx, keys, now_us, reason)
        joined = {t for a, t in after - before if a == archive_id}
        tags = [tag for tag in setup.list_tags(tx) if tag.tag_id in joined]
        coverage.begin(tx, setup.open_histories(tx, archive_id, tags, now_us), now_us)


def _resolved(tx: Transaction, uid: str, facts: LoggerFacts) -> Logger:
    """The logger by numbers; raises when it cannot run."""
    for row in list_loggers(tx):
        if row.uid != uid and row.facts.name.casefold() == facts.name.casefold():
            raise InvalidInput("name", f"there is a logger {facts.name!r}", "Take another name.")
    archive = get_archive(tx, facts.archive)
    trigger = facts.trigger or TriggerFacts()
    others = [one for one in (facts.inhibit_tag, trigger.tag, trigger.number_tag) if one is not None]
    rows = {row.uid: row for row in get_tags(tx, list(dict.fromkeys([*facts.tags, *others])), "tags")}
    numbers = {uid: row.tag_id for uid, row in rows.items()}
    if facts.trigger is not None:
        _check_written(tx, facts.trigger, rows)
    logger = Logger(
        0, uid, facts.name, archive.archive_id, facts.mode, facts.interval_us,
        tuple(numbers[tag] for tag in facts.tags), facts.rule,
        tuple((numbers[tag], wish) for tag, wish in facts.overrides), facts.phase_us, facts.wanted,
        None if facts.inhibit_tag is None else numbers[facts.inhibit_tag],
        None if facts.trigger is None else _wish(facts.trigger, numbers),
        facts.keeps, tuple((numbers[tag], name) for tag, name in facts.columns),
    )  # fmt: skip
    _check_members(tx, logger)
    return logger


def _wish(trigger: TriggerFacts, numbers: Mapping[str, int]) -> TriggerWish:
    tag = None if trigger.tag is None else numbers[trigger.tag]
    number_tag = None if trigger.number_tag is None else numbers[trigger.number_tag]
    return TriggerWish(tag, trigger.edge, number_tag, trigger.reset)


def _check_written(tx: Transaction, trigger: TriggerFacts, rows: Mapping[str, TagRow]) -> None:
    """What the plant is told has to be written somewhere that takes values."""
    protocols = {source.uid: source.protocol for source in setup.list_sources(tx)}
    written = {"number_tag": trigger.number_tag, "reset": trigger.tag if trigger.reset else None}
    for field, uid in written.items():
        if uid is None:
            continue
        facts = rows[uid].facts
        if not is_writable(protocols[facts.source], facts.address, facts.value_type):
            raise InvalidInput(
                field, f"{facts.name} cannot be written", "Take a tag in a coil or a holding register."
            )


def _check_members(tx: Transaction, logger: Logger) -> None:
    """Every rule has to have a meaning for its tag; and two loggers may not record a tag into one archive."""
    tags: dict[int, Tag] = {tag.tag_id: tag for tag in setup.list_tags(tx)}
    if logger.mode is LoggerMode.ON_CHANGE:
        own = dict(logger.overrides)
        for tag_id in logger.tag_ids:
            rule_for(own.get(tag_id, logger.rule), tags[tag_id])
    for tag_id in logger.tag_ids:
        check_keeps(logger.keeps, tags[tag_id])
    mine = set(logger.tag_ids)
    for other in setup.list_loggers(tx):
        if other.uid == logger.uid or other.archive_id != logger.archive_id:
            continue
        for tag_id in other.tag_ids:
            if tag_id in mine:
                raise InvalidInput(
                    "tags",
                    f"{tags[tag_id].name} is recorded into this archive by {other.name}",
                    "Take it out there, or choose another archive.",
                )


def _facts(logger: Logger, uids: dict[int, str], archives: dict[int, str]) -> LoggerFacts:
    return LoggerFacts(
        logger.name, archives[logger.archive_id], logger.mode, logger.interval_us, logger.phase_us,
        logger.rule,
        tuple(uids[t] for t in logger.tag_ids), tuple((uids[t], wish) for t, wish in logger.overrides),
        logger.wanted, _uid(logger.inhibit_tag_id, uids),
        None if logger.trigger is None else TriggerFacts(
            _uid(logger.trigger.tag_id, uids), logger.trigger.edge,
            _uid(logger.trigger.number_tag_id, uids), logger.trigger.reset,
        ),
        tuple((uids[tag_id], name) for tag_id, name in logger.columns), logger.keeps,
    )  # fmt: skip


def _uid(tag_id: int | None, uids: Mapping[int, str]) -> str | None:
    """The tag may have been removed meanwhile."""
    return None if tag_id is None else uids.get(tag_id)


def to_facts(facts: LoggerFacts) -> dict[str, Any]:
    """As it is kept on record."""
    own = {tag: wish_to_facts(wish) for tag, wish in facts.overrides}
    return {**asdict(facts), "rule": wish_to_facts(facts.rule), "overrides": own, "tags": list(facts.tags)}


def list_archives(tx: Transaction) -> list[ArchiveRow]:
    """All archives in the order in which they were added."""
    held = {row[0]: row[1:] for row in tx.fetch(_SIZES)}
    return [
        ArchiveRow(
            number, uid, revision, ArchiveFacts(name, keep_us, keep_bytes, bool(thin)), int(loggers),
            *_whole(held.get(number, (0, 0, None, None))),
        )
        for number, uid, revision, name, keep_us, keep_bytes, thin, loggers in tx.fetch(_ARCHIVES)
    ]  # fmt: skip


def _whole(held: Sequence[Any]) -> tuple[int, int, int | None, int | None]:
    samples, size, first_us, last_us = held
    return int(samples or 0), int(size or 0), first_us, last_us


def get_archive(tx: Transaction, uid: str) -> ArchiveRow:
    """One archive; raises NotFound."""
    for row in list_archives(tx):
        if row.uid == uid:
            return row
    raise NotFound("archive", uid)


def add_archive(tx: Transaction, facts: ArchiveFacts, by: By, uid: str = "") -> str:
    """Adds an archive; returns its uid. Raises InvalidInput."""
    facts = facts.checked()
    log = Log(tx, "archive", by)
    _check_free(tx, facts.name, "")
    uid = uid or str(uuid.uuid4())
    tx.insert(_ADD_ARCHIVE, uid=uid, **asdict(facts))
    log.note(uid, None, asdict(facts))
    log.write()
    return uid


def change_archive(tx: Transaction, uid: str, facts: ArchiveFacts, by: By, seen: int | None = None) -> None:
    """Changes an archive. Raises InvalidInput, NotFound, EditConflict."""
    facts = facts.checked()
    log = Log(tx, "archive", by)
    row = get_archive(tx, uid)
    check_revision(tx, "archive", uid, row.facts.name, has=row.revision, seen=seen)
    _check_free(tx, facts.name, uid)
    tx.execute(_CHANGE_ARCHIVE, uid=uid, **asdict(facts))
    log.note(uid, asdict(row.facts), asdict(facts))
    log.write()


def _check_free(tx: Transaction, name: str, own_uid: str) -> None:
    for row in list_archives(tx):
        if row.uid != own_uid and row.facts.name.casefold() == name.casefold():
            raise InvalidInput("name", f"there is an archive {name!r}", "Take another name.")

"""Loggers: add, change, remove; members by one action from any list of tags."""

from __future__ import annotations

import json
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from typing import Any, Final

from cronaca.core.addresses import is_writable
from cronaca.core.errors import InvalidInput, NotFound
from cronaca.core.logger_rules import rule_for, wish_from_facts, wish_to_facts
from cronaca.core.logger_rules.interval import check_keeps
from cronaca.core.logger_rules.words import when_text
from cronaca.core.model import GapReason, Keeps, Logger, LoggerMode, Tag, TriggerWish, When
from cronaca.core.ordering import natural_key
from cronaca.core.setup import LoggerFacts, TriggerFacts, WhenFacts
from cronaca.db.transaction import Row, Transaction
from cronaca.plant import coverage, setup
from cronaca.plant.editing.changes import By, Log, check_revision

_REVISIONS: Final = "SELECT uid, revision FROM logger"
_UIDS: Final = "SELECT tag_id, uid FROM tag WHERE removed_us IS NULL"
_ARCHIVES: Final = "SELECT archive_id, uid FROM archive"
_WHEN: Final = "l.mode, l.interval_us, l.phase_us, l.rule, l.keeps"
_OF_TAGS: Final = f"""
SELECT m.tag_id, l.uid, l.name, a.name, {_WHEN}, m.rule FROM logger_member m
JOIN logger l ON l.logger_id = m.logger_id JOIN archive a ON a.archive_id = l.archive_id
WHERE m.tag_id IN %(tag_ids)s ORDER BY m.tag_id, l.logger_id
"""
_SUMMARIES: Final = f"""
SELECT l.logger_id, l.uid, l.name, a.name, {_WHEN},
    (SELECT COUNT(*) FROM logger_member m WHERE m.logger_id = l.logger_id)
FROM logger l JOIN archive a ON a.archive_id = l.archive_id ORDER BY NATURAL_SORT_KEY(l.name), l.name
"""
_CHANGE: Final = """
UPDATE logger SET name = %(name)s, archive_id = %(archive_id)s, mode = %(mode)s,
    interval_us = %(interval_us)s, phase_us = %(phase_us)s, rule = %(rule)s, wanted = %(wanted)s,
    inhibit_tag_id = %(inhibit_tag_id)s, trigger_facts = %(trigger_facts)s,
    keeps = %(keeps)s, when_facts = %(when_facts)s, before_us = %(before_us)s, after_us = %(after_us)s,
    late_us = %(late_us)s,
    revision = revision + 1
WHERE uid = %(uid)s
"""
_LEAVE: Final = "DELETE FROM logger_member WHERE logger_id = %(logger_id)s"
_REMOVE: Final = "DELETE FROM logger WHERE uid = %(uid)s"
_REMEMBER: Final = """
INSERT INTO removed_logger (logger_id, uid, name)
SELECT logger_id, uid, name FROM logger WHERE uid = %(uid)s AND mode = 'on_trigger'
"""


@dataclass(frozen=True, slots=True)
class LoggerRow:
    """A logger as it is set up."""

    logger_id: int
    uid: str
    revision: int
    facts: LoggerFacts


@dataclass(frozen=True, slots=True)
class RecordedBy:
    """A logger that records a tag, and when, in words."""

    tag_id: int
    uid: str
    name: str
    archive: str
    mode: LoggerMode
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


def list_recorded_by(tx: Transaction, tag_ids: Sequence[int]) -> list[RecordedBy]:
    """The loggers that record these tags."""
    rows = tx.fetch(_OF_TAGS, tag_ids=list(tag_ids)) if tag_ids else []
    return [
        RecordedBy(row[0], row[1], row[2], row[3], LoggerMode(row[4]), _when(row[4:9], row[9]))
        for row in rows
    ]


def list_summaries(tx: Transaction) -> list[LoggerSummary]:
    """All loggers by name, however many tags they have."""
    return [
        LoggerSummary(row[0], row[1], row[2], row[3], _when(row[4:9], None), int(row[9]))
        for row in tx.fetch(_SUMMARIES)
    ]


def _when(columns: Row, own: str | None) -> str:
    """Columns as in _WHEN, and the rule of a member's own."""
    mode, interval_us, phase_us, rule, keeps = columns
    wish = wish_from_facts(json.loads(rule if own is None else own))
    return when_text(LoggerMode(mode), interval_us, phase_us, wish, Keeps(keeps))


def list_loggers(tx: Transaction) -> list[LoggerRow]:
    """All loggers by name."""
    revisions: dict[str, int] = dict(tx.fetch(_REVISIONS))
    uids: dict[int, str] = dict(tx.fetch(_UIDS))
    archives: dict[int, str] = dict(tx.fetch(_ARCHIVES))
    rows = [
        LoggerRow(one.logger_id, one.uid, revisions[one.uid], _facts(one, uids, archives))
        for one in setup.list_loggers(tx)
    ]
    return sorted(rows, key=lambda row: natural_key(row.facts.name))


def get_logger(tx: Transaction, uid: str) -> LoggerRow:
    """One logger; raises NotFound."""
    for row in list_loggers(tx):
        if row.uid == uid:
            return row
    raise NotFound("logger", uid)


def add_logger(tx: Transaction, facts: LoggerFacts, by: By, uid: str = "") -> str:
    """Adds a logger; returns its uid. Raises InvalidInput, NotFound."""
    uid = uid or str(uuid.uuid4())
    log = Log(tx, "logger", by)
    _put(tx, _Known.read(tx), log, uid, facts)
    log.write()
    return uid


def change_logger(tx: Transaction, uid: str, facts: LoggerFacts, by: By, seen: int | None = None) -> None:
    """Changes a logger. What goes on being recorded in the same archive is covered without a break. Raises
    InvalidInput, NotFound, EditConflict."""
    log = Log(tx, "logger", by)
    row = get_logger(tx, uid)
    check_revision(tx, "logger", uid, row.facts.name, has=row.revision, seen=seen)
    _put(tx, _Known.read(tx), log, uid, facts)
    log.write()


class LoggerWriting:
    """Adds and changes many loggers: what they are checked against is read once."""

    def __init__(self, tx: Transaction, by: By) -> None:
        self._log = Log(tx, "logger", by)
        self._known = _Known.read(tx)
        self._tx = tx

    def put(self, uid: str, facts: LoggerFacts) -> None:
        """One logger. Raises InvalidInput, NotFound."""
        _put(self._tx, self._known, self._log, uid, facts)

    def finish(self) -> None:
        """Puts all on record."""
        self._log.write()


@dataclass(frozen=True, slots=True)
class _Known:
    """What a logger is checked against, read once for however many. `taken`: the logger that records a tag
    into an archive, by the numbers of both."""

    tags: dict[str, Tag]
    uids: dict[int, str]
    archives: dict[str, int]
    protocols: dict[int, str]
    loggers: dict[str, Logger]
    names: dict[str, str]
    taken: dict[tuple[int, int], str]

    @classmethod
    def read(cls, tx: Transaction) -> _Known:
        loggers = {one.uid: one for one in setup.list_loggers(tx)}
        known = cls(
            {tag.uid: tag for tag in setup.list_tags(tx)},
            dict(tx.fetch(_UIDS)),
            {uid: number for number, uid in tx.fetch(_ARCHIVES)},
            {source.source_id: source.protocol for source in setup.list_sources(tx)},
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
            for tag_id in old.tag_ids:
                self.taken.pop((old.archive_id, tag_id), None)
        self.loggers[logger.uid] = logger
        self.names[logger.name.casefold()] = logger.uid
        self.taken.update(dict.fromkeys(((logger.archive_id, t) for t in logger.tag_ids), logger.uid))


def _put(tx: Transaction, known: _Known, log: Log, uid: str, facts: LoggerFacts) -> None:
    """Writes one that is new or differs from what it was."""
    facts = facts.checked()
    logger, tags = _resolved(known, uid, facts)
    old, created_us = known.loggers.get(uid), log.by.created_us
    if old is None:
        new = replace(logger, logger_id=setup.add_logger(tx, logger, created_us, tags))
        log.note(uid, None, to_facts(facts))
    else:
        new = replace(logger, logger_id=old.logger_id)
        before = _facts(old, known.uids, {number: one for one, number in known.archives.items()})
        tx.execute(_CHANGE, uid=uid, **setup.logger_row(new))
        setup.put_members(tx, new)
        _follow_coverage(tx, old, new, tags, created_us)
        log.note(uid, to_facts(before), to_facts(facts))
    known.take(new)


def remove_logger(tx: Transaction, uid: str, by: By, seen: int | None = None) -> None:
    """Removes a logger; what it recorded stays. Raises NotFound, EditConflict."""
    log = Log(tx, "logger", by)
    row = get_logger(tx, uid)
    check_revision(tx, "logger", uid, row.facts.name, has=row.revision, seen=seen)
    old = next(one for one in setup.list_loggers(tx) if one.uid == uid)
    tx.execute(_LEAVE, logger_id=row.logger_id)
    tx.execute(_REMEMBER, uid=uid)  # its records stay, and are found under its name
    tx.execute(_REMOVE, uid=uid)
    _follow_coverage(tx, old, replace(old, tag_ids=()), [], by.created_us)
    log.note(uid, to_facts(row.facts), None)
    log.write()


def _follow_coverage(tx: Transaction, old: Logger, new: Logger, tags: Sequence[Tag], now_us: int) -> None:
    """Ends and begins coverage where a logger's change makes a difference; `tags` are the new members."""
    before = {(old.archive_id, t) for t in old.tag_ids} if old.wanted else set()
    after = {(new.archive_id, t) for t in new.tag_ids} if new.wanted else set()
    for archive_id in {a for a, _ in before | after}:
        left = [t for a, t in before - after if a == archive_id]
        stopped = set(new.tag_ids) if archive_id == new.archive_id and not new.wanted else set()
        for tag_ids, reason in (
            ([t for t in left if t in stopped], GapReason.LOGGER_STOPPED),
            ([t for t in left if t not in stopped], GapReason.NOT_RECORDED),
        ):
            keys = [h.key for h in setup.find_histories(tx, tag_ids, archive_id).values()]
            coverage.end(tx, keys, now_us, reason)
        joined = [tag for tag in tags if (archive_id, tag.tag_id) in after - before]
        coverage.begin(tx, setup.open_histories(tx, archive_id, joined, now_us), now_us)


def _resolved(known: _Known, uid: str, facts: LoggerFacts) -> tuple[Logger, list[Tag]]:
    """The logger by numbers, and its members; raises when it cannot run."""
    if known.names.get(facts.name.casefold(), uid) != uid:
        raise InvalidInput("name", f"there is a logger {facts.name!r}", "Take another name.")
    if facts.archive not in known.archives:
        raise NotFound("archive", facts.archive)
    present = known.tags
    trigger = facts.trigger or TriggerFacts()
    named_tags = facts.inhibit_tag, trigger.tag, trigger.number_tag, facts.when.tag, facts.when.interval_tag
    others = [one for one in named_tags if one is not None]
    for one in (*facts.tags, *others):
        if one not in present:
            raise NotFound("tag", one, field="tags")
    numbers = {one: present[one].tag_id for one in (*facts.tags, *others)}
    if facts.trigger is not None:
        _check_written(known, facts.trigger)
    logger = Logger(
        0, uid, facts.name, known.archives[facts.archive], facts.mode, facts.interval_us,
        tuple(numbers[tag] for tag in facts.tags), facts.rule,
        tuple((numbers[tag], wish) for tag, wish in facts.overrides), facts.phase_us, facts.wanted,
        None if facts.inhibit_tag is None else numbers[facts.inhibit_tag],
        None if facts.trigger is None else _wish(facts.trigger, numbers),
        facts.keeps, tuple((numbers[tag], name) for tag, name in facts.columns),
        When(
            None if facts.when.tag is None else numbers[facts.when.tag], facts.when.spans,
            None if facts.when.interval_tag is None else numbers[facts.when.interval_tag],
        ),
        facts.before_us, facts.after_us, facts.late_us,
    )  # fmt: skip
    members = [present[tag] for tag in facts.tags]
    _check_members(known, logger, members)
    return logger, members


def _wish(trigger: TriggerFacts, numbers: Mapping[str, int]) -> TriggerWish:
    tag = None if trigger.tag is None else numbers[trigger.tag]
    number_tag = None if trigger.number_tag is None else numbers[trigger.number_tag]
    return TriggerWish(tag, trigger.edge, number_tag, trigger.reset)


def _check_written(known: _Known, trigger: TriggerFacts) -> None:
    """What the plant is told has to be written somewhere that takes values."""
    written = {"number_tag": trigger.number_tag, "reset": trigger.tag if trigger.reset else None}
    for field, uid in written.items():
        if uid is None:
            continue
        tag = known.tags[uid]
        if not is_writable(known.protocols[tag.source_id], tag.address, tag.value_type):
            raise InvalidInput(
                field, f"{tag.name} cannot be written", "Take a tag in a coil or a holding register."
            )


def _check_members(known: _Known, logger: Logger, tags: Sequence[Tag]) -> None:
    """Every rule has to have a meaning for its tag; and two loggers may not record a tag into one archive."""
    own = dict(logger.overrides)
    for tag in tags:
        check_keeps(logger.keeps, tag)
        if logger.mode is LoggerMode.ON_CHANGE:
            rule_for(own.get(tag.tag_id, logger.rule), tag)
    for tag in tags:
        other = known.taken.get((logger.archive_id, tag.tag_id), logger.uid)
        if other != logger.uid:
            raise InvalidInput(
                "tags",
                f"{tag.name} is recorded into this archive by {known.loggers[other].name}",
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
        WhenFacts(_uid(logger.when.tag_id, uids), logger.when.spans, _uid(logger.when.interval_tag_id, uids)),
        logger.before_us, logger.after_us, logger.late_us,
    )  # fmt: skip


def _uid(tag_id: int | None, uids: Mapping[int, str]) -> str | None:
    """The tag may have been removed meanwhile."""
    return None if tag_id is None else uids.get(tag_id)


def to_facts(facts: LoggerFacts) -> dict[str, Any]:
    """As it is kept on record."""
    own = {tag: wish_to_facts(wish) for tag, wish in facts.overrides}
    return {**asdict(facts), "rule": wish_to_facts(facts.rule), "overrides": own, "tags": list(facts.tags)}

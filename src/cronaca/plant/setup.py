"""The set-up: plant, sources, tags, archives, loggers."""

from __future__ import annotations

import json
from collections.abc import Collection, Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from typing import Any, Final, NamedTuple
from zoneinfo import ZoneInfo

from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import NotFound
from cronaca.core.logger_rules import wish_from_facts, wish_to_facts
from cronaca.core.model import (
    ALWAYS,
    Edge,
    Keeps,
    Logger,
    LoggerMode,
    Setup,
    SourceSetup,
    Tag,
    TriggerWish,
    ValueType,
    WeekSpan,
    When,
)
from cronaca.core.windows import PlantCalendar, Shift
from cronaca.db.transaction import Row, Transaction
from cronaca.plant import coverage, run_rules

_NAMES: Final = "SELECT tag_id, name FROM tag WHERE tag_id IN %(tag_ids)s"
_SOURCE_IDS: Final = "SELECT tag_id, source_id FROM tag WHERE tag_id IN %(tag_ids)s"


@dataclass(frozen=True, slots=True)
class Plant:
    """Facts of the whole plant; `first_weekday` as in ISO 8601: 1 Monday to 7 Sunday."""

    name: str
    zone: str
    first_weekday: int
    shifts: tuple[Shift, ...] = ()

    @property
    def calendar(self) -> PlantCalendar:
        """What windows are resolved with."""
        return PlantCalendar(ZoneInfo(self.zone), self.first_weekday, self.shifts)


@dataclass(frozen=True, slots=True)
class History:
    """A history and the type of its values."""

    key: HistoryKey
    value_type: ValueType
    since_us: int
    unit: str = ""


@dataclass(frozen=True, slots=True)
class RecordedBy:
    """One logger that records a tag."""

    tag_id: int
    logger: str
    archive: str
    mode: str
    interval_us: int


_TAG_COLUMNS: Final = (
    "tag_id, uid, name, description, value_type, unit, range_low, range_high, decimals, stepped, "
    "equipment, source_id, address, scan_us, colour, states"
)
_PUT_PLANT: Final = """
INSERT INTO plant (plant_id, name, zone, first_weekday) VALUES (1, %(name)s, %(zone)s, %(first_weekday)s)
ON DUPLICATE KEY UPDATE name = VALUES(name), zone = VALUES(zone), first_weekday = VALUES(first_weekday)
"""
_FIND_PLANT: Final = "SELECT name, zone, first_weekday FROM plant WHERE plant_id = 1"
_LIST_SHIFTS: Final = "SELECT name, start_minute FROM plant_shift WHERE plant_id = 1 ORDER BY start_minute"
_REMOVE_SHIFTS: Final = "DELETE FROM plant_shift WHERE plant_id = 1"
_ADD_SHIFT: Final = "INSERT INTO plant_shift (plant_id, start_minute, name) VALUES (%s, %s, %s)"
_ADD_SOURCE: Final = """
INSERT INTO source (uid, name, protocol, config, enabled)
VALUES (%(uid)s, %(name)s, %(protocol)s, %(config)s, TRUE)
"""
_SET_CONFIG: Final = "UPDATE source SET config = %(config)s WHERE uid = %(uid)s"
_LIST_SOURCES: Final = """
SELECT source_id, uid, name, protocol, config, enabled FROM source WHERE removed_us IS NULL ORDER BY source_id
"""
_LIST_CREDENTIALS: Final = "SELECT source_id, secret FROM source_secret"
_ADD_TAG: Final = """
INSERT INTO tag (uid, name, description, value_type, unit, range_low, range_high, decimals, stepped,
    equipment, source_id, address, scan_us, colour, states)
VALUES (%(uid)s, %(name)s, %(description)s, %(value_type)s, %(unit)s, %(range_low)s, %(range_high)s,
    %(decimals)s, %(stepped)s, %(equipment)s, %(source_id)s, %(address)s, %(scan_us)s, %(colour)s,
    %(states)s)
"""
_LIST_TAGS: Final = f"SELECT {_TAG_COLUMNS} FROM tag WHERE removed_us IS NULL ORDER BY tag_id"
_SEARCH: Final = f"""
SELECT {_TAG_COLUMNS} FROM tag
WHERE removed_us IS NULL AND (%(text)s = '' OR INSTR(name, %(text)s) OR INSTR(description, %(text)s)
    OR INSTR(equipment, %(text)s) OR INSTR(unit, %(text)s))
ORDER BY tag_id NOT IN (SELECT tag_id FROM logger_member), NATURAL_SORT_KEY(name), name
LIMIT %(limit)s OFFSET %(offset)s
"""
_COUNT: Final = """
SELECT COUNT(*) FROM tag
WHERE removed_us IS NULL AND (%(text)s = '' OR INSTR(name, %(text)s) OR INSTR(description, %(text)s)
    OR INSTR(equipment, %(text)s) OR INSTR(unit, %(text)s))
"""
_BY_UIDS: Final = f"SELECT {_TAG_COLUMNS} FROM tag WHERE uid IN %(uids)s"
_BY_NUMBERS: Final = f"SELECT {_TAG_COLUMNS} FROM tag WHERE tag_id IN %(numbers)s"
_ADD_ARCHIVE: Final = "INSERT INTO archive (uid, name) VALUES (%(uid)s, %(name)s)"
_ADD_LOGGER: Final = """
INSERT INTO logger (logger_id, uid, name, archive_id, mode, interval_us, phase_us, rule, wanted,
    inhibit_tag_id, trigger_facts, keeps, when_facts, before_us, after_us, late_us)
VALUES (%(logger_id)s, %(uid)s, %(name)s, %(archive_id)s, %(mode)s, %(interval_us)s, %(phase_us)s,
    %(rule)s, %(wanted)s, %(inhibit_tag_id)s, %(trigger_facts)s, %(keeps)s, %(when_facts)s, %(before_us)s,
    %(after_us)s, %(late_us)s)
"""
_FIND_REMOVED: Final = "SELECT logger_id FROM removed_logger WHERE uid = %(uid)s"
_FORGET_REMOVED: Final = "DELETE FROM removed_logger WHERE uid = %(uid)s"
_REMOVE_MEMBERS: Final = "DELETE FROM logger_member WHERE logger_id = %(logger_id)s"
_ADD_MEMBER: Final = """
INSERT INTO logger_member (logger_id, tag_id, rule, position, column_name) VALUES (%s, %s, %s, %s, %s)
"""
_ADD_HISTORY: Final = """
INSERT IGNORE INTO history (archive_id, tag_id, version, value_type, unit, since_us)
VALUES (%s, %s, %s, %s, %s, %s)
"""
_LIST_LOGGERS: Final = """
SELECT logger_id, uid, name, archive_id, mode, interval_us, rule, phase_us, wanted, inhibit_tag_id,
    trigger_facts, keeps, when_facts, before_us, after_us, late_us
FROM logger ORDER BY logger_id
"""
_LIST_MEMBERS: Final = """
SELECT logger_id, tag_id, rule, column_name FROM logger_member ORDER BY logger_id, position, tag_id
"""
_FIND_HISTORY: Final = """
SELECT archive_id, tag_id, version, value_type, since_us, unit FROM history
WHERE tag_id = %(tag_id)s AND (%(archive_id)s IS NULL OR archive_id = %(archive_id)s)
ORDER BY version DESC, archive_id LIMIT 1
"""
_FIND_HISTORIES: Final = """
SELECT archive_id, tag_id, version, value_type, since_us, unit FROM history
WHERE tag_id IN %(tag_ids)s AND (%(archive_id)s IS NULL OR archive_id = %(archive_id)s)
ORDER BY version DESC, archive_id
"""
_LIST_HISTORIES: Final = """
SELECT archive_id, tag_id, version, value_type, since_us, unit FROM history
ORDER BY archive_id, tag_id, version
"""
_LIST_ARCHIVES: Final = "SELECT archive_id, name FROM archive"
_FIND_ARCHIVE: Final = """
SELECT archive_id FROM archive WHERE %(name)s = '' OR name = %(name)s ORDER BY archive_id LIMIT 1
"""
_GET_HISTORY: Final = """
SELECT archive_id, tag_id, version, value_type, since_us, unit FROM history
WHERE archive_id = %(archive_id)s AND tag_id = %(tag_id)s AND version = %(version)s
"""
_IS_STEPPED: Final = "SELECT stepped OR value_type <> 1 FROM tag WHERE tag_id = %(tag_id)s"
_RECORDED_BY: Final = """
SELECT m.tag_id, l.name, a.name, l.mode, l.interval_us FROM logger_member m
JOIN logger l ON l.logger_id = m.logger_id JOIN archive a ON a.archive_id = l.archive_id
WHERE m.tag_id IN %(tag_ids)s ORDER BY m.tag_id, l.logger_id
"""


def put_plant(tx: Transaction, plant: Plant) -> None:
    """Sets the facts of the plant."""
    tx.execute(_PUT_PLANT, name=plant.name, zone=plant.zone, first_weekday=plant.first_weekday)
    tx.execute(_REMOVE_SHIFTS)
    tx.execute_many(_ADD_SHIFT, [(1, shift.start_minute, shift.name) for shift in plant.shifts])


def find_plant(tx: Transaction) -> Plant | None:
    """The facts of the plant, or None before they were set."""
    row = tx.fetch_one(_FIND_PLANT)
    if row is None:
        return None
    name, zone, first_weekday = row
    shifts = tuple(Shift(shift, minute) for shift, minute in tx.fetch(_LIST_SHIFTS))
    return Plant(name, zone, first_weekday, shifts)


def get_plant(tx: Transaction) -> Plant:
    """The plant; raises NotFound before it is set up."""
    plant = find_plant(tx)
    if plant is None:
        raise NotFound("plant", "1")
    return plant


def add_source(tx: Transaction, uid: str, name: str, protocol: str, config: dict[str, object]) -> int:
    """Adds an enabled source; returns its number."""
    return tx.insert(_ADD_SOURCE, uid=uid, name=name, protocol=protocol, config=json.dumps(config))


def set_source_config(tx: Transaction, uid: str, config: dict[str, object]) -> None:
    """Changes where a source is found."""
    tx.execute(_SET_CONFIG, uid=uid, config=json.dumps(config))


def list_sources(tx: Transaction) -> list[SourceSetup]:
    """All sources."""
    rows = tx.fetch(_LIST_SOURCES)
    return [
        SourceSetup(number, uid, name, kind, config, bool(on)) for number, uid, name, kind, config, on in rows
    ]


def add_tag(tx: Transaction, tag: Tag) -> int:
    """Adds a tag (its `tag_id` is not looked at); returns its number."""
    facts = {name: getattr(tag, name) for name in Tag.__slots__ if name != "tag_id"}
    return tx.insert(_ADD_TAG, **{**facts, "value_type": int(tag.value_type)})


def list_tags(tx: Transaction) -> list[Tag]:
    """All tags."""
    return [_tag(row) for row in tx.fetch(_LIST_TAGS)]


def search_tags(tx: Transaction, text: str, limit: int, offset: int) -> tuple[int, list[Tag]]:
    """How many tags hold the text in name, description, equipment or unit, and one page of them: those that
    are recorded first, each by name with numbers in their order (Unit 2 before Unit 10)."""
    row = tx.fetch_one(_COUNT, text=text)
    found = tx.fetch(_SEARCH, text=text, limit=limit, offset=offset)
    return (int(row[0]) if row else 0), [_tag(r) for r in found]


def list_names(tx: Transaction, tag_ids: Sequence[int]) -> dict[int, str]:
    """The name of each tag, by number."""
    rows = tx.fetch(_NAMES, tag_ids=sorted(set(tag_ids))) if tag_ids else []
    return {int(tag_id): name for tag_id, name in rows}


def list_source_ids(tx: Transaction, tag_ids: Sequence[int]) -> dict[int, int]:
    """The source of each tag, by number."""
    rows = tx.fetch(_SOURCE_IDS, tag_ids=sorted(set(tag_ids))) if tag_ids else []
    return {int(tag_id): int(source_id) for tag_id, source_id in rows}


def find_tags(tx: Transaction, uids: list[str]) -> dict[str, Tag]:
    """The tags of these uids that exist."""
    if not uids:
        return {}
    return {tag.uid: tag for tag in (_tag(row) for row in tx.fetch(_BY_UIDS, uids=uids))}


def get_by_numbers(tx: Transaction, numbers: Collection[int]) -> list[Tag]:
    """The tags of these numbers, removed ones too."""
    return [_tag(row) for row in tx.fetch(_BY_NUMBERS, numbers=sorted(numbers))] if numbers else []


def add_archive(tx: Transaction, uid: str, name: str) -> int:
    """Adds an archive; returns its number."""
    return tx.insert(_ADD_ARCHIVE, uid=uid, name=name)


def add_logger(tx: Transaction, logger: Logger, now_us: int, tags: Sequence[Tag] | None = None) -> int:
    """Adds a logger with its members (its `logger_id` is not looked at), and opens their histories. `tags`
    are the members, where they are at hand."""
    removed = tx.fetch_one(_FIND_REMOVED, uid=logger.uid)  # one that comes back has its records again
    known = None if removed is None else int(removed[0])
    number = tx.insert(_ADD_LOGGER, logger_id=known, uid=logger.uid, **logger_row(logger))
    if known is not None:
        tx.execute(_FORGET_REMOVED, uid=logger.uid)
        number = known
    put_members(tx, replace(logger, logger_id=number))
    if tags is None:
        members = set(logger.tag_ids)
        tags = [tag for tag in list_tags(tx) if tag.tag_id in members]
    keys = open_histories(tx, logger.archive_id, tags, now_us)
    if logger.wanted:
        coverage.begin(tx, keys, now_us)
    return number


def logger_row(logger: Logger) -> dict[str, object]:
    """The columns of a logger but its number and uid."""
    return {
        "name": logger.name, "archive_id": logger.archive_id, "mode": logger.mode.value,
        "interval_us": logger.interval_us, "phase_us": logger.phase_us,
        "rule": json.dumps(wish_to_facts(logger.rule)), "wanted": logger.wanted,
        "inhibit_tag_id": logger.inhibit_tag_id,
        "keeps": logger.keeps.value,
        "when_facts": None if logger.when == ALWAYS else json.dumps(asdict(logger.when)),
        "before_us": logger.before_us, "after_us": logger.after_us, "late_us": logger.late_us,
        "trigger_facts": None if logger.trigger is None else json.dumps(asdict(logger.trigger)),
    }  # fmt: skip


def put_members(tx: Transaction, logger: Logger) -> None:
    """Sets the members of a logger."""
    own = {tag_id: json.dumps(wish_to_facts(wish)) for tag_id, wish in logger.overrides}
    tx.execute(_REMOVE_MEMBERS, logger_id=logger.logger_id)
    names = dict(logger.columns)
    rows = [
        (logger.logger_id, tag_id, own.get(tag_id), position, names.get(tag_id, ""))
        for position, tag_id in enumerate(logger.tag_ids)
    ]
    tx.execute_many(_ADD_MEMBER, rows)


def open_histories(tx: Transaction, archive_id: int, tags: Sequence[Tag], now_us: int) -> list[HistoryKey]:
    """The open histories of tags in an archive. A tag that has none gets one; one whose type or unit is
    another one by now gets a new version."""
    found = find_histories(tx, [tag.tag_id for tag in tags], archive_id)
    rows, keys = [], []
    for tag in tags:
        last = found.get(tag.tag_id)
        version = 1 if last is None else last.key.version
        if last is not None and (last.value_type, last.unit) != (tag.value_type, tag.unit):
            version += 1
        key = HistoryKey(archive_id, tag.tag_id, version)
        if last is None or key != last.key:
            rows.append((*key, int(tag.value_type), tag.unit, now_us))
        keys.append(key)
    tx.execute_many(_ADD_HISTORY, rows)
    return keys


def list_loggers(tx: Transaction) -> list[Logger]:
    """All loggers with their members."""
    members: dict[int, list[_Member]] = {}
    for logger_id, *member in tx.fetch(_LIST_MEMBERS):
        members.setdefault(logger_id, []).append(_Member(*member))
    return [_logger(row, members.get(row[0], [])) for row in tx.fetch(_LIST_LOGGERS)]


class _Member(NamedTuple):
    tag_id: int
    rule: str | None
    column: str


def _logger(row: Row, members: list[_Member]) -> Logger:
    number, uid, name, archive_id, mode, interval_us, rule, phase_us, wanted, inhibit = row[:10]
    trigger, keeps, when, before_us, after_us, late_us = row[10:]
    own = tuple((m.tag_id, wish_from_facts(json.loads(m.rule))) for m in members if m.rule is not None)
    return Logger(
        number, uid, name, archive_id, LoggerMode(mode), interval_us, tuple(m.tag_id for m in members),
        wish_from_facts(json.loads(rule)), own, phase_us, bool(wanted), inhibit,
        None if trigger is None else _trigger(json.loads(trigger)), Keeps(keeps),
        tuple((m.tag_id, m.column) for m in members if m.column),
        ALWAYS if when is None else _when(json.loads(when)), before_us, after_us, late_us,
    )  # fmt: skip


def _trigger(facts: dict[str, Any]) -> TriggerWish:
    return TriggerWish(**{**facts, "edge": Edge(facts["edge"])})


def _when(facts: dict[str, Any]) -> When:
    spans = [WeekSpan(**{**one, "days": tuple(one["days"])}) for one in facts["spans"]]
    return When(**{**facts, "spans": tuple(spans)})


def read_setup(tx: Transaction) -> Setup:
    """All that the recorder needs."""
    secrets: dict[int, str] = dict(tx.fetch(_LIST_CREDENTIALS))
    sources = [replace(one, secret=secrets.get(one.source_id, "")) for one in list_sources(tx)]
    plant = find_plant(tx)
    zone = "UTC" if plant is None else plant.zone
    rules = tuple(run_rules.list_rules(tx))
    starts = () if plant is None else tuple(shift.start_minute for shift in plant.shifts)
    return Setup(tuple(sources), tuple(list_tags(tx)), tuple(list_loggers(tx)), zone, rules, starts)


def find_history(tx: Transaction, tag_id: int, archive_id: int | None) -> History | None:
    """The newest history of a tag, in the given archive or in its first one."""
    row = tx.fetch_one(_FIND_HISTORY, tag_id=tag_id, archive_id=archive_id)
    if row is None:
        return None
    return _history(row)


def find_histories(tx: Transaction, tag_ids: list[int], archive_id: int | None) -> dict[int, History]:
    """Of each tag that has one, the newest history in the given archive or in its first one."""
    found: dict[int, History] = {}
    rows = tx.fetch(_FIND_HISTORIES, tag_ids=tag_ids, archive_id=archive_id) if tag_ids else []
    for row in rows:
        found.setdefault(row[1], _history(row))
    return found


def list_choices(
    tx: Transaction, tag_ids: list[int], archives: Mapping[int, int]
) -> dict[int, list[History]]:
    """Of each tag that has any, its newest history in each archive, by archive; only the one in the archive
    that is named for the tag."""
    rows = tx.fetch(_FIND_HISTORIES, tag_ids=tag_ids, archive_id=None) if tag_ids else []
    newest: dict[tuple[int, int], History] = {}
    for row in rows:
        if archives.get(row[1], row[0]) == row[0]:
            newest.setdefault((row[1], row[0]), _history(row))
    found: dict[int, list[History]] = {}
    for tag_id, archive_id in sorted(newest):
        found.setdefault(tag_id, []).append(newest[tag_id, archive_id])
    return found


def list_histories(tx: Transaction) -> list[History]:
    """All histories, older versions first."""
    return [_history(row) for row in tx.fetch(_LIST_HISTORIES)]


def find_archive(tx: Transaction, name: str) -> int | None:
    """The number of the archive of this name; of the first one when no name is given."""
    row = tx.fetch_one(_FIND_ARCHIVE, name=name)
    return None if row is None else int(row[0])


def list_archive_names(tx: Transaction) -> dict[int, str]:
    """The name of each archive by its number."""
    return {int(number): str(name) for number, name in tx.fetch(_LIST_ARCHIVES)}


def open_history(tx: Transaction, archive_id: int, tag: Tag, now_us: int) -> History:
    """The newest history of a tag in an archive; opened when there is none yet."""
    tx.execute_many(_ADD_HISTORY, [(archive_id, tag.tag_id, 1, int(tag.value_type), tag.unit, now_us)])
    found = find_history(tx, tag.tag_id, archive_id)
    if found is None:
        raise NotFound("history", tag.name)
    return found


def get_history(tx: Transaction, key: HistoryKey) -> History:
    """One history; raises NotFound."""
    row = tx.fetch_one(_GET_HISTORY, **key._asdict())
    if row is None:
        raise NotFound("history", f"of tag {key.tag_id} in archive {key.archive_id}")
    return _history(row)


def is_stepped(tx: Transaction, tag_id: int) -> bool:
    """Whether a tag's line holds its values until the next one."""
    row = tx.fetch_one(_IS_STEPPED, tag_id=tag_id)
    return row is not None and bool(row[0])


def list_recorded_by(tx: Transaction, tag_ids: list[int]) -> list[RecordedBy]:
    """Which loggers record these tags."""
    if not tag_ids:
        return []
    return [RecordedBy(*row) for row in tx.fetch(_RECORDED_BY, tag_ids=tag_ids)]


def _history(row: Row) -> History:
    return History(HistoryKey(*row[:3]), ValueType(row[3]), row[4], row[5])


def _tag(row: Row) -> Tag:
    facts = dict(zip(Tag.__slots__, row, strict=True))
    return Tag(**{**facts, "value_type": ValueType(facts["value_type"]), "stepped": bool(facts["stepped"])})

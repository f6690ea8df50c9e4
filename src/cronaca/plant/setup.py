"""The set-up: plant, sources, tags, archives, loggers."""

from __future__ import annotations

import json
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Final
from zoneinfo import ZoneInfo

from cronaca.core.errors import NotFound
from cronaca.core.model import SourceSetup, Tag, ValueType
from cronaca.core.windows import PlantCalendar, Shift
from cronaca.db.transaction import Row, Transaction

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
_LIST_ARCHIVES: Final = "SELECT archive_id, name FROM archive"
_FIND_ARCHIVE: Final = """
SELECT archive_id FROM archive WHERE %(name)s = '' OR name = %(name)s ORDER BY archive_id LIMIT 1
"""
_IS_STEPPED: Final = "SELECT stepped OR value_type <> 1 FROM tag WHERE tag_id = %(tag_id)s"


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


def find_archive(tx: Transaction, name: str) -> int | None:
    """The number of the archive of this name; of the first one when no name is given."""
    row = tx.fetch_one(_FIND_ARCHIVE, name=name)
    return None if row is None else int(row[0])


def list_archive_names(tx: Transaction) -> dict[int, str]:
    """The name of each archive by its number."""
    return {int(number): str(name) for number, name in tx.fetch(_LIST_ARCHIVES)}


def is_stepped(tx: Transaction, tag_id: int) -> bool:
    """Whether a tag's line holds its values until the next one."""
    row = tx.fetch_one(_IS_STEPPED, tag_id=tag_id)
    return row is not None and bool(row[0])


def _tag(row: Row) -> Tag:
    facts = dict(zip(Tag.__slots__, row, strict=True))
    return Tag(**{**facts, "value_type": ValueType(facts["value_type"]), "stepped": bool(facts["stepped"])})

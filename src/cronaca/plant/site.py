"""The plant itself: its name, time zone, shifts and first weekday."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Final
from zoneinfo import ZoneInfo

from cronaca.core.errors import NotFound
from cronaca.core.setup import PlantSpec
from cronaca.core.windows import PlantCalendar, Shift
from cronaca.db.transaction import Transaction
from cronaca.plant.changes import By, Log

PLANT_UID: Final = "00000000-0000-0000-0000-000000000001"
"""The one of the record of changes."""
_PUT_PLANT: Final = """
INSERT INTO plant (plant_id, name, zone, first_weekday) VALUES (1, %(name)s, %(zone)s, %(first_weekday)s)
ON DUPLICATE KEY UPDATE name = VALUES(name), zone = VALUES(zone), first_weekday = VALUES(first_weekday)
"""
_FIND_PLANT: Final = "SELECT name, zone, first_weekday FROM plant WHERE plant_id = 1"
_LIST_SHIFTS: Final = "SELECT name, start_minute FROM plant_shift WHERE plant_id = 1 ORDER BY start_minute"
_REMOVE_SHIFTS: Final = "DELETE FROM plant_shift WHERE plant_id = 1"
_ADD_SHIFT: Final = "INSERT INTO plant_shift (plant_id, start_minute, name) VALUES (%s, %s, %s)"


@dataclass(frozen=True, slots=True)
class Plant:
    """What holds for the whole plant; `first_weekday` as in ISO 8601: 1 Monday to 7 Sunday."""

    name: str
    zone: str
    first_weekday: int
    shifts: tuple[Shift, ...] = ()

    @property
    def calendar(self) -> PlantCalendar:
        """What windows are resolved with."""
        return PlantCalendar(ZoneInfo(self.zone), self.first_weekday, self.shifts)


def put_plant(tx: Transaction, plant: Plant) -> None:
    """Sets them, without a record of the change."""
    tx.execute(_PUT_PLANT, name=plant.name, zone=plant.zone, first_weekday=plant.first_weekday)
    tx.execute(_REMOVE_SHIFTS)
    tx.execute_many(_ADD_SHIFT, [(1, shift.start_minute, shift.name) for shift in plant.shifts])


def find_plant(tx: Transaction) -> Plant | None:
    """The plant, or None before it is set up."""
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


def change_plant(tx: Transaction, spec: PlantSpec, by: By) -> None:
    """Changes the plant, on record. Raises InvalidInput."""
    spec = spec.checked()
    plant = Plant(spec.name, spec.zone, spec.first_weekday, spec.shifts)
    log = Log(tx, "plant", by)
    before = find_plant(tx)
    put_plant(tx, plant)
    log.note(PLANT_UID, None if before is None else plant_to_plain(before), plant_to_plain(plant))
    log.write()


def plant_to_plain(plant: Plant) -> dict[str, Any]:
    """The plant as set-up files and the record of changes have it."""
    shifts = [{"name": shift.name, "start_minute": shift.start_minute} for shift in plant.shifts]
    return {"name": plant.name, "zone": plant.zone, "first_weekday": plant.first_weekday, "shifts": shifts}

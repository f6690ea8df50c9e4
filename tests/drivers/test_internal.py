"""Internal tags: initial values, values that are kept, and that no change of the set-up wipes one."""

from __future__ import annotations

import json

import pytest

from cronaca.core import quality as q
from cronaca.core.addresses.internal import checked_value, parse_internal_address
from cronaca.core.bits import from_bits
from cronaca.core.errors import InvalidInput, SourceError, SourceRefused, SourceUnreachable, StoreUnavailable
from cronaca.core.model import Tag, ValueType
from cronaca.db import Store
from cronaca.db.migrate import migrate, shipped_migrations
from cronaca.plant.kept import StoreKeptValues
from cronaca.recorder.drivers.internal import InternalDriver, InternalValues
from tests.support.builders import a_tag

BOOLEAN, INTEGER, FLOAT = ValueType.BOOLEAN, ValueType.INTEGER, ValueType.FLOAT


def internal(tag_id: int, kind: ValueType = FLOAT, **fields: object) -> Tag:
    return a_tag(f"set point {tag_id}", kind, tag_id=tag_id, address=json.dumps(fields))


async def value(driver: InternalDriver, tag: Tag) -> float | int | bool | None:
    reading = await driver.read([tag])
    return None if q.is_bad(reading.quality)[0] else from_bits(int(reading.bits[0]), tag.value_type)


class Away:
    """A database that does not answer."""

    def load(self) -> dict[int, tuple[ValueType, int]]:
        raise StoreUnavailable("fake", "away")

    def keep(self, tag_id: int, value_type: ValueType, bits: int) -> None:
        raise StoreUnavailable("fake", f"away: {tag_id} {value_type} {bits}")

    def forget(self, tag_id: int) -> None:
        raise StoreUnavailable("fake", f"away: {tag_id}")


async def test_kept_values_survive_a_restart_and_others_start_at_their_initial_one(store: Store) -> None:
    kept, fleeting, unset = internal(1, initial=5.5), internal(2, initial=7, keep=False), internal(3)
    lot = internal(4, INTEGER, initial=0)
    first = InternalDriver(InternalValues(StoreKeptValues(store)))
    await first.connect()
    assert [await value(first, t) for t in (kept, fleeting, unset, lot)] == [5.5, 7.0, None, 0]
    await first.write(kept, 6.25)
    await first.write(fleeting, 8)
    await first.write(lot, 2**62 + 1)
    assert [await value(first, t) for t in (kept, fleeting, lot)] == [6.25, 8.0, 2**62 + 1]
    again = InternalDriver(InternalValues(StoreKeptValues(store)))
    await again.connect()
    assert [await value(again, t) for t in (kept, fleeting, unset, lot)] == [6.25, 7.0, None, 2**62 + 1]


async def test_kept_values_survive_an_upgrade(empty_store: Store) -> None:
    """Written under the schema that first had them, read after every later migration."""
    steps = shipped_migrations()
    first_with_them = next(i for i, step in enumerate(steps, 1) if step.name == "0006_kept_values.sql")
    migrate(empty_store, steps[:first_with_them])
    before = InternalDriver(InternalValues(StoreKeptValues(empty_store)))
    await before.connect()
    set_point, lot = internal(1, initial=78), internal(2, INTEGER, initial=0)
    await before.write(set_point, 82.5)
    await before.write(lot, 2**62 + 1)
    assert migrate(empty_store) == [step.name for step in steps[first_with_them:]]
    after = InternalDriver(InternalValues(StoreKeptValues(empty_store)))
    await after.connect()
    assert [await value(after, t) for t in (set_point, lot)] == [82.5, 2**62 + 1]


async def test_a_change_of_the_set_up_wipes_nothing(store: Store) -> None:
    values = InternalValues(StoreKeptValues(store))
    driver = InternalDriver(values)
    await driver.connect()
    fleeting = internal(1, initial=1, keep=False)
    await driver.write(fleeting, 9)
    switched_on_again = InternalDriver(values)
    await switched_on_again.connect()
    renamed = internal(1, initial=2, keep=True)
    assert await value(switched_on_again, renamed) == 9.0
    assert await value(switched_on_again, internal(1, BOOLEAN, initial=True)) is True, "of another type"
    await driver.write(internal(1, keep=True), 3.5)
    await driver.write(internal(1, keep=False), 4.5)
    restarted = InternalDriver(InternalValues(StoreKeptValues(store)))
    await restarted.connect()
    assert await value(restarted, internal(1, initial=1)) == 1.0, "what is no longer kept is not brought back"


async def test_a_value_that_cannot_be_kept_is_not_taken() -> None:
    driver = InternalDriver(InternalValues(Away()))
    with pytest.raises(SourceUnreachable):
        await driver.connect()
    tag = internal(1, initial=1)
    with pytest.raises(SourceUnreachable):
        await driver.write(tag, 2)
    assert await value(driver, tag) == 1.0


@pytest.mark.parametrize(
    ("kind", "bad"), [(BOOLEAN, 2), (INTEGER, 1.5), (INTEGER, 2**63), (FLOAT, float("nan"))]
)
async def test_a_value_that_does_not_fit_is_refused(kind: ValueType, bad: float) -> None:
    driver = InternalDriver(InternalValues(Away()))
    with pytest.raises(SourceRefused):
        await driver.write(internal(1, kind), bad)


@pytest.mark.parametrize(
    "text", ["{", "[]", '{"initial": "x"}', '{"keep": 1}', '{"initial": 1.5}', '{"table": "coil"}']
)
def test_a_place_that_cannot_be_used_is_refused(text: str) -> None:
    with pytest.raises(InvalidInput):
        parse_internal_address(text, INTEGER)


def test_true_is_a_one() -> None:
    assert (checked_value(True, BOOLEAN), checked_value(3, FLOAT)) == (1, 3.0)
    assert issubclass(SourceRefused, SourceError)


async def test_a_place_that_cannot_be_used_makes_its_own_tag_bad_only() -> None:
    """The set-up refuses such a place; one that is there all the same must not stop the others."""
    driver = InternalDriver(InternalValues(Away()))
    reading = await driver.read([internal(1, shape="sine"), internal(2, initial=3)])
    assert reading.quality.tolist() == [q.BAD_CONFIGURATION, q.GOOD]

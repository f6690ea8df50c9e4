"""Equipment classes: gathered from what is there, changed for all pieces at once, whole or not at all."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from dataclasses import replace
from typing import Any

import pytest

from cronaca.core.addresses.settings import ModbusSettings
from cronaca.core.equipment import PARTS, CardFigure, ClassSpec, EquipmentSpec, Member, Slot
from cronaca.core.errors import EditConflict, InvalidInput
from cronaca.core.model import SECOND
from cronaca.core.setup import SourceSpec
from cronaca.core.statistics import kinds_of
from cronaca.db import Store
from cronaca.demo.seed import seed, seed_calculated, seed_records, seed_runs
from cronaca.plant import equipment as store_equipment
from cronaca.plant import equipment_changes, sources
from cronaca.plant.changes import By, list_changes
from cronaca.plant.document import read_document
from cronaca.plant.loggers import list_loggers
from cronaca.plant.tags import list_tags

NOW = 1_800_000_000 * SECOND
BY = By("engineer", NOW)
CLASS = "11111111-0000-0000-0000-000000000000"


def equipment_uid(number: int) -> str:
    return f"{number:08d}-0000-0000-0000-00000000000c"


@pytest.fixture
def plant(store: Store) -> Store:
    """Four lines as the demo has them."""
    seed(store, 1502, NOW, 4, 4840)
    seed_records(store, NOW, 4)
    seed_runs(store, NOW, 4)
    seed_calculated(store, NOW, 4)
    return store


@pytest.fixture
def lines(plant: Store) -> Store:
    """The lines gathered into a class."""
    with plant.transaction() as tx:
        found = equipment_changes.gather_kind(tx, "Drying line", "Line")
        equipment = {equipment_uid(i): one for i, one in enumerate(found.equipment.values())}
        equipment_changes.put_class(tx, CLASS, found.spec, BY, equipment=equipment)
    return plant


def of(store: Store) -> ClassSpec:
    with store.snapshot() as tx:
        return store_equipment.get_class(tx, CLASS).spec


def changed(spec: ClassSpec, key: str, **changes: Any) -> ClassSpec:  # noqa: ANN401 - any field of a tag
    members = [replace(m, settings={**m.settings, **changes}) if m.key == key else m for m in spec.members]
    return replace(spec, members=tuple(members))


def test_lines_that_are_there_make_a_class_that_changes_nothing(plant: Store) -> None:
    with plant.transaction() as tx:
        before = read_document(tx)
        found = equipment_changes.gather_kind(tx, "Drying line", "Line")
        equipment = {equipment_uid(i): one for i, one in enumerate(found.equipment.values())}
        plan = equipment_changes.put_class(tx, CLASS, found.spec, BY, equipment=equipment)
        after = read_document(tx)
    assert [one.name for one in plan.equipment] == ["Line 1", "Line 2", "Line 3", "Line 4"]
    assert not any(one.differences or one.removed for one in plan.equipment)
    assert {p: before[p] for p in PARTS} == {p: after[p] for p in PARTS}
    assert len(after["equipment"]) == 4
    assert {slot.name for slot in found.spec.slots if slot.source is None} == {"device", "contacts"}
    damper = found.spec.member("Zone 2 exhaust damper")
    assert damper is not None
    assert damper.settings["name"] == "{name} Zone 2 exhaust damper"
    assert damper.addresses["opc_ua"] == {"node": "ns=2;s=Line{number}.damper_2"}
    assert [one.key for one in found.spec.loggers] == ["contacts", "every second", "lots"]
    three = found.equipment["Line 3"]
    assert three.sources["device"] != three.sources["contacts"], "line 3 speaks both"


def test_a_class_that_names_fields_of_all_modes_for_its_loggers_changes_nothing(lines: Store) -> None:
    """As those that were gathered by older versions do."""
    usual = {
        "interval_us": 0, "phase_us": 0, "keeps": "value", "late_us": 0, "rule": {}, "overrides": {},
        "trigger": None, "columns": {}, "before_us": 0, "after_us": 0,
    }  # fmt: skip
    spec = of(lines)
    older = tuple(replace(one, settings={**usual, **one.settings}) for one in spec.loggers)
    with lines.transaction() as tx:
        before = read_document(tx)["loggers"]
        plan = equipment_changes.put_class(tx, CLASS, replace(spec, loggers=older), BY)
        assert read_document(tx)["loggers"] == before
    assert [one.differences for one in plan.equipment] == [()] * 4


def test_a_change_of_the_class_is_told_for_each_piece_and_then_done(lines: Store) -> None:
    wanted = changed(of(lines), "Zone 1 air temperature", range_high=95.0)
    with lines.snapshot() as tx:
        plan = equipment_changes.plan_class(tx, CLASS, wanted)
    assert [[d.changes for d in one.differences] for one in plan.equipment] == [
        [(("range_high", 85.0, 95.0),)]
    ] * 4
    with lines.transaction() as tx:
        equipment_changes.put_class(tx, CLASS, wanted, BY)
        highs = {t.range_high for t in list_tags(tx) if t.name.endswith("Zone 1 air temperature")}
        assert highs == {95.0}
        assert {c.kind for c in list_changes(tx, limit=5)} == {"tag", "equipment_class"}


def test_what_is_a_pieces_own_stays_so(lines: Store) -> None:
    wanted = changed(of(lines), "Zone 1 air temperature", range_high=95.0)
    with lines.transaction() as tx:
        rows = store_equipment.list_equipment(tx, CLASS)
        own = {"tags": {"Zone 1 air temperature": {"range_high": 120.0}}}
        equipment_changes.put_equipment(tx, CLASS, {rows[1].uid: replace(rows[1].spec, overrides=own)}, BY)
        equipment_changes.put_class(tx, CLASS, wanted, BY)
        highs = [t.range_high for t in list_tags(tx) if t.name.endswith("Zone 1 air temperature")]
    assert sorted(highs) == [95.0, 95.0, 95.0, 120.0]


def test_line_5_is_added_with_its_source_and_its_name(lines: Store) -> None:
    with lines.transaction() as tx:
        spec = SourceSpec("Line 5 controller", "modbus_tcp", ModbusSettings("127.0.0.1", 1502, 5))
        source = sources.add_source(tx, spec, BY)
        row = EquipmentSpec("Line 5", CLASS, {"device": source, "contacts": source})
        plan = equipment_changes.put_equipment(tx, CLASS, {equipment_uid(5): row}, BY)
        tags = {t.name: t for t in list_tags(tx) if t.name.startswith("Line 5")}
        loggers = {one.name: one for one in list_loggers(tx)}
    assert len(tags) == len(of(lines).members)
    assert {d.action for d in plan.equipment[0].differences} == {"added"}
    assert len(loggers["Line 5 every second"].tags) == len(loggers["Line 1 every second"].tags)
    shared = loggers["Calculated and set values"]
    assert tags["Line 5 Zone 3 mean humidity"].tag_id in shared.tags
    assert tags["Line 5 Zone 3 relative humidity"].uid in tags["Line 5 Zone 3 mean humidity"].address


def test_a_member_that_the_class_loses_goes_from_all_and_its_history_stays(lines: Store) -> None:
    spec, gone = of(lines), "Zone 3 mean humidity"
    joins = tuple(replace(j, members=tuple(k for k in j.members if k != gone)) for j in spec.joins)
    wanted = replace(spec, members=tuple(m for m in spec.members if m.key != gone), joins=joins)
    with lines.transaction() as tx:
        key = next(t.tag_id for t in list_tags(tx) if t.name == f"Line 1 {gone}")
        plan = equipment_changes.put_class(tx, CLASS, wanted, BY)
        assert not any(t.name.endswith(gone) for t in list_tags(tx))
        assert tx.fetch_one("SELECT COUNT(*) FROM history WHERE tag_id = %(key)s", key=key) == (1,)
    assert [one.removed for one in plan.equipment] == [(f"Line {i} {gone}",) for i in (1, 2, 3, 4)]


def test_a_member_that_others_need_cannot_be_lost(lines: Store) -> None:
    spec = of(lines)
    wanted = replace(spec, members=tuple(m for m in spec.members if m.key != "Cutter jam"))
    with lines.transaction() as tx, pytest.raises(InvalidInput, match="there is no member 'Cutter jam'"):
        equipment_changes.put_class(tx, CLASS, wanted, BY)


def test_two_people_do_not_overwrite_each_other(lines: Store) -> None:
    before = of(lines)
    with lines.transaction() as tx:
        equipment_changes.put_class(
            tx, CLASS, changed(before, "Cutter jam", description="Once more"), BY, seen=1
        )
    with lines.transaction() as tx, pytest.raises(EditConflict):
        equipment_changes.put_class(tx, CLASS, before, BY, seen=1)


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"trend": ("Nothing",)}, "trend[0]"),
        ({"card": (CardFigure("Cutter jam", "Nonsense"),)}, "card[0].stat"),
        ({"slots": (Slot("other"),)}, "members[0].slot"),
        ({"parameters": {"tag": 1}}, "parameters"),
        ({"members": ()}, "members"),
        ({"name": " "}, "name"),
    ],
)
def test_a_class_that_cannot_be_is_refused_by_its_place(
    lines: Store, change: dict[str, Any], field: str
) -> None:
    wanted = replace(of(lines), **change)
    with lines.transaction() as tx, pytest.raises(InvalidInput) as caught:
        equipment_changes.put_class(tx, CLASS, wanted, BY)
    assert caught.value.field == field


def test_an_unknown_word_names_piece_and_remedy_and_writes_nothing(lines: Store) -> None:
    wanted = changed(of(lines), "Cutter jam", description="{speed}")
    with pytest.raises(InvalidInput, match=r"of Line 1: \{speed\} is not known"), lines.transaction() as tx:
        equipment_changes.put_class(tx, CLASS, wanted, BY)
    assert of(lines).member("Cutter jam") != wanted.member("Cutter jam")


def test_a_base_address_counts(store: Store) -> None:
    member = Member("Level", "device", {"name": "{name} level"}, {
        "modbus_tcp": {"table": "input_register", "address": "{base+4}", "data_type": "int16"}
    })  # fmt: skip
    spec = ClassSpec("Tank", (member,), parameters={"base": 0})
    with store.transaction() as tx:
        source = sources.add_source(tx, SourceSpec("Rack", "modbus_tcp", ModbusSettings("127.0.0.1")), BY)
        equipment = {
            equipment_uid(i): EquipmentSpec(f"Tank {i}", CLASS, {"device": source}, {"base": 100 * i})
            for i in (1, 2)
        }
        equipment_changes.put_class(tx, CLASS, spec, BY, equipment=equipment)
        places = sorted(t.address for t in list_tags(tx))
    assert ['"address": 104' in places[0], '"address": 204' in places[1]] == [True, True]


def test_a_piece_leaves_with_its_tags_or_without(lines: Store) -> None:
    with lines.transaction() as tx:
        one, two = store_equipment.list_equipment(tx, CLASS)[:2]
        equipment_changes.remove_equipment(tx, one.uid, BY, with_tags=False)
        equipment_changes.remove_equipment(tx, two.uid, BY, with_tags=True)
        names = [t.name for t in list_tags(tx)]
        assert any(name.startswith("Line 1 ") for name in names)
        assert not any(name.startswith("Line 2 ") for name in names)
        assert [row.spec.name for row in store_equipment.list_equipment(tx, CLASS)] == ["Line 3", "Line 4"]
        equipment_changes.remove_class(tx, CLASS, BY)
        assert store_equipment.list_equipment(tx) == []
        assert any(t.name.startswith("Line 3 ") for t in list_tags(tx))


def test_classes_give_statistics_their_kinds(lines: Store) -> None:
    with lines.snapshot() as tx:
        kinds = kinds_of(list_tags(tx), equipment_changes.list_kinds(tx))
    assert kinds[0].name == "Drying line"
    assert kinds[0].equipment == ("Line 1", "Line 2", "Line 3", "Line 4")
    assert not any("Line 1" in kind.equipment for kind in kinds[1:])


CHANGE = """
import sys
from dataclasses import replace
from cronaca.db import Store, parse_url
from cronaca.plant import equipment, equipment_changes
from cronaca.plant.changes import By

def tell(done, of):
    print(done, of, flush=True)
with Store(parse_url(sys.argv[1])).transaction() as tx:
    spec = equipment.get_class(tx, sys.argv[2]).spec
    members = tuple(replace(m, settings={**m.settings, "decimals": 4}) for m in spec.members)
    equipment_changes.put_class(tx, sys.argv[2], replace(spec, members=members), By("x", 1), progress=tell)
"""


def test_a_change_that_is_killed_half_way_has_not_been(store: Store) -> None:
    members = tuple(
        Member(f"Value {i}", "device", {"name": f"{{name}} value {i}", "decimals": 1}, {
            "modbus_tcp": {"table": "input_register", "address": f"{{base+{i}}}", "data_type": "int16"}
        })
        for i in range(4)
    )  # fmt: skip
    with store.transaction() as tx:
        source = sources.add_source(tx, SourceSpec("Rack", "modbus_tcp", ModbusSettings("127.0.0.1")), BY)
        equipment = {
            equipment_uid(i): EquipmentSpec(f"Tank {i}", CLASS, {"device": source}, {"base": 10 * i})
            for i in range(100)
        }
        equipment_changes.put_class(
            tx, CLASS, ClassSpec("Tank", members, parameters={"base": 0}), BY, equipment=equipment
        )
    env = {**os.environ, "PYTHONPATH": "src"}
    command = [sys.executable, "-c", CHANGE, store.address.url, CLASS]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env=env) as child:
        assert child.stdout is not None
        told = [int(child.stdout.readline().split()[0]) for _ in range(3)]
        child.send_signal(signal.SIGKILL)
    assert told == [0, 12, 25], "it was killed on its way"
    deadline = time.monotonic() + 10
    while True:
        with store.snapshot() as tx:
            decimals = {tag.decimals for tag in list_tags(tx)}
            kept = {m.settings["decimals"] for m in store_equipment.get_class(tx, CLASS).spec.members}
        if decimals == kept == {1} or time.monotonic() > deadline:
            break
    assert (decimals, kept) == ({1}, {1})
    with store.transaction() as tx:
        spec = store_equipment.get_class(tx, CLASS).spec
        again = tuple(replace(m, settings={**m.settings, "decimals": 4}) for m in spec.members)
        equipment_changes.put_class(tx, CLASS, replace(spec, members=again), BY)
        assert {tag.decimals for tag in list_tags(tx)} == {4}

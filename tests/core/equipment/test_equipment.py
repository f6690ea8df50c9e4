"""Classes of equipment by themselves: patterns filled, mistakes named, changes told, pieces gathered."""

from __future__ import annotations

import uuid
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cronaca.core.equipment import (
    CardFigure,
    ClassSpec,
    EquipmentSpec,
    Join,
    Member,
    Pattern,
    Slot,
    expand,
    gather,
    plan_change,
    trend_view,
    uid_in,
)
from cronaca.core.equipment.expand import number_in
from cronaca.core.errors import InvalidInput

PLC, SERVER, LIMITS_SOURCE = (f"{i:08d}-0000-0000-0000-0000000000aa" for i in (1, 2, 3))
PROTOCOLS = {PLC: "modbus_tcp", SERVER: "opc_ua", LIMITS_SOURCE: "internal"}
UID = "00000005-0000-0000-0000-00000000000c"
REGISTER = {"table": "input_register", "address": "{base+12}", "data_type": "float32"}
TEMPERATURE = Member(
    "Zone 1 temperature", "device",
    {"name": "{name} Zone 1 temperature", "unit": "°C", "equipment": "{name}/Zone 1"},
    {"modbus_tcp": REGISTER, "opc_ua": {"node": "ns=2;s=Line{number}.t1"}}, (40.0, 90.0),
)  # fmt: skip
LIMIT = Member("limit", "limits", {"name": "{name} limit"}, {"internal": {"initial": 80.0}})
HOT = Member(
    "too hot", "device", {"name": "{name} too hot", "value_type": "boolean"},
    {"modbus_tcp": {"table": "coil", "address": "{base}"}},
)  # fmt: skip
DRYERS = ClassSpec(
    "Dryer", (TEMPERATURE, LIMIT, HOT), (Slot("device"), Slot("limits", LIMITS_SOURCE)), {"base": 100},
    loggers=(Pattern("fast", {"name": "{name} fast", "tags": ["{tag:Zone 1 temperature}", "{tag:too hot}"]}),
             Pattern("jams", {"name": "{name} jams", "tags": ["{tag:Zone 1 temperature}"],
                              "trigger": {"tag": "{tag:too hot}"}})),
    joins=(Join("shared", ("limit",), {"limit": {"deadband": 0.5}}),),
    trend=("Zone 1 temperature",), card=(CardFigure("Zone 1 temperature", "TimeAverage2"),),
)  # fmt: skip


def row(name: str = "Line 5", **changes: Any) -> EquipmentSpec:  # noqa: ANN401 - any fact
    return EquipmentSpec(name, "class", **{"sources": {"device": PLC}, **changes})


def tags(one: EquipmentSpec, of: ClassSpec = DRYERS) -> dict[str, dict[str, Any]]:
    return {tag["name"]: tag for tag in expand(of.checked(), UID, one, PROTOCOLS).parts["tags"]}


class TestPatterns:
    def test_a_name_a_number_and_a_parameter_counted_from(self) -> None:
        found = tags(row(parameters={"base": 500}))["Line 5 Zone 1 temperature"]
        assert found["equipment"] == "Line 5/Zone 1"
        assert found["address"] == {"table": "input_register", "address": 512, "data_type": "float32"}
        assert found["source"] == PLC

    def test_the_address_follows_the_protocol_of_the_source(self) -> None:
        of = replace(DRYERS, members=(TEMPERATURE,), loggers=(), joins=(), card=())
        found = tags(row("Dryer 12", sources={"device": SERVER}), of)["Dryer 12 Zone 1 temperature"]
        assert found["address"] == {"node": "ns=2;s=Line12.t1"}

    def test_a_default_of_the_class_holds_where_the_piece_says_nothing(self) -> None:
        assert tags(row())["Line 5 too hot"]["address"] == {"table": "coil", "address": 100}

    def test_tags_of_members_are_named_by_their_uids_and_those_it_lacks_are_left_out(self) -> None:
        whole = expand(DRYERS.checked(), UID, row(), PROTOCOLS)
        fast = next(one for one in whole.parts["loggers"] if one["name"] == "Line 5 fast")
        assert fast["tags"] == [uid_in(UID, row(), "tags", key) for key in ("Zone 1 temperature", "too hot")]
        less = expand(DRYERS.checked(), UID, row(without=("too hot",)), PROTOCOLS)
        assert [one["name"] for one in less.parts["loggers"]] == ["Line 5 fast"], "the other hangs on it"
        assert len(less.parts["loggers"][0]["tags"]) == 1

    def test_what_a_piece_has_of_its_own_stays_its_own(self) -> None:
        own = {"tags": {"Zone 1 temperature": {"unit": "K", "address": {"table": "coil", "address": 1}}}}
        found = tags(row(overrides=own))["Line 5 Zone 1 temperature"]
        assert (found["unit"], found["address"]) == ("K", {"table": "coil", "address": 1})

    def test_shared_loggers_are_joined_with_rules(self) -> None:
        made = expand(DRYERS.checked(), UID, row(), PROTOCOLS)
        assert made.joins == {"shared": {uid_in(UID, row(), "tags", "limit"): {"deadband": 0.5}}}

    def test_an_object_that_was_there_keeps_its_uid(self) -> None:
        old = str(uuid.uuid4())
        known = row(objects={"tags": {"limit": old}})
        assert tags(known)["Line 5 limit"]["uid"] == old
        assert uid_in(UID, row(), "tags", "limit") == uid_in(UID, row("Line 6"), "tags", "limit"), (
            "a rename changes no uid"
        )

    @pytest.mark.parametrize(("name", "number"), [("Line 5", 5), ("Hall 2 dryer 12 b", 12), ("Boiler", None)])
    def test_the_number_is_the_last_in_the_name(self, name: str, number: int | None) -> None:
        assert number_in(name) == number

    @pytest.mark.parametrize(
        ("one", "field", "says"),
        [
            (row(sources={"device": SERVER}), "addresses", "no address for a source by opc_ua"),
            (row(sources={"device": "gone"}), "sources", "is not there"),
            (row(parameters={"base": "x"}), "parameters", "base is 'x'"),
        ],
    )
    def test_what_cannot_be_filled_is_refused_with_the_piece(
        self, one: EquipmentSpec, field: str, says: str
    ) -> None:
        with pytest.raises(InvalidInput, match="of Line 5") as told:
            expand(DRYERS.checked(), UID, one, PROTOCOLS)
        assert told.value.field == field
        assert says in str(told.value)

    def test_a_number_is_wanted_where_the_name_has_none(self) -> None:
        of = replace(DRYERS, members=(TEMPERATURE,), loggers=(), joins=(), card=())
        with pytest.raises(InvalidInput, match="no number"):
            expand(of, UID, row("Boiler", sources={"device": SERVER}), PROTOCOLS)

    @pytest.mark.parametrize("text", ["{what}", "{tag:what}"])
    def test_an_unknown_word_is_refused(self, text: str) -> None:
        odd = replace(LIMIT, settings={"name": "{name} odd", "description": text})
        with pytest.raises(InvalidInput):
            expand(replace(DRYERS, members=(odd,), loggers=(), joins=(), card=()), UID, row(), PROTOCOLS)


class TestChecks:
    @pytest.mark.parametrize(
        ("changes", "field"),
        [
            ({"members": ()}, "members"),
            ({"members": (TEMPERATURE, replace(TEMPERATURE, key="ZONE 1 temperature"))}, "members"),
            ({"slots": (Slot("device"), Slot("device"))}, "slots"),
            ({"parameters": {"name": 1}}, "parameters"),
            ({"parameters": {"two words": 1}}, "parameters"),
            ({"trend": ("gone",)}, "trend[0]"),
            ({"card": (CardFigure("gone", "TimeAverage2"),)}, "card[0].member"),
            ({"card": (CardFigure("limit", "Nothing"),)}, "card[0].stat"),
            ({"joins": (Join("shared", ("gone",)),)}, "joins[0].members"),
            ({"members": (replace(TEMPERATURE, slot="other"),)}, "members[0].slot"),
            ({"members": (replace(TEMPERATURE, settings={"name": "x", "colr": 1}),)}, "members[0].settings"),
            ({"members": (replace(TEMPERATURE, settings={}),)}, "members[0].settings.name"),
            ({"members": (replace(TEMPERATURE, limits=(9.0, 9.0)),)}, "members[0].limits"),
        ],
    )
    def test_a_class_that_cannot_be_is_refused_by_its_place(
        self, changes: dict[str, Any], field: str
    ) -> None:
        with pytest.raises(InvalidInput) as told:
            replace(DRYERS, **changes).checked()
        assert told.value.field == field

    @pytest.mark.parametrize(
        ("changes", "field"),
        [
            ({"sources": {}}, "sources"),
            ({"sources": {"device": PLC, "limits": PLC}}, "sources"),
            ({"parameters": {"other": 1}}, "parameters"),
        ],
    )
    def test_a_piece_that_cannot_be_too(self, changes: dict[str, Any], field: str) -> None:
        with pytest.raises(InvalidInput) as told:
            row(**changes).checked(DRYERS)
        assert told.value.field == field

    def test_what_goes_into_a_file_comes_back(self) -> None:
        assert ClassSpec.from_json(DRYERS.checked().to_json()) == DRYERS.checked()
        own = row(overrides={"tags": {"limit": {"limits": [1.0, None]}}}, without=("too hot",))
        assert EquipmentSpec.from_json(own.to_json()) == own

    def test_limits_are_those_of_the_class_or_its_own(self) -> None:
        assert row().limits_of(TEMPERATURE) == (40.0, 90.0)
        own = row(overrides={"tags": {"Zone 1 temperature": {"limits": [None, 85.0]}}})
        assert own.limits_of(TEMPERATURE) == (None, 85.0)


def present(*equipment: tuple[str, EquipmentSpec], of: ClassSpec = DRYERS) -> dict[str, Any]:
    """The set-up as it is with these pieces."""
    made = [expand(of.checked(), uid, one, PROTOCOLS).parts for uid, one in equipment]
    sources = [{"uid": uid, "name": kind, "protocol": kind} for uid, kind in PROTOCOLS.items()]
    parts = {part: [one for each in made for one in each[part]] for part in ("tags", "loggers", "runs")}
    parts["loggers"].append({"uid": "shared", "name": "Limits", "tags": [], "overrides": {}})
    return {"sources": sources, **parts}


PIECES = {UID: row(), UID.replace("5", "6", 1): row("Line 6")}


class TestChanges:
    def test_the_same_changes_nothing(self) -> None:
        of = DRYERS.checked()
        plan = plan_change(present(*PIECES.items()), (of, PIECES), (of, PIECES))
        assert [(one.name, one.differences, one.removed) for one in plan.equipment] == [
            ("Line 5", (), ()), ("Line 6", (), ()),
        ]  # fmt: skip
        assert plan.removed == {"tags": [], "loggers": [], "runs": []}

    def test_a_fact_is_told_for_each_piece_but_where_one_has_its_own(self) -> None:
        kelvin = row("Line 6", overrides={"tags": {"Zone 1 temperature": {"unit": "K"}}})
        equipment = {**PIECES, UID.replace("5", "6", 1): kelvin}
        warmer = replace(TEMPERATURE, settings={**TEMPERATURE.settings, "unit": "°F"})
        after = replace(DRYERS, members=(warmer, LIMIT, HOT)).checked()
        plan = plan_change(present(*equipment.items()), (DRYERS.checked(), equipment), (after, equipment))
        assert [len(one.differences) for one in plan.equipment] == [1, 0]

    def test_a_member_that_goes_is_named_with_what_hangs_on_it(self) -> None:
        after = replace(DRYERS, members=(TEMPERATURE, LIMIT), loggers=DRYERS.loggers[:0]).checked()
        plan = plan_change(present(*PIECES.items()), (DRYERS.checked(), PIECES), (after, PIECES))
        assert plan.equipment[0].removed == ("Line 5 too hot", "Line 5 fast", "Line 5 jams")
        assert len(plan.removed["tags"]) == 2

    def test_a_piece_that_goes_takes_its_objects_along(self) -> None:
        of, left = DRYERS.checked(), {UID: row()}
        plan = plan_change(present(*PIECES.items()), (of, PIECES), (of, left))
        gone = next(one for one in plan.equipment if one.name == "Line 6")
        assert len(gone.removed) == 5

    def test_shared_loggers_get_the_members_of_all_and_lose_those_that_leave(self) -> None:
        of = DRYERS.checked()
        plan = plan_change(present(*PIECES.items()), None, (of, PIECES))
        shared = next(one for one in plan.document["loggers"] if one["uid"] == "shared")
        assert len(shared["tags"]) == 2
        assert all(rule == {"deadband": 0.5} for rule in shared["overrides"].values())
        there = {**present(*PIECES.items())}
        there["loggers"] = [one for one in there["loggers"] if one["uid"] != "shared"] + [shared]
        alone = plan_change(there, (of, PIECES), (replace(of, joins=()), PIECES))
        left = next(one for one in alone.document["loggers"] if one["uid"] == "shared")
        assert (left["tags"], left["overrides"]) == ([], {})


def named_tags(lines: dict[str, EquipmentSpec]) -> dict[str, dict[str, str]]:
    """Uids of the tags of pieces, by piece and member."""
    keys = [one.key for one in DRYERS.members]
    return {
        one.name: {key: uid_in(uid, one, "tags", key) for key in keys if key not in one.without}
        for uid, one in lines.items()
    }


def test_a_logger_that_only_some_pieces_have_stays_out_of_the_class() -> None:
    there = present(*PIECES.items())
    there["loggers"] = [one for one in there["loggers"] if one["name"] != "Line 6 fast"]
    found = gather("Dryer", named_tags(PIECES), there)
    assert [one.key for one in found.spec.loggers] == ["jams"]
    assert "fast" not in found.equipment["Line 5"].objects["loggers"]


@given(st.lists(st.integers(1, 400), min_size=2, max_size=6, unique=True), st.data())
def test_gathered_pieces_come_out_as_they_went_in(numbers: list[int], data: st.DataObject) -> None:
    """Whatever a piece lacks or has otherwise: written back, nothing of the set-up is different."""
    lines = {}
    for number in numbers:
        unit = data.draw(st.sampled_from(["°C", "K"]))
        own = {"tags": {"Zone 1 temperature": {"unit": unit}}} if unit == "K" else {}
        without = ("too hot",) if data.draw(st.booleans()) else ()
        lines[str(uuid.uuid5(uuid.UUID(UID), str(number)))] = row(
            f"Line {number}", parameters={"base": number * 100}, overrides=own, without=without
        )
    there = present(*lines.items())
    found = gather("Dryer", named_tags(lines), there)
    for one in found.equipment.values():
        made = expand(found.spec, str(uuid.uuid4()), one, PROTOCOLS)
        for part in ("tags", "loggers"):
            here = {doc["uid"]: doc for doc in there[part]}
            for doc in made.parts[part]:
                assert doc == here[doc["uid"]]


def test_what_has_no_tags_is_no_class() -> None:
    with pytest.raises(InvalidInput, match="no tags"):
        gather("Dryer", {"Line 5": {}}, present())


def test_the_trend_of_a_piece_names_its_tags() -> None:
    view = trend_view(DRYERS.checked(), UID, row())
    assert uid_in(UID, row(), "tags", "Zone 1 temperature") in view


def test_a_class_and_equipment_of_older_versions_are_read() -> None:
    """They said `facts` for the settings of members, loggers and rules, and of a rule for its attributes."""
    older = {
        "name": "Tank",
        "members": [
            {"key": "level", "slot": "device", "facts": {"name": "{name} level"}, "addresses": {}}
        ],
        "loggers": [{"key": "all", "facts": {"name": "{name}"}}],
        "runs": [{"key": "lot", "facts": {"name": "{name} lot", "facts": ["{tag:level}"]}}],
    }  # fmt: skip
    found = ClassSpec.from_json(older)
    assert found.members[0].settings == {"name": "{name} level"}
    assert found.loggers[0].settings == {"name": "{name}"}
    assert found.runs[0].settings == {"name": "{name} lot", "attributes": ["{tag:level}"]}
    own = {"runs": {"lot": {"facts": []}}, "tags": {"level": {"decimals": 2}}}
    equipment = EquipmentSpec.from_json({"name": "Tank 1", "equipment_class": "c", "overrides": own})
    assert equipment.overrides == {"runs": {"lot": {"attributes": []}}, "tags": {"level": {"decimals": 2}}}

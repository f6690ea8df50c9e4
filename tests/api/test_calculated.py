"""Calculated tags and the recorder's own values through the API; what loggers follow."""

from __future__ import annotations

import json
from typing import Any

import pytest

from cronaca.core.loggers import PrePostTrigger
from cronaca.core.model import SECOND
from cronaca.db import Store
from cronaca.plant.whole import read_setup
from tests.api.conftest import Plant
from tests.api.setup_support import CSV, Api, Json, add, logger


@pytest.fixture
def calculated(api: Api) -> Json:
    return dict(
        api.ok("POST", "/setup/sources", {"name": "Calculated", "protocol": "calculated", "config": {}})
    )


def wanted(calculated: Json, formula: str, inputs: Json, name: str = "Product", **fields: Any) -> Json:  # noqa: ANN401
    place = {"kind": "formula", "formula": formula, "inputs": inputs}
    return {"tags": [{"name": name, "source": calculated["uid"], "address": place, **fields}]}


def one(calculated: Json, place: Json) -> Json:
    return {"tags": [{"name": "Peak", "source": calculated["uid"], "address": place}]}


class TestFormulas:
    def test_it_is_added_read_and_not_writable(self, api: Api, source: Json, calculated: Json) -> None:
        a, b = add(api, source, 2)
        (uid,) = api.ok("POST", "/setup/tags", wanted(calculated, "a * b", {"a": a, "b": b}))["uids"]
        (row,) = api.ok("GET", "/setup/tags?search=Product")["tags"]
        assert (row["uid"], row["address"]["formula"], row["writable"]) == (uid, "a * b", False)

    @pytest.mark.parametrize(
        ("formula", "inputs", "field", "says"),
        [
            ("a *", {"a": 0}, "formula", "ends too early"),
            ("a ? b", {"a": 0, "b": 1}, "formula", "at character 3"),
            ("a * c", {"a": 0}, "inputs", "'c' has no tag"),
            ("a", {"a": 0, "b": 1}, "inputs", "'b' is not in the formula"),
            ("a", {"a": "00000000-0000-0000-0000-000000000000"}, "inputs", "cannot be used"),
        ],
    )
    def test_a_mistake_is_named_with_its_place(
        self,
        api: Api,
        source: Json,
        calculated: Json,
        formula: str,
        inputs: dict[str, Any],
        field: str,
        says: str,
    ) -> None:
        uids = add(api, source, 2)
        named = {name: uids[one] if isinstance(one, int) else one for name, one in inputs.items()}
        refused = api.refused("POST", "/setup/tags", wanted(calculated, formula, named))
        assert refused["errors"][0]["field"] == field
        assert says in refused["detail"]

    def test_a_statistic_is_one_too(self, api: Api, source: Json, calculated: Json) -> None:
        (a,) = add(api, source)
        place = {
            "kind": "figure",
            "inputs": {"input": a},
            "figure": "Percentile",
            "percent": 95,
            "window": 1800,
        }
        api.ok("POST", "/setup/tags", one(calculated, place))
        row = api.ok("GET", "/setup/tags?search=Peak")["tags"][0]
        assert (row["address"]["figure"], row["address"]["window"]) == ("Percentile", 1800)

    @pytest.mark.parametrize(
        ("fields", "field", "says"),
        [
            ({"figure": "Nothing"}, "stat", "is not a figure"),
            ({"figure": "Histogram"}, "figure", "is not a number of one tag"),
            ({"window": 5}, "address", "the window 5 cannot be used"),
            ({"percent": -1}, "address", "not a percentage"),
            ({"inputs": {}}, "inputs", "'input' is missing"),
            ({"edge": "rising"}, "address", "has no 'edge'"),
        ],
    )
    def test_one_that_cannot_be_is_refused(
        self, api: Api, source: Json, calculated: Json, fields: Json, field: str, says: str
    ) -> None:
        (a,) = add(api, source)
        place = {"kind": "figure", "inputs": {"input": a}, "figure": "Travel", "window": 600, **fields}
        refused = api.refused("POST", "/setup/tags", one(calculated, place))
        assert says in json.dumps(refused)
        assert field in json.dumps(refused["errors"])
        assert api.ok("GET", "/setup/tags?search=Peak")["total"] == 0, "nothing was written"

    def test_a_statistic_has_a_meaning_for_its_input(self, api: Api, source: Json, calculated: Json) -> None:
        (a,) = add(api, source)
        (contact,) = api.ok(
            "POST", "/setup/tags", wanted(calculated, "a > 5", {"a": a}, "High", value_type="boolean")
        )["uids"]
        place = {"kind": "figure", "inputs": {"input": contact}, "figure": "Slope", "window": 600}
        assert "Slope" in json.dumps(api.refused("POST", "/setup/tags", one(calculated, place)))

    def test_a_circle_is_refused_with_its_path(self, api: Api, source: Json, calculated: Json) -> None:
        (a,) = add(api, source)
        (first,) = api.ok("POST", "/setup/tags", wanted(calculated, "a", {"a": a}, "First"))["uids"]
        (then,) = api.ok("POST", "/setup/tags", wanted(calculated, "a", {"a": first}, "Then"))["uids"]
        place = {"kind": "formula", "formula": "a", "inputs": {"a": then}}
        refused = api.refused("PATCH", "/setup/tags", {"uids": [first], "attributes": {"address": place}})
        assert "First → Then → First" in refused["detail"]

    def test_removing_an_input_says_what_will_be_bad(self, api: Api, source: Json, calculated: Json) -> None:
        (a,) = add(api, source)
        api.ok("POST", "/setup/tags", wanted(calculated, "a + 1", {"a": a}))
        told = api.ok("POST", "/setup/tags/remove", {"uids": [a], "dry_run": True})
        assert told["calculated"] == ["Product"]

    def test_out_and_in_by_file_names_the_inputs(self, api: Api, source: Json, calculated: Json) -> None:
        a, b = add(api, source, 2)
        api.ok("POST", "/setup/tags", wanted(calculated, "-a + b", {"a": a, "b": b}))
        for form in ("csv", "xlsx"):
            data = api.client.get(f"/api/setup/tags/export?form={form}").content
            told = api.client.post("/api/setup/tags/import", headers=CSV, content=data).json()
            assert (told["unchanged"], told["changed"], told["refused"]) == (3, 0, [])
        text = api.client.get("/api/setup/tags/export").content.decode("utf-8-sig")
        assert '""a"": ""Line 5 value 01""' in text
        swapped = text.replace('""a"": ""Line 5 value 01""', '""a"": ""Line 5 value 02""')
        told = api.client.post(
            "/api/setup/tags/import?write=true", headers=CSV, content=swapped.encode()
        ).json()
        assert (told["written"], told["changed"]) == (True, 1)
        lost = text.replace('Line 5 value 01"", ""b', 'Line 9"", ""b')
        told = api.client.post("/api/setup/tags/import", headers=CSV, content=lost.encode()).json()
        assert [one["field"] for one in told["refused"]] == ["address.inputs"]

    def test_in_another_plant_inputs_are_found_by_name(
        self, api: Api, source: Json, calculated: Json
    ) -> None:
        (a,) = add(api, source)
        api.ok("POST", "/setup/tags", wanted(calculated, "a + 1", {"a": a}))
        document = api.ok("GET", "/setup/document")
        other = "11111111-1111-1111-1111-111111111111"
        for one in document["tags"]:
            if one["uid"] == a:
                one["uid"] = other
            if one["name"] == "Product":
                one["address"]["inputs"]["a"] = other
        told = api.ok("POST", "/setup/document", document)
        assert told["differences"] == []

    def test_one_is_checked_and_valued_by_the_present_values(self, plant: Plant) -> None:
        api = Api(plant.client)
        uid, lot = plant.tags["temperature"].uid, plant.tags["lot"].uid
        found = api.ok("POST", "/formulas/check", {"formula": "t * 2", "inputs": {"t": uid}})
        assert (found["value"], found["quality"]) == (pytest.approx(199.8), "Good")
        found = api.ok("POST", "/formulas/check", {"formula": "t + x", "inputs": {"t": uid}})
        assert (found["inputs"], found["missing"], found["value"]) == (["t", "x"], ["x"], None)
        found = api.ok("POST", "/formulas/check", {"formula": "t", "inputs": {"t": lot}})
        assert (found["value"], found["quality"]) == (None, "Bad, waiting for the first value")
        assert api.field("POST", "/formulas/check", {"formula": "t +"}) == "formula"

    def test_the_functions_are_listed(self, api: Api) -> None:
        listed = {one["signature"] for one in api.ok("GET", "/formulas/functions")}
        assert {"dew_point(t, rh)", "average(x, length)", "min(a, b, ...)"} <= listed
        assert not any("+" in one for one in listed)


class TestMeters:
    def test_a_counter_takes_a_value_and_its_preset_is_needed(
        self, api: Api, source: Json, calculated: Json
    ) -> None:
        (a,) = add(api, source)

        def body(name: str, kind: str, place: Json) -> Json:
            return {
                "tags": [{"name": name, "source": calculated["uid"], "value_type": kind, "address": place}]
            }

        counter = {"kind": "counter", "inputs": {"input": a}}
        (uid,) = api.ok("POST", "/setup/tags", body("Jams", "integer", counter))["uids"]
        reached = {"kind": "reached", "inputs": {"counter": uid}}
        assert (
            "no preset" in api.refused("POST", "/setup/tags", body("Many jams", "boolean", reached))["detail"]
        )
        api.ok("PATCH", "/setup/tags", {"uids": [uid], "attributes": {"address": {**counter, "preset": 5}}})
        api.ok("POST", "/setup/tags", body("Many jams", "boolean", reached))
        assert api.field("POST", "/setup/tags", body("Jams too", "boolean", counter)) == "value_type"
        (row,) = api.ok("GET", "/setup/tags?search=Jams")["tags"][:1]
        assert row["writable"]


class TestOwnValues:
    def test_they_are_added_by_item(self, api: Api, source: Json) -> None:
        own = api.ok("POST", "/setup/sources", {"name": "Recorder", "protocol": "system", "config": {}})

        def body(place: Json, kind: str = "float") -> Json:
            return {"tags": [{"name": "It", "source": own["uid"], "value_type": kind, "address": place}]}

        assert api.field("POST", "/setup/tags", body({"item": "mood"})) == "tags.0.address.item"
        assert api.field("POST", "/setup/tags", body({"item": "source_state"}, "state")) == "address"
        assert api.field("POST", "/setup/tags", body({"item": "processor"}, "boolean")) == "value_type"
        api.ok("POST", "/setup/tags", body({"item": "source_state", "of": source["uid"]}, "state"))


class TestWhatLoggersFollow:
    def test_it_is_kept_and_reaches_the_recorder(
        self, api: Api, source: Json, archive: Json, store: Store
    ) -> None:
        a, b, c = add(api, source, 3)
        when = {
            "tag": b, "interval_tag": c,
            "spans": [{"days": [5, 1, 1], "start_minute": 360, "end_minute": 0}],
        }  # fmt: skip
        made = api.ok("POST", "/setup/loggers", logger(
            archive, a, mode="periodic", interval_us=SECOND, when=when,
        ))  # fmt: skip
        assert made["when"]["spans"] == [{"days": [1, 5], "start_minute": 360, "end_minute": 0}]
        with store.snapshot() as tx:
            (found,) = read_setup(tx).loggers
        assert (found.when.tag, found.when.interval_tag) == (found.tags[0] + 1, found.tags[0] + 2)
        document = api.ok("GET", "/setup/document")
        assert api.ok("POST", "/setup/document", document)["differences"] == []
        api.ok("POST", "/setup/tags/remove", {"uids": [b]})
        (left,) = api.ok("GET", "/setup/loggers")
        assert left["when"]["tag"] is None

    @pytest.mark.parametrize(
        ("fields", "field"),
        [
            ({"mode": "around", "trigger": {}, "before_us": 0, "after_us": 0}, "after_us"),
            ({"mode": "around", "trigger": {}, "before_us": -1, "after_us": 1}, "before_us"),
            ({"mode": "around", "trigger": {}, "before_us": 1, "after_us": 10**12}, "after_us"),
            ({"when": {"spans": [{"days": [8], "start_minute": 0, "end_minute": 1}]}}, "schedule"),
        ],
    )
    def test_what_cannot_be_names_its_field(
        self, api: Api, source: Json, archive: Json, fields: Json, field: str
    ) -> None:
        (a,) = add(api, source)
        assert api.field("POST", "/setup/loggers", logger(archive, a, **fields)) == field

    def test_around_a_trigger_keeps_only_what_it_uses(
        self, api: Api, source: Json, archive: Json, store: Store
    ) -> None:
        a, b = add(api, source, 2)
        fields = {"mode": "around", "trigger": {"tag": b}, "before_us": 5 * SECOND, "after_us": SECOND}
        wrong = logger(archive, a, **fields, rule={"width": 3})
        assert api.field("POST", "/setup/loggers", wrong) == "rule", "a field of another mode"
        made = api.ok("POST", "/setup/loggers", logger(archive, a, **fields))
        assert made["text"] == "full detail around its trigger"
        with store.snapshot() as tx:
            (found,) = read_setup(tx).loggers
        mode = found.mode_as(PrePostTrigger)
        assert (mode.before_us, mode.after_us) == (5 * SECOND, SECOND)

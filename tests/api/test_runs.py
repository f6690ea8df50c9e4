"""Runs through the API: rules, runs that people mark, finding them again."""

from __future__ import annotations

import json
import time
from dataclasses import replace

import pytest

from cronaca.core import quality as q
from cronaca.core.bits import to_bits
from cronaca.core.model import SECOND, ValueType
from cronaca.core.outputs import RunAttribute, RunMark
from cronaca.db import Store
from cronaca.plant import run_rules
from cronaca.plant.whole import read_setup
from tests.api.conftest import Plant
from tests.api.setup_support import Api, Json, add, logger
from tests.support.builders import NOW, a_flush


def rule(name: str = "Line 5 lot", **fields: object) -> Json:
    return {"name": name, "origin": "change", **fields}


class TestRules:
    def test_one_is_added_changed_and_removed_and_reaches_the_recorder(
        self, api: Api, source: Json, store: Store
    ) -> None:
        lot, moisture = add(api, source, 2)
        made = api.ok("POST", "/setup/runs", rule(tag=lot, attributes=[moisture, moisture]))
        assert made["attributes"] == [moisture]
        with store.snapshot() as tx:
            (found,) = read_setup(tx).runs
        assert (found.name, len(found.attributes)) == ("Line 5 lot", 1)
        place, seen = f"/setup/runs/{made['uid']}", {k: v for k, v in made.items() if k != "uid"}
        changed = api.ok("PUT", place, {**seen, "name": "Lot", "origin": "tag"})
        assert (changed["name"], changed["origin"], changed["revision"]) == ("Lot", "tag", 2)
        assert api.refused("PUT", place, seen, 409)["title"]
        api.ok("DELETE", place)
        assert api.ok("GET", "/setup/runs") == []

    def test_what_cannot_be_names_its_field(self, api: Api, source: Json, archive: Json) -> None:
        (lot,) = add(api, source)
        api.ok("POST", "/setup/runs", rule(tag=lot))
        assert api.field("POST", "/setup/runs", rule(tag=lot)) == "name"
        assert api.field("POST", "/setup/runs", rule("x")) == "tag"
        assert api.field("POST", "/setup/runs", rule("x", origin="logger", tag=lot)) == "logger"
        assert api.field("POST", "/setup/runs", rule("x", origin="person")) == "origin"
        assert api.field("POST", "/setup/runs", rule(" ", tag=lot)) == "name"
        unknown = "00000000-0000-0000-0000-000000000000"
        assert api.refused("POST", "/setup/runs", rule("x", tag=unknown), 404)
        made = api.ok("POST", "/setup/loggers", logger(archive, lot))
        api.ok("POST", "/setup/runs", rule("Trial", origin="logger", logger=made["uid"]))

    def test_they_travel_in_the_document_and_are_restored(self, api: Api, source: Json) -> None:
        (lot,) = add(api, source)
        made = api.ok("POST", "/setup/runs", rule(tag=lot, attributes=[lot]))
        document = api.ok("GET", "/setup/document")
        assert api.ok("POST", "/setup/document", document)["differences"] == []
        api.ok("DELETE", f"/setup/runs/{made['uid']}")
        removed = api.ok("GET", "/setup/changes?kind=run")[0]
        api.ok("POST", f"/setup/changes/{removed['change_id']}/restore")
        (again,) = api.ok("GET", "/setup/runs")
        assert (again["uid"], again["tag"], again["attributes"]) == (made["uid"], lot, [lot])


class TestRuns:
    def test_a_person_begins_ends_renames_and_removes_one(self, api: Api) -> None:
        before_us = time.time_ns() // 1000
        now = api.ok("POST", "/runs", {"name": "Trial 6"})
        ended = api.ok("PATCH", f"/runs/{now['uid']}", {"name": "Trial 6", "ends_now": True})
        assert before_us <= int(ended["start_us"]) < int(ended["end_us"]) <= time.time_ns() // 1000
        api.ok("DELETE", f"/runs/{now['uid']}")
        made = api.ok("POST", "/runs", {"name": " Trial 7 ", "start_us": str(NOW)})
        assert (made["name"], made["end_us"], made["origin"]) == ("Trial 7", None, "person")
        place = f"/runs/{made['uid']}"
        assert api.field("PATCH", place, {"name": "x", "end_us": str(NOW - 1)}) == "end_us"
        ended = api.ok("PATCH", place, {"name": "Trial 8", "end_us": str(NOW + SECOND)})
        assert (ended["name"], ended["end_us"]) == ("Trial 8", str(NOW + SECOND))
        api.ok("DELETE", place)
        assert api.ok("GET", "/runs")["runs"] == []
        api.refused("DELETE", place, None, 404)

    @pytest.mark.parametrize(
        ("body", "field"),
        [
            ({"name": " ", "start_us": str(NOW)}, "name"),
            ({"name": "x", "start_us": str(NOW), "end_us": str(NOW)}, "end_us"),
        ],
    )
    def test_a_bad_one_is_refused(self, api: Api, body: Json, field: str) -> None:
        assert api.field("POST", "/runs", body) == field

    def test_they_are_found_by_time_text_and_rule_page_by_page(self, plant: Plant) -> None:
        api, tag = Api(plant.client), plant.tags["temperature"]
        made = api.ok("POST", "/setup/runs", rule("Lot", tag=plant.tags["counter"].uid, attributes=[tag.uid]))
        with plant.store.snapshot() as tx:
            (known,) = run_rules.list_rules(tx)
        fact = RunAttribute(known.attributes[0], int(ValueType.FLOAT), to_bits(61.5, ValueType.FLOAT), q.GOOD)
        marks = []
        for i in range(5):
            at = NOW + i * 100 * SECOND
            marks += [
                RunMark(known.rule_id, "change", at, True, f"Lot {i}", (fact,)),
                RunMark(known.rule_id, "change", at + 99 * SECOND, False, "", (fact,)),
            ]
        plant.sink.commit(replace(a_flush(plant.epoch, 99, {}), outputs=tuple(marks)))
        api.ok("POST", "/runs", {"name": "Trial", "start_us": str(NOW)})

        def names(query: str) -> list[str]:
            return [one["name"] for one in api.ok("GET", f"/runs?{query}")["runs"]]

        assert names("") == ["Lot 4", "Lot 3", "Lot 2", "Lot 1", "Trial", "Lot 0"]
        assert names(f"rule={made['uid']}&search=lot 3") == ["Lot 3"]
        assert names("origin=person") == ["Trial"]
        start, end = NOW + 150 * SECOND, NOW + 160 * SECOND
        assert names(f"start={start}&end={end}") == ["Lot 1", "Trial"]
        first = api.ok("GET", "/runs?limit=2")
        then = api.ok("GET", f"/runs?limit=2&before={first['before']}")
        assert [one["name"] for one in (*first["runs"], *then["runs"])] == [
            "Lot 4",
            "Lot 3",
            "Lot 2",
            "Lot 1",
        ]
        found = first["runs"][0]
        assert found["start_attributes"][0]["value"] == 61.5
        assert (found["rule"], found["start_attributes"][0]["name"]) == ("Lot", tag.name)
        assert api.field("PATCH", f"/runs/{found['uid']}", {"name": "x", "end_us": str(NOW * 2)}) == "end_us"
        assert api.refused("DELETE", f"/runs/{found['uid']}", None)["errors"][0]["field"] == "run"
        assert api.field("GET", "/runs?before=nonsense", None) == "before"
        assert json.dumps(found)

"""Equipment classes over HTTP: gathered, planned, changed with progress, pieces added and taken out."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from cronaca.db import Store
from tests.api.setup_support import MODBUS, Api, Json, seed_four_lines
from tests.support.builders import NOW
from tests.support.signed_in import app_of

DAMPER = "Zone 2 exhaust damper"


@pytest.fixture
def api(store: Store, tmp_path: Path) -> Iterator[Api]:
    """Four lines as the demo has them, not in a class yet."""
    seed_four_lines(store)
    with TestClient(app_of(store, tmp_path)) as client:
        yield Api(client)


@pytest.fixture
def lines(api: Api) -> Json:
    """The class of the lines."""
    return dict(api.ok("POST", "/setup/classes/gather", {"kind": "Line", "name": "Drying line"}))


def facts_of(lines: Json, **changes: Any) -> Json:  # noqa: ANN401
    kept = {name: value for name, value in lines.items() if name not in ("uid", "equipment")}
    return {**kept, **changes}


def with_limits(lines: Json, low: float | None, high: float | None) -> Json:
    members = [{**m, "limits": [low, high]} if m["key"] == DAMPER else m for m in lines["members"]]
    return facts_of(lines, members=members)


def put(api: Api, uid: str, body: Json) -> list[Json]:
    """The lines of a change's answer."""
    answer = api.client.put(f"/api/setup/classes/{uid}", json=body)
    assert answer.status_code == 200, answer.text
    return [json.loads(line) for line in answer.text.splitlines()]


def test_what_is_alike_becomes_a_class_with_its_pieces(api: Api, lines: Json) -> None:
    assert (lines["name"], lines["equipment"], lines["revision"]) == ("Drying line", 4, 1)
    equipment = api.ok("GET", f"/setup/classes/{lines['uid']}/equipment")
    assert [one["name"] for one in equipment] == ["Line 1", "Line 2", "Line 3", "Line 4"]
    assert all("tags=" in one["trend"] for one in equipment)
    kinds = api.ok("GET", "/statistics/kinds")
    assert (kinds[0]["name"], kinds[0]["equipment_class"]) == ("Drying line", lines["uid"])
    gone = api.refused("POST", "/setup/classes/gather", {"kind": "Line", "name": "Again"}, 404)
    assert "equipment" in gone["detail"]


def test_a_limit_of_the_class_is_followed_by_all(api: Api, lines: Json) -> None:
    told = put(api, lines["uid"], with_limits(lines, 10.0, 40.0))
    assert told[-1]["result"]["equipment"][0]["differences"] == []
    assert {"done": 4, "of": 4} in told
    for one in api.ok("GET", f"/setup/classes/{lines['uid']}/equipment"):
        assert "40.0" not in one["trend"], "the damper is not on the trend sheet"
    now = api.ok("GET", "/setup/classes")[0]
    put(api, lines["uid"], {**with_limits(now, 10.0, 40.0), "trend": [DAMPER]})
    for one in api.ok("GET", f"/setup/classes/{lines['uid']}/equipment"):
        assert "%5B10.0%2C40.0%5D" in one["trend"]


def test_figures_are_placed_beside_the_limits_of_the_class(api: Api, lines: Json) -> None:
    put(api, lines["uid"], with_limits(lines, None, 40.0))
    member = next(m for m in api.ok("GET", "/statistics/kinds")[0]["members"] if m["name"] == DAMPER)
    body = {
        "rows": [{"name": "Line 1", "tags": [member["tags"][0]]}],
        "columns": [{"figure": {"stat": "TimeAverage"}, "norm": {"kind": "limits"}}],
        "window": {"start_us": NOW, "end_us": NOW + 1_000_000},
    }
    band = api.ok("POST", "/statistics/sheet", body)["rows"][0]["cells"][0]["band"]
    assert (band["low"], band["high"], band["learnt_from"]) == (0.0, 40.0, 0), "below it is the tag's range"


def test_a_statistics_card_holds_options_and_refuses_others(api: Api, lines: Json) -> None:
    card = [{"member": DAMPER, "stat": "Percentile", "parameters": {"percent": 95, "weight": "samples"}}]
    put(api, lines["uid"], facts_of(lines, card=card))
    figure = api.ok("GET", "/statistics/kinds")[0]["card"][0]["figure"]
    assert (figure["percent"], figure["weight"]) == (95.0, "samples")
    wrong = [{"member": DAMPER, "stat": "Percentile", "parameters": {"share": 95}}]
    path = f"/setup/classes/{lines['uid']}"
    now = api.ok("GET", "/setup/classes")[0]
    assert api.field("PUT", path, facts_of(now, card=wrong)) == "card[0].parameters"


def test_a_plan_tells_and_writes_nothing(api: Api, lines: Json) -> None:
    members = [
        {**m, "settings": {**m["settings"], "decimals": 3}} if m["key"] == DAMPER else m
        for m in lines["members"]
    ]
    plan = api.ok("POST", f"/setup/classes/{lines['uid']}/plan", facts_of(lines, members=members))
    assert [one["name"] for one in plan["equipment"]] == ["Line 1", "Line 2", "Line 3", "Line 4"]
    (one,) = plan["equipment"][0]["differences"]
    assert (one["name"], one["changes"][0]["name"], one["changes"][0]["after"]) == (
        f"Line 1 {DAMPER}",
        "decimals",
        3,
    )
    assert api.ok("GET", "/setup/classes")[0]["revision"] == 1


def test_what_cannot_be_is_refused_by_its_place(api: Api, lines: Json) -> None:
    path = f"/setup/classes/{lines['uid']}"
    assert api.field("PUT", path, with_limits(lines, 50.0, 40.0)).endswith(".limits")
    assert api.field("POST", f"{path}/equipment", {"name": "Line 5"}) == "sources"
    assert api.field("POST", f"{path}/equipment/plan", {"name": "Five", "source": lines["uid"]}) == "sources"
    assert api.refused("PUT", path, facts_of(lines, revision=7), 409)["type"].endswith("edit-conflict")
    assert api.refused("DELETE", f"/setup/equipment/{lines['uid']}", None, 404)


def tags_of_line_5(api: Api) -> list[Json]:
    """The words are elsewhere, too."""
    found = api.ok("GET", "/tags?search=Line 5&limit=200")["tags"]
    return [one for one in found if one["equipment"].startswith("Line 5")]


def test_line_5_comes_with_its_source_and_name_and_goes_again(api: Api, lines: Json) -> None:
    source = api.ok("POST", "/setup/sources", MODBUS)["uid"]
    path = f"/setup/classes/{lines['uid']}/equipment"
    wanted = {"name": "Line 5", "source": source}
    plan = api.ok("POST", f"{path}/plan", wanted)["equipment"][0]
    assert {d["action"] for d in plan["differences"]} == {"added"}
    made = api.ok("POST", path, wanted)
    assert set(made["sources"].values()) == {source}
    found = tags_of_line_5(api)
    assert len(found) == len(lines["members"])
    assert all(one["recorded"] for one in found if one["name"].endswith("temperature"))

    own = {"tags": {DAMPER: {"range_high": 80.0}}}
    body = {"name": "Line 5", "sources": made["sources"], "overrides": own, "revision": made["revision"]}
    changed = api.ok("PUT", f"/setup/equipment/{made['uid']}", body)
    assert changed["overrides"] == own
    assert api.refused("PUT", f"/setup/equipment/{made['uid']}", body, 409)
    api.ok("DELETE", f"/setup/equipment/{made['uid']}?with_tags=true")
    assert tags_of_line_5(api) == []
    api.ok("DELETE", f"/setup/classes/{lines['uid']}")
    assert api.ok("GET", "/setup/classes") == []


def test_a_class_can_be_written_from_nothing(api: Api) -> None:
    member = {
        "key": "Level", "slot": "device", "settings": {"name": "{name} level", "unit": "m"},
        "addresses": {"modbus_tcp": {"table": "input_register", "address": "{base+4}", "data_type": "int16"}},
    }  # fmt: skip
    made = api.ok("POST", "/setup/classes", {"name": "Tank", "members": [member], "parameters": {"base": 0}})
    source = api.ok("POST", "/setup/sources", MODBUS)["uid"]
    path = f"/setup/classes/{made['uid']}/equipment"
    api.ok("POST", path, {"name": "Tank A", "source": source, "parameters": {"base": 100}})
    assert api.ok("GET", "/setup/tags?search=Tank A")["tags"][0]["address"]["address"] == 104
    assert (
        api.field("POST", path, {"name": "Tank B", "source": source, "parameters": {"bsae": 1}})
        == "parameters"
    )


def test_a_class_travels_in_the_set_up_and_a_change_of_it_is_taken_back(api: Api, lines: Json) -> None:
    source = api.ok("POST", "/setup/sources", MODBUS)["uid"]
    five = api.ok("POST", f"/setup/classes/{lines['uid']}/equipment", {"name": "Line 5", "source": source})
    document = api.ok("GET", "/setup/document")
    (kept,) = document["classes"]
    assert (kept["uid"], len(document["equipment"])) == (lines["uid"], 5)
    own = next(one for one in document["equipment"] if one["uid"] == five["uid"])
    assert own["objects"]["tags"][DAMPER] in {tag["uid"] for tag in document["tags"]}
    assert api.ok("POST", "/setup/document?write=true", document)["differences"] == []

    put(api, lines["uid"], with_limits(lines, 10.0, 40.0))
    changed = {**kept, "trend": [DAMPER]}
    report = api.ok("POST", "/setup/document?write=true", {**document, "classes": [changed]})
    assert {one["kind"] for one in report["differences"]} == {"equipment_class"}
    changes = api.ok("GET", "/setup/changes?kind=equipment_class")
    assert [one["action"] for one in changes] == ["changed", "changed", "added"]
    api.ok("POST", f"/setup/changes/{changes[1]['change_id']}/restore")
    (now,) = api.ok("GET", "/setup/classes")
    assert (now["trend"], now["members"]) == (lines["trend"], lines["members"])


def test_a_piece_that_was_removed_is_there_again(api: Api, lines: Json) -> None:
    first = api.ok("GET", f"/setup/classes/{lines['uid']}/equipment")[0]
    api.ok("DELETE", f"/setup/equipment/{first['uid']}")
    change = api.ok("GET", "/setup/changes?kind=equipment")[0]
    api.ok("POST", f"/setup/changes/{change['change_id']}/restore")
    equipment = api.ok("GET", f"/setup/classes/{lines['uid']}/equipment")
    assert first["uid"] in {one["uid"] for one in equipment}

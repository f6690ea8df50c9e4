"""A removal is taken back as a whole: with all that went along."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from cronaca.db import Store
from cronaca.plant import histories
from tests.api.setup_support import MODBUS, Api, Json, add, logger, seed_four_lines, tag
from tests.support.signed_in import app_of


def undo(api: Api, uid: str) -> Json:
    (change, *_) = api.ok("GET", "/setup/changes", params={"uid": uid})
    assert change["action"] == "removed"
    return dict(api.ok("POST", f"/setup/changes/{change['change_id']}/undo"))


def test_a_source_comes_back_with_its_tags_and_their_places_in_loggers(
    api: Api, source: Json, archive: Json, store: Store
) -> None:
    first, second = add(api, source, 2)
    made = api.ok("POST", "/setup/loggers", logger(archive, first, second, overrides={second: {"width": 9}}))
    before = api.ok("GET", "/setup/document")
    api.ok("DELETE", f"/setup/sources/{source['uid']}")
    (now,) = api.ok("GET", "/setup/loggers")
    assert (now["uid"], now["tags"]) == (made["uid"], [])
    assert undo(api, source["uid"])["written"] is True
    assert api.ok("GET", "/setup/document") == before
    with store.snapshot() as tx:
        assert len(histories.list_histories(tx)) == 2, "with the histories they had"


def test_of_several_tags_all_come_back_whichever_one_is_asked_for(
    api: Api, source: Json, archive: Json
) -> None:
    first, second, third = add(api, source, 3)
    api.ok("POST", "/setup/loggers", logger(archive, first, second, third))
    before = api.ok("GET", "/setup/document")
    api.ok("POST", "/setup/tags/remove", {"uids": [first, third]})
    undo(api, third)
    assert api.ok("GET", "/setup/document") == before


def test_that_a_tag_left_its_loggers_is_on_record(api: Api, source: Json, archive: Json) -> None:
    first, second = add(api, source, 2)
    made = api.ok("POST", "/setup/loggers", logger(archive, first, second))
    api.ok("POST", "/setup/tags/remove", {"uids": [first]})
    (change, *_) = api.ok("GET", "/setup/changes", params={"uid": made["uid"]})
    assert change["action"] == "changed"
    assert (change["before"]["tags"], change["after"]["tags"]) == ([first, second], [second])


def test_what_was_changed_since_is_left_alone(api: Api, source: Json, archive: Json) -> None:
    first, second = add(api, source, 2)
    made = api.ok("POST", "/setup/loggers", logger(archive, first, second))
    api.ok("POST", "/setup/tags/remove", {"uids": [first]})
    (removed, *_) = api.ok("GET", "/setup/changes", params={"uid": first})
    api.ok("PUT", f"/setup/loggers/{made['uid']}", logger(archive, second, rule={"width": 3}))
    now = api.ok("GET", "/setup/document")
    problem = api.refused("POST", f"/setup/changes/{removed['change_id']}/undo", None, 409)
    assert made["name"] in problem["detail"]
    assert api.ok("GET", "/setup/document") == now


def test_added_tags_are_removed_and_leave_their_logger(api: Api, source: Json, archive: Json) -> None:
    (first,) = add(api, source, 1)
    made = api.ok("POST", "/setup/loggers", logger(archive, first))
    before = api.ok("GET", "/setup/document")
    tags = [tag(source, f"New {i}", 100 + 2 * i) for i in (1, 2)]
    uids = api.ok("POST", "/setup/tags", {"tags": tags, "logger": made["uid"]})["uids"]
    (added, *_) = api.ok("GET", "/setup/changes", params={"uid": uids[0]})
    api.ok("POST", f"/setup/changes/{added['change_id']}/undo")
    assert api.ok("GET", "/setup/document") == before


def test_an_added_source_is_not_taken_back_so(api: Api, source: Json) -> None:
    (added,) = api.ok("GET", "/setup/changes", params={"uid": source["uid"]})
    assert api.field("POST", f"/setup/changes/{added['change_id']}/undo", None) == "change"
    api.refused("POST", "/setup/changes/99999/undo", None, 404)


def test_a_change_of_many_is_one_step_and_is_taken_back_at_once(api: Api, source: Json) -> None:
    uids = add(api, source, 120)
    before = api.ok("GET", "/setup/document")
    api.ok("PATCH", "/setup/tags", {"uids": uids, "attributes": {"unit": "K"}})
    newest, added, *_ = api.ok("GET", "/setup/changes/steps")
    assert newest["parts"] == [{"kind": "tag", "action": "changed", "count": 120}]
    assert added["parts"] == [{"kind": "tag", "action": "added", "count": 120}]
    assert (newest["first"]["before"]["unit"], newest["first"]["after"]["unit"]) == ("°C", "K")
    number = newest["first"]["change_id"]
    rows = api.ok("GET", f"/setup/changes/{number}/step", params={"limit": 500})
    assert {row["uid"] for row in rows} == set(uids)
    api.ok("POST", f"/setup/changes/{number}/undo")
    assert api.ok("GET", "/setup/document") == before
    assert api.ok("GET", "/setup/changes/steps")[0]["parts"][0]["count"] == 120, "that is on record, too"


def test_steps_are_found_by_name_kind_and_page(api: Api, source: Json, archive: Json) -> None:
    add(api, source, 2)

    def steps(**query: object) -> list[str]:
        found = api.ok("GET", "/setup/changes/steps", params=query)
        return [", ".join(f"{p['kind']} {p['action']}" for p in one["parts"]) for one in found]

    assert steps(kind="tag") == ["tag added"]
    assert steps(search="value 02") == ["tag added"]
    assert steps(search="CONTROLLER") == ["source added"]
    assert steps(search="nobody") == []
    everything = api.ok("GET", "/setup/changes/steps")
    older = steps(before_us=int(everything[0]["first"]["created_us"]))
    assert older == steps()[1:]


class TestEquipment:
    @pytest.fixture
    def api(self, store: Store, tmp_path: Path) -> Iterator[Api]:
        """Four lines as the demo has them."""
        seed_four_lines(store)
        with TestClient(app_of(store, tmp_path)) as client:
            yield Api(client)

    @pytest.fixture
    def lines(self, api: Api) -> Json:
        return dict(api.ok("POST", "/setup/classes/gather", {"kind": "Line", "name": "Drying line"}))

    def test_a_class_comes_back_with_its_pieces(self, api: Api, lines: Json) -> None:
        before = api.ok("GET", "/setup/document")
        api.ok("DELETE", f"/setup/classes/{lines['uid']}")
        assert api.ok("GET", "/setup/document")["equipment"] == []
        undo(api, lines["uid"])
        assert api.ok("GET", "/setup/document") == before

    def test_a_piece_comes_back_with_its_tags_loggers_and_runs(self, api: Api, lines: Json) -> None:
        source = api.ok("POST", "/setup/sources", MODBUS)["uid"]
        piece = api.ok(
            "POST", f"/setup/classes/{lines['uid']}/equipment", {"name": "Line 5", "source": source}
        )
        before = api.ok("GET", "/setup/document")
        api.ok("DELETE", f"/setup/equipment/{piece['uid']}?with_tags=true")
        gone = api.ok("GET", "/setup/document")
        assert len(gone["tags"]) < len(before["tags"]) and len(gone["loggers"]) < len(before["loggers"])
        undo(api, piece["uid"])
        assert api.ok("GET", "/setup/document") == before

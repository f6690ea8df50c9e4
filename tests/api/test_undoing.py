"""A removal is taken back as a whole: with all that went along."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from cronaca.api.app import create_app
from cronaca.db import Store
from cronaca.plant import histories
from tests.api.setup_support import MODBUS, Api, Json, add, logger, seed_four_lines


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


def test_what_was_added_is_not_taken_back_so(api: Api, source: Json) -> None:
    (uid,) = add(api, source, 1)
    (added,) = api.ok("GET", "/setup/changes", params={"uid": uid})
    assert api.field("POST", f"/setup/changes/{added['change_id']}/undo", None) == "change"
    api.refused("POST", "/setup/changes/99999/undo", None, 404)


class TestEquipment:
    @pytest.fixture
    def api(self, store: Store, tmp_path: Path) -> Iterator[Api]:
        """Four lines as the demo has them."""
        seed_four_lines(store)
        with TestClient(create_app(store, tmp_path)) as client:
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

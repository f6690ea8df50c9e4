"""Setting a plant up through the API: what is written, what is refused, that nobody overwrites anybody."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from openpyxl import load_workbook

from cronaca.api.app import create_app
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import SECOND, Covered, GapReason, Series, ValueType
from cronaca.recorder.live import LiveTable
from cronaca.recorder.loggers import Place
from cronaca.recorder.queue import SampleQueue
from cronaca.recorder.records import RecordLogger
from cronaca.store import Store, setup
from cronaca.store.control import StoreControl
from cronaca.store.coverage import list_coverage
from tests.api.conftest import Plant
from tests.support.builders import NOW

Json = dict[str, Any]
MODBUS = {
    "name": "Line 5 controller",
    "protocol": "modbus_tcp",
    "config": {"host": "127.0.0.1", "port": 1502},
}


class Api:
    """Calls that say what went wrong."""

    def __init__(self, client: TestClient) -> None:
        self.client = client

    def ok(self, method: str, path: str, body: object = None, **more: Any) -> Any:  # noqa: ANN401
        answer = self.client.request(method, f"/api{path}", json=body, **more)
        assert answer.status_code < 300, answer.text
        return answer.json() if answer.content else None

    def refused(self, method: str, path: str, body: object, status: int = 422) -> Json:
        answer = self.client.request(method, f"/api{path}", json=body)
        assert answer.status_code == status, answer.text
        assert answer.headers["content-type"].startswith("application/problem+json")
        return dict(answer.json())

    def field(self, method: str, path: str, body: object) -> str:
        """The field that is refused."""
        return str(self.refused(method, path, body)["errors"][0]["field"])


@pytest.fixture
def api(store: Store, tmp_path: Path) -> Iterator[Api]:
    with TestClient(create_app(store, tmp_path)) as client:
        yield Api(client)


@pytest.fixture
def source(api: Api) -> Json:
    return dict(api.ok("POST", "/setup/sources", MODBUS))


@pytest.fixture
def archive(api: Api) -> Json:
    return dict(api.ok("POST", "/setup/archives", {"name": "Process values"}))


def tag(source: Json, name: str = "Line 5 temperature", address: int = 0, **facts: Any) -> Json:  # noqa: ANN401
    place = {"table": "input_register", "address": address, "data_type": "float32"}
    return {"name": name, "source": source["uid"], "address": place, "unit": "°C", **facts}


def add(api: Api, source: Json, count: int = 1, **facts: Any) -> list[str]:  # noqa: ANN401
    body = {
        "tags": [tag(source, "Line 5 value {n:2}" if count > 1 else "Line 5 value", **facts)],
        "count": count,
    }
    return list(api.ok("POST", "/setup/tags", body)["uids"])


def logger(archive: Json, *tags: str, **facts: object) -> Json:
    return {"name": "Line 5 changes", "archive": archive["uid"], "mode": "on_change", "tags": tags, **facts}


class TestSources:
    def test_it_is_added_with_all_settings_of_its_protocol_and_changed(self, api: Api, source: Json) -> None:
        assert source["config"] == {"host": "127.0.0.1", "port": 1502, "unit": 1, "timeout_s": 1.0}
        changed = {**MODBUS, "name": "Line 5", "enabled": False, "revision": source["revision"]}
        found = api.ok("PUT", f"/setup/sources/{source['uid']}", changed)
        assert (found["name"], found["enabled"], found["revision"]) == ("Line 5", False, 2)

    @pytest.mark.parametrize(
        ("facts", "field"),
        [
            ({"name": " "}, "name"),
            ({"name": "a\nb"}, "name"),
            ({"protocol": "pigeon"}, "protocol"),
            ({"config": {}}, "host"),
            ({"config": {"host": "h", "port": 70_000}}, "port"),
            ({"config": {"host": "h", "unit": 1.5}}, "unit"),
            ({"config": {"host": "h", "timeout_s": 0}}, "timeout_s"),
            ({"config": {"host": "h", "colour": "red"}}, "colour"),
        ],
    )
    def test_bad_facts_name_their_field_and_write_nothing(self, api: Api, facts: Json, field: str) -> None:
        assert api.field("POST", "/setup/sources", {**MODBUS, **facts}) == field
        assert api.ok("GET", "/setup/sources") == []

    def test_of_two_who_edit_the_later_is_told(self, api: Api, source: Json) -> None:
        path = f"/setup/sources/{source['uid']}"
        api.ok("PUT", path, {**MODBUS, "name": "First", "revision": source["revision"]})
        problem = api.refused("PUT", path, {**MODBUS, "name": "Second", "revision": source["revision"]}, 409)
        assert "Operator" in problem["detail"] and "Nothing was written" in problem["detail"]
        assert api.ok("GET", path)["name"] == "First"

    def test_a_name_is_given_once(self, api: Api, source: Json) -> None:
        assert api.field("POST", "/setup/sources", {**MODBUS, "name": "line 5 CONTROLLER"}) == "name"

    def test_removing_takes_its_tags_and_a_new_one_may_take_the_name(self, api: Api, source: Json) -> None:
        add(api, source, 3)
        api.ok("DELETE", f"/setup/sources/{source['uid']}")
        assert api.ok("GET", "/setup/tags")["total"] == 0
        again = api.ok("POST", "/setup/sources", MODBUS)
        assert again["uid"] != source["uid"]
        assert len(add(api, again, 3)) == 3

    def test_without_a_recorder_a_test_says_so(self, api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
        monkeypatch.setattr("cronaca.api.routes.setup_sources._PATIENCE_S", 0.2)
        answer = api.ok("POST", "/setup/sources/test", {"protocol": "modbus_tcp", "config": {"host": "h"}})
        assert answer["ok"] is False and "does not answer" in answer["reason"]

    def test_a_test_with_a_register_out_of_range_is_refused(self, api: Api) -> None:
        place = {"address": {"table": "input_register", "address": 65_535, "data_type": "float32"}}
        body = {"protocol": "modbus_tcp", "config": {"host": "h"}, "places": [place]}
        assert api.field("POST", "/setup/sources/test", body) == "address"


class TestTags:
    def test_a_series_is_added_by_a_pattern(self, api: Api, source: Json) -> None:
        body = {"tags": [tag(source, "Line 5 value {n:2}", 100)], "count": 3, "start": 9, "dry_run": True}
        preview = api.ok("POST", "/setup/tags", body)
        assert preview["names"] == ["Line 5 value 09", "Line 5 value 10", "Line 5 value 11"]
        assert [a["address"] for a in preview["addresses"]] == [100, 102, 104], "two registers each"
        assert api.ok("GET", "/setup/tags")["total"] == 0
        api.ok("POST", "/setup/tags", {**body, "dry_run": False})
        assert api.ok("GET", "/setup/tags", params={"search": "value 1"})["total"] == 2

    @pytest.mark.parametrize(
        ("facts", "field"),
        [
            ({"name": ""}, "name"),
            ({"name": "x" * 250}, "name"),
            ({"range_low": 5, "range_high": 5}, "range_low"),
            ({"decimals": 12}, "decimals"),
            ({"scan_us": 1}, "scan_us"),
            ({"colour": "red"}, "colour"),
            ({"states": '{"0": "a"}'}, "states"),
            ({"value_type": "text"}, "value_type"),
            ({"value_type": "integer"}, "value_type"),
            ({"address": {"table": "coil", "address": 1, "data_type": "int16"}}, "address"),
            ({"address": {"table": "input_register", "address": -1, "data_type": "int16"}}, "address"),
        ],
    )
    def test_bad_facts_name_their_field(self, api: Api, source: Json, facts: Json, field: str) -> None:
        good = tag(source, "Good", 10)
        assert api.field("POST", "/setup/tags", {"tags": [good, {**tag(source), **facts}]}) == field
        assert api.ok("GET", "/setup/tags")["total"] == 0, "all or none"

    def test_registers_are_not_read_as_two_things(self, api: Api, source: Json) -> None:
        add(api, source, address=100)
        place = {"table": "input_register", "address": 101, "data_type": "int16"}
        problem = api.refused("POST", "/setup/tags", {"tags": [tag(source, "Other") | {"address": place}]})
        assert "share registers" in problem["detail"]
        add_same = tag(source, "The same value again", 100)
        api.ok("POST", "/setup/tags", {"tags": [add_same]})

    def test_many_are_changed_with_before_and_after(self, api: Api, source: Json) -> None:
        uids = add(api, source, 5)
        body = {"uids": uids[:3], "facts": {"unit": "K", "range_high": 400}, "dry_run": True}
        preview = api.ok("PATCH", "/setup/tags", body)
        assert preview["tags"] == 3
        assert preview["changes"][0] == {
            "name": "Line 5 value 01",
            "field": "unit",
            "before": "°C",
            "after": "K",
        }
        assert api.ok("GET", "/setup/tags", params={"search": "K"})["total"] == 0
        api.ok("PATCH", "/setup/tags", {**body, "dry_run": False})
        units = [one["unit"] for one in api.ok("GET", "/setup/tags")["tags"]]
        assert units == ["K", "K", "K", "°C", "°C"]
        assert api.field("PATCH", "/setup/tags", {"uids": uids, "facts": {"flavour": 1}}) == "flavour"
        seen = {"uids": uids[:1], "facts": {"unit": "F"}, "revisions": {uids[0]: 1}}
        api.refused("PATCH", "/setup/tags", seen, 409)

    def test_names_are_unique_and_filters_find(self, api: Api, source: Json) -> None:
        add(api, source, 3, equipment="Line 5/Zone 1")
        assert api.field("POST", "/setup/tags", {"tags": [tag(source, "LINE 5 value 02", 50)]}) == "name"
        twice = [tag(source, "Same", 60), tag(source, "same", 62)]
        assert api.field("POST", "/setup/tags", {"tags": twice}) == "name"
        api.ok("POST", "/setup/tags", {"tags": [tag(source, "Other", 70, equipment="Line 5/Zone 10")]})

        def total(**query: object) -> int:
            return int(api.ok("GET", "/setup/tags", params=query)["total"])

        assert total(equipment="Line 5/Zone 1") == 3
        assert total(equipment="Line 5") == 4
        assert total(source=source["uid"], recorded=False) == 4
        assert total(value_type="boolean") == 0
        assert total(search="float32") == 4, "in addresses too"
        assert len(api.ok("GET", "/setup/tags/uids", params={"equipment": "Line 5/Zone 1"})) == 3
        paths = {one["path"]: one["tags"] for one in api.ok("GET", "/setup/tags/equipment")}
        assert paths == {"Line 5/Zone 1": 3, "Line 5/Zone 10": 1}

    def test_a_rename_keeps_the_history_and_names_may_be_swapped(
        self, api: Api, source: Json, archive: Json, store: Store
    ) -> None:
        uids = add(api, source, 2)
        api.ok("POST", "/setup/loggers", logger(archive, *uids))
        data = api.client.get("/api/setup/tags/export").content.decode("utf-8-sig")
        swapped = data.replace("value 01", "value xx").replace("value 02", "value 01").replace("xx", "02")
        answer = api.client.post("/api/setup/tags/import?write=true", content=swapped.encode()).json()
        assert (answer["written"], answer["changed"]) == (True, 2)
        names = {one["uid"]: one["name"] for one in api.ok("GET", "/setup/tags")["tags"]}
        assert [names[uid] for uid in uids] == ["Line 5 value 02", "Line 5 value 01"]
        with store.snapshot() as tx:
            assert [h.key.version for h in setup.list_histories(tx)] == [1, 1]

    def test_another_unit_opens_a_new_version_of_the_history(
        self, api: Api, source: Json, archive: Json, store: Store
    ) -> None:
        (uid,) = add(api, source)
        api.ok("POST", "/setup/loggers", logger(archive, uid))
        api.ok("PATCH", "/setup/tags", {"uids": [uid], "facts": {"unit": "K"}})
        with store.snapshot() as tx:
            found = setup.list_histories(tx)
            covered = list_coverage(tx, [h.key for h in found])
        assert [(h.key.version, h.unit) for h in found] == [(1, "°C"), (2, "K")]
        assert [len(c) == 1 and c[0].end_us is None for c in covered.values()] == [False, True]

    def test_removing_says_what_goes_and_history_stays(
        self, api: Api, source: Json, archive: Json, store: Store
    ) -> None:
        uids = add(api, source, 2)
        api.ok("POST", "/setup/loggers", logger(archive, *uids))
        told = api.ok("POST", "/setup/tags/remove", {"uids": uids[:1], "dry_run": True})
        assert told == {"tags": 1, "loggers": ["Line 5 changes"], "samples": 0}
        api.ok("POST", "/setup/tags/remove", {"uids": uids[:1]})
        assert api.ok("GET", "/setup/tags")["total"] == 1
        (found,) = api.ok("GET", "/setup/loggers")
        assert found["tags"] == uids[1:]
        with store.snapshot() as tx:
            assert len(setup.list_histories(tx)) == 2
        assert api.ok("GET", "/tags", params={"uid": uids[0]})["total"] == 1, "its history can be read by uid"


class TestLoggers:
    @pytest.mark.parametrize(
        ("facts", "field"),
        [
            ({"name": ""}, "name"),
            ({"mode": "periodic", "interval_us": 0}, "interval_us"),
            ({"mode": "periodic", "interval_us": SECOND, "phase_us": SECOND}, "phase_us"),
            ({"rule": {"width": -1}}, "width"),
            ({"rule": {"width": 101, "of_range": True}}, "width"),
            ({"rule": {"rate_limit_us": 20, "longest_silence_us": 10}}, "rate_limit"),
            ({"rule": {"keep_extremes": True}}, "keep_extremes"),
            ({"rule": {"kind": "line", "width": 0}}, "largest_error"),
            ({"rule": {"kind": "line", "width": 1, "rate_limit_us": 5}}, "rate_limit"),
        ],
    )
    def test_bad_rules_name_their_field(
        self, api: Api, source: Json, archive: Json, facts: Json, field: str
    ) -> None:
        (uid,) = add(api, source)
        assert api.field("POST", "/setup/loggers", {**logger(archive, uid), **facts}) == field
        assert api.ok("GET", "/setup/loggers") == []

    def test_a_rule_without_a_meaning_for_a_member_is_refused(
        self, api: Api, source: Json, archive: Json
    ) -> None:
        place = {"table": "discrete_input", "address": 3, "data_type": "bool"}
        contact = tag(source, "Door") | {"address": place, "value_type": "boolean"}
        uids = api.ok("POST", "/setup/tags", {"tags": [contact]})["uids"]
        line = logger(archive, *uids, rule={"kind": "line", "width": 1})
        assert "Door" in api.refused("POST", "/setup/loggers", line)["detail"]

    def test_a_tag_that_its_rule_would_lose_its_meaning_for_is_not_changed(
        self, api: Api, source: Json, archive: Json
    ) -> None:
        (uid,) = add(api, source)
        api.ok("POST", "/setup/loggers", logger(archive, uid, rule={"kind": "line", "width": 1}))
        problem = api.refused("PATCH", "/setup/tags", {"uids": [uid], "facts": {"stepped": True}})
        assert "Line 5 changes" in problem["detail"]
        api.ok("PATCH", "/setup/tags", {"uids": [uid], "facts": {"unit": "K"}})

    def test_a_removed_tag_leaves_what_named_it(
        self, api: Api, source: Json, archive: Json, store: Store
    ) -> None:
        uids = add(api, source, 3)
        trigger = {"tag": uids[0], "edge": "change", "number_tag": None}
        body = logger(archive, *uids[1:], mode="on_trigger", trigger=trigger, inhibit_tag=uids[0])
        api.ok("POST", "/setup/loggers", body)
        api.ok("POST", "/setup/tags/remove", {"uids": uids[:1]})
        (found,) = api.ok("GET", "/setup/loggers")
        assert found["trigger"]["tag"] is None and found["inhibit_tag"] is None
        news = StoreControl(store).look(0)
        assert news.setup is not None and news.histories is not None
        place = Place(LiveTable(news.setup.tags, NOW, 256), SampleQueue(10), {}, news.histories)
        RecordLogger(news.setup.loggers[0], place)

    def test_a_tag_goes_into_an_archive_once(self, api: Api, source: Json, archive: Json) -> None:
        (uid,) = add(api, source)
        api.ok("POST", "/setup/loggers", logger(archive, uid))
        second = {**logger(archive, uid), "name": "Again", "mode": "periodic", "interval_us": SECOND}
        assert "Line 5 changes" in api.refused("POST", "/setup/loggers", second)["detail"]
        other = api.ok("POST", "/setup/archives", {"name": "Coarse and long"})
        api.ok("POST", "/setup/loggers", {**second, "archive": other["uid"]})
        (row,) = api.ok("GET", "/setup/tags")["tags"]
        assert {r["text"] for r in row["recorded"]} == {"on every change", "every 1 s"}

    def test_members_join_and_leave_and_coverage_follows(
        self, api: Api, source: Json, archive: Json, store: Store
    ) -> None:
        uids = add(api, source, 3)
        made = api.ok("POST", "/setup/loggers", logger(archive, uids[0], overrides={uids[0]: {"width": 2}}))
        path = f"/setup/loggers/{made['uid']}"
        api.ok("POST", f"{path}/members", {"add": uids[1:], "remove": uids[:1]})
        (found,) = api.ok("GET", "/setup/loggers")
        assert set(found["tags"]) == set(uids[1:]) and found["overrides"] == {}
        api.ok("PUT", path, {**logger(archive, *uids[1:]), "wanted": False, "revision": found["revision"]})
        reasons = {c[-1].after for c in self.coverage(store).values()}
        assert reasons == {GapReason.NOT_RECORDED, GapReason.LOGGER_STOPPED}
        assert all(c[-1].end_us is not None for c in self.coverage(store).values())
        api.ok("PUT", path, logger(archive, *uids[1:]))
        assert [c[-1].end_us for c in self.coverage(store).values()].count(None) == 2
        api.ok("DELETE", path)
        assert [c[-1].end_us for c in self.coverage(store).values()].count(None) == 0

    def coverage(self, store: Store) -> dict[HistoryKey, list[Covered]]:
        with store.snapshot() as tx:
            return dict(list_coverage(tx, [h.key for h in setup.list_histories(tx)]))

    def test_the_recorder_sees_a_change_once(
        self, api: Api, source: Json, archive: Json, store: Store
    ) -> None:
        control = StoreControl(store)
        seen = control.look(0)
        assert seen.setup is not None and control.look(seen.revision).setup is None
        (uid,) = add(api, source)
        api.ok("POST", "/setup/loggers", logger(archive, uid, rule={"width": 0.5}, inhibit_tag=uid))
        news = control.look(seen.revision)
        assert news.setup is not None
        assert news.setup.loggers[0].rule.width == 0.5
        assert news.setup.loggers[0].inhibit_tag_id == news.setup.tags[0].tag_id
        assert news.histories is not None and len(news.histories) == 1


class TestRecord:
    def test_who_changed_what_and_when_is_kept(self, api: Api, source: Json) -> None:
        (uid,) = add(api, source)
        api.ok("PATCH", "/setup/tags", {"uids": [uid], "facts": {"name": "Renamed"}})
        api.ok("POST", "/setup/tags/remove", {"uids": [uid]})
        found = api.ok("GET", "/setup/changes", params={"uid": uid})
        assert [(c["action"], c["name"], c["person"]) for c in found] == [
            ("removed", "Renamed", "Operator"),
            ("changed", "Renamed", "Operator"),
            ("added", "Line 5 value", "Operator"),
        ]
        assert (found[1]["before"]["name"], found[1]["after"]["name"]) == ("Line 5 value", "Renamed")

    def test_the_plant_has_a_zone_and_shifts(self, api: Api) -> None:
        shifts = [{"name": "Late", "start_minute": 840}, {"name": "Early", "start_minute": 360}]
        body = {"name": "Pastificio Ombralta", "zone": "Europe/Rome", "first_weekday": 1, "shifts": shifts}
        api.ok("PUT", "/setup/plant", body)
        assert [s["name"] for s in api.ok("GET", "/plant")["shifts"]] == ["Early", "Late"]
        assert api.field("PUT", "/setup/plant", {**body, "zone": "Mars/Olympus"}) == "zone"
        same = {**body, "shifts": [shifts[0], {**shifts[0], "name": "Other"}]}
        assert api.field("PUT", "/setup/plant", same) == "shifts"

    def test_the_recorder_page_tells_what_does_not_run(self, api: Api, source: Json, archive: Json) -> None:
        (uid,) = add(api, source)
        api.ok("POST", "/setup/loggers", logger(archive, uid))
        found = api.ok("GET", "/recorder")
        assert found["state"] == "never_started" and found["revision"] is None
        assert [(one["name"], one["state"]) for one in found["sources"]] == [("Line 5 controller", "unknown")]
        assert [(one["text"], one["state"]) for one in found["loggers"]] == [("on every change", "unknown")]


class TestFile:
    def rows(self, data: bytes) -> list[dict[str, str]]:
        return list(csv.DictReader(io.StringIO(data.decode("utf-8-sig"))))

    def send(self, api: Api, rows: list[Json], **query: object) -> Json:
        text = io.StringIO()
        writer = csv.DictWriter(text, list(dict.fromkeys(k for row in rows for k in row)))
        writer.writeheader()
        writer.writerows(rows)
        answer = api.client.post("/api/setup/tags/import", content=text.getvalue().encode(), params=query)
        assert answer.status_code == 200, answer.text
        return dict(answer.json())

    def test_out_and_in_changes_nothing(self, api: Api, source: Json) -> None:
        add(api, source, 20, description="=1+1 is no formula", equipment="Line 5")
        for form in ("csv", "xlsx"):
            data = api.client.get("/api/setup/tags/export", params={"form": form}).content
            answer = api.client.post("/api/setup/tags/import", content=data).json()
            assert (answer["unchanged"], answer["changed"], answer["added"]) == (20, 0, 0), answer
            assert answer["refused"] == []
        sheet = load_workbook(io.BytesIO(data)).active
        assert sheet is not None and sheet.max_row == 21

    def test_the_preview_tells_added_changed_refused_and_clashes_and_writes_nothing(
        self, api: Api, source: Json
    ) -> None:
        add(api, source, 4)
        rows = self.rows(api.client.get("/api/setup/tags/export").content)
        changed = [rows[0], {**rows[1], "unit": "K", "decimals": "2"}]
        clash = {**rows[2], "uid": "", "address.address": "900"}
        new = {**rows[3], "uid": "", "name": "New", "address.address": "902"}
        bad = {**new, "name": "Bad", "range_low": "200", "address.address": "904"}
        found = self.send(api, [*changed, clash, new, bad])
        assert (found["added"], found["changed"], found["unchanged"], found["kept"]) == (1, 1, 1, 1)
        assert [(c["field"], c["before"], c["after"]) for c in found["changes"]] == [
            ("unit", "°C", "K"),
            ("decimals", 1, 2),
        ]
        assert found["refused"][0]["line"] == 6 and found["refused"][0]["field"] == "range_low"
        assert self.send(api, [*changed, clash, new, bad], write=True)["written"] is False, "all or nothing"
        assert api.ok("GET", "/setup/tags")["total"] == 4
        assert self.send(api, [*changed, clash, new], write=True)["written"] is True
        assert api.ok("GET", "/setup/tags")["total"] == 5

    def test_a_clash_is_resolved_by_choice(self, api: Api, source: Json) -> None:
        add(api, source, 2)
        rows = [
            {**r, "uid": "", "unit": "K"} for r in self.rows(api.client.get("/api/setup/tags/export").content)
        ]
        assert self.send(api, rows, on_clash="keep")["kept"] == 2
        assert self.send(api, rows, on_clash="replace")["changed"] == 2
        moved = [{**r, "address.address": str(500 + 2 * i)} for i, r in enumerate(rows)]
        found = self.send(api, moved, on_clash="prefix", prefix="Copy of ")
        assert found["new_names"] == ["Copy of Line 5 value 01", "Copy of Line 5 value 02"]
        found = self.send(api, [*moved, moved[0]], on_clash="prefix", prefix="Copy of ")
        assert found["refused"][0]["field"] == "name"

    @pytest.mark.parametrize(
        "data",
        [
            b"",
            b"name;unit\na;b\n",
            b"name,source,flavour\n",
            b"name,source,name\n",
            b"\xff\xfe\x00",
            b"PK\x03\x04x",
        ],
    )
    def test_a_file_that_cannot_be_used_is_refused_whole(self, api: Api, data: bytes) -> None:
        answer = api.client.post("/api/setup/tags/import", content=data)
        assert answer.status_code == 422, answer.text
        assert answer.json()["errors"][0]["field"] == "file"


class TestRehearsal:
    def test_two_rules_are_tried_on_a_generated_signal(self, api: Api) -> None:
        body = {
            "generator": {"shape": "sine", "low": 0, "high": 100, "period_s": 600, "noise": 0.5},
            "start_us": "1795000000000000",
            "end_us": "1795007200000000",
            "rules": [{"width": 2}, {"kind": "line", "width": 2}],
            "width": 300,
        }
        found = api.ok("POST", "/setup/rehearse", body)
        assert found["readings"] == 7200
        deadband, line = found["rehearsals"]
        assert 0 < line["kept"] < deadband["kept"] < 7200
        assert deadband["largest_error"] > 2 >= line["largest_error"], "a deadband lies on a sloped line"
        assert len(found["readings_curve"]["t_us"]) <= 4 * 300
        assert found["advice"]["rule"]["kind"] == "line" and "noise" in found["advice"]["reason"]

    def test_an_uploaded_contact_is_tried(self, api: Api) -> None:
        lines = [
            f"2026-11-20T06:{i // 60:02d}:{i % 60:02d}Z,{'true' if i in (100, 300) else 'false'}"
            for i in range(600)
        ]
        body = {"csv": "time,value\n" + "\n".join(lines), "rules": [{}, {"rate_limit_us": 60_000_000}]}
        found = api.ok("POST", "/setup/rehearse", body)
        plain, limited = found["rehearsals"]
        assert (plain["kept"], plain["missed_edges"]) == (5, 0)
        assert limited["missed_edges"] == 4 or limited["kept"] <= 5
        assert "contact" in found["advice"]["reason"]

    @pytest.mark.parametrize(
        ("facts", "field"),
        [
            ({"generator": {"shape": "spiral"}}, "address"),
            ({"csv": "time,value\n"}, "csv"),
            ({}, "tag"),
            ({"csv": "x", "generator": {"shape": "sine"}}, "tag"),
        ],
    )
    def test_bad_material_is_refused(self, api: Api, facts: Json, field: str) -> None:
        assert api.field("POST", "/setup/rehearse", {**facts, "rules": [{}]}) == field


def test_facts_on_record_are_json(api: Api, source: Json) -> None:
    (change,) = api.ok("GET", "/setup/changes")
    assert json.loads(json.dumps(change["after"]))["config"]["host"] == "127.0.0.1"


class TestDocument:
    def full(self, api: Api, source: Json, archive: Json) -> Json:
        shifts = [{"name": "Early", "start_minute": 360}]
        plant = {"name": "Pastificio Ombralta", "zone": "Europe/Rome", "first_weekday": 1, "shifts": shifts}
        api.ok("PUT", "/setup/plant", plant)
        uids = add(api, source, 3)
        rule = {"width": 0.5, "rate_limit_us": 10_000_000}
        api.ok("POST", "/setup/loggers", logger(archive, *uids, rule=rule, overrides={uids[0]: {"width": 2}}))
        other = api.ok("POST", "/setup/archives", {"name": "Lots"})
        trigger = {"tag": uids[0], "edge": "change"}
        lots = {
            "name": "Lots",
            "archive": other["uid"],
            "mode": "on_trigger",
            "tags": uids,
            "trigger": trigger,
        }
        api.ok("POST", "/setup/loggers", {**lots, "columns": {uids[1]: "Moisture"}})
        return dict(api.ok("GET", "/setup/document"))

    def test_out_and_in_changes_nothing_and_into_an_empty_plant_gives_the_same(
        self, api: Api, source: Json, archive: Json, empty_store: Store
    ) -> None:
        document = self.full(api, source, archive)
        assert api.ok("POST", "/setup/document?write=true", document) == {"written": True, "differences": []}
        api.ok("DELETE", f"/setup/loggers/{document['loggers'][0]['uid']}")
        report = api.ok("POST", "/setup/document", document)
        assert [(d["kind"], d["action"]) for d in report["differences"]] == [("logger", "added")]
        assert len(api.ok("GET", "/setup/loggers")) == 1, "a preview writes nothing"
        api.ok("POST", "/setup/document?write=true", document)
        assert api.ok("GET", "/setup/document") == document

    def test_what_differs_is_told_fact_by_fact(self, api: Api, source: Json, archive: Json) -> None:
        document = self.full(api, source, archive)
        document["tags"][0]["unit"] = "K"
        document["loggers"][0]["rule"] = {"width": 3}
        document["plant"]["zone"] = "Europe/Berlin"
        found = api.ok("POST", "/setup/document?write=true", document)["differences"]
        assert [(d["kind"], [f["name"] for f in d["facts"]]) for d in found] == [
            ("plant", ["zone"]),
            ("tag", ["unit"]),
            ("logger", ["rule"]),
        ]
        assert api.ok("GET", "/setup/document") == document

    def test_of_another_plant_objects_are_found_by_name(self, api: Api, source: Json, archive: Json) -> None:
        document = self.full(api, source, archive)
        text = json.dumps(document)
        for i, uid in enumerate(
            one["uid"] for part in ("sources", "tags", "archives") for one in document[part]
        ):
            text = text.replace(uid, f"{i:036d}")
        assert api.ok("POST", "/setup/document", json.loads(text))["differences"] == []

    def test_a_mistake_is_named_by_its_place_and_nothing_is_written(
        self, api: Api, source: Json, archive: Json
    ) -> None:
        document = self.full(api, source, archive)
        changed = json.loads(json.dumps(document))
        changed["sources"][0]["name"] = "Renamed"
        changed["loggers"][1]["rule"] = {"width": -1}
        changed["loggers"][1]["mode"] = "on_change"
        assert api.field("POST", "/setup/document?write=true", changed).startswith("loggers[1].")
        assert api.ok("GET", "/setup/document") == document
        for bad, field in (
            ({"format": "other"}, "format"),
            ({**document, "version": 9}, "version"),
            ({**document, "tags": {}}, "tags"),
            ({**document, "tags": [{"uid": "x"}]}, "tags[0].name"),
            ({**document, "extra": 1}, "extra"),
            ({**document, "tags": [*document["tags"], document["tags"][0]]}, "tags[3].uid"),
        ):
            assert api.field("POST", "/setup/document", bad) == field


def test_a_hole_in_recorded_history_is_not_rehearsed_across(plant: Plant) -> None:
    """The recorder was away for an hour between two equal values: a line through both would hide that."""
    tag = plant.tags["temperature"]
    first = Series.of(ValueType.FLOAT, NOW + np.arange(60) * SECOND, np.full(60, 70.0))
    plant.commit("temperature", first, NOW + 60 * SECOND)
    plant.sink.close_epoch(plant.epoch, NOW + 60 * SECOND, "stopped")
    plant.epoch, plant.seq = plant.sink.open_epoch("again", NOW + 3_600 * SECOND) or 0, 0
    later = Series.of(ValueType.FLOAT, NOW + (3_601 + np.arange(60)) * SECOND, np.full(60, 70.0))
    plant.commit("temperature", later, NOW + 3_661 * SECOND)
    body = {
        "tag": tag.uid, "start_us": str(NOW), "end_us": str(NOW + 3_661 * SECOND),
        "rules": [{"kind": "line", "width": 1}],
    }  # fmt: skip
    answer = plant.client.post("/api/setup/rehearse", json=body)
    assert answer.status_code == 200, answer.text
    curve = answer.json()["rehearsals"][0]["curve"]
    hole = [int(t) - NOW for t, v in zip(curve["t_us"], curve["v"], strict=True) if v is None]
    assert hole and hole[0] // SECOND == 60


class TestRestore:
    def undo(self, api: Api, uid: str, **query: Any) -> Any:  # noqa: ANN401
        (change, *_) = api.ok("GET", "/setup/changes", params={"uid": uid, **query})
        return api.ok("POST", f"/setup/changes/{change['change_id']}/restore")

    def test_what_was_changed_is_as_before_and_what_was_removed_is_back(
        self, api: Api, source: Json, archive: Json, store: Store
    ) -> None:
        uids = add(api, source, 2)
        made = api.ok(
            "POST", "/setup/loggers", logger(archive, *uids, rule={"width": 2}, overrides={uids[0]: {}})
        )
        before = api.ok("GET", "/setup/document")
        api.ok("PATCH", "/setup/tags", {"uids": uids[:1], "facts": {"name": "Other", "decimals": 3}})
        api.ok("PUT", f"/setup/loggers/{made['uid']}", logger(archive, uids[1], rule={"width": 9}))
        api.ok("PUT", f"/setup/sources/{source['uid']}", {**MODBUS, "name": "Renamed"})
        api.ok("PUT", f"/setup/archives/{archive['uid']}", {"name": "Renamed"})
        for uid in (uids[0], made["uid"], source["uid"], archive["uid"]):
            assert self.undo(api, uid)["written"] is True
        assert api.ok("GET", "/setup/document") == before

        api.ok("DELETE", f"/setup/loggers/{made['uid']}")
        api.ok("DELETE", f"/setup/sources/{source['uid']}")
        for uid in (source["uid"], *uids, made["uid"]):
            self.undo(api, uid)
        assert api.ok("GET", "/setup/document") == before
        with store.snapshot() as tx:
            assert len(setup.list_histories(tx)) == 2, "with the histories they had"

    def test_it_is_refused_where_it_cannot_be(self, api: Api, source: Json) -> None:
        uids = add(api, source, 1)
        (added,) = api.ok("GET", "/setup/changes", params={"uid": uids[0]})
        assert api.field("POST", f"/setup/changes/{added['change_id']}/restore", None) == "change"
        api.ok("POST", "/setup/tags/remove", {"uids": uids})
        add(api, source, 1)
        (removed, _) = api.ok("GET", "/setup/changes", params={"uid": uids[0]})
        assert api.field("POST", f"/setup/changes/{removed['change_id']}/restore", None) == "name"
        api.refused("POST", "/setup/changes/99999/restore", None, 404)

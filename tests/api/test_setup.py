"""Setting a plant up through the API: what is written, what is refused, that nobody overwrites anybody."""

from __future__ import annotations

import json

import pytest

from cronaca.core.codec.batch import HistoryKey
from cronaca.core.loggers import OnChange
from cronaca.core.model import SECOND, Covered, GapReason
from cronaca.db import Store
from cronaca.plant import histories
from cronaca.plant.coverage import list_coverage
from cronaca.plant.whole import read_setup
from cronaca.recorder.live import LiveTable
from cronaca.recorder.outputs.queue import OutputQueue
from cronaca.recorder.stages.on_trigger import RecordLogger
from cronaca.recorder.stages.stage import StageContext
from cronaca.services.control import StoreControl
from tests.api.setup_support import CSV, MODBUS, Api, Json, add, logger, tag
from tests.support.builders import NOW


def _secret(store: Store) -> str:
    with store.snapshot() as tx:
        return read_setup(tx).sources[0].secret


class TestSources:
    def test_it_is_added_with_all_settings_of_its_protocol_and_changed(self, api: Api, source: Json) -> None:
        assert source["config"] == {"host": "127.0.0.1", "port": 1502, "unit": 1, "timeout_s": 1.0}
        changed = {**MODBUS, "name": "Line 5", "enabled": False, "revision": source["revision"]}
        found = api.ok("PUT", f"/setup/sources/{source['uid']}", changed)
        assert (found["name"], found["enabled"], found["revision"]) == ("Line 5", False, 2)

    def test_a_password_reaches_the_recorder_and_nobody_else(self, api: Api, store: Store) -> None:
        """It is kept over a change that does not name it, forgotten when emptied, gone with its source."""
        wanted = {
            "name": "Line 2 server", "protocol": "opc_ua", "secret": "durum",
            "config": {"endpoint": "opc.tcp://h", "user": "recorder"},
        }  # fmt: skip
        source = api.ok("POST", "/setup/sources", wanted)
        place = f"/setup/sources/{source['uid']}"
        assert source["has_secret"]
        assert _secret(store) == "durum"
        assert api.ok("PUT", place, {**wanted, "secret": None, "name": "Line 2"})["has_secret"]
        assert _secret(store) == "durum"
        for path in ("/setup/sources", "/setup/changes", "/setup/document", place):
            assert "durum" not in json.dumps(api.ok("GET", path))
        before = StoreControl(store).look(0).revision
        assert not api.ok("PUT", place, {**wanted, "secret": ""})["has_secret"]
        assert _secret(store) == ""
        assert StoreControl(store).look(0).revision > before, "the recorder is told"
        assert api.field("PUT", place, {**wanted, "secret": "x" * 501}) == "secret"
        api.ok("PUT", place, wanted)
        api.ok("DELETE", place)
        with store.snapshot() as tx:
            assert not tx.fetch("SELECT * FROM source_secret")

    @pytest.mark.parametrize(
        ("fields", "field"),
        [
            ({"name": " "}, "name"),
            ({"name": "a\nb"}, "name"),
            ({"protocol": "pigeon"}, "protocol"),
            ({"config": {}}, "host"),
            ({"config": {"host": "h", "port": 70_000}}, "port"),
            ({"config": {"host": "h", "unit": 1.5}}, "unit"),
            ({"config": {"host": "h", "timeout_s": 0}}, "timeout_s"),
            ({"config": {"host": "h", "colour": "red"}}, "config.colour"),
        ],
    )
    def test_bad_fields_name_their_field_and_write_nothing(self, api: Api, fields: Json, field: str) -> None:
        assert api.field("POST", "/setup/sources", {**MODBUS, **fields}) == field
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
        monkeypatch.setattr("cronaca.services.asking._PATIENCE_S", 0.2)
        for what, body in (
            ("test", {"protocol": "modbus_tcp", "config": {"host": "h"}}),
            ("discover", {"endpoint": "opc.tcp://h"}),
            ("browse", {"config": {"endpoint": "opc.tcp://h"}}),
        ):
            answer = api.ok("POST", f"/setup/sources/{what}", body)
            assert answer["ok"] is False and "does not answer" in answer["reason"]

    def test_a_server_without_an_address_is_not_asked(self, api: Api) -> None:
        assert api.field("POST", "/setup/sources/discover", {"endpoint": "http://h"}) == "endpoint"
        body = {"config": {"endpoint": "opc.tcp://h", "mode": "Sign"}}
        assert api.field("POST", "/setup/sources/browse", body) == "mode"

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
        ("fields", "field"),
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
    def test_bad_fields_name_their_field(self, api: Api, source: Json, fields: Json, field: str) -> None:
        good = tag(source, "Good", 10)
        assert api.field("POST", "/setup/tags", {"tags": [good, {**tag(source), **fields}]}) == field
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
        body = {"uids": uids[:3], "attributes": {"unit": "K", "range_high": 400}, "dry_run": True}
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
        assert api.field("PATCH", "/setup/tags", {"uids": uids, "attributes": {"flavour": 1}}) == "flavour"
        seen = {"uids": uids[:1], "attributes": {"unit": "F"}, "revisions": {uids[0]: 1}}
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
        (row,) = api.ok("GET", "/setup/tags", params={"search": "value 02"})["tags"]
        assert api.ok("GET", f"/setup/tags/{row['uid']}") == row, "by itself too"
        api.refused("GET", "/setup/tags/11111111-1111-1111-1111-111111111111", None, status=404)
        assert total(search="float32") == 4, "in addresses too"
        assert total(search="zone 02 line") == 1, "each word somewhere, in any order"
        assert total(search="zone 02 damper") == 0
        (found,) = api.ok("GET", "/tags", params={"search": " 1  VALUE 03 "})["tags"]
        assert found["name"] == "Line 5 value 03", "by name and equipment, whatever the case"
        assert total(search="l i n e 5 v a l u e 0 1") == 0, (
            "what is more than six words is looked for as it is"
        )
        assert len(api.ok("GET", "/setup/tags/uids", params={"equipment": "Line 5/Zone 1"})) == 3
        paths = {one["path"]: one["tags"] for one in api.ok("GET", "/setup/tags/equipment")}
        assert paths == {"Line 5/Zone 1": 3, "Line 5/Zone 10": 1}

    def test_the_last_added_tags_of_a_source_come_first(self, api: Api, source: Json) -> None:
        api.ok("POST", "/setup/tags", {"tags": [tag(source, "Zone B", 90)]})
        api.ok("POST", "/setup/tags", {"tags": [tag(source, "Zone A", 92)]})
        found = api.ok("GET", "/setup/tags/newest", params={"source": source["uid"], "limit": 2})
        assert [one["name"] for one in found["tags"]] == ["Zone A", "Zone B"]
        assert (
            api.ok("GET", "/setup/tags/newest", params={"source": source["uid"]})["tags"][0]["name"]
            == "Zone A"
        )
        other = "11111111-1111-1111-1111-111111111111"
        assert api.ok("GET", "/setup/tags/newest", params={"source": other})["tags"] == []
        api.refused("GET", "/setup/tags/newest", None, status=422)

    def test_tags_with_the_words_beside_each_other_come_first(self, api: Api, source: Json) -> None:
        lines = [tag(source, f"Line {i} zone {j} heat", 200 + 20 * i + 2 * j) for i in (1, 2) for j in (1, 2)]
        api.ok("POST", "/setup/tags", {"tags": lines})
        for path in ("/setup/tags", "/tags"):
            best = api.ok("GET", path, params={"search": "line 2 heat"})["tags"]
            names = [one["name"] for one in best]
            assert names == ["Line 2 zone 2 heat", "Line 2 zone 1 heat", "Line 1 zone 2 heat"]

    def test_a_rename_keeps_the_history_and_names_may_be_swapped(
        self, api: Api, source: Json, archive: Json, store: Store
    ) -> None:
        uids = add(api, source, 2)
        api.ok("POST", "/setup/loggers", logger(archive, *uids))
        data = api.client.get("/api/setup/tags/export").content.decode("utf-8-sig")
        swapped = data.replace("value 01", "value xx").replace("value 02", "value 01").replace("xx", "02")
        answer = api.client.post(
            "/api/setup/tags/import?write=true", headers=CSV, content=swapped.encode()
        ).json()
        assert (answer["written"], answer["changed"]) == (True, 2)
        names = {one["uid"]: one["name"] for one in api.ok("GET", "/setup/tags")["tags"]}
        assert [names[uid] for uid in uids] == ["Line 5 value 02", "Line 5 value 01"]
        with store.snapshot() as tx:
            assert [h.key.version for h in histories.list_histories(tx)] == [1, 1]

    def test_another_unit_opens_a_new_version_of_the_history(
        self, api: Api, source: Json, archive: Json, store: Store
    ) -> None:
        (uid,) = add(api, source)
        api.ok("POST", "/setup/loggers", logger(archive, uid))
        api.ok("PATCH", "/setup/tags", {"uids": [uid], "attributes": {"unit": "K"}})
        with store.snapshot() as tx:
            found = histories.list_histories(tx)
            covered = list_coverage(tx, [h.key for h in found])
        assert [(h.key.version, h.unit) for h in found] == [(1, "°C"), (2, "K")]
        assert [len(c) == 1 and c[0].end_us is None for c in covered.values()] == [False, True]

    def test_removing_says_what_goes_and_history_stays(
        self, api: Api, source: Json, archive: Json, store: Store
    ) -> None:
        uids = add(api, source, 2)
        api.ok("POST", "/setup/loggers", logger(archive, *uids))
        told = api.ok("POST", "/setup/tags/remove", {"uids": uids[:1], "dry_run": True})
        assert told == {"tags": 1, "loggers": ["Line 5 changes"], "samples": 0, "calculated": []}
        api.ok("POST", "/setup/tags/remove", {"uids": uids[:1]})
        assert api.ok("GET", "/setup/tags")["total"] == 1
        (found,) = api.ok("GET", "/setup/loggers")
        assert found["tags"] == uids[1:]
        with store.snapshot() as tx:
            assert len(histories.list_histories(tx)) == 2
        assert api.ok("GET", "/tags", params={"uid": uids[0]})["total"] == 1, "its history can be read by uid"


class TestLoggers:
    @pytest.mark.parametrize(
        ("fields", "field"),
        [
            ({"name": ""}, "name"),
            ({"mode": "periodic", "interval_us": 1}, "interval_us"),
            ({"mode": "periodic"}, "interval_us"),
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
        self, api: Api, source: Json, archive: Json, fields: Json, field: str
    ) -> None:
        (uid,) = add(api, source)
        assert api.field("POST", "/setup/loggers", {**logger(archive, uid), **fields}) == field
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
        problem = api.refused("PATCH", "/setup/tags", {"uids": [uid], "attributes": {"stepped": True}})
        assert "Line 5 changes" in problem["detail"]
        api.ok("PATCH", "/setup/tags", {"uids": [uid], "attributes": {"unit": "K"}})

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
        place = StageContext(LiveTable(news.setup.tags, NOW, 256), OutputQueue(10), {}, news.histories)
        RecordLogger(news.setup.loggers[0], place)

    def test_a_logger_without_tags_has_nothing_to_record_now(self, api: Api, archive: Json) -> None:
        made = api.ok("POST", "/setup/loggers", logger(archive))
        assert api.field("POST", f"/setup/loggers/{made['uid']}/record", None) == "logger"

    def test_an_archive_goes_as_long_as_nothing_was_recorded_in_it(
        self, api: Api, source: Json, archive: Json
    ) -> None:
        made = api.ok("POST", "/setup/loggers", logger(archive))
        path = f"/setup/archives/{archive['uid']}"
        assert "loggers record into it" in api.refused("DELETE", path, None)["detail"]
        api.ok("DELETE", f"/setup/loggers/{made['uid']}")
        api.refused("DELETE", f"{path}?revision=7", None, 409)
        api.ok("DELETE", f"{path}?revision={archive['revision']}")
        assert api.ok("GET", "/setup/archives") == []
        api.refused("DELETE", path, None, 404)
        other = api.ok("POST", "/setup/archives", {"name": "Coarse and long"})
        one = api.ok("POST", "/setup/loggers", logger(other, *add(api, source)))
        api.ok("DELETE", f"/setup/loggers/{one['uid']}")
        refused = api.refused("DELETE", f"/setup/archives/{other['uid']}", None)
        assert "tags were recorded into it" in refused["detail"]
        (change,) = [c for c in api.ok("GET", "/setup/changes?kind=archive") if c["action"] == "removed"]
        assert (change["name"], change["after"]) == (archive["name"], None)

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
            return dict(list_coverage(tx, [h.key for h in histories.list_histories(tx)]))

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
        assert news.setup.loggers[0].mode_as(OnChange).rule.width == 0.5
        assert news.setup.loggers[0].inhibit_tag == news.setup.tags[0].tag_id
        assert news.histories is not None and len(news.histories) == 1


class TestRecord:
    def test_who_changed_what_and_when_is_kept(self, api: Api, source: Json) -> None:
        (uid,) = add(api, source)
        api.ok("PATCH", "/setup/tags", {"uids": [uid], "attributes": {"name": "Renamed"}})
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


def test_facts_on_record_are_json(api: Api, source: Json) -> None:
    (change,) = api.ok("GET", "/setup/changes")
    assert json.loads(json.dumps(change["after"]))["config"]["host"] == "127.0.0.1"

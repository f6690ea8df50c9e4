"""Tags and the whole set-up as files, and going back to what was before."""

from __future__ import annotations

import csv
import io
import json
from pathlib import Path
from typing import Any

import pytest
from jsonschema import Draft202012Validator
from openpyxl import load_workbook

from cronaca.db import Store
from cronaca.plant import histories
from tests.api.setup_support import CSV, MODBUS, Api, Json, add, logger, tag


class TestFile:
    def rows(self, data: bytes) -> list[dict[str, str]]:
        return list(csv.DictReader(io.StringIO(data.decode("utf-8-sig"))))

    def send(self, api: Api, rows: list[Json], **query: object) -> Json:
        text = io.StringIO()
        writer = csv.DictWriter(text, list(dict.fromkeys(k for row in rows for k in row)))
        writer.writeheader()
        writer.writerows(rows)
        answer = api.client.post(
            "/api/setup/tags/import", headers=CSV, content=text.getvalue().encode(), params=query
        )
        assert answer.status_code == 200, answer.text
        return dict(answer.json())

    def test_out_and_in_changes_nothing(self, api: Api, source: Json) -> None:
        add(api, source, 20, description="=1+1 is no formula", equipment="Line 5")
        for form in ("csv", "xlsx"):
            data = api.client.get("/api/setup/tags/export", params={"form": form}).content
            answer = api.client.post("/api/setup/tags/import", headers=CSV, content=data).json()
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
        ("field", "typed"),
        [("decimals", "1.5"), ("decimals", "1e9999"), ("scan_s", "0.12345678"), ("scan_s", "1e305")],
    )
    def test_what_would_be_rounded_is_refused(self, api: Api, source: Json, field: str, typed: str) -> None:
        add(api, source, 1)
        rows = self.rows(api.client.get("/api/setup/tags/export").content)
        found = self.send(api, [{**rows[0], field: typed}])
        assert [(one["field"], found["changed"]) for one in found["refused"]] == [(field, 0)]

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
        answer = api.client.post("/api/setup/tags/import", headers=CSV, content=data)
        assert answer.status_code == 422, answer.text
        assert answer.json()["errors"][0]["field"] == "file"


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

    def test_its_form_is_published_and_tells_right_from_wrong(
        self, api: Api, source: Json, archive: Json
    ) -> None:
        schema = api.ok("GET", "/setup/document/schema")
        assert schema == json.loads(Path("docs/setup-file.schema.json").read_text()), "run `make schema`"
        form = Draft202012Validator(schema)
        form.check_schema(schema)
        document = self.full(api, source, archive)
        assert [error.message for error in form.iter_errors(document)] == []
        assert form.is_valid(api.ok("GET", "/setup/document", params={"part": "tags"}))
        tag, made = document["tags"][0], document["loggers"][0]
        for place, wrong in (
            ("format", {**document, "format": "other"}),
            ("version", {**document, "version": 2}),
            ("", {**document, "recipes": []}),
            ("tags.0", {**document, "tags": [{k: v for k, v in tag.items() if k != "uid"}]}),
            ("tags.0.value_type", {**document, "tags": [{**tag, "value_type": "number"}]}),
            ("loggers.0", {**document, "loggers": [{**made, "mode": "sometimes"}]}),
            ("loggers.0", {**document, "loggers": [{**made, "rule": {"dead_band": 1}}]}),
        ):
            (error,) = form.iter_errors(wrong)
            assert ".".join(map(str, error.absolute_path)) == place

    def test_what_differs_is_told_fact_by_fact(self, api: Api, source: Json, archive: Json) -> None:
        document = self.full(api, source, archive)
        document["tags"][0]["unit"] = "K"
        document["loggers"][0]["rule"] = {"width": 3}
        document["plant"]["zone"] = "Europe/Berlin"
        found = api.ok("POST", "/setup/document?write=true", document)["differences"]
        assert [(d["kind"], [f["name"] for f in d["changes"]]) for d in found] == [
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
        api.ok("PATCH", "/setup/tags", {"uids": uids[:1], "attributes": {"name": "Other", "decimals": 3}})
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
            assert len(histories.list_histories(tx)) == 2, "with the histories they had"

    def test_it_is_refused_where_it_cannot_be(self, api: Api, source: Json) -> None:
        uids = add(api, source, 1)
        (added,) = api.ok("GET", "/setup/changes", params={"uid": uids[0]})
        assert api.field("POST", f"/setup/changes/{added['change_id']}/restore", None) == "change"
        api.ok("POST", "/setup/tags/remove", {"uids": uids})
        add(api, source, 1)
        (removed, _) = api.ok("GET", "/setup/changes", params={"uid": uids[0]})
        assert api.field("POST", f"/setup/changes/{removed['change_id']}/restore", None) == "name"
        api.refused("POST", "/setup/changes/99999/restore", None, 404)


class TestAFileFromElsewhere:
    TABLE = (
        b"Symbol;Data type;Address;Comment;EU\r\n"
        b"L5.Air;REAL;30011;Air temperature;degC\r\nL5.Door;BOOL;10005;Door;\r\n"
    )

    def columns(self, api: Api) -> Any:  # noqa: ANN401
        answer = api.client.post("/api/setup/tags/import/columns", headers=CSV, content=self.TABLE)
        assert answer.status_code == 200, answer.text
        return answer.json()

    def bring(self, api: Api, mapping: object, *, write: bool = False) -> Any:  # noqa: ANN401
        query = {"mapping": json.dumps(mapping), "write": str(write).lower()}
        return api.client.post("/api/setup/tags/import", headers=CSV, content=self.TABLE, params=query)

    def test_is_mapped_looked_at_and_brought_in_and_the_mapping_is_known_the_next_time(
        self, api: Api, source: Json
    ) -> None:
        found = self.columns(api)
        assert not found["is_ours"] and not found["is_kept"]
        assert found["mapping"]["name"]["column"] == "Symbol"
        assert found["columns"][4]["words"] == ["degC"]
        mapping = {
            **found["mapping"],
            "source": {"value": source["name"]},
            "unit": {"column": "EU", "words": {"degC": "°C"}},
        }
        looked = self.bring(api, mapping).json()
        assert (looked["added"], looked["refused"], looked["written"]) == (2, [], False)
        assert not self.columns(api)["is_kept"], "what was only looked at is not kept"
        assert self.bring(api, mapping, write=True).json()["written"]
        (air,) = api.ok("GET", "/setup/tags?search=L5.Air")["tags"]
        assert (air["unit"], air["value_type"], air["description"]) == ("°C", "float", "Air temperature")
        assert air["address"]["table"] == "input_register" and air["address"]["address"] == 10
        again = self.columns(api)
        assert again["is_kept"] and again["mapping"]["unit"]["words"] == {"degC": "°C"}
        assert self.bring(api, again["mapping"]).json()["clashes"] == 2

    def test_says_what_is_wrong_with_its_mapping_or_its_lines(self, api: Api, source: Json) -> None:
        for mapping, field in (({"name": {"column": "Gone"}}, "mapping"), (["x"], "mapping")):
            refused = self.bring(api, mapping)
            assert refused.status_code == 422 and refused.json()["errors"][0]["field"] == field
        lines = {**self.columns(api)["mapping"], "source": {"value": "Nobody"}}
        report = self.bring(api, lines, write=True).json()
        assert report["refused_count"] == 2 and not report["written"]
        assert report["refused"][0]["field"] == "source"
        empty = api.client.post("/api/setup/tags/import/columns", headers=CSV, content=b"")
        assert empty.status_code == 422


def test_temporary_tags_are_in_no_file_until_they_are_kept(api: Api, source: Json) -> None:
    body = {"tags": [tag(source, "Trial")], "temporary": True}
    (uid,) = api.ok("POST", "/setup/tags", body)["uids"]

    def in_files() -> list[bool]:
        table = api.client.get("/api/setup/tags/export").text
        return [
            "Trial" in table,
            "Trial" in [one["name"] for one in api.ok("GET", "/setup/document")["tags"]],
        ]

    (listed,) = api.ok("GET", f"/tags?uid={uid}")["tags"]
    assert listed["temporary_until_us"] is not None and in_files() == [False, False]
    api.ok("POST", "/setup/tags/keep", {"uids": [uid]})
    (listed,) = api.ok("GET", f"/tags?uid={uid}")["tags"]
    assert listed["temporary_until_us"] is None and in_files() == [True, True]

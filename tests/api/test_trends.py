"""Sheets, notes, windows by words, sister equipment and exports through the API."""

from __future__ import annotations

import csv
import io
from datetime import datetime

import pyarrow.parquet as papq
import pytest
from openpyxl import load_workbook

from cronaca.core.errors import NotFound
from cronaca.core.model import SECOND, Series, ValueType
from cronaca.views import sheets
from tests.api.conftest import Plant
from tests.api.setup_support import Api, Json
from tests.support.builders import NOW


class TestSheets:
    def test_one_is_saved_changed_and_removed(self, api: Api) -> None:
        made = api.ok("POST", "/sheets", {"name": " Drying ", "folder": "Line 1", "view": "tags=a&last=PT1H"})
        assert (made["name"], made["folder"], made["revision"]) == ("Drying", "Line 1", 1)
        place = f"/sheets/{made['uid']}"
        changed = api.ok("PUT", place, {"name": "Drying", "view": "tags=b", "revision": 1})
        assert (changed["folder"], changed["view"], changed["revision"]) == ("", "tags=b", 2)
        assert api.refused("PUT", place, {"name": "Mine", "view": "", "revision": 1}, 409)
        api.ok("DELETE", place)
        assert api.ok("GET", "/sheets") == []
        api.refused("DELETE", place, None, 404)

    def test_a_name_is_given_once_in_a_folder(self, api: Api) -> None:
        api.ok("POST", "/sheets", {"name": "Drying", "view": ""})
        assert api.field("POST", "/sheets", {"name": "Drying", "view": ""}) == "name"
        api.ok("POST", "/sheets", {"name": "Drying", "folder": "Line 2", "view": ""})
        assert api.field("POST", "/sheets", {"name": " ", "view": ""}) == "name"
        assert api.field("POST", "/sheets", {"name": "x", "view": "y" * 9000}) == "view"

    def test_an_own_sheet_is_seen_by_its_person_alone(self, plant: Plant) -> None:
        api = Api(plant.client)
        made = api.ok("POST", "/sheets", {"name": "Drying", "view": "tags=a", "own": True})
        assert made["own"]
        api.ok("POST", "/sheets", {"name": "Drying", "view": "tags=b"})
        assert api.field("POST", "/sheets", {"name": "Drying", "view": "", "own": True}) == "name"
        assert [one["own"] for one in api.ok("GET", "/sheets")] == [True, False]
        with plant.store.snapshot() as tx:
            assert [one.view for one in sheets.list_sheets(tx, "Somebody else")] == ["tags=b"]
            with pytest.raises(NotFound):
                sheets.get_sheet(tx, made["uid"], "Somebody else")


class TestMadePens:
    """The temperature is a tenth of the second; 100 s of it are Bad (see the plant)."""

    def ask(self, plant: Plant, **pen: object) -> dict[str, object]:
        return {
            "pens": [{"id": PEN, **pen}],
            "start_us": str(NOW),
            "end_us": str(NOW + 1000 * SECOND),
            "width": 8000,
        }

    def test_a_formula_is_drawn_with_the_reasons_of_its_inputs(self, plant: Plant) -> None:
        inputs = {"t": plant.tags["temperature"].uid}
        wanted = self.ask(plant, formula="2 * t", inputs=inputs)
        (series,) = Api(plant.client).ok("POST", "/series/derived", wanted)["series"]
        assert (series["tag"], series["stepped"], series["reduced"]) == (PEN, False, False)
        assert [series["v"][i] for i in (0, 10, 499, 550, 999)] == pytest.approx([0, 2, 99.8, None, 199.8])
        assert {gap["reason"] for gap in series["gaps"]} == {"source_down"}
        assert series["last_us"] == str(NOW + 999 * SECOND)

    def test_what_is_wrong_is_named(self, plant: Plant) -> None:
        api = Api(plant.client)
        assert api.field("POST", "/series/derived", self.ask(plant, formula="2 *")) == "formula"
        assert api.field("POST", "/series/derived", self.ask(plant, formula="2 * x")) == "inputs"
        api.refused("POST", "/series/derived", self.ask(plant, logger=PEN), 404)

    def test_a_curve_is_read_from_the_archive_that_is_chosen(self, plant: Plant) -> None:
        api, uid = Api(plant.client), plant.tags["temperature"].uid
        span = f"tag={uid}&start={NOW}&end={NOW + 1000 * SECOND}"
        (whole,) = api.ok("GET", f"/series/curves?{span}&archive={uid}:Process values")["series"]
        assert whole["samples"] == 1000
        assert api.field("GET", f"/series/curves?{span}&archive={uid}:Elsewhere", None) == "archive"
        assert api.field("GET", f"/series/export?{span}&archive={uid}:Elsewhere", None) == "archive"
        wanted = {"tags": [uid], "figures": [{"stat": "Count"}], "archives": {uid: "Elsewhere"},
                  "windows": [{"start_us": NOW, "end_us": NOW + 1000 * SECOND}]}  # fmt: skip
        assert api.field("POST", "/figures", wanted) == "archive"
        (result,) = api.ok("POST", "/figures", {**wanted, "archives": {uid: "Process values"}})["results"]
        assert result["figures"][0]["values"][0]["value"] == 900, "of 1000, 100 are missing"
        found = plant.client.get(f"/api/series/export?{span}&archive={uid}:Process values")
        assert len(found.text.splitlines()) == 1001


PEN = "33333333-3333-3333-3333-333333333333"


class TestNotes:
    def test_one_is_pinned_rewritten_and_taken_away_and_nothing_is_forgotten(self, plant: Plant) -> None:
        api, tag = Api(plant.client), plant.tags["temperature"]
        at = str(NOW + 10 * SECOND)
        made = api.ok("POST", "/notes", {"start_us": at, "tag": tag.uid, "text": " Probe swapped "})
        assert (made["text"], made["tag_name"]) == ("Probe swapped", tag.name)
        place = f"/notes/{made['uid']}"
        assert api.ok("PUT", place, {"text": "Probe 2 swapped"})["text"] == "Probe 2 swapped"
        assert [one["text"] for one in api.ok("GET", f"{place}/earlier")] == ["Probe swapped"]
        assert api.field("PUT", place, {"text": "  "}) == "text"
        span = f"start={NOW}&end={NOW + 60 * SECOND}"
        assert [one["uid"] for one in api.ok("GET", f"/notes?{span}&search=probe")] == [made["uid"]]
        assert api.ok("GET", f"/notes?{span}&search=valve") == []
        api.ok("DELETE", place)
        assert api.ok("GET", f"/notes?{span}") == []
        with plant.store.snapshot() as tx:
            assert [row[0] for row in tx.fetch("SELECT text FROM note_edit ORDER BY edit_no")] == [
                "Probe swapped", "Probe 2 swapped",
            ]  # fmt: skip

    def test_a_stretch_is_found_by_any_of_its_moments(self, api: Api) -> None:
        body = {"start_us": str(NOW), "end_us": str(NOW + 60 * SECOND), "text": "Trial"}
        api.ok("POST", "/notes", body)
        for start, end, found in ((30, 40, 1), (-10, 0, 0), (-10, 1, 1), (61, 70, 0)):
            query = f"start={NOW + start * SECOND}&end={NOW + end * SECOND}"
            assert len(api.ok("GET", f"/notes?{query}")) == found, query
        assert api.field("POST", "/notes", {**body, "end_us": str(NOW)}) == "end_us"
        unknown = "00000000-0000-0000-0000-000000000000"
        api.refused("POST", "/notes", {**body, "tag": unknown}, 404)


def test_a_window_by_words_is_that_of_the_plant(plant: Plant) -> None:
    api = Api(plant.client)
    day = api.ok("GET", "/windows?unit=day&which=last")
    length_h = (int(day["end_us"]) - int(day["start_us"])) / 3600 / SECOND
    assert length_h in (23, 24, 25)
    shift = api.ok("GET", "/windows?unit=shift")
    assert int(shift["start_us"]) < int(shift["end_us"])
    assert api.refused("GET", "/windows?unit=fortnight", None)


def test_sisters_are_found_by_their_names(api: Api, source: Json) -> None:
    names = ("Line 1 press", "Line 1 door", "Line 2 press", "Line 3 other")
    tags = [
        {
            "name": name, "source": source["uid"], "equipment": f"{name[:6]}/Press",
            "address": {"table": "input_register", "address": 2 * i, "data_type": "float32"},
        }
        for i, name in enumerate(names)
    ]  # fmt: skip
    press, door, other, _ = api.ok("POST", "/setup/tags", {"tags": tags})["uids"]
    found = api.ok("POST", "/tags/sisters", {"tags": [press, door], "equipment": "Line 2"})
    assert found["sisters"] == [other, None]
    assert api.field("POST", "/tags/sisters", {"tags": [press], "equipment": " / "}) == "equipment"
    there = api.ok("POST", "/tags/sisters/equipment", {"tags": [press, door]})
    assert there == [{"equipment": "Line 2", "tags": 1}], "Line 3 has none of them"


class TestExport:
    def url(self, plant: Plant, form: str, **more: str) -> str:
        extra = "".join(f"&{name}={value}" for name, value in more.items())
        window = f"start={NOW + 490 * SECOND}&end={NOW + 510 * SECOND}"
        return f"/api/series/export?tag={plant.tags['temperature'].uid}&{window}&form={form}{extra}"

    def test_csv_has_every_sample_in_the_plants_time_and_no_value_where_bad(self, plant: Plant) -> None:
        answer = plant.client.get(self.url(plant, "csv"))
        assert answer.headers["content-type"].startswith("text/csv")
        rows = list(csv.DictReader(io.StringIO(answer.text)))
        assert len(rows) == 20
        assert rows[0]["value"] == "49.0"
        assert rows[0]["unit"] == "°C"
        at = datetime.fromisoformat(rows[0]["time"])
        assert round(at.timestamp() * SECOND) == NOW + 490 * SECOND
        assert rows[0]["time"].endswith("+01:00"), "November in Rome"
        assert (rows[10]["value"], rows[10]["quality"]) == ("", "Bad, no communication")

    def test_times_are_in_utc_by_choice_and_the_name_of_the_file_says_from_when_to_when(
        self, plant: Plant
    ) -> None:
        local, utc = (plant.client.get(self.url(plant, "csv", utc=choice)) for choice in ("false", "true"))
        rows = [next(csv.DictReader(io.StringIO(one.text))) for one in (local, utc)]
        first, second = (datetime.fromisoformat(row["time"]) for row in rows)
        assert first == second
        assert rows[1]["time"].endswith("+00:00")
        for answer, at in ((local, first), (utc, second)):
            name = answer.headers["content-disposition"]
            assert name.startswith(f'attachment; filename="samples_{at.strftime("%Y%m%dT%H%M%S%z")}_to_')

    def test_values_are_written_as_they_were_recorded(self, plant: Plant) -> None:
        at_us = NOW + 3000 * SECOND
        plant.commit("temperature", Series.of(ValueType.FLOAT, [at_us], [71.4]), at_us + SECOND)
        tag, window = plant.tags["temperature"].uid, f"start={at_us}&end={at_us + SECOND}"
        text = plant.client.get(f"/api/series/export?tag={tag}&{window}").text
        assert next(csv.DictReader(io.StringIO(text)))["value"] == "71.4"

    def test_a_workbook_and_parquet_say_the_same(self, plant: Plant) -> None:
        sheet = load_workbook(io.BytesIO(plant.client.get(self.url(plant, "xlsx")).content)).active
        assert sheet is not None
        rows = list(sheet.iter_rows(min_row=2, values_only=True))
        assert (rows[0][2], rows[10][2], len(rows)) == (49.0, None, 20)
        table = papq.read_table(io.BytesIO(plant.client.get(self.url(plant, "parquet")).content))
        assert (table.num_rows, table["value"][0].as_py(), table["value"][10].as_py()) == (20, "49.0", None)

    def test_what_is_shown_keeps_the_ends_of_each_column(self, plant: Plant) -> None:
        window = f"start={NOW}&end={NOW + 500 * SECOND}"
        tag = plant.tags["temperature"].uid
        text = plant.client.get(f"/api/series/export?tag={tag}&{window}&what=shown&width=10").text
        rows = list(csv.DictReader(io.StringIO(text)))
        assert 20 <= len(rows) <= 40
        assert (rows[0]["value"], rows[-1]["value"]) == ("0.0", "49.9")

    @pytest.mark.parametrize("query", ["start=5&end=1", "start=0&end=1&form=doc", "start=0&end=1&width=0"])
    def test_what_cannot_be_is_refused(self, plant: Plant, query: str) -> None:
        Api(plant.client).refused("GET", f"/series/export?tag={plant.tags['lot'].uid}&{query}", None)

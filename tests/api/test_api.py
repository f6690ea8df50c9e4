"""The HTTP interface: answers, formats, refusals."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa
import pytest
from fastapi.testclient import TestClient
from starlette.testclient import WebSocketTestSession

from cronaca.api.errors import kind_of
from cronaca.core import errors
from cronaca.core import quality as q
from cronaca.core.model import SECOND, LoggerMode, Series, ValueType, Window
from cronaca.db import Store
from cronaca.db.migrate import migrate
from cronaca.db.private_server import PrivateServer
from cronaca.exchange.arrow import to_ipc
from cronaca.exchange.columns import MEDIA_TYPE
from cronaca.history.read.series import SeriesReader
from cronaca.history.write.bulk import backfill
from cronaca.main.serving import openapi_document
from cronaca.plant.loggers import insert_logger
from cronaca.plant.tags import insert_tag, list_tags
from tests.api.conftest import Plant
from tests.support.builders import NOW, a_logger, a_tag
from tests.support.signed_in import app_of

ARROW = "application/vnd.apache.arrow.stream"


def window(first: int = 0, last: int = 1000) -> dict[str, int]:
    return {"start": NOW + first * SECOND, "end": NOW + last * SECOND}


class TestSetUp:
    def test_tags_are_found_by_text_in_name_unit_and_equipment(self, plant: Plant) -> None:
        page = plant.client.get("/api/tags", params={"search": "humid"}).json()
        assert (page["total"], page["tags"][0]["uid"]) == (1, plant.tags["humidity"].uid)
        assert page["tags"][0]["recorded"] == [
            {"logger": "every second", "archive": "Process values", "mode": "periodic", "interval_us": SECOND}
        ]
        assert plant.client.get("/api/tags", params={"search": "Zone 1"}).json()["total"] == 4
        assert plant.client.get("/api/tags", params={"search": "100%_'"}).json()["total"] == 0

    def test_pages_are_bounded_and_in_order(self, plant: Plant) -> None:
        names = [
            plant.client.get("/api/tags", params={"limit": 1, "offset": i}).json()["tags"][0]["name"]
            for i in range(3)
        ]
        assert names == sorted(names)
        assert plant.client.get("/api/tags", params={"limit": 501}).status_code == 422

    def test_named_tags_come_in_the_order_asked_for(self, plant: Plant) -> None:
        uids = [plant.tags[name].uid for name in ("humidity", "temperature")]
        page = plant.client.get("/api/tags", params={"uid": uids}).json()
        assert [tag["uid"] for tag in page["tags"]] == uids

    def test_plant_and_person(self, plant: Plant) -> None:
        assert plant.client.get("/api/plant").json()["zone"] == "Europe/Rome"
        me = plant.client.get("/api/me").json()
        assert me["name"] == "Operator"
        assert {"view", "configure"} <= set(me["permissions"])


class TestCurves:
    def test_json_and_arrow_say_the_same(self, plant: Plant) -> None:
        params = {"tag": [plant.tags["temperature"].uid, plant.tags["humidity"].uid], "width": 50, **window()}
        body = plant.client.get("/api/series/curves", params=params).json()
        answer = plant.client.get("/api/series/curves", params=params, headers={"accept": ARROW})
        assert answer.headers["content-type"] == ARROW
        stream = pa.ipc.open_stream(answer.content)
        about = json.loads(stream.schema.metadata[b"cronaca"])
        rows = json.loads(stream.schema.metadata[b"cronaca_rows"])
        batches = list(stream)
        for series, details, count, batch in zip(body["series"], about["series"], rows, batches, strict=True):
            assert {k: v for k, v in series.items() if k not in ("t_us", "v", "q")} == details
            assert batch.num_rows == count == len(series["t_us"])
            assert batch["t"].to_pylist() == [int(t) for t in series["t_us"]]
            assert batch["v"].to_pylist() == series["v"]
            assert batch["q"].to_pylist() == series["q"]

    def test_plain_columns_say_the_same(self, plant: Plant) -> None:
        params = {"tag": [plant.tags["temperature"].uid, plant.tags["humidity"].uid], "width": 50, **window()}
        body = plant.client.get("/api/series/curves", params=params).json()
        answer = plant.client.get("/api/series/curves", params=params, headers={"accept": MEDIA_TYPE})
        assert answer.headers["content-type"] == MEDIA_TYPE
        length = int.from_bytes(answer.content[:4], "little")
        head = json.loads(answer.content[4 : 4 + length])
        assert head["rows"] == [len(series["t_us"]) for series in body["series"]]
        for series, details in zip(body["series"], head["series"], strict=True):
            assert {k: v for k, v in series.items() if k not in ("t_us", "v", "q")} == details

    def test_a_curve_is_reduced_keeps_its_extremes_and_says_so(self, plant: Plant) -> None:
        params = {"tag": plant.tags["temperature"].uid, "width": 10, **window()}
        (series,) = plant.client.get("/api/series/curves", params=params).json()["series"]
        values = [v for v in series["v"] if v is not None]
        assert series["reduced"] is True
        assert series["samples"] == 1000
        assert (min(values), max(values)) == (0, 99.9)
        assert len(values) <= 60

    def test_a_gap_has_its_reason(self, plant: Plant) -> None:
        params = {"tag": plant.tags["temperature"].uid, **window()}
        (series,) = plant.client.get("/api/series/curves", params=params).json()["series"]
        (gap,) = series["gaps"]
        assert gap == {
            "start_us": str(NOW + 500 * SECOND),
            "end_us": str(NOW + 600 * SECOND),
            "reason": "source_down",
            "detail": "Bad, no communication",
        }

    def test_a_tag_without_samples_has_a_reason_too(self, plant: Plant) -> None:
        params = {"tag": plant.tags["humidity"].uid, **window(-100, 2000)}
        (series,) = plant.client.get("/api/series/curves", params=params).json()["series"]
        assert series["t_us"] == []
        assert [gap["reason"] for gap in series["gaps"]] == ["not_yet_recorded", "not_yet_known"]


class TestRaw:
    def test_pages_join_to_the_whole_series(self, plant: Plant) -> None:
        found: list[str] = []
        start: int | None = NOW
        while start is not None:
            params = {
                "tag": plant.tags["temperature"].uid,
                "start": start,
                "end": NOW + 1000 * SECOND,
                "limit": 300,
            }
            page = plant.client.get("/api/series/raw", params=params).json()
            found += page["t_us"]
            start = None if page["next_start_us"] is None else int(page["next_start_us"])
        assert found == [str(NOW + i * SECOND) for i in range(1000)]

    def test_a_page_reads_no_more_than_itself(self, plant: Plant) -> None:
        """Ten hours in segments: a page of 300 samples reads the first of them alone, and pages join."""
        key, uid = plant.keys["humidity"], plant.tags["humidity"].uid
        times = NOW - 36_000 * SECOND + np.arange(36_000, dtype=np.int64) * SECOND
        backfill(
            plant.store, {key: Series.of(ValueType.FLOAT, times, times / SECOND % 97)},
            Window(NOW - 36_000 * SECOND, NOW),
        )  # fmt: skip
        reader = SeriesReader(plant.store)
        answer, part = reader.read_page(key.tag_id, Window(int(times[0]), NOW), 300)
        assert 300 < len(answer.recorded) < 20_000 and part.end_us < NOW
        found: list[int] = []
        params = {"tag": uid, "start": int(times[0]), "end": NOW, "limit": 7_000}
        while True:
            page = plant.client.get("/api/series/raw", params=params).json()
            assert page["samples"] == len(page["t_us"])
            found += [int(t) for t in page["t_us"]]
            if page["next_start_us"] is None:
                break
            params["start"] = int(page["next_start_us"])
        assert found == times.tolist()

    def test_integers_beyond_two_to_the_53_stay_exact(self, plant: Plant) -> None:
        huge = [2**63 - 1, -(2**63), 7]
        series = Series.of(ValueType.INTEGER, [NOW, NOW + 1, NOW + 2], huge)
        plant.commit("counter", series, NOW + SECOND)
        params = {"tag": plant.tags["counter"].uid, **window()}
        assert plant.client.get("/api/series/raw", params=params).json()["v"] == [
            str(huge[0]),
            str(huge[1]),
            7,
        ]
        answer = plant.client.get("/api/series/raw", params=params, headers={"accept": ARROW})
        (batch,) = list(pa.ipc.open_stream(answer.content))
        assert batch["v"].type == pa.int64()
        assert batch["v"].to_pylist() == huge


class TestReadings:
    def test_a_reading_says_how_it_came(self, plant: Plant) -> None:
        def read(at_us: int) -> dict[str, object]:
            params = {"tag": plant.tags["temperature"].uid, "at": at_us}
            return dict(plant.client.get("/api/series/at", params=params).json()[0])

        between = read(NOW + 10 * SECOND + 500_000)
        assert (between["value"], between["how"]) == (pytest.approx(1.05), "interpolated")
        assert read(NOW + 10 * SECOND)["how"] == "recorded"
        bad = read(NOW + 550 * SECOND)
        assert (bad["value"], bad["quality_text"]) == (None, "Bad, no communication")


class TestRefusals:
    @pytest.mark.parametrize(
        ("path", "change", "field"),
        [
            ("curves", {"end": NOW - 1}, "end"),
            ("curves", {"end": NOW}, "end"),
            ("curves", {"start": 0, "end": NOW}, "end"),
            ("curves", {"width": 0}, "width"),
            ("curves", {"width": -5}, "width"),
            ("curves", {"width": 10**9}, "width"),
            ("curves", {"width": "NaN"}, "width"),
            ("curves", {"start": "Infinity"}, "start"),
            ("curves", {"start": 10**30}, "start"),
            ("curves", {"tag": "no-such"}, "tag.0"),
            ("curves", {"tag": []}, "tag"),
            ("raw", {"limit": 0}, "limit"),
            ("raw", {"limit": 10**9}, "limit"),
            ("raw", {"start": None}, "start"),
        ],
    )
    def test_bad_input_names_field_and_remedy(
        self, plant: Plant, path: str, change: dict[str, object], field: str
    ) -> None:
        params = {"tag": plant.tags["temperature"].uid, **window(), **change}
        params = {name: value for name, value in params.items() if value is not None}
        answer = plant.client.get(f"/api/series/{path}", params=params)
        body = answer.json()
        assert answer.status_code == 422
        assert answer.headers["content-type"] == "application/problem+json"
        assert body["type"] == "urn:cronaca:problem:invalid-input"
        assert body["errors"][0]["field"] == field
        assert body["errors"][0]["problem"]
        assert body["errors"][0]["remedy"]

    def test_an_unknown_tag_and_one_named_twice(self, plant: Plant) -> None:
        uid = "00000000-0000-0000-0000-000000000000"
        answer = plant.client.get("/api/series/curves", params={"tag": uid, **window()})
        assert answer.status_code == 422
        assert answer.json()["errors"] == [
            {
                "field": "tag",
                "code": "no-tag",
                "parameters": {"missing": uid},
                "problem": f"there is no tag {uid}",
                "remedy": "Take a uid from /api/tags.",
            }
        ]
        twice = {"tag": [plant.tags["humidity"].uid] * 2, **window()}
        assert plant.client.get("/api/series/curves", params=twice).json()["errors"][0]["field"] == "tag"

    def test_an_unknown_path_under_api_is_no_page(self, plant: Plant) -> None:
        answer = plant.client.get("/api/nothing")
        assert (answer.status_code, answer.json()["type"]) == (404, "urn:cronaca:problem:http-404")

    def test_every_error_of_the_tree_has_a_row(self) -> None:
        def leaves(base: type[errors.CronacaError]) -> list[type[errors.CronacaError]]:
            return [base, *(leaf for child in base.__subclasses__() for leaf in leaves(child))]

        for kind in leaves(errors.CronacaError):
            made = kind.__new__(kind)
            assert 400 <= kind_of(made).status <= 503


class TestFrontEnd:
    def test_deep_links_get_the_page_and_assets_are_kept(self, plant: Plant) -> None:
        assert "Cronaca" in plant.client.get("/trends?last=PT1H").text
        assert "immutable" in plant.client.get("/assets/app.js").headers["cache-control"]
        assert plant.client.get("/").headers["x-content-type-options"] == "nosniff"

    def test_no_path_leads_out_of_the_folder(self, plant: Plant) -> None:
        assert "Cronaca" in plant.client.get("/..%2f..%2f..%2fetc%2fpasswd").text


class TestHealth:
    def test_a_recorder_that_stopped_committing_is_lost(self, plant: Plant) -> None:
        assert plant.client.get("/api/health").json()["recorder"]["state"] == "late", "it has its lease still"
        with plant.store.transaction() as tx:
            tx.execute("UPDATE recorder_epoch SET lease_until = UTC_TIMESTAMP(6) - INTERVAL 1 SECOND")
        health = plant.client.get("/api/health").json()
        assert health["status"] == "degraded"
        assert health["database"]["state"] == "up"
        assert health["database"]["journal_samples"] == 1000
        assert health["recorder"]["state"] == "lost"
        assert health["sources"][0]["state"] == "unknown"

    def test_a_database_that_is_away_is_said_and_comes_back(self, tmp_path: Path) -> None:
        server = PrivateServer(tmp_path / "db")
        store = Store(server.start())
        migrate(store)
        with TestClient(app_of(store, tmp_path)) as client:
            assert client.get("/api/health").json()["recorder"]["state"] == "never_started"
            server.kill()
            answer = client.get("/api/health")
            assert (answer.status_code, answer.json()["status"]) == (503, "down")
            refused = client.get("/api/tags")
            assert (refused.status_code, refused.json()["type"]) == (503, "urn:cronaca:problem:database-away")
            server.start()
            assert client.get("/api/health").status_code == 200
            store.close()
        server.stop()


def test_recorded_tags_come_first_and_numbers_in_names_count(plant: Plant) -> None:
    """However many tags are imported that nobody records: the first page is what can be looked at."""
    with plant.store.transaction() as tx:
        source_id = tx.fetch_one("SELECT MIN(source_id) FROM source")[0]  # type: ignore[index]
        for name in ("A 10", "A 2", "A 1"):
            insert_tag(tx, a_tag(name, source_id=source_id))
        recorded = [t for t in list_tags(tx) if t.uid == plant.tags["humidity"].uid]
        archive = tx.fetch_one("SELECT MIN(archive_id) FROM archive")[0]  # type: ignore[index]
        one = a_logger(0, "l" * 36, "only", archive, LoggerMode.ON_CHANGE, 0, (recorded[0].tag_id,))
        tx.execute("DELETE FROM logger_member")
        insert_logger(tx, one, NOW)
    names = [tag["name"] for tag in plant.client.get("/api/tags").json()["tags"]]
    assert names[:4] == ["Line 1 Zone 1 relative humidity", "A 1", "A 2", "A 10"]


class TestLive:
    @pytest.fixture(autouse=True)
    def followed(self, plant: Plant) -> None:
        """The follower has seen what the fixture wrote: news are news from here on."""
        with plant.client.websocket_connect("/api/live") as socket:
            self.subscribe(plant, socket)
            while not self.messages_until(socket, "values")["values"]:
                pass

    def subscribe(self, plant: Plant, socket: WebSocketTestSession, after: str | None = None) -> None:
        socket.send_text(json.dumps({"tags": [plant.tags["temperature"].uid], "after": after}))

    def messages_until(
        self, socket: WebSocketTestSession, kind: str, with_us: int | None = None
    ) -> dict[str, Any]:
        for _ in range(20):
            message = json.loads(socket.receive_text())
            if message["type"] == kind and (with_us is None or f'"{with_us}"' in json.dumps(message)):
                return dict(message)
        raise AssertionError(f"no {kind} came")

    def test_present_values_come_first_then_each_new_sample(self, plant: Plant) -> None:
        with plant.client.websocket_connect("/api/live") as socket:
            self.subscribe(plant, socket)
            assert self.messages_until(socket, "values")
            plant.commit(
                "temperature", Series.of(ValueType.FLOAT, [NOW + 2000 * SECOND], [12.5]), NOW + 2001 * SECOND
            )
            message = self.messages_until(socket, "samples", NOW + 2000 * SECOND)
            assert message["series"] == [
                {
                    "tag": plant.tags["temperature"].uid,
                    "archive": plant.keys["temperature"].archive_id,
                    "t_us": [str(NOW + 2000 * SECOND)],
                    "v": [12.5],
                    "q": [0],
                }
            ]
            assert message["known_until_us"] == str(NOW + 2001 * SECOND)

    def test_who_joins_gets_what_came_in_of_late_and_from_when_on_it_is_all(self, plant: Plant) -> None:
        with plant.client.websocket_connect("/api/live") as first:
            self.subscribe(plant, first)
            for i in (0, 1):
                at_us = NOW + (2000 + i) * SECOND
                plant.commit("temperature", Series.of(ValueType.FLOAT, [at_us], [i]), at_us + SECOND)
            self.messages_until(first, "samples", NOW + 2001 * SECOND)
            with plant.client.websocket_connect("/api/live") as second:
                self.subscribe(plant, second)
                message = self.messages_until(second, "samples")
        late = [t for one in message["series"] for t in one["t_us"]]
        assert late[-2:] == [str(NOW + 2000 * SECOND), str(NOW + 2001 * SECOND)]
        assert int(message["since_us"]) <= NOW + 2000 * SECOND, "a curve known until then has no hole"

    def test_another_tag_joins_on_the_same_connection_and_a_wrong_one_is_refused(self, plant: Plant) -> None:
        both = [plant.tags["temperature"].uid, plant.tags["humidity"].uid]
        with plant.client.websocket_connect("/api/live") as socket:
            self.subscribe(plant, socket)
            self.messages_until(socket, "values")
            socket.send_text(json.dumps({"tags": both}))
            assert "since_us" in self.messages_until(socket, "samples")
            at_us = NOW + 2000 * SECOND
            plant.commit("humidity", Series.of(ValueType.FLOAT, [at_us], [55.0]), at_us + SECOND)
            message = self.messages_until(socket, "samples", at_us)
            assert [one["tag"] for one in message["series"]] == both[1:]
            socket.send_text(json.dumps({"tags": ["0" * 36]}))
            assert self.messages_until(socket, "refused")["detail"]

    def test_after_a_break_what_was_missed_is_sent_once(self, plant: Plant) -> None:
        with plant.client.websocket_connect("/api/live") as socket:
            self.subscribe(plant, socket)
            plant.commit(
                "temperature", Series.of(ValueType.FLOAT, [NOW + 2000 * SECOND], [1]), NOW + 2001 * SECOND
            )
            cursor = str(self.messages_until(socket, "samples", NOW + 2000 * SECOND)["cursor"])
        for i in (2, 3):
            plant.commit(
                "temperature",
                Series.of(ValueType.FLOAT, [NOW + (2000 + i) * SECOND], [i]),
                NOW + 3000 * SECOND,
            )
        times: list[str] = []
        with plant.client.websocket_connect("/api/live") as socket:
            self.subscribe(plant, socket, cursor)
            while len(times) < 2:
                message = self.messages_until(socket, "samples")
                times += [t for one in message["series"] for t in one["t_us"]]
        assert times == [str(NOW + 2002 * SECOND), str(NOW + 2003 * SECOND)]

    def test_who_was_away_too_long_is_told_to_read_anew(self, plant: Plant) -> None:
        with plant.store.transaction() as tx:
            tx.execute("DELETE FROM journal")
        plant.seq += 5
        plant.commit(
            "temperature", Series.of(ValueType.FLOAT, [NOW + 2000 * SECOND], [1]), NOW + 2001 * SECOND
        )
        with plant.client.websocket_connect("/api/live") as socket:
            self.subscribe(plant, socket, "1:1")
            assert self.messages_until(socket, "resync")

    @pytest.mark.parametrize(
        "first", ["not json", '{"tags": []}', '{"tags": ["x"]}', '{"tags": ["' + "0" * 36 + '"]}']
    )
    def test_a_bad_subscription_is_refused_with_a_reason(self, plant: Plant, first: str) -> None:
        with plant.client.websocket_connect("/api/live") as socket:
            socket.send_text(first)
            assert self.messages_until(socket, "refused")["detail"]


def test_the_published_description_is_the_programs_own() -> None:
    published = json.loads(Path("docs/openapi.json").read_text())
    assert published == openapi_document(), "run `make schema`"


def test_arrow_turns_bad_values_into_nulls() -> None:
    series = Series.of(ValueType.FLOAT, [1, 2], [1.5, 2.5], np.array([q.GOOD, q.BAD], np.uint16))
    (batch,) = list(pa.ipc.open_stream(to_ipc([series], {})))
    assert batch["v"].to_pylist() == [1.5, None]

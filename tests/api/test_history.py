"""Corrections and coverage through the HTTP interface."""

from __future__ import annotations

import sys
from types import SimpleNamespace
from typing import Any

import pytest

from cronaca.core.model import SECOND, Series, ValueType
from cronaca.logbook.texts import codes_of
from tests.api.conftest import Plant
from tests.support.application import ROOT
from tests.support.builders import NOW


def post(plant: Plant, kind: str, status: int = 201, name: str = "temperature", **more: Any) -> Any:  # noqa: ANN401
    body = {"tag": plant.tags[name].uid, "kind": kind, "reason": "wrong probe", **more}
    answer = plant.client.post("/api/history/edits", json=body)
    assert answer.status_code == status, answer.text
    return answer.json()


def ask(plant: Plant, path: str, name: str = "temperature") -> Any:  # noqa: ANN401
    params: dict[str, Any] = {"tag": plant.tags[name].uid, "start": NOW, "end": NOW + 1000 * SECOND}
    return plant.client.get(f"/api/history/{path}", params=params).json()


def raw(plant: Plant, first: int, last: int, name: str = "temperature") -> list[Any]:
    params: dict[str, Any] = {
        "tag": plant.tags[name].uid, "start": NOW + first * SECOND, "end": NOW + last * SECOND,
    }  # fmt: skip
    return list(plant.client.get("/api/series/raw", params=params).json()["v"])


def sample(second: int, value: Any, q: int = 0) -> dict[str, Any]:  # noqa: ANN401
    return {"t_us": str(NOW + second * SECOND), "v": value, "q": q}


def test_a_replaced_sample_is_read_anew_and_the_old_one_is_modified_history(plant: Plant) -> None:
    edit = post(plant, "replace", samples=[sample(10, 55.5), sample(11, 56.5)])
    assert (edit["written"], edit["replaced"], edit["person"]) == (2, 2, "Operator")
    assert raw(plant, 9, 13) == [0.9, 55.5, 56.5, 1.2]
    (modified,) = ask(plant, "modified")
    assert modified["v"] == [1.0, 1.1] and modified["reason"] == "wrong probe"
    assert [e["edit_id"] for e in ask(plant, "edits")] == [edit["edit_id"]]


def test_a_deleted_window_is_gone(plant: Plant) -> None:
    window: dict[str, Any] = {"start_us": str(NOW + 100 * SECOND), "end_us": str(NOW + 200 * SECOND)}
    assert post(plant, "delete", **window)["replaced"] == 100
    assert raw(plant, 99, 201) == [9.9, 20.0]


def test_an_inserted_sample_among_standing_ones_writes_nothing(plant: Plant) -> None:
    before = raw(plant, 0, 400)
    problem = post(plant, "insert", 422, samples=[sample(-5, 1.0), sample(10, 99.0)])
    assert problem["errors"][0]["field"] == "samples" and "Replace it" in problem["detail"]
    assert raw(plant, 0, 400) == before and raw(plant, -10, 0) == []


@pytest.mark.parametrize(
    ("name", "value"),
    [
        ("counter", "9223372036854775808"), ("counter", 1.5), ("counter", "seven"), ("counter", None),
        ("temperature", "nan"), ("temperature", "inf"), ("lot", 7), ("lot", None), ("lot", "x" * 4001),
    ],
)  # fmt: skip
def test_a_value_that_the_tag_cannot_have_is_refused(plant: Plant, name: str, value: Any) -> None:  # noqa: ANN401
    if name == "lot":
        record_lot(plant)
    problem = post(plant, "update", 422, name, samples=[sample(1, value)])
    assert problem["errors"][0]["field"] == "samples.0.v"
    assert ask(plant, "edits", name) == []


def record_lot(plant: Plant) -> None:
    with plant.store.transaction() as tx:
        codes = codes_of(tx, ["LOT-7", "LOT-8"])
    plant.commit("lot", Series.of(ValueType.TEXT, [NOW, NOW + SECOND], codes), NOW + 1000 * SECOND)


def test_a_text_is_corrected_and_what_stood_there_is_modified_history(plant: Plant) -> None:
    record_lot(plant)
    post(plant, "replace", name="lot", samples=[sample(1, "  LÖT-9 ")])
    params: dict[str, Any] = {"tag": plant.tags["lot"].uid, "start": NOW, "end": NOW + 1000 * SECOND}
    rows = plant.client.get("/api/samples", params=params).json()["rows"]
    assert [row["cells"][0]["value"] for row in rows] == ["  LÖT-9 ", "LOT-7"]
    (modified,) = ask(plant, "modified", "lot")
    assert modified["v"] == ["LOT-8"]


def test_int64_travels_as_text_and_stays_exact(plant: Plant) -> None:
    post(plant, "insert", name="counter", samples=[sample(1, str(2**63 - 1)), sample(2, str(-(2**63)))])
    assert raw(plant, 0, 10, "counter") == [str(2**63 - 1), str(-(2**63))]


def test_a_deletion_needs_a_window_and_every_correction_a_reason(plant: Plant) -> None:
    assert post(plant, "delete", 422)["errors"][0]["field"] == "start_us"
    assert post(plant, "insert", 422, samples=[])["errors"][0]["field"] == "samples"
    body = {"tag": plant.tags["temperature"].uid, "kind": "delete", "reason": ""}
    assert plant.client.post("/api/history/edits", json=body).status_code == 422


def test_the_documented_way_into_a_frame_works(plant: Plant, monkeypatch: pytest.MonkeyPatch) -> None:
    """The Python of docs/people.md, with this application in the place of a server."""
    text = (ROOT / "docs" / "people.md").read_text()
    code = text[text.index("```python") + 9 :].partition("```")[0]
    params = {"start": NOW, "end": NOW + 10 * SECOND}
    code = code.replace('TAG = "..."', f'TAG = "{plant.tags["temperature"].uid}"')
    code = code.replace('"start": 1_780_000_000_000_000, "end": 1_780_003_600_000_000', str(params)[1:-1])
    asked: dict[str, str] = {}

    def get(url: str, *, params: dict[str, Any], headers: dict[str, str], timeout: float) -> Any:  # noqa: ANN401
        assert timeout > 0
        asked.update(headers)
        accept = {"Accept": headers["Accept"]}
        return plant.client.get(url.partition(":8080")[2], params=params, headers=accept)

    monkeypatch.setitem(sys.modules, "requests", SimpleNamespace(get=get))
    monkeypatch.setenv("TOKEN", "given")
    found: dict[str, Any] = {}
    exec(code, found)
    assert asked["Authorization"] == "Bearer given"
    assert found["frame"]["v"].tolist() == [second / 10 for second in range(10)]
    assert found["frame"]["time"].iloc[0].value // 1000 == NOW


def test_coverage_says_since_when_until_when_and_why_not(plant: Plant) -> None:
    found = ask(plant, "coverage")
    assert found["covered"] == [[str(NOW), str(NOW + 1000 * SECOND)]]
    assert [(g["reason"], int(g["start_us"]) - NOW) for g in found["gaps"]] == [("source_down", 500 * SECOND)]

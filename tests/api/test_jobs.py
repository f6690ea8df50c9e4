"""Jobs over HTTP: asked for, done by a worker's runner, fetched, ended; and what is refused."""

from __future__ import annotations

import time
from typing import Any

import pytest

from cronaca.core.access import Actor, Permission
from cronaca.core.jobs import Queue
from cronaca.core.model import SECOND
from cronaca.db import Store
from cronaca.history.read.figures import FigureReader
from cronaca.history.read.series import SeriesReader
from cronaca.services.figures import FigureService
from cronaca.services.jobs import for_people
from cronaca.services.jobs.runner import JobRunner
from tests.api.conftest import Plant
from tests.support.builders import NOW


def wanted(plant: Plant, **changes: object) -> dict[str, Any]:
    tag = plant.tags["temperature"]
    return {
        "kind": "export_samples",
        "tags": [tag.uid],
        "start_us": str(NOW),
        "end_us": str(NOW + 1000 * SECOND),
        **changes,
    }


def work(store: Store) -> None:
    now_us = time.time_ns() // 1000
    figures = FigureService(store, FigureReader(store, SeriesReader(store)), lambda: now_us)
    handlers = for_people.handlers(store, figures)
    JobRunner(store, Queue.PEOPLE, handlers, "t/1", lambda: now_us, may_still=lambda *_: True).run_next()


def test_a_file_is_asked_for_made_fetched_and_removed(plant: Plant) -> None:
    client = plant.client
    made = client.post("/api/jobs", json=wanted(plant))
    assert made.status_code == 201
    job = made.json()
    assert (job["state"], job["share"], job["person"], job["file_name"]) == ("waiting", 0.0, "Operator", "")
    assert job["export"] == {
        "is_table": False, "tag_count": 1, "start_us": str(NOW), "end_us": str(NOW + 1000 * SECOND),
        "form": "csv",
    }  # fmt: skip
    assert client.get(f"/api/jobs/{job['uid']}/file").status_code == 404
    work(plant.store)
    done = client.get(f"/api/jobs/{job['uid']}").json()
    assert (done["state"], done["share"]) == ("done", 1.0)
    file = client.get(f"/api/jobs/{job['uid']}/file", headers={"Accept-Encoding": "identity"})
    lines = file.text.splitlines()
    assert len(lines) == 1001
    assert len(file.content) == done["file_bytes"] == int(file.headers["content-length"])
    assert done["file_name"] in file.headers["content-disposition"].replace("%2B", "+")
    assert file.headers["cache-control"] == "no-store"
    assert client.delete(f"/api/jobs/{job['uid']}").status_code == 204
    assert client.get("/api/jobs").json() == []
    for path in ("", "/file"):
        assert client.get(f"/api/jobs/{job['uid']}{path}").status_code == 404


def test_what_another_version_has_asked_for_keeps_no_other_from_being_listed(plant: Plant) -> None:
    for _ in range(2):
        plant.client.post("/api/jobs", json=wanted(plant))
    with plant.store.transaction() as tx:
        tx.execute("UPDATE job SET kind = 'dance' ORDER BY job_id LIMIT 1")
    newer, older = plant.client.get("/api/jobs").json()
    assert (newer["export"]["tag_count"], older["export"], older["kind"]) == (1, None, "dance")
    work(plant.store)
    assert "does not know" in plant.client.get(f"/api/jobs/{older['uid']}").json()["problem"]


def test_what_people_did_is_on_record(plant: Plant) -> None:
    job = plant.client.post("/api/jobs", json=wanted(plant)).json()
    plant.client.post(f"/api/jobs/{job['uid']}/cancel")
    with plant.store.snapshot() as tx:
        rows = tx.fetch("SELECT kind, action, person, permission FROM person_action ORDER BY action_id")
    assert rows == [("job", "added", "Operator", "export"), ("job", "changed", "Operator", "export")]


@pytest.mark.parametrize(
    ("change", "status", "field"),
    [
        ({"tags": []}, 422, "tags"),
        ({"tags": ["x" * 36]}, 422, "tags"),
        ({"form": "doc"}, 422, "form"),
        ({"end_us": str(NOW)}, 422, "end_us"),
        ({"archives": {"x" * 36: "none"}}, 422, "archives"),
        ({"kind": "recall"}, 422, "kind"),
        ({"colour": 1}, 422, "colour"),
    ],
)
def test_bad_input_names_its_field_and_asks_for_nothing(
    plant: Plant, change: dict[str, object], status: int, field: str
) -> None:
    answer = plant.client.post("/api/jobs", json=wanted(plant, **change))
    assert answer.status_code == status
    assert field in answer.text
    assert plant.client.get("/api/jobs").json() == []


def test_figures_are_asked_for_as_of_a_request(plant: Plant) -> None:
    asked = {
        "tags": [plant.tags["temperature"].uid], "figures": [{"stat": "TimeAverage2"}],
        "windows": [{"start_us": NOW, "end_us": NOW + 500 * SECOND}],
    }  # fmt: skip
    made = plant.client.post("/api/jobs", json={"kind": "compute_figures", "figures": asked})
    assert made.status_code == 201, made.text
    assert made.json()["figures"] == {"tag_count": 1, "stats": ["TimeAverage2"]}
    work(plant.store)
    text = plant.client.get(f"/api/jobs/{made.json()['uid']}/file").content.decode("utf-8-sig")
    value = plant.client.post("/api/figures", json=asked).json()["results"][0]["figures"][0]["values"][0]
    assert text.splitlines()[1].split(",")[6] == str(value["value"])
    wrong = {**asked, "figures": [{"stat": "TimeAverage2", "colour": 1}]}
    answer = plant.client.post("/api/jobs", json={"kind": "compute_figures", "figures": wrong})
    assert answer.status_code == 422


def test_one_person_does_not_end_the_work_of_another(plant: Plant) -> None:
    job = plant.client.post("/api/jobs", json=wanted(plant)).json()
    guest = Actor("Guest", frozenset({Permission.VIEW, Permission.EXPORT}))
    plant.client.app.state.find_actor = lambda _: guest  # type: ignore[attr-defined]
    assert plant.client.post(f"/api/jobs/{job['uid']}/cancel").status_code == 403
    assert plant.client.delete(f"/api/jobs/{job['uid']}").status_code == 403
    assert plant.client.get(f"/api/jobs/{job['uid']}").json()["state"] == "waiting"


def test_a_window_with_too_much_for_one_request_names_the_way_by_a_job(
    plant: Plant, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("cronaca.api.routes.trends._MOST_EXPORTED", 500)
    params = {
        "tag": plant.tags["temperature"].uid,
        "start": NOW,
        "end": NOW + 1000 * SECOND,
        "what": "recorded",
    }
    answer = plant.client.get("/api/series/export", params=params)
    assert answer.status_code == 422
    assert "POST /api/jobs" in answer.text
    assert plant.client.post("/api/jobs", json=wanted(plant)).status_code == 201

"""Windows by the plant's calendar and by text, as the pages ask for them."""

from __future__ import annotations

import pytest

from cronaca.core.model import HOUR
from tests.api.conftest import Plant

HALF_DAY = 12 * HOUR


def ask(plant: Plant, status: int = 200, **params: str | int) -> dict[str, object]:
    answer = plant.client.get("/api/windows", params=params)
    assert answer.status_code == status, answer.text
    found: dict[str, object] = answer.json()
    return found


def test_this_day_goes_on_and_says_when_it_will_be_another(plant: Plant) -> None:
    found = ask(plant, unit="day")
    assert found["goes_on"] is True
    assert int(str(found["start_us"])) < int(str(found["end_us"])) < int(str(found["changes_us"]))
    assert str(found["text"]).startswith("today: ")


def test_last_shift_is_over(plant: Plant) -> None:
    found = ask(plant, unit="shift", which="last")
    assert found["goes_on"] is False
    assert found["meaning"] == {
        "last_us": None, "ago_us": "0", "start_us": None, "end_us": None, "unit": "shift", "which": "last",
        "weekday": None, "count": 1,
    }  # fmt: skip


def test_a_text_is_understood_and_read_back(plant: Plant) -> None:
    found = ask(plant, text="8 h until 2 h ago")
    meaning = found["meaning"]
    assert isinstance(meaning, dict)
    assert (meaning["last_us"], meaning["ago_us"]) == (str(8 * HOUR), str(2 * HOUR))
    assert str(found["text"]).startswith("last 8 h until 2 h ago: ")


def test_what_a_text_leaves_out_is_that_of_the_window_beside_it(plant: Plant) -> None:
    beside = {"start": 1_795_588_200_000_000, "end": 1_795_591_800_000_000}
    found = ask(plant, text="06:00 to 07:00", **beside)
    assert found["text"] == "Wed 25.11.2026 06:00 to 07:00"


@pytest.mark.parametrize("params,field", [
    ({"text": "soon"}, "text"), ({"text": ""}, "text"), ({"text": "8 h", "unit": "day"}, "text"),
    ({}, "window"),
    ({"weekday": 9}, "weekday"), ({"unit": "year"}, "unit"), ({"text": "8 h", "start": 9, "end": 3}, "end"),
    ({"text": "8 h" * 100}, "text"),
])  # fmt: skip
def test_what_is_no_window_names_its_field(plant: Plant, params: dict[str, str | int], field: str) -> None:
    errors = ask(plant, 422, **params)["errors"]
    assert isinstance(errors, list)
    assert [error["field"].split(".")[-1] for error in errors] == [field]


def test_figures_take_the_same_windows(plant: Plant) -> None:
    body = {
        "tags": [plant.tags["temperature"].uid], "figures": [{"stat": "Count"}],
        "windows": [{"last_us": HALF_DAY, "ago_us": HOUR}, {"weekday": 1}],
    }  # fmt: skip
    answer = plant.client.post("/api/figures", json=body)
    assert answer.status_code == 200, answer.text
    ends = [int(window["end_us"]) for window in answer.json()["windows"]]
    assert ends[1] - ends[0] == HOUR

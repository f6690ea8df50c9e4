"""Rehearsing rules through the API."""

from __future__ import annotations

import numpy as np
import pytest

from cronaca.core.model import SECOND, Series, ValueType
from tests.api.conftest import Plant
from tests.api.setup_support import Api, Json
from tests.support.builders import NOW


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

    def test_a_contact_by_the_clock_stands_beside_on_change_with_the_edges_it_misses(self, api: Api) -> None:
        lines = [
            f"2026-11-20T06:{i // 60:02d}:{i % 60:02d}Z,{'true' if i in (103, 104, 300) else 'false'}"
            for i in range(600)
        ]
        by_clock = {"kind": "periodic", "interval_us": 10_000_000}
        body = {"csv": "time,value\n" + "\n".join(lines), "rules": [by_clock, {}]}
        found = api.ok("POST", "/setup/rehearse", body)
        slow, plain = found["rehearsals"]
        assert found["stepped"] is True
        first = int(slow["curve"]["t_us"][0])
        assert (slow["kept"], slow["missed_edges"], plain["missed_us"]) == (60, 2, [])
        assert [(int(us) - first) // SECOND for us in slow["missed_us"]] == [103, 105]
        for wrong, field in (
            ({**by_clock, "interval_us": 0}, "rules.0.interval_us"),
            ({**by_clock, "interval_us": 1}, "rules.0.interval_us"),
            ({**by_clock, "keeps": "mean"}, "rules.0.keeps"),
            ({**by_clock, "phase_us": 10_000_000}, "rules.0.phase_us"),
            ({**by_clock, "width": 1}, "rules.0.width"),
            ({"kind": "line", "width": 1}, "rules.0.rule"),
        ):
            assert api.field("POST", "/setup/rehearse", {**body, "rules": [wrong]}) == field

    @pytest.mark.parametrize(
        ("fields", "field"),
        [
            ({"generator": {"shape": "spiral"}}, "generator.shape"),
            ({"csv": "time,value\n"}, "csv"),
            ({}, "tag"),
            ({"csv": "x", "generator": {"shape": "sine"}}, "tag"),
        ],
    )
    def test_bad_material_is_refused(self, api: Api, fields: Json, field: str) -> None:
        assert api.field("POST", "/setup/rehearse", {**fields, "rules": [{}]}) == field


def test_a_hole_in_recorded_history_is_not_rehearsed_across(plant: Plant) -> None:
    """The recorder was away for an hour between two equal values: a line through both would hide that. What
    it had committed beyond what it knew of all sources counts."""
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
    assert hole[-1] == 999 * SECOND + 1

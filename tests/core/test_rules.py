"""Logger rules, coverage, readings, windows: plain arrays in, decisions out."""

from __future__ import annotations

import numpy as np
import psychrolib
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cronaca.core import coverage
from cronaca.core import quality as q
from cronaca.core.bits import from_bits, to_bits
from cronaca.core.calendar import month_of
from cronaca.core.coverage import Knowledge
from cronaca.core.errors import InvalidInput
from cronaca.core.logger_rules import PeriodicState, decide_periodic, latest_tick
from cronaca.core.model import DAY, HOUR, Covered, Gap, GapReason, Series, ValueType, Window, merge
from cronaca.core.psychrometrics import (
    dew_point,
    humidity_ratio,
    relative_humidity,
    saturation_pressure,
    wet_bulb,
)
from cronaca.core.trends import How, read_at
from tests.support import strategies

GOOD, BAD, LOST = q.GOOD, q.BAD, q.BAD_NO_COMMUNICATION
FLOAT = ValueType.FLOAT


class TestPeriodic:
    def test_ticks_count_from_utc_midnight(self) -> None:
        noon = 20_000 * DAY + 12 * HOUR
        assert latest_tick(noon + 999_999, 1_000_000) == noon
        assert latest_tick(noon, 1_000_000) == noon

    def test_good_values_are_recorded_each_time_bad_ones_once(self) -> None:
        state = PeriodicState.fresh(2)
        steps = [[GOOD, LOST], [GOOD, LOST], [LOST, LOST], [LOST, GOOD], [GOOD, BAD]]
        kept = [decide_periodic(state, np.array(step, np.uint16)).tolist() for step in steps]
        assert kept == [[True, True], [True, False], [True, False], [False, True], [True, True]]


class TestCoverage:
    window = Window(0, 1000)

    def test_a_gap_on_record_is_marked_and_nothing_bridges_it(self) -> None:
        series = Series.of(FLOAT, [100, 900], [1, 2])
        marked = coverage.with_gaps_marked(series, [Gap(300, 700, GapReason.RECORDER_DOWN)])
        assert marked.ts_us.tolist() == [100, 300, 900]
        assert marked.quality.tolist() == [GOOD, q.BAD_NO_DATA, GOOD]

    def test_a_sample_at_the_start_of_a_gap_stands(self) -> None:
        marked = coverage.with_gaps_marked(
            Series.of(FLOAT, [300], [1]), [Gap(300, 700, GapReason.RECORDER_DOWN)]
        )
        assert marked.ts_us.tolist() == [300, 301]
        assert marked.quality.tolist() == [GOOD, q.BAD_NO_DATA]

    def test_a_bad_stretch_ends_with_the_next_value_of_another_quality(self) -> None:
        series = Series.of(FLOAT, [10, 20, 30, 40], [1, 0, 0, 1], [GOOD, LOST, BAD, GOOD])
        found = coverage.bad_stretches(series, 1000)
        assert [(g.start_us, g.end_us, g.reason) for g in found] == [
            (20, 30, GapReason.SOURCE_DOWN),
            (30, 40, GapReason.BAD_VALUES),
        ]

    def test_every_blank_has_its_reason_in_order_of_time(self) -> None:
        series = Series.of(FLOAT, [100, 200, 600], [1, 0, 2], [GOOD, LOST, GOOD])
        gaps = [Gap(400, 550, GapReason.RECORDER_DOWN)]
        known = Knowledge((Covered(50, None),), tuple(gaps), known_until_us=800)
        found = coverage.blanks(series, known, self.window)
        assert [(g.start_us, g.end_us, str(g.reason)) for g in found] == [
            (0, 50, "not_yet_recorded"),
            (200, 400, "source_down"),
            (400, 550, "recorder_down"),
            (800, 1000, "not_yet_known"),
        ]

    def test_a_tag_that_was_never_recorded_says_so(self) -> None:
        found = coverage.blanks(Series.empty(FLOAT), Knowledge(()), self.window)
        assert GapReason.NOT_YET_RECORDED in [g.reason for g in found]

    def test_behind_now_lies_the_future(self) -> None:
        known = Knowledge((Covered(0, None),), known_until_us=400, now_us=600)
        found = coverage.blanks(Series.empty(FLOAT), known, self.window)
        ends = [(g.start_us, g.end_us, g.reason) for g in found]
        end = self.window.end_us
        assert ends == [(400, 600, GapReason.NOT_YET_KNOWN), (600, end, GapReason.FUTURE)]
        known = Knowledge((Covered(0, None),), known_until_us=400, now_us=400)
        (only,) = coverage.blanks(Series.empty(FLOAT), known, self.window)
        assert (only.start_us, only.reason) == (400, GapReason.FUTURE)

    def test_what_retention_has_removed_says_so(self) -> None:
        known = Knowledge((Covered(300, None),), known_until_us=2000, removed_until_us=300)
        (first, *_) = coverage.blanks(Series.empty(FLOAT), known, self.window)
        assert (first.end_us, first.reason) == (300, GapReason.REMOVED)
        later = Knowledge((Covered(500, None),), known_until_us=2000, removed_until_us=300)
        (first, *_) = coverage.blanks(Series.empty(FLOAT), later, self.window)
        assert (first.end_us, first.reason) == (500, GapReason.NOT_YET_RECORDED)

    def test_a_stopped_logger_leaves_a_hole_with_its_reason(self) -> None:
        covered = (Covered(0, 300, GapReason.LOGGER_PAUSED), Covered(500, 700, GapReason.LOGGER_STOPPED))
        series = Series.of(FLOAT, [0, 500], [1, 2])
        found = coverage.blanks(series, Knowledge(covered, known_until_us=2000), self.window)
        assert [(g.start_us, g.end_us, str(g.reason)) for g in found] == [
            (300, 500, "logger_paused"),
            (700, None, "logger_stopped"),
        ]

    def test_an_unchanged_value_is_known_while_the_recorder_lives(self) -> None:
        known = Knowledge((Covered(0, None),), known_until_us=1000)
        assert coverage.blanks(Series.of(FLOAT, [0], [1]), known, self.window) == []

    def test_coverage_joins_what_overlaps_and_begins_with_the_first_recorder(self) -> None:
        parts = [Covered(500, None), Covered(0, 100), Covered(50, 200), Covered(300, 300), Covered(200, 250)]
        assert coverage.normalised(parts, 600) == (Covered(0, 250), Covered(600, None))
        assert coverage.normalised(parts, None) == (Covered(0, 250),)

    def test_what_was_brought_in_up_to_the_first_recording_joins_it(self) -> None:
        """The logger was made at 40, the recorder began at 90; history up to 100 came in afterwards."""
        parts = [Covered(0, 60), Covered(40, None), Covered(60, 100)]
        assert coverage.normalised(parts, 90) == (Covered(0, None),)


class TestReadAt:
    series = Series.of(FLOAT, [0, 100, 200, 300], [1, 3, 0, 5], [GOOD, GOOD, LOST, GOOD])

    @pytest.mark.parametrize(
        ("at", "value", "how"),
        [
            (100, 3, How.RECORDED),
            (50, 2, How.INTERPOLATED),
            (150, 3, How.HELD),
            (250, None, How.NONE),
            (350, 5, How.HELD),
            (500, None, How.NONE),
            (-1, None, How.NONE),
        ],
    )
    def test_a_reading_says_how_it_came(self, at: int, value: float | None, how: How) -> None:
        reading = read_at(self.series, at, stepped=False, known_until_us=400)
        assert (reading.value, reading.how) == (value, how)

    def test_a_stepped_tag_is_held_not_interpolated(self) -> None:
        reading = read_at(self.series, 50, stepped=True, known_until_us=400)
        assert (reading.value, reading.how) == (1, How.HELD)

    def test_an_interpolated_value_has_the_worse_quality_of_its_ends(self) -> None:
        series = Series.of(FLOAT, [0, 10], [1, 2], [GOOD, q.UNCERTAIN])
        assert read_at(series, 5, stepped=False, known_until_us=9).quality == q.UNCERTAIN


class TestModel:
    @pytest.mark.parametrize(
        ("start", "end", "field"),
        [(5, 5, "end"), (9, 3, "end"), (-1, 5, "start"), (0, 2**62, "end"), (0, 31 * 366 * DAY, "end")],
    )
    def test_an_unusable_window_names_the_field(self, start: int, end: int, field: str) -> None:
        with pytest.raises(InvalidInput) as refused:
            Window.parse(start, end)
        assert refused.value.field == field
        assert refused.value.remedy

    def test_what_is_no_number_becomes_bad(self) -> None:
        series = Series.of(FLOAT, [0, 1, 2], [1.0, float("nan"), float("inf")])
        assert series.quality.tolist() == [GOOD, q.BAD_NO_DATA, q.BAD_NO_DATA]
        assert np.isnan(series.values[1:]).all()

    def test_columns_of_different_length_are_refused(self) -> None:
        with pytest.raises(InvalidInput):
            Series.of(FLOAT, [0, 1], [1.0])

    def test_of_equal_times_the_first_written_stands(self) -> None:
        first, second = Series.of(FLOAT, [10, 20], [1, 2]), Series.of(FLOAT, [20, 15], [9, 8])
        merged = merge([first, second], FLOAT)
        assert merged.ts_us.tolist() == [10, 15, 20]
        assert merged.values.tolist() == [1, 8, 2]

    @given(st.lists(strategies.series(15).filter(lambda s: s.value_type is FLOAT), max_size=4))
    def test_a_merged_series_is_in_order_without_doubles(self, parts: list[Series]) -> None:
        merged = merge(parts, FLOAT)
        assert (np.diff(merged.ts_us) > 0).all()
        assert set(merged.ts_us.tolist()) == {t for p in parts for t in p.ts_us.tolist()}

    @given(strategies.INT64)
    def test_bits_of_integers_come_back(self, value: int) -> None:
        assert from_bits(to_bits(value, ValueType.INTEGER), ValueType.INTEGER) == value

    @given(st.floats(allow_nan=False))
    def test_bits_of_floats_come_back(self, value: float) -> None:
        assert from_bits(to_bits(value, FLOAT), FLOAT) == value

    def test_an_integer_beyond_64_bits_is_refused(self) -> None:
        with pytest.raises(OverflowError):
            to_bits(2**63, ValueType.INTEGER)

    def test_months_are_those_of_utc(self) -> None:
        times = np.array(
            ["2026-10-31T23:59:59.999999", "2026-11-01T00:00:00", "1970-01-01"], "datetime64[us]"
        )
        assert month_of(times.astype(np.int64)).tolist() == [202610, 202611, 197001]

    @pytest.mark.parametrize(
        ("code", "words"), [(0, "Good"), (0x8031, "Bad, no communication"), (0x40FF, "Uncertain (0x40FF)")]
    )
    def test_a_quality_has_words(self, code: int, words: str) -> None:
        assert q.describe(code) == words


class TestPsychrometrics:
    """Against psychrolib 2.5 (ASHRAE Handbook, Fundamentals), at 101,325 Pa."""

    @pytest.fixture(autouse=True)
    def si_units(self) -> None:
        psychrolib.SetUnitSystem(psychrolib.SI)

    @pytest.mark.parametrize("celsius", [5.0, 20.0, 60.0, 80.0, 120.0])
    def test_saturation_pressure(self, celsius: float) -> None:
        found = saturation_pressure(np.array([celsius]))[0]
        assert found == pytest.approx(psychrolib.GetSatVapPres(celsius), rel=1e-9)

    @pytest.mark.parametrize(("celsius", "humidity"), [(60.0, 0.9), (80.0, 0.3), (71.5, 0.79)])
    def test_humidity_ratio_and_back(self, celsius: float, humidity: float) -> None:
        ratio = humidity_ratio(np.array([celsius]), np.array([humidity]))
        expected = psychrolib.GetHumRatioFromRelHum(celsius, humidity, 101_325)
        assert ratio[0] == pytest.approx(expected, rel=1e-5)
        assert relative_humidity(np.array([celsius]), ratio)[0] == pytest.approx(humidity, rel=1e-12)

    @pytest.mark.parametrize(
        ("celsius", "humidity"), [(60.0, 0.9), (80.0, 0.3), (71.5, 0.79), (25.0, 0.35), (95, 0.2)]
    )
    def test_dew_point_and_wet_bulb(self, celsius: float, humidity: float) -> None:
        air = np.array([celsius]), np.array([humidity])
        expected = psychrolib.GetTDewPointFromRelHum(celsius, humidity)
        assert dew_point(*air)[0] == pytest.approx(expected, abs=2e-3), "psychrolib stops within 0.001 °C"
        assert wet_bulb(*air)[0] == pytest.approx(
            psychrolib.GetTWetBulbFromRelHum(celsius, humidity, 101_325), abs=5e-3
        )

    def test_the_dryers_air_by_the_tables(self) -> None:
        """60 °C, 90 %: 57.74 °C and 0.13389 kg/kg; 80 °C, 30 %: 52.88 °C and 0.10156 kg/kg."""
        air = np.array([60.0, 80.0]), np.array([0.9, 0.3])
        assert np.round(dew_point(*air), 2).tolist() == [57.74, 52.88]
        assert np.round(humidity_ratio(*air), 5).tolist() == [0.13389, 0.10156]

    def test_below_freezing_there_is_no_answer_rather_than_a_wrong_one(self) -> None:
        air = np.array([2.0, 2.0, 50.0]), np.array([0.05, 0.0, 1.0])
        assert np.isnan(dew_point(*air)).tolist() == [True, True, False]
        assert np.isnan(wet_bulb(*air)).tolist() == [True, True, False]
        assert dew_point(*air)[2] == pytest.approx(50, abs=1e-9)
        assert wet_bulb(*air)[2] == pytest.approx(50, abs=1e-6)

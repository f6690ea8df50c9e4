"""What is normal for a figure, and where it lies beside it."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats
from scipy.stats import mstats

from cronaca.core.errors import InvalidInput
from cronaca.core.statistics.norms import WIDTHS, Band, Verdict, box, fixed_band, learnt_band, place
from cronaca.core.statistics.sheet import Norm, NormKind, place_column
from tests.support.builders import a_tag

FIGURES = st.lists(st.floats(-1e6, 1e6), min_size=3, max_size=40)


class TestBands:
    def test_a_learnt_one_is_median_and_mads(self) -> None:
        assert learnt_band([1.0, 2.0, 3.0, 4.0, 100.0], 2.0) == Band(1.0, 3.0, 5.0, 5)

    def test_the_odd_one_hardly_moves_it(self) -> None:
        calm = learnt_band([10.0, 10.2, 9.9, 10.1])
        odd = learnt_band([10.0, 10.2, 9.9, 25.0])
        assert calm is not None
        assert odd is not None
        assert odd.centre == pytest.approx(calm.centre, abs=0.1)
        assert place(25.0, odd).place is Verdict.FAR_ABOVE
        assert [place(x, odd).place for x in (10.0, 10.2, 9.9)] == [Verdict.NORMAL] * 3

    def test_of_fewer_than_three_nothing_is_learnt(self) -> None:
        assert learnt_band([1.0, 2.0, np.nan]) is None
        assert place(1.0, None) == place(2.0, None)
        assert place(1.0, None).place is Verdict.UNKNOWN

    @given(FIGURES)
    def test_it_agrees_with_a_reference(self, values: list[float]) -> None:
        """scipy.stats.median_abs_deviation."""
        found = learnt_band(values, 1.0)
        assert found is not None
        spread = float(stats.median_abs_deviation(values))
        assert found.high - found.centre == pytest.approx(spread, abs=1e-9, rel=1e-9)

    def test_as_wide_as_three_standard_deviations_of_a_normal_distribution(self) -> None:
        values = np.random.default_rng(3).normal(50.0, 2.0, 200_000)
        found = learnt_band(values, WIDTHS)
        assert found is not None
        assert (found.high - found.centre) / 2.0 == pytest.approx(3.0, rel=0.02)

    def test_what_hardly_differs_is_normal_however_alike_the_others_are(self) -> None:
        assert learnt_band([10.0, 10.0, 10.0, 10.1], least=0.5) == Band(9.5, 10.0, 10.5, 4)
        tags = [a_tag(f"Line {n} Zone 1 air temperature", range_low=50.0, range_high=90.0) for n in range(4)]
        values: list[float | None] = [70.0, 70.0, 70.0, 70.15]
        none: list[list[float | None]] = [[]] * 4
        told = place_column(Norm(), tags, values, none, stat="TimeAverage2", result="number")[3]
        assert told[1].place is Verdict.NORMAL
        assert told[0] == Band(69.8, 70.0, 70.2, 4)
        assert (
            place_column(Norm(), tags, values, none, stat="OnTimeMean", result="seconds")[3][1].place
            is Verdict.ABOVE
        )
        strict = place_column(Norm(least=0.1), tags, values, none, stat="Maximum", result="source")
        assert strict[3][1].place is Verdict.FAR_ABOVE
        counts: list[float | None] = [2.0, 2.0, 2.0, 4.0]
        counted = place_column(Norm(), tags, counts, none, stat="Starts", result="count")
        assert [at.place for _, at in counted[2:]] == [Verdict.NORMAL, Verdict.ABOVE], (
            "one more or less is nothing"
        )

    def test_only_what_lies_on_the_scale_of_a_tag_is_compared_with_its_range(self) -> None:
        tags = [a_tag("Line 1 Zone 1 air temperature", range_low=50.0, range_high=90.0)]
        norm = Norm(NormKind.RANGE)
        ((band, at),) = place_column(norm, tags, [70.0], [[]], stat="Maximum", result="source")
        assert (band, at.place) == (Band(50.0, 70.0, 90.0), Verdict.NORMAL)
        deviation = "StandardDeviationPopulation"
        ((band, at),) = place_column(norm, tags, [1.5], [[]], stat=deviation, result="number")
        assert (band, at.place) == (None, Verdict.UNKNOWN)

    @pytest.mark.parametrize("make", [
        lambda: fixed_band(2.0, 2.0), lambda: fixed_band(3.0, 2.0), lambda: fixed_band(0.0, np.inf),
        lambda: learnt_band([1.0, 2.0, 3.0], 0.0), lambda: learnt_band([1.0, 2.0, 3.0], np.nan),
    ])  # fmt: skip
    def test_what_cannot_be_is_refused(self, make: object) -> None:
        assert callable(make)
        with pytest.raises(InvalidInput):
            make()


class TestPlaces:
    @pytest.mark.parametrize(("value", "position", "word"), [
        (5.0, 0.0, Verdict.NORMAL), (10.0, 1.0, Verdict.NORMAL), (0.0, -1.0, Verdict.NORMAL),
        (10.1, 1.02, Verdict.ABOVE), (15.0, 2.0, Verdict.ABOVE), (15.1, 2.02, Verdict.FAR_ABOVE),
        (-0.1, -1.02, Verdict.BELOW), (-5.1, -2.02, Verdict.FAR_BELOW),
    ])  # fmt: skip
    def test_by_half_widths_from_the_centre(self, value: float, position: float, word: Verdict) -> None:
        found = place(value, fixed_band(0.0, 10.0))
        assert found.position == pytest.approx(position)
        assert found.place is word

    @pytest.mark.parametrize("value", [None, np.nan, np.inf])
    def test_what_is_no_number_has_no_place(self, value: float | None) -> None:
        assert place(value, fixed_band(0.0, 10.0)).place is Verdict.NO_VALUE

    def test_where_all_were_equal_another_is_off_and_nothing_says_how_far(self) -> None:
        flat = learnt_band([4.0, 4.0, 4.0, 5.0])
        assert place(4.0, flat).position == 0.0
        assert place(5.0, flat) == place(6.0, flat)
        assert place(5.0, flat).position is None
        assert [place(5.0, flat).place, place(3.0, flat).place] == [Verdict.ABOVE, Verdict.BELOW]

    @given(FIGURES, st.floats(0.001, 1000.0), st.floats(-1e3, 1e3))
    def test_another_unit_changes_nothing(self, values: list[float], scale: float, shift: float) -> None:
        """A figure in other units lies at the same place, as far as floats can tell."""
        one = learnt_band(values)
        two = learnt_band([scale * x + shift for x in values])
        assert one is not None
        assert two is not None
        if one.high - one.low > 1e-3 * (abs(one.centre) + 1.0):
            before, after = place(values[0], one).position, place(scale * values[0] + shift, two).position
            assert after == pytest.approx(before, rel=1e-3, abs=1e-3)


class TestBoxes:
    @given(FIGURES)
    def test_quartiles_agree_with_a_reference(self, values: list[float]) -> None:
        """scipy.stats.mstats.mquantiles with alphap = betap = 1 (type 7)."""
        found = box(values)
        assert found is not None
        wanted = mstats.mquantiles(values, [0.25, 0.5, 0.75], alphap=1, betap=1)
        assert [found.first, found.median, found.third] == pytest.approx(wanted.tolist(), abs=1e-6)
        assert min(values) <= found.low <= found.high <= max(values)

    def test_whiskers_end_at_figures_and_those_beyond_are_told(self) -> None:
        found = box([1.0, 2.0, 3.0, 4.0, 5.0, 20.0, -30.0, np.nan])
        assert found is not None
        assert (found.low, found.high, found.beyond) == (1.0, 5.0, (-30.0, 20.0))
        assert box([]) is None

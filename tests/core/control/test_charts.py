"""Control charts where values are missing, references too short, and runs unlikely."""

from __future__ import annotations

import numpy as np
import pytest

from cronaca.core.control import (
    RULES,
    Chart,
    broken,
    constants_of,
    cusum,
    ewma,
    individuals,
    mean_and_deviation,
    means_and_ranges,
)
from cronaca.core.errors import InvalidInput

NAN = np.nan


def chart(z: list[float]) -> Chart:
    """Points in standard deviations from a centre of 10, each 2 wide."""
    points = 10.0 + 2.0 * np.array(z)
    return Chart(points, 10.0, np.full(len(z), 4.0), np.full(len(z), 16.0), np.full(len(z), 2.0))


def first_broken(rule: int, z: list[float]) -> int | None:
    found = [i for i, numbers in enumerate(broken(chart(z), [rule])) if rule in numbers]
    return found[0] if found else None


class TestRules:
    @pytest.mark.parametrize(("rule", "z", "place"), [
        (1, [0, 2.9, 3.1], 2), (1, [0, -3.1], 1), (1, [3.0, -3.0], None),
        (2, [0.1] * 9, 8), (2, [0.1] * 8 + [-0.1], None), (2, [-0.1] * 10, 8),
        (2, [0.1] * 4 + [0.0] * 9, None),
        (3, [0, 0.1, 0.2, 0.3, 0.4, 0.5], 5), (3, [0.5, 0.4, 0.3, 0.2, 0.1, 0], 5),
        (3, [0, 0.1, 0.2, 0.2, 0.4, 0.5, 0.6], None),
        (4, [0.5, -0.5] * 7, 13), (4, [0.5, -0.5] * 6 + [0.5, 0.6], None),
        (5, [2.1, 0, 2.1], 2), (5, [2.1, 2.1], 1), (5, [2.1, 0, 0, 2.1], None), (5, [2.1, 0, -2.1], None),
        (6, [1.1, 1.1, 0, 1.1, 1.1], 4), (6, [1.1, 1.1, 0, 0, 1.1], None), (6, [-1.1] * 4, 3),
        (7, [0.9, -0.9] * 8, 14), (7, [0.9] * 14 + [1.1], None),
        (8, [1.1, -1.1] * 4, 7), (8, [1.1, -1.1] * 3 + [0.9, 1.1], None),
    ])  # fmt: skip
    def test_each_speaks_where_its_run_is_complete_and_not_before(
        self, rule: int, z: list[float], place: int | None
    ) -> None:
        assert first_broken(rule, z) == place

    def test_a_missing_point_is_passed_over(self) -> None:
        z = [0.1] * 4 + [NAN] + [0.1] * 5
        assert first_broken(2, z) == 9
        assert broken(chart(z), [2])[4] == ()

    @pytest.mark.parametrize("z", [[], [NAN], [NAN, NAN]])
    def test_a_window_without_any_value_breaks_no_rule(self, z: list[float]) -> None:
        assert broken(chart(z), list(RULES)) == [()] * len(z)

    def test_several_are_told_beside_each_other_and_an_unknown_one_is_refused(self) -> None:
        assert broken(chart([3.5, 3.5]), [1, 5])[1] == (1, 5)
        with pytest.raises(InvalidInput, match="no rule 9"):
            broken(chart([0.0]), [9])

    def test_without_a_spread_what_is_off_the_centre_is_beyond(self) -> None:
        flat = Chart(np.array([1.0, 1.5]), 1.0, np.ones(2), np.ones(2), np.zeros(2))
        assert broken(flat, [1, 7]) == [(), (1,)]

    def test_chance_alone_breaks_them_as_seldom_as_is_published(self) -> None:
        """Rule 1: 0.27 % of points; rule 2: 2 * 0.5^9 for a run of nine (by counting)."""
        z = np.random.default_rng(4).standard_normal(200_000)
        found = broken(chart(z.tolist()), [1, 2])
        assert sum(1 in one for one in found) / len(z) == pytest.approx(0.0027, rel=0.15)
        assert sum(2 in one for one in found) / len(z) == pytest.approx(2 * 0.5**9, rel=0.15)

    def test_there_are_eight(self) -> None:
        assert list(RULES) == [1, 2, 3, 4, 5, 6, 7, 8]


class TestCharts:
    def test_a_missing_value_is_passed_over_and_its_place_stays_empty(self) -> None:
        values = np.array([1.0, NAN, 3.0, 4.0])
        pair = individuals(values, values)
        assert pair.spreads.points.tolist()[2:] == [2.0, 1.0]
        assert np.isnan(pair.spreads.points[:2]).all()
        assert np.isnan(ewma(values, values).points[1])
        assert np.isnan(cusum(values, target=2, allowance=0.1, limit=1).high[1])
        assert cusum(values, target=2, allowance=0.0, limit=1).high.tolist()[2:] == [1.0, 3.0]

    def test_limits_come_from_the_reference_alone(self) -> None:
        reference = np.array([10.0, 11.0, 10.0, 11.0])
        found = individuals(np.array([10.5, 20.0]), reference).places
        assert found.centre == 10.5
        assert found.outside.tolist() == [False, True]

    def test_limits_of_means_are_those_of_a2_before_it_is_rounded(self) -> None:
        """A2 = 0.577 for subgroups of five (ISO 7870-2, from memory)."""
        groups = np.array([[1.0, 2.0, 3.0, 4.0, 6.0], [2.0, 2.0, 3.0, 5.0, 5.0]])
        places = means_and_ranges(groups, groups).places
        assert (places.upper[0] - places.centre) / 4.0 == pytest.approx(0.577, abs=5e-4)

    def test_an_ewma_and_a_cusum_go_by_the_same_deviation(self) -> None:
        reference = np.array([1.0, 2.0, np.nan, 6.0])
        centre, sigma = mean_and_deviation(reference)
        assert centre == 3.0 and sigma == pytest.approx(np.sqrt(7.0))
        smooth = ewma(reference, reference, weight=1.0)
        assert smooth.upper[0] - smooth.centre == pytest.approx(3 * sigma)

    def test_first_limits_of_an_ewma_are_narrower_unless_it_has_settled(self) -> None:
        values = np.array([0.0, 1.0, 0.0, 1.0, 0.0, 1.0])
        young, settled = ewma(values, values, settled=False), ewma(values, values)
        assert young.upper[0] - young.centre == pytest.approx(3 * 0.3 * values.std(ddof=1))
        assert (np.diff(young.upper) > 0).all()
        assert (young.upper < settled.upper).all()

    def test_a_subgroup_with_a_missing_value_is_passed_over(self) -> None:
        groups = np.array([[1.0, 2.0], [NAN, 2.0], [3.0, 5.0]])
        found = means_and_ranges(groups, groups)
        assert [found.places.points[0], found.places.points[2]] == [1.5, 4.0]
        assert np.isnan(found.places.points[1])
        assert found.spreads.centre == 1.5

    @pytest.mark.parametrize("make", [
        lambda: individuals(np.ones(3), np.ones(1)), lambda: ewma(np.ones(3), np.array([NAN, 1.0])),
        lambda: ewma(np.ones(3), np.arange(3.0), weight=0.0), lambda: constants_of(11),
        lambda: cusum(np.ones(3), target=1, allowance=-1, limit=1),
        lambda: means_and_ranges(np.ones((2, 2)), np.full((2, 2), NAN)),
    ])  # fmt: skip
    def test_what_cannot_be_is_refused(self, make: object) -> None:
        assert callable(make)
        with pytest.raises(InvalidInput):
            make()

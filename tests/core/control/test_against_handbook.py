"""Control charts against published worked examples.

NIST/SEMATECH e-Handbook of Statistical Methods (https://www.itl.nist.gov/div898/handbook/), 6.3.2.2
(individuals), 6.3.2.3 (CUSUM), 6.3.2.4 (EWMA). Data and results are written down from memory: that the
printed results follow from the data to the printed digits says that both were remembered rightly.
"""

from __future__ import annotations

import numpy as np
import pytest
from scipy import integrate
from scipy.special import ndtr

from cronaca.core.aggregates.samples import Floats
from cronaca.core.control import constants_of, cusum, individuals, means_and_ranges, smoothed

FLOW = np.array([49.6, 47.6, 49.9, 51.3, 47.8, 51.2, 52.6, 52.4, 53.6, 52.1])
EWMA = np.array([
    52.0, 47.0, 53.0, 49.3, 50.1, 47.0, 51.0, 50.1, 51.2, 50.5,
    49.6, 47.6, 49.9, 51.3, 47.8, 51.2, 52.6, 52.4, 53.6, 52.1,
])  # fmt: skip
CUSUM = np.array([
    324.925, 324.675, 324.725, 324.350, 325.350, 325.225, 324.125, 324.525, 325.225, 324.600,
    324.625, 325.150, 328.325, 327.250, 327.825, 328.500, 326.675, 327.775, 326.875, 328.350,
])  # fmt: skip


def density(x: Floats) -> Floats:
    return np.asarray(np.exp(-(x**2) / 2) / np.sqrt(2 * np.pi))


class TestIndividuals:
    """6.3.2.2: ten batches of a flow rate."""

    def test_moving_ranges_are_the_printed_ones(self) -> None:
        spreads = individuals(FLOW, FLOW).spreads
        assert np.isnan(spreads.points[0])
        assert spreads.points[1:] == pytest.approx([2.0, 2.3, 1.4, 3.5, 3.4, 1.4, 0.2, 1.2, 1.5])
        assert round(spreads.centre, 4) == 1.8778

    def test_centre_and_limits_are_the_printed_ones(self) -> None:
        places = individuals(FLOW, FLOW).places
        assert round(places.centre, 2) == 50.81
        assert places.upper[0] == pytest.approx(55.8041, abs=0.00006)
        assert places.lower[0] == pytest.approx(45.8159, abs=0.00006)
        assert not places.outside.any()


class TestEwma:
    """6.3.2.4: 20 values, target 50, s = 2.0539, weight 0.3."""

    def test_points_are_the_printed_ones(self) -> None:
        chart = smoothed(EWMA, 50.0, 2.0539, weight=0.3, widths=3.0, settled=True)
        assert [round(x, 2) for x in chart.points] == [
            50.60, 49.52, 50.56, 50.18, 50.16, 49.21, 49.75, 49.85, 50.26, 50.33,
            50.11, 49.36, 49.52, 50.05, 49.38, 49.92, 50.73, 51.23, 51.94, 51.99,
        ]  # fmt: skip

    def test_limits_are_the_printed_ones(self) -> None:
        chart = smoothed(EWMA, 50.0, 2.0539, weight=0.3, widths=3.0, settled=True)
        # The handbook rounds sqrt(0.3 / 1.7) to 0.4201 first: 0.0001 in the limits, which it prints so.
        assert chart.upper[0] == pytest.approx(52.5884, abs=0.00005)
        assert pytest.approx(47.4115, abs=0.00005) == 50 - 3 * 2.0539 * 0.4201
        assert chart.lower[0] == pytest.approx(47.4115, abs=0.0001)
        assert not chart.outside.any()


class TestCusum:
    """6.3.2.3: 20 means of groups, target 325, k = 0.3175, h = 4.1959."""

    def test_high_sums_are_the_printed_ones(self) -> None:
        found = cusum(CUSUM, target=325.0, allowance=0.3175, limit=4.1959)
        assert found.high[4] == pytest.approx(0.03, abs=0.005)
        assert found.high[12:] == pytest.approx(
            [3.01, 4.94, 7.45, 10.63, 11.99, 14.44, 16.00, 19.04], abs=0.0051
        )

    def test_the_process_is_out_of_control_from_group_14_on(self) -> None:
        found = cusum(CUSUM, target=325.0, allowance=0.3175, limit=4.1959)
        assert np.flatnonzero(found.outside).tolist() == [13, 14, 15, 16, 17, 18, 19]


class TestConstants:
    @pytest.mark.parametrize(("size", "d2", "a2", "lower", "upper"), [
        (2, 1.128, 1.880, 0.0, 3.267), (3, 1.693, 1.023, 0.0, 2.575), (4, 2.059, 0.729, 0.0, 2.282),
        (5, 2.326, 0.577, 0.0, 2.114), (6, 2.534, 0.483, 0.0, 2.004), (7, 2.704, 0.419, 0.076, 1.924),
        (8, 2.847, 0.373, 0.136, 1.864), (9, 2.970, 0.337, 0.184, 1.816), (10, 3.078, 0.308, 0.223, 1.777),
    ])  # fmt: skip
    def test_they_are_those_of_the_tables(
        self, size: int, d2: float, a2: float, lower: float, upper: float
    ) -> None:
        """ISO 7870-2 and the ASTM manual, three decimals, from memory; tables differ by one in the last digit
        of D4 (2.574 and 2.575, 2.114 and 2.115)."""
        found = constants_of(size)
        values = [found.d2, found.a2, found.lower_range, found.upper_range]
        assert values == pytest.approx([d2, a2, lower, upper], abs=0.0011)

    @pytest.mark.parametrize("size", range(2, 11))
    def test_they_follow_from_the_normal_distribution(self, size: int) -> None:
        """Moments of the range by integrating its distribution (Tippett, Biometrika 17, 1925)."""
        x = np.linspace(-9, 9, 3001)
        mean = integrate.simpson(1 - ndtr(x) ** size - ndtr(-x) ** size, x=x)
        w = np.linspace(0, 12, 1201)
        inside = integrate.simpson(
            size * density(x) * (ndtr(x + w[:, None]) - ndtr(x)) ** (size - 1), x=x, axis=1
        )
        second = integrate.simpson(2 * w * (1 - inside), x=w)
        found = constants_of(size)
        spread = np.sqrt(second - mean**2)
        assert found.d2 == round(mean, 3)
        assert found.upper_range == round(1 + 3 * spread / mean, 3)
        assert found.lower_range == round(max(0, 1 - 3 * spread / mean), 3)

    def test_means_and_ranges_have_the_limits_that_the_constants_give(self) -> None:
        """Piston rings: grand mean 74.001 and mean range 0.023 of subgroups of five give 74.014 and 73.988,
        and 0.049 for the ranges (D. C. Montgomery, Introduction to Statistical Quality Control; from
        memory)."""
        groups = np.array([[73.9895, 74.0125, 74.001, 74.001, 74.001]] * 3)
        found = means_and_ranges(groups, groups)
        assert found.spreads.centre == pytest.approx(0.023)
        assert [round(found.places.upper[0], 3), round(found.places.lower[0], 3)] == [74.014, 73.988]
        assert round(found.spreads.upper[0], 3) == 0.049
        assert found.spreads.lower[0] == 0.0

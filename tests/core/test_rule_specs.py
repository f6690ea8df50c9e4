"""Rules as they are set up: what they keep, where they have no meaning, which one is recommended."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.typing import NDArray
from scipy import stats

from cronaca.core.addresses.generator import GeneratorAddress, Shape, SignalBank, parse_generator_address
from cronaca.core.errors import InvalidInput
from cronaca.core.logger_rules import replay, rule_for
from cronaca.core.logger_rules.recommend import recommend
from cronaca.core.model import SECOND, RuleKind, RuleSpec, Series, Tag, ValueType
from tests.support.builders import NOW, a_tag


@pytest.mark.parametrize(
    ("readings", "spec", "kept"),
    [
        ({0: 1, 1: 1.4, 2: 1.6, 3: 2.0}, RuleSpec(width=0.5), {0: 1, 2: 1.6}),
        (dict.fromkeys(range(71), 7), RuleSpec(longest_silence_us=30 * SECOND), {0: 7, 30: 7, 60: 7}),
        ({0: 1, 1: 5, 2: 9, 3: 2, 4: 3, 11: 3}, RuleSpec(rate_limit_us=10 * SECOND), {0: 1, 4: 3}),
        (
            {0: 1, 1: 5, 2: 9, 3: 2, 4: 3, 11: 3},
            RuleSpec(rate_limit_us=10 * SECOND, keep_extremes=True),
            {0: 1, 2: 9, 3: 2, 4: 3},
        ),
    ],
)
def test_docs_set_up_tells_what_the_rules_do(
    readings: dict[int, float], spec: RuleSpec, kept: dict[int, float]
) -> None:
    """The examples of docs/set-up.md."""
    tag = a_tag("t", stepped=True)
    series = Series.of(ValueType.FLOAT, [t * SECOND for t in readings], list(readings.values()))
    found = replay(rule_for(spec, tag), series)
    assert dict(zip((found.ts_us // SECOND).tolist(), found.values.tolist(), strict=True)) == kept


@pytest.mark.parametrize(
    ("spec", "tag", "field"),
    [
        (RuleSpec(width=5, of_range=True), a_tag("t", range_low=0, range_high=0), "width"),
        (RuleSpec(width=5, of_range=True), a_tag("t", ValueType.BOOLEAN), "width"),
        (RuleSpec(kind=RuleKind.LINE, width=1), a_tag("t", stepped=True), "rule"),
        (RuleSpec(kind=RuleKind.LINE, width=1), a_tag("t", ValueType.INTEGER), "rule"),
    ],
)
def test_a_rule_without_a_meaning_for_its_tag_is_refused(spec: RuleSpec, tag: Tag, field: str) -> None:
    with pytest.raises(InvalidInput) as caught:
        rule_for(spec, tag)
    assert caught.value.field == field


class TestAdvice:
    TIMES = NOW + np.arange(3_600) * SECOND

    def advice(self, values: NDArray[np.float64], kind: ValueType = ValueType.FLOAT) -> RuleSpec:
        series = Series.of(kind, self.TIMES, values)
        return recommend(series, stepped=kind is not ValueType.FLOAT, decimals=1).rule

    def test_a_contact_keeps_every_change(self) -> None:
        assert (
            self.advice(((self.TIMES // (60 * SECOND)) % 2).astype(np.float64), ValueType.BOOLEAN)
            == RuleSpec()
        )

    def test_noise_decides_the_width(self) -> None:
        rng = np.random.default_rng(3)
        slow = 50 + 20 * np.sin(np.arange(3_600) / 300)
        found = self.advice(slow + rng.normal(0, 0.5, 3_600))
        assert found.kind is RuleKind.LINE
        assert found.width == pytest.approx(4 * 0.5, rel=0.1), "four standard deviations of the noise"

    def test_spikes_are_not_smoothed_away(self) -> None:
        rng = np.random.default_rng(3)
        values = 50 + rng.normal(0, 0.5, 3_600)
        values[[500, 1500, 2500]] += 30
        found = self.advice(values)
        assert found.kind is RuleKind.CHANGE and found.keep_extremes
        series = Series.of(ValueType.FLOAT, self.TIMES, values)
        kept = replay(rule_for(found, a_tag("t")), series)
        assert {500, 1500, 2500} <= set(((kept.ts_us - NOW) // SECOND).tolist())

    def test_a_value_that_hardly_changes_keeps_every_change(self) -> None:
        values = np.full(3_600, 20.0)
        values[1_800:] = 21.0
        assert self.advice(values) == RuleSpec()


class TestGenerator:
    TIMES = NOW + np.arange(20_000) * (SECOND // 10)

    @pytest.mark.parametrize("shape", list(Shape))
    def test_each_shape_stays_between_its_ends_and_is_a_function_of_time_alone(self, shape: Shape) -> None:
        place = GeneratorAddress(shape, low=-5, high=10, period_s=30, seed=4)
        values = place.values(self.TIMES)
        assert -5 <= values.min() < values.max() <= 10
        assert np.array_equal(values[500:], place.values(self.TIMES[500:]))
        assert parse_generator_address(place.to_json()) == place

    def test_noise_is_uniform_and_white(self) -> None:
        """Kolmogorov-Smirnov against the uniform distribution, and no correlation from one to the next."""
        values = GeneratorAddress(Shape.NOISE, 0, 1, seed=9).values(self.TIMES)
        assert stats.kstest(values, "uniform").pvalue > 0.01
        assert abs(np.corrcoef(values[1:], values[:-1])[0, 1]) < 0.03


def test_a_line_across_a_pause_longer_than_the_silence_keeps_both_of_its_ends() -> None:
    """A source that was away for an hour: no line is drawn across it, and no reading beside it is lost."""
    seconds = [0, 1, 2, 3_600, 3_601, 3_602]
    series = Series.of(ValueType.FLOAT, [t * SECOND for t in seconds], [5.0] * 6)
    spec = RuleSpec(kind=RuleKind.LINE, width=1, longest_silence_us=60 * SECOND)
    found = replay(rule_for(spec, a_tag("t")), series)
    assert (found.ts_us // SECOND).tolist() == [0, 2, 3_600, 3_602]


def test_a_bank_gives_each_signal_the_value_that_it_has_alone() -> None:
    signals = [
        GeneratorAddress(shape, -i, 10 * i + 1, 7.5 * (i + 1), 0.5 * i, seed=i)
        for i, shape in enumerate([*Shape, *Shape])
    ]
    bank = SignalBank(signals)
    for ts in (NOW + np.arange(5) * 1_234_567).tolist():
        alone = [float(one.values(np.array([ts]))[0]) for one in signals]
        assert bank.at(ts).tolist() == alone
    assert SignalBank([]).at(NOW).tolist() == []

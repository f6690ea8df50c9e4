"""Figures with their options in one line, and what they are called."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cronaca.core.errors import InvalidInput
from cronaca.core.figures import all_figures
from cronaca.core.statistics import Base, StatSpec, Weight
from cronaca.core.statistics.spec import OF_ONE_STATE
from cronaca.core.statistics.texts import read_figure, with_options, write_figure
from cronaca.core.statistics.words import LABELS, label_of, written


@pytest.mark.parametrize("text,spec,label", [
    ("Travel", StatSpec("Travel"), "Travel"),
    ("Percentile 95", StatSpec("Percentile", 95.0), "Percentile 95"),
    ("Percentile 2.5 samples", StatSpec("Percentile", 2.5, Weight.SAMPLES), "Percentile 2.5 of samples"),
    ("Median samples", StatSpec("Median", weight=Weight.SAMPLES), "Median of samples"),
    ("Integral hour", StatSpec("Integral", base=Base.HOUR), "Integral over hours"),
    ("Slope minute", StatSpec("Slope", base=Base.MINUTE), "Slope per minute"),
    ("TimeInState -2", StatSpec("TimeInState", state=-2), "Time in state -2"),
])  # fmt: skip
def test_a_line_names_a_figure_with_its_options(text: str, spec: StatSpec, label: str) -> None:
    assert read_figure(text) == spec
    assert write_figure(spec) == text
    assert label_of(text) == label


@given(
    name=st.sampled_from(sorted(all_figures())), percent=st.integers(0, 1000).map(lambda n: n / 10),
    weight=st.sampled_from(Weight), base=st.none() | st.sampled_from(Base), state=st.integers(-99, 99),
)  # fmt: skip
def test_what_is_written_is_read_as_the_same(
    name: str, percent: float, weight: Weight, base: Base | None, state: int
) -> None:
    spec = StatSpec(
        name, percent if name == "Percentile" else 50.0, weight, base,
        state=state if name in OF_ONE_STATE else None,
    )  # fmt: skip
    assert read_figure(write_figure(spec)) == spec


@pytest.mark.parametrize("text", ["Travel 5", "Percentile high", "TimeInState 1.5", "Median hours"])
def test_an_option_that_means_nothing_is_refused(text: str) -> None:
    with pytest.raises(InvalidInput) as caught:
        read_figure(text)
    assert caught.value.field == "stat"


def test_a_class_file_names_the_options() -> None:
    assert with_options(StatSpec("Percentile"), {"percent": 5, "weight": "samples"}) == StatSpec(
        "Percentile", 5.0, Weight.SAMPLES
    )
    for wrong in ({"percents": 5}, {"base": "year"}, {"state": None}):
        with pytest.raises(InvalidInput) as caught:
            with_options(StatSpec("Percentile"), wrong)
        assert caught.value.field == "parameters"


def test_every_figure_has_a_name_for_people() -> None:
    assert set(LABELS) == set(all_figures())
    assert len(set(LABELS.values())) == len(LABELS), "two of one name could not be told apart"


def test_times_are_written_in_seconds_and_counts_without_a_unit() -> None:
    assert written("DurationGood", 1_500.0, "ms", 2) == (1.5, "1.5", "s")
    assert written("TimeInState 2", 90.0, "", 0)[1:] == ("90.0", "s")
    assert written("FallingEdges", 3.0, "bar", 2)[1:] == ("3", "")
    assert written("Percentile 95", 1.23456, "bar", 2)[1:] == ("1.2346", "bar")

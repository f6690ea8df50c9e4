"""What people type to see some samples only."""

from __future__ import annotations

import pytest

from cronaca.core import quality as q
from cronaca.core.errors import InvalidInput
from cronaca.core.model import Series, ValueType
from cronaca.core.samples import QualityChoice, ValueCondition, matching

BIG = (1 << 53) + 1
NO_NAMES: dict[int, str] = {}


def shown(text: str, series: Series, names: dict[int, str] | None = None) -> list[object]:
    found = matching(series, ValueCondition.parse(text), QualityChoice.ANY, names or NO_NAMES)
    return list(found.values.tolist())


def series(value_type: ValueType, values: list[float], quality: list[int] | None = None) -> Series:
    return Series.of(value_type, list(range(len(values))), values, quality)


@pytest.mark.parametrize(
    ("text", "values"),
    [
        ("> 80", [80.5, 100.0]),
        (">=80", [80.0, 80.5, 100.0]),
        ("< -1e0", [-2.5]),
        ("<= -2.5", [-2.5]),
        ("= 80", [80.0]),
        ("80", [80.0]),
        ("!= 80", [-2.5, 80.5, 100.0]),
        ("80 to 80.5", [80.0, 80.5]),
        ("-3 to .5", [-2.5]),
        ("", [-2.5, 80.0, 80.5, 100.0]),
        ("hot", []),
    ],
)
def test_numbers_are_compared(text: str, values: list[float]) -> None:
    assert shown(text, series(ValueType.FLOAT, [-2.5, 80.0, 80.5, 100.0])) == values


def test_whole_numbers_are_compared_exactly() -> None:
    counts = series(ValueType.INTEGER, [BIG - 1, BIG, BIG + 1])
    assert shown(f"= {BIG}", counts) == [BIG]
    assert shown(f"> {BIG}", counts) == [BIG + 1]
    assert shown(f"< {1 << 70}", counts) == [BIG - 1, BIG, BIG + 1]


def test_states_and_texts_are_found_by_their_names() -> None:
    states = series(ValueType.STATE, [0, 1, 2])
    names = {0: "Idle", 1: "Runs slowly", 2: "Runs", 30: "Recipe 30"}
    assert shown("runs", states, names) == [1, 2]
    assert shown("= 2", states, names) == [2]
    texts = series(ValueType.TEXT, [7, 8])
    assert shown("8", texts, {7: "LOT-8", 8: "LOT-9"}) == [7]
    assert shown("> 7", texts, {7: "LOT-8", 8: "> 7 kg"}) == [8]


def test_contacts_are_found_by_true_and_false_and_by_their_states() -> None:
    contact = series(ValueType.BOOLEAN, [0, 1])
    assert shown("true", contact) == [1]
    assert shown("0", contact) == [0]
    assert shown("open", contact, {0: "closed", 1: "open"}) == [1]


def test_what_is_bad_has_no_value_that_could_match() -> None:
    values = series(ValueType.INTEGER, [0, 5], [q.BAD_NO_DATA, q.GOOD])
    assert shown("= 0", values) == []
    assert shown("!= 7", values) == [5]


@pytest.mark.parametrize("text", ["> hot", ">", "<= 1,5", "=> 5", "!5"])
def test_a_comparison_with_no_number_is_refused(text: str) -> None:
    with pytest.raises(InvalidInput, match="does not compare with a number"):
        ValueCondition.parse(text)


def test_a_range_that_ends_before_it_begins_is_refused() -> None:
    with pytest.raises(InvalidInput, match="ends before it begins"):
        ValueCondition.parse("90 to 80")


@pytest.mark.parametrize(
    ("choice", "values"),
    [("any", 3), ("good", 1), ("uncertain", 1), ("bad", 1), ("not_good", 2)],
)
def test_samples_are_chosen_by_quality(choice: str, values: int) -> None:
    mixed = series(ValueType.FLOAT, [1.0, 2.0, 3.0], [q.GOOD, 0x4000, q.BAD_NO_DATA])
    assert len(matching(mixed, None, QualityChoice(choice), NO_NAMES)) == values

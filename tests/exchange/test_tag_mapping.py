"""Tables of tags from elsewhere: their columns are guessed, mapped, and their words understood."""

from __future__ import annotations

from typing import Any

import pytest

from cronaca.core.errors import InvalidInput
from cronaca.exchange.tag_mapping import FromColumn, columns_of, is_ours, mapped, suggest

TABLE: list[list[Any]] = [
    ["Symbol", "Data type", "Address", "Comment", "EU", "Min", "Max"],
    ["L5.Air", "REAL", "40011", "Air temperature", "degC", 20, 90],
    ["L5.Door", "BOOL", 10005.0, "Door", "", None, None],
    [None, None, None, None, None, None, None],
    ["L5.Count", "DINT", "300101", "Pieces", "1", "0", "1000"],
]
LINE_5 = FromColumn(value="Line 5 controller")


def test_columns_have_examples_and_their_different_words_where_these_are_few() -> None:
    columns = columns_of([["a", " b ", ""], *[[f"n{i}", "x" if i % 2 else "y", "z"] for i in range(100)]])
    assert [(one.name, one.examples) for one in columns] == [("a", ("n0", "n1", "n2")), ("b", ("y", "x"))]
    assert [one.words for one in columns] == [(), ("y", "x")], "a hundred names are no words"


def test_a_file_without_a_heading_is_refused() -> None:
    with pytest.raises(InvalidInput, match="no heading"):
        columns_of([])
    assert is_ours(columns_of([["name", "source", "address.table", "unit"]]))
    assert not is_ours(columns_of([["name", "unit"]])) and not is_ours(columns_of(TABLE))


def test_columns_are_guessed_by_their_names() -> None:
    found = {name: one.column for name, one in suggest(columns_of(TABLE)).items()}
    assert found == {
        "name": "Symbol", "description": "Comment", "value_type": "Data type", "unit": "EU",
        "range_low": "Min", "range_high": "Max", "address.reference": "Address",
        "address.data_type": "Data type",
    }  # fmt: skip


def test_types_references_and_words_become_ours() -> None:
    mapping = {
        **suggest(columns_of(TABLE)),
        "source": LINE_5,
        "unit": FromColumn("EU", words={"degC": "°C", "1": ""}),
    }
    header, *rows = mapped(TABLE, mapping)
    lines = [dict(zip(header, row, strict=True)) for row in rows]
    assert [line["value_type"] for line in lines] == ["float", "boolean", "integer"]
    assert [line["address.data_type"] for line in lines] == ["float32", "bool", "int32"]
    places = [(line["address.table"], line["address.address"]) for line in lines]
    # Common practice: 4xxxx holding registers, 1xxxx discrete inputs, 3xxxx input registers, counted from 1.
    assert places == [("holding_register", 10), ("discrete_input", 4), ("input_register", 100)]
    assert [line["unit"] for line in lines] == ["°C", "", ""]
    assert {line["source"] for line in lines} == {"Line 5 controller"}
    assert "address.reference" not in header


@pytest.mark.parametrize("text", ["20001", "4001", "40000", "4000a", "", "4.5"])
def test_what_is_no_reference_is_left_to_be_refused_with_its_line(text: str) -> None:
    mapping = {"name": FromColumn("n"), "source": LINE_5, "address.reference": FromColumn("r")}
    header, row = mapped([["n", "r"], ["a", text]], mapping)
    assert row[header.index("address.table")] == ""


@pytest.mark.parametrize(
    ("mapping", "problem"),
    [
        ({"name": FromColumn("Symbol")}, "nothing is given for source"),
        ({"name": FromColumn("Gone"), "source": LINE_5}, "no column 'Gone'"),
        ({"name": FromColumn("Symbol"), "source": LINE_5, "uid": FromColumn("EU")}, "not a field"),
    ],
)
def test_a_mapping_that_does_not_fit_is_refused(mapping: dict[str, FromColumn], problem: str) -> None:
    with pytest.raises(InvalidInput, match=problem):
        list(mapped(TABLE, mapping))

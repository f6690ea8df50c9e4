"""Records by pages: of a window, with a text, in any order, as files of what is shown."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from cronaca.core import quality as q
from cronaca.core.bits import to_bits
from cronaca.core.model import SECOND, ValueType, Window
from cronaca.core.outputs import Record
from cronaca.db import Store
from cronaca.logbook import records
from cronaca.logbook.record_pages import (
    RecordChoice,
    RecordOrder,
    column_figures,
    count_matches,
    read_page,
)
from cronaca.logbook.texts import codes_of
from tests.api.setup_support import Api
from tests.support.builders import NOW, a_record_logger, a_tag, plant_with
from tests.support.signed_in import app_of

LOT = a_tag("lot", ValueType.INTEGER, unit="")
WEIGHT = a_tag("weight", ValueType.INTEGER, unit="kg")
MOISTURE = a_tag("moisture", unit="%", decimals=1)
JAM = a_tag("jam", ValueType.BOOLEAN, unit="")
SHAPE = a_tag("shape", ValueType.TEXT, unit="")
TAGS = (LOT, WEIGHT, MOISTURE, JAM, SHAPE)
ROWS = (
    # lot, weight, moisture (None: Bad), jam, shape
    (48_203, 950, 12.54, 0, "Penne rigate"),
    (48_201, 1_200, None, 1, "Fusilli"),
    (48_202, 1_100, 13.0, 0, "Penne lisce"),
    (48_204, 1_050, 12.0, 1, "fusilli bucati"),
)


@pytest.fixture
def choice(store: Store) -> RecordChoice:
    """Four records, a second apart."""
    keys = plant_with(store, list(TAGS))
    members = tuple(keys[tag.name].tag_id for tag in TAGS)
    logger_id = a_record_logger(store, members, ())
    records.ensure_tables(store)
    with store.transaction() as tx:
        texts = codes_of(tx, [row[4] for row in ROWS])
        taken = []
        for i, (row, text) in enumerate(zip(ROWS, texts, strict=True)):
            values = (*row[:4], text)
            bits = tuple(to_bits(value or 0, tag.value_type) for value, tag in zip(values, TAGS, strict=True))
            quality = tuple(q.BAD_SENSOR_FAILURE if value is None else q.GOOD for value in values)
            taken.append(Record(logger_id, NOW + i * SECOND, f"lot = {row[0]}", members, bits, quality))
        records.add_past(tx, taken)
        columns = tuple(records.list_columns(tx, logger_id))
    return RecordChoice(logger_id, columns)


def numbers(store: Store, choice: RecordChoice, order: RecordOrder, **page: int) -> list[int]:
    with store.snapshot() as tx:
        return [row.number for row in read_page(tx, choice, order, **page)]


def column(choice: RecordChoice, name: str) -> records.RecordColumn:
    return next(one for one in choice.columns if one.name == name)


@pytest.mark.parametrize("name,descending,expected", [
    ("lot", False, [2, 3, 1, 4]), ("lot", True, [4, 1, 3, 2]),
    ("moisture", True, [3, 1, 4, 2]), ("moisture", False, [4, 1, 3, 2]),
    ("jam", True, [4, 2, 3, 1]), ("shape", False, [2, 4, 3, 1]),
])  # fmt: skip
def test_any_column_orders_them_and_what_has_no_value_comes_last(
    store: Store, choice: RecordChoice, name: str, descending: bool, expected: list[int]
) -> None:
    order = RecordOrder(column(choice, name), descending)
    assert numbers(store, choice, order) == expected
    parts = [numbers(store, choice, order, skip=skip, limit=2) for skip in (0, 2)]
    assert parts == [expected[:2], expected[2:]], "pages of it hold each once"


@pytest.mark.parametrize("text,expected", [
    ("penne", [3, 1]), ("FUSILLI", [4, 2]), ("12.5", [1]), ("13.0", [3]), ("bad", [2]),
    ("4820", [4, 3, 2, 1]), ("1200", [2]),
    ("on", [4, 2]), ("lot = 48203", [1]), ("100%", []), ("'; --", []), ("_", []),
])  # fmt: skip
def test_a_text_is_found_in_what_cells_show(
    store: Store, choice: RecordChoice, text: str, expected: list[int]
) -> None:
    found = RecordChoice(choice.logger_id, choice.columns, None, text)
    assert numbers(store, found, RecordOrder()) == expected
    with store.snapshot() as tx:
        assert count_matches(tx, found) == len(expected)
    inside = RecordChoice(choice.logger_id, choice.columns, Window(NOW + SECOND, NOW + 3 * SECOND), text)
    assert numbers(store, inside, RecordOrder()) == [one for one in expected if one in (2, 3)]


def test_numbers_that_are_names_have_no_mean(store: Store, choice: RecordChoice) -> None:
    with store.snapshot() as tx:
        lot, weight, moisture, jam, shape = column_figures(tx, choice)
    assert (lot.low, lot.high, lot.mean) == (48_201, 48_204, None)
    assert weight.mean == pytest.approx((950 + 1_200 + 1_100 + 1_050) / 4)
    assert moisture.count == 3
    assert moisture.mean == pytest.approx((12.54 + 13 + 12) / 3)
    assert (jam.low, jam.mean, shape.mean) == (None, None, None)


class TestApi:
    @pytest.fixture
    def api(self, store: Store, tmp_path: Path, choice: RecordChoice) -> Iterator[Api]:
        del choice
        with TestClient(app_of(store, tmp_path)) as client:
            yield Api(client)

    def test_a_file_holds_what_is_shown(self, api: Api, choice: RecordChoice) -> None:
        (logger,) = api.ok("GET", "/records")
        lot, shape = column(choice, "lot").column_no, column(choice, "shape").column_no
        query = (
            f"search=penne&order={lot}&descending=false&column={shape}&column=number&column={lot}"
            "&name=Shape+of+pasta&name=&name="
        )
        answer = api.client.get(f"/api/records/{logger['uid']}/export?{query}")
        rows = list(csv.reader(io.StringIO(answer.content.decode("utf-8-sig"))))
        assert rows == [
            ["Shape of pasta", "Record", "lot"],
            ["Penne lisce", "3", "48202"],
            ["Penne rigate", "1", "48203"],
        ]  # fmt: skip
        whole = api.client.get(f"/api/records/{logger['uid']}/export").content.decode("utf-8-sig")
        assert next(csv.reader(io.StringIO(whole)))[:4] == ["Record", "Time (UTC)", "Trigger", "lot"]
        page = api.ok("GET", f"/records/{logger['uid']}?search=penne&order={lot}&limit=1&skip=1")
        assert (page["total"], [one["number"] for one in page["records"]]) == (2, [3])

    def test_a_column_that_is_not_there_is_named(self, api: Api) -> None:
        (logger,) = api.ok("GET", "/records")
        assert api.field("GET", f"/records/{logger['uid']}?order=99", None) == "order"
        assert api.field("GET", f"/records/{logger['uid']}/export?column=99", None) == "column"
        assert (
            api.field("GET", f"/records/{logger['uid']}/export?column=number&name=a&name=b", None) == "name"
        )

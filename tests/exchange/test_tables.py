"""CSV and Parquet as they come in the real world, and as we write them."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cronaca.core import quality as q
from cronaca.core.errors import InvalidInput
from cronaca.core.model import SECOND, Series, ValueType, merge
from cronaca.exchange.tables import (
    CsvWriter,
    OnBad,
    ParquetWriter,
    Rejects,
    TableOptions,
    read_table,
)
from tests.support.strategies import series as any_series

KINDS = {
    "t": ValueType.FLOAT,
    "u": ValueType.FLOAT,
    "n": ValueType.INTEGER,
    "b": ValueType.BOOLEAN,
    "s": ValueType.STATE,
    "x": ValueType.TEXT,
}
NOON = int(datetime(2026, 11, 23, 12, tzinfo=UTC).timestamp()) * SECOND


class Dictionary:
    """Texts and their codes."""

    def __init__(self) -> None:
        self.codes: dict[str, int] = {}

    def codes_of(self, values: list[str]) -> list[int]:
        return [self.codes.setdefault(value, len(self.codes) + 1) for value in values]

    def texts(self) -> Mapping[int, str]:
        return {code: text for text, code in self.codes.items()}


def read(
    path: Path, on_bad: OnBad = OnBad.STOP, words: Dictionary | None = None, **options: str
) -> tuple[dict[str, Series], list[str]]:
    rejects = Rejects(on_bad)
    found: dict[str, list[Series]] = {}
    known = TableOptions(KINDS, **options)
    for block in read_table(path, known, rejects, (words or Dictionary()).codes_of):
        for name, part in block.samples.items():
            found.setdefault(name, []).append(part)
    return {n: merge(p, KINDS[n]) for n, p in found.items()}, [str(line) for line in rejects.lines]


def write(tmp_path: Path, text: str, encoding: str = "utf-8") -> Path:
    path = tmp_path / "in.csv"
    path.write_bytes(text.encode(encoding))
    return path


@pytest.mark.parametrize(
    "text",
    [
        "time,tag,value\n2026-11-23T12:00:00Z,t,1.5\n2026-11-23T13:00:01+01:00,t,2.5\n",
        "Timestamp;Name;Value\n2026-11-23 12:00:00Z;t;1,5\n2026-11-23 12:00:01Z;t;2,5\n",
        "\ufefftime\ttag\tvalue\tquality\n2026-11-23T12:00:00.000Z\tt\t1,5\tGood\n2026-11-23T12:00:01Z\tt\t2,5\t\n",
        "time,t\n2026-11-23T12:00:00Z,1.5\n2026-11-23T12:00:01Z,2.5\n",
        '"time","tag","value"\r\n"2026-11-23T12:00:00Z","t","1.5"\r\n"2026-11-23T12:00:01Z","t","2.5"\r\n',
    ],
)
def test_common_forms_say_the_same(tmp_path: Path, text: str) -> None:
    found, bad = read(write(tmp_path, text))
    assert bad == []
    assert found["t"].equals(Series.of(ValueType.FLOAT, [NOON, NOON + SECOND], [1.5, 2.5]))


@pytest.mark.parametrize(
    ("cell", "options"),
    [
        ("2026-11-23 13:00:00", {"zone": "Europe/Rome"}),
        ("23.11.2026 13:00:00", {"zone": "Europe/Rome"}),
        ("23.11.2026 13:00", {"zone": "Europe/Rome"}),
        ("11/23/2026 12:00:00", {"zone": "UTC", "time_format": "%m/%d/%Y %H:%M:%S"}),
        ("1795435200", {"time_format": "epoch_s"}),
        ("1795435200000", {"time_format": "epoch_ms"}),
        ("1795435200000000", {"time_format": "epoch_us"}),
    ],
)
def test_times_of_many_forms(tmp_path: Path, cell: str, options: dict[str, str]) -> None:
    path = write(tmp_path, f"time,value\n{cell},7\n")
    found, _ = read(path, OnBad.STOP, None, tag="t", **options)
    assert found["t"].ts_us.tolist() == [NOON]


@pytest.mark.parametrize(
    ("text", "field", "remedy"),
    [
        ("time,value\n2026-11-23 12:00:00,7\n", "zone", "Europe/Rome"),
        ("time,value\n11/23/2026 12:00:00,7\n", "time_format", "strptime"),
        ("time,value\n1795435200,7\n", "time_format", "epoch_s"),
        ("when,value\n1,7\n", "file", "`time`"),
        ("time,q\n2026-11-23T12:00:00Z,7\n", "file", "Add the tags"),
        ("time,tag,value\n2026-11-23T12:00:00Z,nobody,7\n", "file", "Add the tags"),
        ("", "file", "header"),
    ],
)
def test_what_the_file_does_not_say_is_asked_for(tmp_path: Path, text: str, field: str, remedy: str) -> None:
    with pytest.raises(InvalidInput) as caught:
        read(write(tmp_path, text), tag="t")
    assert caught.value.field == field and remedy in caught.value.remedy


BAD_LINES = """time,tag,value,quality
2026-11-23T12:00:00Z,t,1,Good
2026-11-23T12:00:01Z,t,abc,Good
2026-11-23T12:00:02Z,t,3
yesterday,t,4,Good
2026-11-23T12:00:04Z,n,9223372036854775808,Good
2026-11-23T12:00:05Z,b,perhaps,Good
2026-11-23T12:00:06Z,t,6,excellent
2026-11-23T12:00:07Z,t,,Good
2026-11-23T12:00:08Z,t,8,0x80310000
2026-11-23T12:00:09Z,n,-9223372036854775808,4000
"""


def test_bad_lines_are_skipped_and_listed_with_number_and_reason(tmp_path: Path) -> None:
    found, bad = read(write(tmp_path, BAD_LINES), OnBad.SKIP)
    assert sorted(bad, key=lambda line: int(line.split()[1][:-1])) == [
        "line 3: 'abc' is no value of type float",
        "line 4: 3 cells instead of 4",
        "line 5: 'yesterday' is no time",
        "line 6: '9223372036854775808' is no value of type integer",
        "line 7: 'perhaps' is no value of type boolean",
        "line 8: 'excellent' is no quality",
    ]
    assert found["t"].quality.tolist() == [q.GOOD, q.BAD_NO_DATA, q.BAD_NO_COMMUNICATION]
    assert found["n"].values.tolist() == [-(2**63)] and found["n"].quality.tolist() == [q.UNCERTAIN]


def test_a_bad_line_stops_all_by_default(tmp_path: Path) -> None:
    with pytest.raises(InvalidInput, match="line 3"):
        read(write(tmp_path, "time,tag,value\n2026-11-23T12:00:00Z,t,1\n2026-11-23T12:00:01Z,t,abc\n"))


def test_local_times_that_exist_twice_or_not_at_all_are_bad_lines(tmp_path: Path) -> None:
    text = "time,value\n2026-10-25 02:30:00,1\n2026-10-25 03:30:00,2\n2026-03-29 02:30:00,3\n"
    found, bad = read(write(tmp_path, text), OnBad.SKIP, zone="Europe/Rome", tag="t")
    assert [line.split(": ", 1)[0] for line in bad] == ["line 2", "line 4"]
    assert "exists twice" in bad[0] and "does not exist" in bad[1]
    assert found["t"].values.tolist() == [2]


def test_an_empty_cell_of_the_wide_form_is_no_sample(tmp_path: Path) -> None:
    found, _ = read(write(tmp_path, "time,t,n,x\n2026-11-23T12:00:00Z,1.5,,\n2026-11-23T12:00:01Z,,7,hot\n"))
    assert {name: len(s) for name, s in found.items()} == {"t": 1, "n": 1, "x": 1}


@pytest.mark.parametrize("ending", [".csv", ".parquet"])
@given(data=st.data())
def test_what_is_written_comes_back_to_the_very_bit(
    tmp_path_factory: pytest.TempPathFactory, ending: str, data: st.DataObject
) -> None:
    path = tmp_path_factory.mktemp("out") / f"x{ending}"
    one = data.draw(any_series())
    name = next(n for n, kind in KINDS.items() if kind is one.value_type)
    words = Dictionary()
    if one.value_type is ValueType.TEXT:
        texts = data.draw(
            st.lists(st.text(st.characters(exclude_categories=["C"]), max_size=9), min_size=1, unique=True)
        )
        codes = words.codes_of([text.strip() for text in texts])
        one = Series.of(ValueType.TEXT, one.ts_us, np.array(codes)[one.values % len(codes)], one.quality)
    writer = CsvWriter(path) if ending == ".csv" else ParquetWriter(path)
    if len(one):
        writer.write(name, one, words.texts())
    writer.close()
    if not len(one):
        return
    found, bad = read(path, words=words)
    assert bad == []
    assert found[name].equals(merge([one], one.value_type))

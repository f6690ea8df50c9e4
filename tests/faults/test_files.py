"""Files that come in cost their own import, and files that go out harm no spreadsheet."""

from __future__ import annotations

import csv
import io
import zipfile

import pytest
from hypothesis import given
from hypothesis import strategies as st
from openpyxl import Workbook, load_workbook

from cronaca.core.errors import InvalidInput
from cronaca.exchange import guarding, sheets
from cronaca.exchange import workbook as workbooks
from tests.api.conftest import api, source
from tests.api.setup_support import CSV, Api, Json

__all__ = ["api", "source"]
BOMB = "<!DOCTYPE x [" + '<!ENTITY a "aaaaaaaaaa">' + "".join(
    f'<!ENTITY {chr(98 + i)} "{f"&{chr(97 + i)};" * 10}">' for i in range(9)
) + "]><worksheet>&j;</worksheet>"  # fmt: skip


def workbook(**parts: bytes) -> bytes:
    """A workbook with some of its files replaced."""
    book = Workbook()
    assert book.active is not None
    book.active.append(["name", "source"])
    data = io.BytesIO()
    book.save(data)
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data.getvalue())) as old, zipfile.ZipFile(out, "w", 8) as new:
        for name in old.namelist():
            new.writestr(name, next((v for k, v in parts.items() if k in name), old.read(name)))
    return out.getvalue()


@pytest.mark.parametrize(
    "data",
    [
        workbook(sheet1=BOMB.encode()), workbook(sheet1=b"<worksheet"), workbook(sheet1=b"\x00" * 99),
        workbook(workbook=b"<a/>"), workbook(sheet1=b'<!DOCTYPE x SYSTEM "file:///etc/passwd"><worksheet/>'),
        b"PK\x03\x04" + b"\x00" * 200,
        b'name,source\n"' + b"x" * 200_000 + b'",s\n', b"name,source\n\x00,\x00\n", b"\xff\xfe\xff",
        b"name,source\n" + b"a,b\n" * (sheets.MOST_ROWS + 1),
    ],
)  # fmt: skip
def test_a_hostile_file_is_refused_with_a_reason(api: Api, source: Json, data: bytes) -> None:
    answer = api.client.post("/api/setup/tags/import?write=true", content=data, headers=CSV)
    assert answer.status_code in (200, 422), answer.text
    assert answer.status_code == 422 or not answer.json()["written"]


def test_a_workbook_that_unpacks_to_too_much_is_not_unpacked(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(workbooks, "MOST_UNPACKED", 1 << 16)
    with pytest.raises(InvalidInput, match="unpacks to"):
        list(sheets.read_rows(workbook(sheet1=b"<worksheet>" + b" " * (1 << 20) + b"</worksheet>")))


def test_a_sheet_that_claims_to_be_wide_costs_only_what_it_holds() -> None:
    cell = '<row r="{row}"><c r="{at}" t="inlineStr"><is><t>x</t></is></c></row>'
    rows = cell.format(row=1, at="A1") + cell.format(row=900_000, at="XFD900000")
    sheet = (
        '<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">'
        f'<dimension ref="A1:XFD1048576"/><sheetData>{rows}</sheetData></worksheet>'
    ).encode()
    with pytest.raises(InvalidInput, match="more than"):
        list(sheets.read_rows(workbook(sheet1=sheet)))


@pytest.mark.parametrize("cell", ["nan", "inf", "-inf", "1e400", "2026-01-01", "=1+1", "9" * 400])
@pytest.mark.parametrize("column", ["range_low", "decimals", "scan_s", "address.address", "stepped"])
def test_a_cell_that_cannot_be_used_refuses_its_line(api: Api, source: Json, column: str, cell: str) -> None:
    text = f"name,source,{column}\nLine 5 value,{source['name']},{cell}\n"
    answer = api.client.post("/api/setup/tags/import?write=true", content=text.encode(), headers=CSV)
    assert answer.status_code in (200, 422), answer.text
    assert answer.status_code == 422 or not answer.json()["written"]


class TestOut:
    @given(st.lists(st.text(st.characters(codec="utf-8", exclude_categories=["Cs", "Cc"])), min_size=1))
    def test_what_goes_out_comes_in_again_to_the_letter(self, texts: list[str]) -> None:
        rows = [[text, 1.5] for text in texts]
        data = sheets.write_csv(["text", "number"], rows)
        back = list(sheets.read_rows(data))[1:]
        assert [row[0] for row in back] == texts
        stream = io.BytesIO()
        sheets.write_workbook(stream, [("Sheet", ["text", "number"], rows)])
        found = list(load_workbook(stream).worksheets[0].iter_rows(min_row=2))
        assert all(cell.data_type in ("s", "inlineStr", "n") for row in found for cell in row)
        assert [row[1].value for row in found] == [1.5] * len(texts), "numbers stay numbers"

    @pytest.mark.parametrize("sign", guarding.GUARDED)
    def test_no_cell_of_a_table_is_taken_for_a_formula(self, sign: str) -> None:
        data = sheets.write_csv([f"{sign}head"], [[f"{sign}cmd|' /C calc'!A0"], [-5.5]])
        rows = list(csv.reader(io.StringIO(data.decode("utf-8-sig"), newline="")))
        assert rows[0][0].startswith("'") and rows[1][0].startswith("'")
        assert rows[2] == ["-5.5"], "a negative number is a number"
        stream = io.BytesIO()
        sheets.write_workbook(stream, [("Sheet", [f"{sign}head"], [[f"{sign}1+1"]])])
        sheet = load_workbook(stream).active
        assert sheet is not None
        assert {cell.data_type for row in sheet.iter_rows() for cell in row} == {"s"}

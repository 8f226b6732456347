"""Files with types or with objects read back equal, value by value and kind by kind."""

import csv
import io
import json
import re
import zipfile
from datetime import UTC, date, datetime, timedelta, timezone
from xml.etree import ElementTree

import pyarrow
import pytest
import python_calamine
from hypothesis import given
from hypothesis import strategies as st
from pyarrow import parquet

from tests.feeds.test_tables import COLUMNS, ROWS, written
from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.table.table import TableColumn
from tin_bucket.feeds.formats import open_document
from tin_bucket.feeds.formats import parquet as room
from tin_bucket.feeds.formats.registry import ALL, FORMATS
from tin_bucket.feeds.options import ExportOptions
from tin_bucket.feeds.workbook.cells import EXACT

TEXTS = st.text(st.characters(exclude_categories=["Cs"]), max_size=8)
CELLS = {
    "text": TEXTS,
    "whole number": st.integers(-(2**62), 2**62),
    "decimal": st.floats(allow_nan=False, allow_infinity=False),
    "yes/no": st.booleans(),
    "date": st.dates().map(date.isoformat),
    "date and time": st.datetimes(timezones=st.just(UTC)).map(datetime.isoformat),
}
TABLE = [TableColumn(kind, kind) for kind in CELLS]
TABLE_ROWS = st.lists(st.tuples(*(st.none() | cells for cells in CELLS.values())), max_size=12)


def frame(columns, rows):
    return parquet.read_table(io.BytesIO(written("parquet", columns, rows)))


def test_every_format_has_its_ending_once_and_options_that_there_are():
    assert list(FORMATS) == [one.ending for one in ALL]
    for one in ALL:
        assert set(one.takes) <= set(ExportOptions.__dataclass_fields__)


@given(TABLE_ROWS)
def test_json_and_json_lines_are_the_rows_again(rows):
    wanted = [dict(zip(CELLS, row, strict=True)) for row in rows]
    assert json.loads(written("json", TABLE, rows)) == wanted
    assert [json.loads(line) for line in written("jsonl", TABLE, rows).splitlines()] == wanted


def test_json_keeps_long_numbers_lists_and_what_cannot_be_written():
    columns = [TableColumn("hull", "whole number"), TableColumn("legs", "json"), TableColumn("x", "decimal")]
    rows = [
        (2**70 + 1, '[{"to": "007", "n": 4611686018427387905}]', float("inf")),
        (-5, "[no list", Miss("failed", "failed")),
        (None, "plain", "\ud800"),
    ]
    assert json.loads(written("json", columns, rows)) == [
        {"hull": 2**70 + 1, "legs": [{"to": "007", "n": 4611686018427387905}], "x": None},
        {"hull": -5, "legs": "[no list", "x": None},
        {"hull": None, "legs": "plain", "x": "?"},
    ]


def test_text_with_tabs_quotes_what_would_part_it():
    data = written("tsv", COLUMNS[:2], [("a\tb", 1.5), ("=1+1", 2.5)], formulas_as_text=True)
    assert list(csv.reader(io.StringIO(data.decode()), delimiter="\t")) == [
        ["code", "fare"], ["a\tb", "1.5"], ["'=1+1", "2.5"],
    ]  # fmt: skip


def sheets(data):
    book = python_calamine.CalamineWorkbook.from_filelike(io.BytesIO(data))
    return {name: book.get_sheet_by_name(name).to_python(skip_empty_area=False) for name in book.sheet_names}


@given(TABLE_ROWS)
def test_a_spreadsheet_of_opendocument_has_the_values_again(rows):
    (found,) = sheets(written("ods", TABLE, [(row[0] or "x", *row[1:]) for row in rows])).values()
    moments = [datetime.fromisoformat(row[5]) for row in rows if row[5]]
    zone = next((moment.tzinfo for moment in moments if moment.tzinfo is not None), None)
    assert [name.partition(", UTC")[0] for name in found[0]] == list(CELLS)
    assert ("UTC" in "".join(found[0])) is (zone is not None)
    for row, got in zip(rows, found[1:], strict=True):
        # The package that reads it knows no tabs.
        text = "".join(char if char >= " " or char in "\t\n\r" else "\ufffd" for char in row[0] or "x").replace(
            "\t", ""
        )
        assert re.sub(r"\r\n?", "\n", text.replace("\ufffe", "\ufffd").replace("\uffff", "\ufffd")) == got[0]
        whole = row[1] if row[1] is None or abs(row[1]) < EXACT else str(row[1])
        decimal = row[2] if row[2] is None or abs(row[2]) < EXACT else repr(row[2])
        day, moment = row[4] and date.fromisoformat(row[4]), row[5] and datetime.fromisoformat(row[5])
        if moment and moment.tzinfo is not None:
            moment = moment.astimezone(zone)
        wanted = [whole, decimal, row[3], day, moment and moment.replace(tzinfo=None)]
        assert got[1:] == ["" if one is None else one for one in wanted]


def zipped_text(rows):
    with zipfile.ZipFile(io.BytesIO(written("ods", COLUMNS[:1], rows))) as book:
        return book.read("content.xml").decode()


def test_a_spreadsheet_is_what_its_first_part_says_and_no_text_is_a_formula():
    data = written("ods")
    assert data[30:38] == b"mimetype"
    assert data[38:84] == b"application/vnd.oasis.opendocument.spreadsheet"
    (found,) = sheets(data).values()
    assert found[0] == ["code", "fare, SKC", "hull", "at, UTC", "day", "late"]
    assert found[1][:3] == ["007", 40.25, "4611686018427387905"]
    assert found[2] == ['=1+1,"x"\n', "", 12, "soon", date(1850, 1, 1), False]
    assert found[3] == ["https://h/?a=1", "", -3, "", "", ""]
    with zipfile.ZipFile(io.BytesIO(data)) as book:
        assert "<text:p>a<text:tab/>b</text:p>" in zipped_text([("a\tb",)])
        assert "formula" not in book.read("content.xml").decode()
        for part in ("content.xml", "META-INF/manifest.xml"):
            ElementTree.fromstring(book.read(part))


def test_a_spreadsheet_longer_than_a_sheet_goes_on_in_the_next():
    out = io.BytesIO()
    open_document.write_open_document(COLUMNS[:1], [(str(n),) for n in range(7)], out, "a<b", sheet_rows=4)
    found = sheets(out.getvalue())
    assert list(found) == ["a<b", "a<b (2)", "a<b (3)"]
    assert [row[0] for sheet in found.values() for row in sheet[1:]] == [str(n) for n in range(7)]


@given(TABLE_ROWS)
def test_parquet_has_a_type_for_each_kind_and_the_values_again(rows):
    table = frame(TABLE, rows)
    types = [pyarrow.string(), pyarrow.int64(), pyarrow.float64(), pyarrow.bool_(), pyarrow.date32()]
    got = [table.schema.field(at).type for at in range(6)]
    assert got[:5] == types
    assert got[5] == pyarrow.timestamp("us", tz="UTC" if any(row[5] for row in rows) else None)
    for row, found in zip(rows, zip(*(column.to_pylist() for column in table.columns), strict=True), strict=True):
        day, moment = row[4] and date.fromisoformat(row[4]), row[5] and datetime.fromisoformat(row[5])
        assert found == (*row[:4], day, moment)


def test_a_column_with_a_value_that_does_not_fit_is_text_as_it_came_in_every_row_group(monkeypatch):
    monkeypatch.setattr(room, "_TOGETHER", 2)
    table = frame(COLUMNS, ROWS)
    assert [str(field.type) for field in table.schema] == ["string", "double", "int64", "string", "date32[day]", "bool"]
    assert table["at"].to_pylist() == ["2026-11-24T07:30:00Z", "soon", None]
    assert table["day"].to_pylist() == [date(2026, 11, 24), date(1850, 1, 1), None]
    assert table["fare"].to_pylist() == [40.25, None, None]
    assert table.schema.field("fare").metadata == {b"kind": b"decimal", b"unit": b"SKC"}
    assert parquet.ParquetFile(io.BytesIO(written("parquet"))).num_row_groups == 2


@pytest.mark.parametrize(
    ("kind", "values", "texts"),
    [
        ("whole number", [1, 2**70], ["1", str(2**70)]),
        ("decimal", [0.5, 2**60 + 1], ["0.5", str(2**60 + 1)]),
        ("date and time", ["2026-11-24T07:30:00Z", "2026-11-24T07:30:00"], None),
        ("date and time", ["2026-11-24T07:30:00.1234567Z"], None),
        ("yes/no", [True, "maybe"], ["true", "maybe"]),
        ("json", ["[1]"], None),
    ],
)
def test_what_a_type_would_harm_stays_a_text(kind, values, texts):
    column = frame([TableColumn("x", kind)], [(value,) for value in values])["x"]
    assert column.type == pyarrow.string()
    assert column.to_pylist() == (texts or values)


def test_moments_keep_their_instant_and_an_empty_table_its_columns():
    rows = [("2026-11-24T07:30:00+01:00",)]
    found = frame([TableColumn("at", "date and time")], rows)["at"].to_pylist()
    assert found == [datetime(2026, 11, 24, 7, 30, tzinfo=timezone(timedelta(hours=1)))]
    assert frame(COLUMNS, []).schema.names == [column.name for column in COLUMNS]

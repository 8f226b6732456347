import csv
import io
from datetime import datetime

import openpyxl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.table.table import TableColumn
from tin_bucket.feeds.formats import delimited, workbook
from tin_bucket.feeds.formats.registry import FORMATS
from tin_bucket.feeds.options import ENCODINGS, ExportOptions

COLUMNS = [
    TableColumn("code", "text"),
    TableColumn("fare", "decimal", unit="SKC"),
    TableColumn("hull", "whole number"),
    TableColumn("at", "date and time"),
    TableColumn("day", "date"),
    TableColumn("late", "yes/no"),
]
ROWS = [
    ("007", 40.25, 4611686018427387905, "2026-11-24T07:30:00Z", "2026-11-24", True),
    ('=1+1,"x"\n', None, 12, "soon", "1850-01-01", False),
    ("https://h/?a=1", Miss("none", "not found"), -3, None, None, None),
]


def written(ending, columns=COLUMNS, rows=ROWS, title="Sailings", **options):
    out = io.BytesIO()
    FORMATS[ending].write(columns, rows, out, title, ExportOptions(**options).checked())
    return out.getvalue()


def test_csv_is_rfc_4180_and_exact():
    data = written("csv")
    assert data.startswith(b"code,fare,hull,at,day,late\r\n007,40.25,4611686018427387905,")
    rows = list(csv.reader(io.StringIO(data.decode(), newline="")))
    assert rows[1] == ["007", "40.25", "4611686018427387905", "2026-11-24T07:30:00Z", "2026-11-24", "true"]
    assert rows[2] == ['=1+1,"x"\n', "", "12", "soon", "1850-01-01", "false"]
    assert rows[3] == ["https://h/?a=1", "", "-3", "", "", ""]


def test_a_workbook_reads_back_with_the_same_values():
    book = openpyxl.load_workbook(io.BytesIO(written("xlsx")))
    sheet = book["Sailings"]
    rows = list(sheet.iter_rows(values_only=True))
    assert rows[0] == ("code", "fare, SKC", "hull", "at, UTC", "day", "late")
    # Fifteen digits are all that a sheet's number holds; a longer id stays whole as text.
    assert rows[1] == ("007", 40.25, "4611686018427387905", datetime(2026, 11, 24, 7, 30), datetime(2026, 11, 24), True)
    assert rows[2] == ('=1+1,"x"\n', None, 12, "soon", "1850-01-01", False)
    assert rows[3] == ("https://h/?a=1", None, -3, None, None, None)
    assert sheet["A3"].data_type == "s"
    assert sheet["A2"].number_format == "General"
    assert sheet.freeze_panes == "A2"


def test_a_moment_keeps_its_instant_in_a_cell_that_has_no_offset():
    columns = [TableColumn(name, "date and time") for name in ("kolkata", "mixed", "none", "odd")]
    rows = [
        ("2026-11-24T09:30:00+05:30", None, "2026-11-24T09:30:00", "9999-12-31T23:00:00-12:00"),
        ("2026-11-25T09:30:00+05:30", "2026-11-24T09:30:00-05:30", "2026-11-24 09:30", "soon: Z"),
        (None, "2026-11-24T20:30:00+05:30", None, "0001-01-01T00:00:00+14:00"),
        ("2026-11-24T04:00:00Z", "2026-11-24T09:30:00", None, ""),
    ]
    sheet = openpyxl.load_workbook(io.BytesIO(written("xlsx", columns, rows))).active
    told = list(sheet.values)
    assert told[0] == ("kolkata, UTC+05:30", "mixed, UTC−05:30", "none", "odd, UTC−12:00")
    half_past_nine = datetime(2026, 11, 24, 9, 30)
    assert [row[0] for row in told[1:]] == [half_past_nine, datetime(2026, 11, 25, 9, 30), None, half_past_nine]
    assert [row[1] for row in told[1:]] == [None, half_past_nine, half_past_nine, half_past_nine]
    assert [row[2] for row in told[1:3]] == [half_past_nine, half_past_nine]
    assert [row[3] for row in told[2:]] == ["soon: Z", "0001-01-01T00:00:00+14:00", None]
    as_text = openpyxl.load_workbook(io.BytesIO(written("xlsx", columns, rows, moments="text"))).active
    assert [row[1] for row in as_text.values] == ["mixed", *(row[1] for row in rows)]
    assert [row[0] for row in as_text.values][:2] == ["kolkata", "2026-11-24T09:30:00+05:30"]


def test_a_table_longer_than_a_sheet_goes_on_in_the_next():
    out = io.BytesIO()
    rows = [(str(n),) for n in range(7)]
    workbook.write_workbook(COLUMNS[:1], rows, out, "a/b:" + "x" * 40, sheet_rows=4)
    book = openpyxl.load_workbook(out)
    assert [len(list(sheet.rows)) for sheet in book] == [4, 4, 2]
    assert book.sheetnames[0] == "a_b_" + "x" * 27
    values = [row[0] for sheet in book for row in list(sheet.iter_rows(values_only=True))[1:]]
    assert values == [str(n) for n in range(7)]


@pytest.mark.parametrize(
    ("title", "name"),
    [
        ("Sailings of the whole quarter, by route", "Sailings of the whole quarter,"),
        ("Sailings of a whole quarter 'on' time", "Sailings of a whole quarter 'on"),
        ("' '", "Table"),
        ("😀" * 20, "😀" * 15),
    ],
)
def test_a_sheet_has_a_name_that_a_sheet_can_have(title, name):
    assert workbook.sheet_name(title) == name


def test_a_table_without_rows_has_its_headings():
    assert written("csv", rows=[]) == b"code,fare,hull,at,day,late\r\n"
    assert openpyxl.load_workbook(io.BytesIO(written("xlsx", rows=[]))).active.max_row == 1


def test_long_tables_are_written_a_stretch_at_a_time():
    parts = list(delimited.csv_lines(COLUMNS[:1], ((str(n),) for n in range(2500))))
    assert len(parts) == 3
    assert "".join(parts).count("\r\n") == 2501


texts_of_csv = st.text(st.sampled_from(["a", "7", " ", ",", ";", "\t", '"', "'", "\r", "\n", "é", "港"]), max_size=6)
cells_of_csv = st.one_of(st.none(), st.booleans(), st.integers(), st.floats(allow_nan=False), texts_of_csv)


@given(
    rows=st.integers(1, 4).flatmap(lambda width: st.lists(st.tuples(*[cells_of_csv] * width), min_size=1, max_size=8)),
    separator=st.sampled_from(["comma", "semicolon", "tab"]),
    line_ends=st.sampled_from(["crlf", "lf"]),
    quotes=st.sampled_from(["needed", "texts", "all"]),
)
def test_csv_is_read_back_cell_by_cell_whatever_is_in_it(rows, separator, line_ends, quotes):
    columns = [TableColumn(f"c{at}", "text") for at in range(len(rows[0]))]
    data = written("csv", columns, rows, separator=separator, line_ends=line_ends, quotes=quotes).decode()
    told = {None: "", True: "true", False: "false"}
    wanted = [[told[one] if one is None or isinstance(one, bool) else str(one) for one in row] for row in rows]
    reader = csv.reader(
        io.StringIO(data, newline=""), delimiter={"comma": ",", "semicolon": ";", "tab": "\t"}[separator]
    )
    assert list(reader) == [[column.name for column in columns], *wanted]
    assert data.endswith("\r\n" if line_ends == "crlf" else "\n")


def test_numbers_are_not_in_quotes_where_texts_are():
    rows = [("007", 40.25, 12, None, "", True)]
    columns = [TableColumn(name, "text") for name in "abcdef"]
    lines = {
        quotes: written("csv", columns, rows, headings=False, quotes=quotes) for quotes in ("needed", "texts", "all")
    }
    assert lines["needed"] == b"007,40.25,12,,,true\r\n"
    assert lines["texts"] == b'"007",40.25,12,"","","true"\r\n'
    assert lines["all"] == b'"007","40.25","12","","","true"\r\n'
    decimal = written("csv", columns, rows, headings=False, quotes="texts", separator="semicolon", decimal="comma")
    assert decimal == b'"007";40,25;12;"";"";"true"\r\n'


def test_hidden_columns_are_not_handed_on():
    columns = [TableColumn("code", "text"), TableColumn("inner", "text", hidden=True), TableColumn("n", "whole number")]
    rows = [("007", "x", 1), ("010", "y", 2)]
    out = io.BytesIO()
    delimited.write_csv(columns, rows, out, "t")
    assert out.getvalue() == b"code,n\r\n007,1\r\n010,2\r\n"
    out = io.BytesIO()
    workbook.write_workbook(columns, rows, out, "t")
    sheet = openpyxl.load_workbook(out).active
    assert [list(row) for row in sheet.values] == [["code", "n"], ["007", 1], ["010", 2]]


def test_csv_is_written_as_somebody_s_workbook_program_reads_it():
    data = written("csv", separator="semicolon", decimal="comma", encoding="utf-8-bom")
    assert data.startswith(b"\xef\xbb\xbfcode;fare;hull")
    assert (
        data.decode("utf-8-sig").splitlines()[1] == "007;40,25;4611686018427387905;2026-11-24T07:30:00Z;2026-11-24;true"
    )
    assert written("csv", headings=False).startswith(b"007,")


@pytest.mark.parametrize("encoding", ENCODINGS)
def test_no_encoding_loses_a_letter(encoding):
    names = ["Ü-12", "Ærø – Þórshöfn", "港", "😀", ""]
    data = written("csv", COLUMNS[:1], [(name,) for name in names], encoding=encoding, separator="tab")
    codec = {"utf-8-bom": "utf-8-sig", "utf-16": "utf-16"}.get(encoding, encoding)
    assert [row[0] if row else "" for row in csv.reader(io.StringIO(data.decode(codec), newline=""))] == [
        "code",
        *names,
    ]


def test_a_workbook_without_headings_begins_with_its_rows():
    sheet = openpyxl.load_workbook(io.BytesIO(written("xlsx", headings=False))).active
    assert (sheet["A1"].value, sheet.max_row, sheet.freeze_panes) == ("007", len(ROWS), None)


@pytest.mark.parametrize(
    ("options", "words"),
    [
        ({"decimal": "comma"}, "cannot both"),
        ({"separator": "bar"}, "no separator"),
        ({"encoding": "ebcdic"}, "no encoding"),
        ({"decimal": "dash"}, "no decimal mark"),
    ],
)
def test_options_that_do_not_go_together_are_said(options, words):
    with pytest.raises(ProblemError, match=words):
        written("csv", **options)

import csv
import io

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from tin_bucket.core.interchange.formulas import STARTS, FormulaCells, quote_cells, quote_headings, reads_as_formula
from tin_bucket.core.table.table import TableColumn
from tin_bucket.feeds.formats.delimited import write_csv
from tin_bucket.feeds.options import ExportOptions


@pytest.mark.parametrize("text", [
    "=1+1", '=HYPERLINK("http://h/?"&A1)', "+cmd|' /C calc'!A0", "-2+3", "@SUM(A1)", "\t=1+1", "\r=1", "=A", "-A1",
    "+1-2", "@ports", "-e", "=\n1", "-1e5x", "+1e5+1", "\tplain", "=é",
])  # fmt: skip
def test_what_a_workbook_would_work_out(text):
    assert reads_as_formula(text)


@pytest.mark.parametrize("value", [
    "-3", "+4.5", "-3,5", "-1 234,50", "-1.5e-7", "+4E+10", "-12 %", "+47 12 34 56", "-", "--", "+", "=", "@", "\t", "",
    "Hesta", "1=1", " =1", "'=1", "007", -3, 4.5, None, True, "\t-3",
])  # fmt: skip
def test_what_is_no_formula(value):
    assert not reads_as_formula(value)


VALUES = st.one_of(
    st.none(), st.integers(), st.text(max_size=8), st.builds(str.__add__, st.sampled_from(STARTS), st.text(max_size=8))
)


@example([(None, "=0")], "=a")
@given(st.lists(st.tuples(VALUES, VALUES), max_size=8), st.text(min_size=1, max_size=6))
def test_no_text_of_a_file_reads_as_a_formula_and_none_is_lost(rows, name):
    columns = [TableColumn(name, "text"), TableColumn(f"{name}2", "text")]
    out = io.BytesIO()
    found = write_csv(columns, rows, out, "t", ExportOptions(formulas_as_text=True))
    text = out.getvalue().decode()
    read = list(csv.reader(io.StringIO(text, newline="")))
    plain = io.BytesIO()
    assert write_csv(columns, rows, plain, "t") == found
    before = list(csv.reader(io.StringIO(plain.getvalue().decode("utf-8", "replace"), newline="")))
    marked = 0
    for line, line_before in zip(read, before, strict=True):
        for cell, cell_before in zip(line, line_before, strict=True):
            assert not reads_as_formula(cell)
            assert cell == (f"'{cell_before}" if reads_as_formula(cell_before) else cell_before)
            marked += cell != cell_before
    assert marked == found.cells


def test_they_are_counted_by_column_with_an_example():
    found = FormulaCells()
    columns = quote_headings([TableColumn("=port", "text"), TableColumn("note", "text")], found, True)
    assert [column.name for column in columns] == ["'=port", "note"]
    rows = [("=1", "@a"), ("b", "-3"), ("c", None)]
    assert list(quote_cells(columns, rows, found, False)) == rows
    assert (found.cells, found.example) == (3, "=port")

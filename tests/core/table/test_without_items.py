"""Records without an item in the lists that are made rows are one row, or none."""

from hypothesis import given
from hypothesis import strategies as st

from tests.core.table.test_row_expansion import RECORDS
from tin_bucket.core.analysis.row_flow import row_flow
from tin_bucket.core.document.extraction import Extraction
from tin_bucket.core.document.report import ReadingReport, RunReport
from tin_bucket.core.formats.jsonpath import Picked
from tin_bucket.core.table.reader import Reader, read_table
from tin_bucket.core.table.select import has_items


def read(records, **take):
    pages = [Picked(records, [(at,) for at in range(len(records))])]
    return read_table(Extraction(records="$[*]", **take), pages)


def rows_of(reading):
    return [
        (int(record), *(int(numbers[row]) for numbers in reading.table.items), *values)
        for row, (record, values) in enumerate(
            zip(reading.table.record, reading.table.rows(0, reading.table.height), strict=True)
        )
    ]


@given(RECORDS, st.sampled_from([["$.a"], ["$.b"], ["$.b", "$.b[*].c"], ["$.a", "$.b"]]))
def test_what_is_left_out_are_the_rows_without_an_item_and_nothing_else(records, lists):
    together = "product" if lists == ["$.a", "$.b"] else None
    kept = read(records, rows_for=lists, together=together)
    left = read(records, rows_for=lists, together=together, without_items="leave out")
    if lists == ["$.a", "$.b"]:
        wanted = [row for row in rows_of(kept) if row[1] >= 0 or row[2] >= 0]
    else:
        wanted = [row for row in rows_of(kept) if row[len(lists)] >= 0]  # Of the innermost list.
    assert rows_of(left) == wanted
    assert left.left_out == kept.table.height - left.table.height
    assert kept.left_out == 0
    some = Extraction(records="$[*]", rows_for=lists, together=together)
    assert {row[0] for row in wanted} == {at for at, record in enumerate(records) if has_items(some, record)}


@given(RECORDS)
def test_records_that_are_read_again_give_the_same(records):
    take = Extraction(records="$[*]", rows_for=["$.b"], without_items="leave out")
    keeping = Reader(Extraction(records="$[*]"), keep=True)
    keeping.add(Picked(records, [(at,) for at in range(len(records))]))
    again = keeping.again(take)
    assert again is None or rows_of(again) == rows_of(read(records, rows_for=["$.b"], without_items="leave out"))


def test_chosen_columns_and_the_first_rows_are_those_that_stay():
    records = [{"id": 1}, {"id": 2, "a": []}, {"id": 3, "a": [7, 8]}, {"id": 4, "a": [9]}]
    columns = [{"place": "$.id", "name": "id"}, {"place": "$.a[*]", "name": "a"}]
    made = read(records, rows_for=["$.a"], without_items="leave out", columns=columns, most_rows=2)
    assert made.table.rows(0, 9) == [(3, 7), (3, 8)]
    assert (made.left_out, made.beyond, made.empty) == (2, 1, 2)


def test_how_many_were_left_out_is_told():
    report = RunReport(reading=ReadingReport(rows_for=["$.a"], empty=2, left_out=2))
    assert [step.words for step in row_flow(report, 1, 4, 3)][2] == "one for each of a; 2 without an item, left out"

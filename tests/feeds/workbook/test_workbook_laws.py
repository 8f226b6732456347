"""Whatever tables come one after the other, a workbook follows: rows, notes, formulas, totals and what stands around."""

import io

import openpyxl
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.feeds.fed_rows import SAILINGS, FedRows
from tests.feeds.workbook.books import BOOKS, FIRST
from tests.feeds.workbook.test_corpus import fed
from tin_bucket.feeds.workbook.target import Manner

IDS = st.lists(st.integers(0, 8), max_size=9)
DAYS = st.lists(IDS, min_size=1, max_size=4)
NOTED = BOOKS["a_total_and_a_chart_elsewhere"]
# Notes of two sailings that the workbook has from the beginning.
NOTES = {"0001": "ask the harbour master", "0003": "calm"}


def start():
    loaded = openpyxl.load_workbook(io.BytesIO(NOTED()))
    loaded["Data"]["G7"] = NOTES["0003"]
    loaded["Data"]["K2"] = "beside"
    out = io.BytesIO()
    loaded.save(out)
    return out.getvalue()


START = start()


def table(ids, day):
    return FedRows(SAILINGS, [(f"{at:04}", f"r{day}", None, at + day, at / 4) for at in ids])


def sheet_rows(data):
    book = openpyxl.load_workbook(io.BytesIO(data))
    sheet = book["Data"]
    last = FIRST
    while sheet[f"A{last}"].value not in ("Total", None):
        last += 1
    rows = [[sheet.cell(row, column).value for column in range(1, 8)] for row in range(FIRST, last)]
    return book, sheet, rows, last - 1


def check_around(book, sheet, last):
    last = max(last, FIRST)  # An empty table keeps a row for its formulas.
    total = last + 2
    assert sheet[f"A{total}"].value == "Total"
    assert sheet[f"D{total}"].value == f"=SUM(D4:D{last})"
    assert book["Harbour board"]["B2"].value == f"=SUM(Data!$D$4:$D${last})"
    assert book["Harbour board"]["B3"].value == f"=Data!D{total}"
    assert sheet["K2"].value == "beside"


@settings(max_examples=60, deadline=None)
@given(DAYS, st.booleans())
def test_in_update_each_note_stays_with_its_row(days, remove):
    """The sheet's rows are those that were there, updated; new ones stand below; a note is always beside its sailing."""
    data, memory = START, None
    rows = [[f"{at:04}", "Old route"] for at in range(5)]
    manner = Manner(way="update", match=("id",), remove_gone=remove, drop_notes=True)
    alive = {number: number in ("0001", "0003") for number, _ in rows}
    for day, ids in enumerate(days, 1):
        data, outcome = fed(data, table(ids, day), manner, memory)
        memory = outcome.memory
        waiting = [f"{at:04}" for at in ids]
        updated = []
        for number, route in rows:
            if number in waiting:
                waiting.remove(number)
                updated.append([number, f"r{day}"])
            elif not remove:
                updated.append([number, route])
        rows = updated + [[number, f"r{day}"] for number in waiting]
        alive = {number: stays and any(number == one for one, _ in updated) for number, stays in alive.items()}
        book, sheet, found, last = sheet_rows(data)
        assert [row[:2] for row in found] == rows
        for at, row in enumerate(found, FIRST):
            assert row[5] == f"=D{at}*2"
        noted = {row[0]: row[6] for row in found if row[6]}
        # Of two sailings with one id the first has the note.
        assert noted == {number: NOTES[number] for number in NOTES if alive[number]}
        check_around(book, sheet, last)


@settings(max_examples=40, deadline=None)
@given(DAYS)
def test_in_replace_the_sheet_holds_the_table(days):
    data, memory = START, None
    for day, ids in enumerate(days, 1):
        data, outcome = fed(data, table(ids, day), Manner(drop_notes=True), memory)
        memory = outcome.memory
        book, sheet, found, last = sheet_rows(data)
        assert [row[:2] for row in found] == [[f"{at:04}", f"r{day}"] for at in ids]
        assert all(row[5] == f"=D{at}*2" and row[6] is None for at, row in enumerate(found, FIRST))
        check_around(book, sheet, last)


@settings(max_examples=40, deadline=None)
@given(DAYS)
def test_in_add_nothing_that_was_there_changes(days):
    data, memory = START, None
    before = [row[:2] for row in sheet_rows(data)[2]]
    for day, ids in enumerate(days, 1):
        data, outcome = fed(data, table(ids, day), Manner(way="add"), memory)
        memory = outcome.memory
        book, sheet, found, last = sheet_rows(data)
        before += [[f"{at:04}", f"r{day}"] for at in ids]
        assert [row[:2] for row in found] == before
        assert {row[0]: row[6] for row in found if row[6]} == NOTES
        check_around(book, sheet, last)

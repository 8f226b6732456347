"""What cannot be fed is told in words, and the workbook stays as it was."""

import io
import zipfile

import openpyxl
import pytest
import xlsxwriter
from openpyxl.worksheet.formula import ArrayFormula

from tests.feeds.fed_rows import SAILINGS, FedRows, sailings
from tests.feeds.workbook.books import BOOKS, plain, repacked, with_table
from tests.feeds.workbook.test_corpus import TARGET, WAYS, fed, read
from tin_bucket.core.problem import ProblemError
from tin_bucket.feeds.workbook.columns import Memory
from tin_bucket.feeds.workbook.target import Manner, Target


def changed(change, data=None):
    loaded = openpyxl.load_workbook(io.BytesIO(data or plain()))
    change(loaded, loaded["Data"])
    out = io.BytesIO()
    loaded.save(out)
    return out.getvalue()


def refused(data, rows=None, manner=None, target=TARGET, memory=None):
    with pytest.raises(ProblemError) as caught:
        fed(data, rows or sailings(9), manner or WAYS["replace"], memory, target)
    problem = caught.value.problem
    assert problem.do
    assert problem.where
    return problem


def test_a_sheet_that_is_not_there_is_made_or_told():
    target = Target("Fresh", "B2", "", "TinBucket_7")
    problem = refused(plain(), target=target, manner=Manner(make_sheet=False))
    assert problem.kind == "sheet-missing"
    assert "“Data”" in problem.what
    made, outcome = fed(plain(), sailings(3), Manner(), target=target)
    assert outcome.made
    sheet = openpyxl.load_workbook(io.BytesIO(made))["Fresh"]
    assert [cell.value for cell in sheet[2]][1:] == [name for name, _ in SAILINGS]
    assert sheet["B2"].font.bold
    assert sheet["D3"].number_format == "yyyy-mm-dd"
    assert [sheet[f"B{row}"].value for row in (3, 4, 5, 6)] == ["0000", "0001", "0002", None]
    problem = refused(plain(), target=Target("a/b", "A1", "", "T"))
    assert problem.kind == "sheet-name"


def test_two_headings_alike():
    def twice(book, ws):
        ws["G3"] = "Delay "

    problem = refused(changed(twice))
    assert problem.kind == "headings-alike"
    assert "D3 and G3" in problem.what


def test_headings_of_something_else_are_not_written_over():
    problem = refused(plain(), target=Target("Data", "A1", "", "T"))
    assert problem.kind == "headings-unknown"
    assert "Sailings of the week" in problem.what


def test_cells_in_use_are_not_written_over():
    # An empty cell above something that the table would come over.
    problem = refused(plain(), target=Target("Data", "B2", "", "T"))
    assert problem.kind == "cells-in-use"
    assert "B3 holds “route”" in problem.what


def test_a_protected_sheet():
    def protect(book, ws):
        ws.protection.enable()

    problem = refused(changed(protect))
    assert problem.kind == "sheet-protected"


def test_an_array_formula_across_the_rows():
    def fill(book, ws):
        ws["F4"] = ArrayFormula("F4:F8", "=D4:D8*2")

    problem = refused(changed(fill))
    assert problem.kind == "array-formula"
    assert "F4:F8" in problem.what

    def one_by_one(book, ws):
        for row in range(4, 9):
            ws[f"F{row}"] = ArrayFormula(f"F{row}", f"=SUM(D{row}*{{1,2}})")

    made, _ = fed(changed(one_by_one), sailings(7), WAYS["replace"])
    cell = openpyxl.load_workbook(io.BytesIO(made))["Data"]["F10"].value
    assert (cell.ref, cell.text) == ("F10", "=SUM(D10*{1,2})")


def test_merged_cells_in_the_table():
    def merge(book, ws):
        ws.merge_cells("B5:C5")

    problem = refused(changed(merge))
    assert problem.kind == "cells-merged"
    assert "B5:C5" in problem.what


class Endless(FedRows):
    """More rows than there are."""

    def __init__(self, height):
        super().__init__(SAILINGS, [])
        self._height = height

    @property
    def height(self):
        return self._height


def test_more_rows_than_a_sheet_has():
    problem = refused(plain(), rows=Endless(1_048_574))
    assert problem.kind == "sheet-full"
    assert "1,048,576 rows" in problem.what


def test_more_columns_than_a_sheet_has():
    wide = FedRows([(f"c{at}", "text") for at in range(16_385)], [])
    problem = refused(plain(), rows=wide, target=Target("New", "A1", "", "T"))
    assert problem.kind == "sheet-full"
    assert "16,384 columns" in problem.what


def test_a_text_that_is_too_long_is_told_or_cut():
    rows = FedRows(SAILINGS, [("0001", "x" * 32_768, None, 1, 1.0)])
    problem = refused(plain(), rows)
    assert problem.kind == "text-too-long"
    assert "32,768 characters does not fit into B4" in problem.what
    made, _ = fed(plain(), rows, Manner(drop_notes=True, cut_texts=True))
    assert openpyxl.load_workbook(io.BytesIO(made))["Data"]["B4"].value == "x" * 32_767


def test_every_text_and_number_comes_back_as_it_is():
    texts = [
        "007",
        "=1+1",
        "+4",
        "-x",
        "@a",
        "a\tb\nc",
        " x ",
        "1e5",
        "&<>\"'",
        "_x0041_",
        "TRUE",
        "9" * 19,
        "é😀",
        "\x01",
    ]
    rows = FedRows(SAILINGS, [(text, None, None, 10**18 + 1, 0.1) for text in texts])
    made, _ = fed(plain(), rows, WAYS["replace"])
    found = read(made, len(texts))
    # What XML has no place for, and what looks like that, is written as the format says (ISO/IEC 29500-1, §22.9.2.19),
    # which openpyxl does not resolve.
    escaped = {"\x01": "_x0001_", "_x0041_": "_x005F_x0041_"}
    assert [row[0] for row in found] == [escaped.get(text, text) for text in texts]
    assert {row[3] for row in found} == {str(10**18 + 1)}
    _, outcome = fed(made, rows, WAYS["update"])
    assert (outcome.matched, outcome.new) == (len(texts), 0)


def test_notes_do_not_go_unless_they_may():
    problem = refused(plain(), manner=Manner())
    assert problem.kind == "notes-in-the-way"
    assert "1 cell" in problem.what
    problem = refused(plain(), sailings(1), Manner(way="update", match=("id",), remove_gone=True))
    assert problem.kind == "notes-in-the-way"


def test_rows_that_nothing_matches():
    assert refused(plain(), manner=Manner(way="update")).kind == "match-missing"
    rows = FedRows([("number", "text"), ("route", "text")], [("1", "x")])
    problem = refused(plain(), rows, Manner(way="update", match=("number",), add_columns=False))
    assert problem.kind == "match-missing"
    assert "“number”" in problem.what


def test_a_named_table_that_is_not_there_or_has_no_headings():
    target = Target("", "", "Voyages", "T")
    assert refused(plain(), target=target).kind == "table-missing"
    data = repacked(
        with_table(["id", "route"], [["1", "x"]], "Voyages"),
        lambda parts: parts.__setitem__(
            "xl/tables/table1.xml", parts["xl/tables/table1.xml"].replace(b'headerRowCount="1"', b'headerRowCount="0"')
        ),
    )
    assert refused(data, target=target).kind == "headings-missing"


def test_a_damaged_workbook():
    data = plain()
    sheet = zipfile.ZipFile(io.BytesIO(data)).read("xl/worksheets/sheet1.xml")
    broken = [
        data[: len(data) // 2],
        data[:200] + bytes(50) + data[250:],
        repacked(data, lambda parts: parts.__setitem__("xl/worksheets/sheet1.xml", sheet[:-40])),
        repacked(data, lambda parts: parts.__setitem__("xl/worksheets/sheet1.xml", sheet.replace(b'r="5"', b'r="4"'))),
        repacked(data, lambda parts: parts.__setitem__("xl/workbook.xml", b"<workbook/>")),
        repacked(data, lambda parts: parts.__setitem__("xl/styles.xml", b"<styleSheet")),
        repacked(data, lambda parts: parts.pop("xl/worksheets/sheet1.xml")),
        b"",
        b"PK\x03\x04",
    ]
    for one in broken:
        problem = refused(one)
        assert problem.kind in ("workbook-damaged", "not-a-workbook", "sheet-missing"), problem


def test_what_is_no_workbook_or_cannot_be_read():
    assert refused(b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + bytes(600)).kind == "workbook-encrypted"
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as made:
        made.writestr("readme.txt", "nothing")
    assert refused(out.getvalue()).kind == "not-a-workbook"


def test_a_part_that_is_damaged_elsewhere_is_not_copied():
    data = bytearray(BOOKS["macros"]())
    package = zipfile.ZipFile(io.BytesIO(bytes(data)))
    entry = package.getinfo("xl/vbaProject.bin")
    data[entry.header_offset + 80] ^= 0xFF
    problem = refused(bytes(data))
    assert problem.kind == "workbook-damaged"
    assert "vbaProject.bin" in problem.where


def test_a_table_that_people_shifted_is_found_again():
    first, outcome = fed(plain(), sailings(5), WAYS["replace"])

    def shift(book, ws):
        ws.insert_rows(1, 2)
        ws.insert_cols(1)
        book.defined_names["TinBucket_7"].attr_text = "'Renamed'!$B$5:$H$10"
        ws.title = "Renamed"

    shifted = changed(shift, first)
    made, outcome = fed(shifted, sailings(6), WAYS["replace"], outcome.memory)
    assert (outcome.before, outcome.after) == ("B5:H10", "B5:H11")
    sheet = openpyxl.load_workbook(io.BytesIO(made))["Renamed"]
    assert [sheet[f"B{row}"].value for row in range(5, 12)] == ["id", *[f"{at:04}" for at in range(6)]]


def test_columns_that_people_renamed_moved_added_and_deleted():
    first, outcome = fed(plain(), sailings(5), WAYS["replace"])

    def rework(book, ws):
        ws["B3"] = "Line"
        ws["G3"], ws["H3"] = "note", "my own"
        ws["H5"] = "mine"
        ws.delete_cols(5)
        book.defined_names["TinBucket_7"].attr_text = "'Data'!$A$3:$G$8"

    made, outcome = fed(changed(rework, first), sailings(5, fare=1), WAYS["update"], outcome.memory)
    assert outcome.renamed == {"route": "Line"}
    assert outcome.left_out == ["fare"]
    assert outcome.own == ["twice", "note", "my own"]
    sheet = openpyxl.load_workbook(io.BytesIO(made))["Data"]
    assert [cell.value for cell in sheet[3]] == ["id", "Line", "day", "delay", "twice", "note", "my own"]
    assert sheet["B4"].value == "Fore <North>"
    assert sheet["G5"].value == "mine"
    # What was deleted stays deleted, and what was renamed stays known.
    made, outcome = fed(made, sailings(5), WAYS["update"], outcome.memory)
    assert outcome.left_out == ["fare"]
    assert sheet.max_column == 7


def test_new_columns_come_at_the_right_or_not_at_all():
    rows = FedRows([*SAILINGS, ("berth", "text")], [(*row, "7b") for row in sailings(5).rows])
    made, outcome = fed(plain(), rows, WAYS["update"])
    assert outcome.new_columns == ["berth"]
    sheet = openpyxl.load_workbook(io.BytesIO(made))["Data"]
    assert [sheet[f"H{row}"].value for row in (3, 4, 8)] == ["berth", "7b", "7b"]
    assert sheet["H3"].fill.fgColor.rgb == "FFDDEEFF"
    made, outcome = fed(plain(), rows, Manner(way="update", match=("id",), add_columns=False))
    assert outcome.left_out == ["berth"]
    assert openpyxl.load_workbook(io.BytesIO(made))["Data"]["H3"].value is None

    def fill(book, ws):
        ws["H6"] = "in use"

    assert refused(changed(fill), rows, WAYS["update"]).kind == "cells-in-use"


def test_rows_of_a_date_are_added_once():
    columns = [("as of", "date"), *SAILINGS]
    rows = FedRows(columns, [("2026-11-24", *row) for row in sailings(3).rows])
    manner = Manner(way="add", dated=("as of", "2026-11-24"))
    made, outcome = fed(plain(), rows, manner)
    assert outcome.new == 3
    again, outcome = fed(made, rows, manner, outcome.memory)
    assert outcome.already
    assert again == b""  # Nothing is written.


def test_rows_that_are_gone_are_kept_and_marked():
    columns = [*SAILINGS, ("gone since", "date")]
    rows = FedRows(columns, [(*row, None) for row in sailings(5).rows[2:]])
    manner = Manner(way="update", match=("id",), gone=("gone since", "2026-11-24"))
    made, outcome = fed(plain(), rows, manner)
    assert (outcome.gone, outcome.rows_after) == (2, 5)
    later = Manner(way="update", match=("id",), gone=("gone since", "2026-11-25"))
    made, outcome = fed(made, FedRows(columns, rows.rows[1:]), later, outcome.memory)
    sheet = openpyxl.load_workbook(io.BytesIO(made))["Data"]
    told = [sheet[f"H{row}"].value for row in range(3, 9)]
    assert [value.date().isoformat() if hasattr(value, "date") else value for value in told] == [
        "gone since", "2026-11-24", "2026-11-24", "2026-11-25", None, None,
    ]  # fmt: skip


def test_memory_of_nothing_is_the_first_time():
    out = io.BytesIO()
    book = xlsxwriter.Workbook(out)
    book.add_worksheet("Data")
    book.close()
    made, outcome = fed(out.getvalue(), sailings(2), Manner(), Memory(), Target("Data", "C3", "", "T"))
    assert (outcome.before, outcome.after) == ("", "C3:G5")
    made, outcome = fed(made, sailings(4), Manner(), outcome.memory, Target("Data", "C3", "", "T"))
    assert (outcome.before, outcome.after) == ("C3:G5", "C3:G7")

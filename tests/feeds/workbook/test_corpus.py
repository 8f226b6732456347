"""Every workbook of the corpus is fed in each of the three ways, grows, shrinks, and loses nothing."""

import io
import re
import zipfile
from datetime import datetime

import openpyxl
import pytest

from tests.feeds.fed_rows import SAILINGS, FedRows, sailings
from tests.feeds.workbook.books import BOOKS, FIRST, HEAD, HEADINGS
from tin_bucket.feeds.workbook.columns import Memory
from tin_bucket.feeds.workbook.feed import feed_workbook
from tin_bucket.feeds.workbook.target import Manner, Target

TARGET = Target("Data", "A3", "", "TinBucket_7")
WAYS = {
    "replace": Manner(way="replace", drop_notes=True),
    "add": Manner(way="add"),
    "update": Manner(way="update", match=("id",)),
    "take out": Manner(way="update", match=("id",), remove_gone=True, drop_notes=True),
}
# What may follow beside the sheet itself and the list of sheets and names: for each workbook its parts.
FOLLOW = {
    "a_total_and_a_chart_elsewhere": {"xl/worksheets/sheet2.xml", "xl/charts/chart1.xml"},
    "a_named_table_with_totals": {"xl/tables/table1.xml", "xl/worksheets/sheet2.xml"},
    "charts_in_the_sheet": {"xl/charts/chart1.xml", "xl/charts/chart2.xml", "xl/drawings/drawing1.xml"},
    "pictures": set(),
    "comments": {"xl/comments1.xml", "xl/drawings/vmlDrawing1.vml"},
    "rich_texts_links_and_merges": {"xl/comments/comment1.xml", "xl/drawings/commentsDrawing1.vml"},
    "a_pivot_table_on_the_rows": {"xl/pivotCache/pivotCacheDefinition1.xml"},
    "a_list_beside_and_formulas_in_order": {
        "xl/calcChain.xml",
        "[Content_Types].xml",
        "xl/_rels/workbook.xml.rels",
    },
}


def fed(data, rows, manner, memory=None, target=TARGET):
    """The workbook after feeding, and what was done."""
    out = io.BytesIO()
    outcome = feed_workbook(io.BytesIO(data), out, "harbour.xlsx", target, memory or Memory(), rows, manner)
    return out.getvalue(), outcome


def raw(data):
    """The packed bytes of each part."""
    parts = {}
    with zipfile.ZipFile(io.BytesIO(data)) as package:
        for entry in package.infolist():
            start = entry.header_offset
            name, extra = (int.from_bytes(data[start + at : start + at + 2], "little") for at in (26, 28))
            begin = start + 30 + name + extra
            parts[entry.filename] = data[begin : begin + entry.compress_size]
    return parts


def expected(way, before, rows):
    """The sailings that the sheet holds after feeding, by its way."""
    table = [list(row) for row in rows.rows]
    if way == "replace":
        return table
    if way == "add":
        return before + table
    new = {row[0]: row for row in table}
    known = [row[0] for row in before]
    kept = [new.get(row[0], row) for row in before if way == "update" or row[0] in new]
    return kept + [row for row in table if row[0] not in known]


def read(data, count):
    ws = openpyxl.load_workbook(io.BytesIO(data))["Data"]
    out = []
    for row in ws.iter_rows(FIRST, FIRST + count - 1, 1, len(SAILINGS)):
        values = [cell.value for cell in row]
        values[2] = values[2].date().isoformat() if isinstance(values[2], datetime) else values[2]
        out.append(values)
    return out


OLD = [[f"{at:04}", "Old route", f"2026-10-{at + 1:02}", at, at / 2] for at in range(5)]


@pytest.mark.parametrize("way", WAYS)
@pytest.mark.parametrize("name", BOOKS)
def test_all_else_stays_byte_for_byte(name, way):
    data = BOOKS[name]()
    before, memory = OLD, None
    for rows in (sailings(9), sailings(3, fare=1), sailings(5, 2, fare=7)):
        was = raw(data)
        data, outcome = fed(data, rows, WAYS[way], memory)
        memory = outcome.memory
        now = raw(data)
        sheet = "xl/worksheets/sheet1.xml"
        changed = {part for part in was.keys() | now.keys() if was.get(part) != now.get(part)}
        assert sheet in changed
        assert changed <= {sheet, "xl/workbook.xml"} | FOLLOW.get(name, set())
        before = expected(way, before, rows)
        assert read(data, len(before)) == before
        assert outcome.rows_after == len(before)


@pytest.mark.parametrize("way", WAYS)
@pytest.mark.parametrize("name", BOOKS)
def test_the_sheet_keeps_what_people_made(name, way):
    data = BOOKS[name]()
    old = openpyxl.load_workbook(io.BytesIO(data))["Data"]
    made, outcome = fed(data, sailings(9), WAYS[way])
    new = openpyxl.load_workbook(io.BytesIO(made))["Data"]
    widths = {key: (one.width, one.hidden, one.outlineLevel) for key, one in old.column_dimensions.items()}
    assert {key: (one.width, one.hidden, one.outlineLevel) for key, one in new.column_dimensions.items()} == widths
    assert new.freeze_panes == old.freeze_panes
    assert [cell.value for cell in new[HEAD]][: len(HEADINGS)] == HEADINGS
    assert new.row_dimensions[HEAD].height == old.row_dimensions[HEAD].height
    assert new["A1"].value == old["A1"].value
    last = FIRST + outcome.rows_after - 1
    for row in range(FIRST, last + 1):
        # The formula beside is filled down, and new rows look like the others.
        formula = new[f"F{row}"].value
        assert re.sub(r"Sailings\[\[#This Row\],\[delay\]\]", f"D{row}", formula) == f"=D{row}*2"
        assert new[f"C{row}"].number_format == "d mmm yyyy"
        assert new[f"C{row}"].font.italic
        assert new[f"E{row}"].number_format == "#,##0.00"
        assert new[f"A{row}"].font.name == "Georgia"
    notes = {new[f"A{row}"].value: new[f"G{row}"].value for row in range(FIRST, last + 1) if new[f"G{row}"].value}
    # A note stays with its sailing; where rows are replaced, it goes, as was said before.
    assert notes == ({} if way == "replace" else {"0001": "ask the harbour master"})
    assert outcome.notes == (1 if way == "replace" else 0)


def ranges(sheet):
    return sorted(str(one.sqref) for one in sheet.conditional_formatting)


@pytest.mark.parametrize("way", ["replace", "update"])
def test_ranges_grow_and_shrink_with_the_table(way):
    made, outcome = fed(BOOKS["validations_and_formats_with_bars_and_icons"](), sailings(9), WAYS[way])
    sheet = openpyxl.load_workbook(io.BytesIO(made))["Data"]
    assert ranges(sheet) == ["D4:D12", "E4:E12"]
    assert str(sheet.data_validations.dataValidation[0].sqref) == "B4:B12"
    made, _ = fed(made, sailings(2), WAYS["take out"], outcome.memory)
    sheet = openpyxl.load_workbook(io.BytesIO(made))["Data"]
    assert ranges(sheet) == ["D4:D5", "E4:E5"]


def part(data, name):
    return zipfile.ZipFile(io.BytesIO(data)).read(name).decode()


def test_totals_charts_and_formulas_elsewhere_follow():
    data = BOOKS["a_total_and_a_chart_elsewhere"]()
    for count, last in ((9, 12), (2, 5), (30, 33)):
        data, outcome = fed(data, sailings(count), WAYS["replace"])
        book = openpyxl.load_workbook(io.BytesIO(data))
        assert book["Data"][f"A{last + 2}"].value == "Total"
        assert book["Data"][f"D{last + 2}"].value == f"=SUM(D4:D{last})"
        board = book["Harbour board"]
        assert board["B2"].value == f"=SUM(Data!$D$4:$D${last})"
        assert board["B3"].value == f"=Data!D{last + 2}"
        assert board["B4"].value == f'=COUNTIF(Data!B4:B{last},"Old route")'
        chart = part(data, "xl/charts/chart1.xml")
        assert re.findall("<c:f>(.*?)</c:f>", chart) == [
            "Data!$D$3", f"Data!$C$4:$C${last}", f"Data!$D$4:$D${last}",
        ]  # fmt: skip
        assert outcome.others[:2] == ["1 chart", "formulas in “Harbour board”"]
        assert not re.search(r"</f><v>", part(data, "xl/worksheets/sheet2.xml"))


def test_a_named_table_keeps_its_totals():
    data = BOOKS["a_named_table_with_totals"]()
    for rows, last in ((sailings(9), 12), (sailings(1), 4), (FedRows(SAILINGS, []), 4), (sailings(3), 6)):
        data, _ = fed(data, rows, WAYS["replace"], target=Target("", "", "Sailings", "TinBucket_7"))
        sheet = openpyxl.load_workbook(io.BytesIO(data))["Data"]
        table = sheet.tables["Sailings"]
        assert table.ref == f"A3:G{last + 1}"
        assert table.autoFilter.ref == f"A3:G{last}"
        assert sheet[f"A{last + 1}"].value == "Total"
        assert sheet[f"D{last + 1}"].value == "=SUBTOTAL(109,Sailings[delay])"
        assert sheet[f"A{last + 2}"].value is None


def test_names_and_the_print_area_follow():
    made, _ = fed(BOOKS["names_and_a_print_area"](), sailings(9), WAYS["replace"])
    book = openpyxl.load_workbook(io.BytesIO(made))
    assert {name: one.attr_text for name, one in book.defined_names.items()} == {
        "delays": "Data!$D$4:$D$12",
        "limit": "Data!$B$16",
        "twice_the_sum": "SUM(Data!$D$4:$D$12)*2",
        "TinBucket_7": "'Data'!$A$3:$G$12",
    }
    sheet = book["Data"]
    assert sheet.defined_names["fares"].attr_text == "Data!$E$4:$E$12"
    assert sheet.print_area == "'Data'!$A$1:$G$12"
    assert sheet.print_title_rows == "$1:$3"
    assert [one.id for one in sheet.row_breaks.brk] == [16]


def test_comments_stay_with_their_cells():
    data = BOOKS["comments"]()
    made, _ = fed(data, sailings(9), WAYS["replace"])
    sheet = openpyxl.load_workbook(io.BytesIO(made))["Data"]
    found = {cell.coordinate: cell.comment.text for row in sheet.iter_rows() for cell in row if cell.comment}
    assert found == {"A1": "The title", "A5": "The second sailing", "D8": "The last delay", "A15": "What stands below"}
    boxes = re.findall(r"<x:Row>(\d+)</x:Row>\s*<x:Column>(\d+)</x:Column>", part(made, "xl/drawings/vmlDrawing1.vml"))
    assert sorted(boxes) == sorted([("0", "0"), ("4", "0"), ("7", "3"), ("14", "0")])
    # A row that is taken out takes its comment with it; those below move up.
    made, _ = fed(data, FedRows(SAILINGS, sailings(5).rows[2:]), WAYS["take out"])
    sheet = openpyxl.load_workbook(io.BytesIO(made))["Data"]
    found = {cell.coordinate: cell.comment.text for row in sheet.iter_rows() for cell in row if cell.comment}
    assert found == {"A1": "The title", "D6": "The last delay", "A9": "What stands below"}


def test_charts_below_move_and_charts_beside_stay():
    made, _ = fed(BOOKS["charts_in_the_sheet"](), sailings(9), WAYS["replace"])
    rows = re.findall(r"<xdr:from>.*?<xdr:row>(\d+)</xdr:row>", part(made, "xl/drawings/drawing1.xml"))
    assert rows == ["2", "17"]


def test_shared_formulas_are_written_out_right():
    made, _ = fed(BOOKS["shared_formulas"](), sailings(9), WAYS["replace"])
    sheet = openpyxl.load_workbook(io.BytesIO(made))["Data"]
    assert [sheet[f"F{row}"].value for row in (4, 8, 12)] == ["=D4*2", "=D8*2", "=D12*2"]
    assert [sheet[f"J{row}"].value for row in (4, 8)] == ["=E4+$D$3", "=E8+$D$3"]
    assert "shared" not in part(made, "xl/worksheets/sheet1.xml")


def test_rows_that_a_filter_hid_are_shown():
    made, outcome = fed(BOOKS["a_filter_and_hidden_columns"](), sailings(9), WAYS["replace"])
    sheet = openpyxl.load_workbook(io.BytesIO(made))["Data"]
    assert outcome.unfiltered
    assert sheet.auto_filter.ref == "A3:G12"
    assert sheet.auto_filter.filterColumn
    assert not any(sheet.row_dimensions[row].hidden for row in range(FIRST, 13))
    assert sheet.column_dimensions["E"].hidden


def test_sparklines_follow():
    made, _ = fed(BOOKS["sparklines"](), sailings(9), WAYS["replace"])
    assert "<xm:f>Data!D4:D12</xm:f><xm:sqref>I3</xm:sqref>" in part(made, "xl/worksheets/sheet1.xml")


def test_a_pivot_table_reads_all_rows():
    made, outcome = fed(BOOKS["a_pivot_table_on_the_rows"](), sailings(9), WAYS["replace"])
    cache = part(made, "xl/pivotCache/pivotCacheDefinition1.xml")
    assert 'ref="A3:G12"' in cache
    assert 'refreshOnLoad="1"' in cache
    assert outcome.others == ["1 pivot table"]


def test_a_list_beside_the_table_stays_in_one_piece():
    for count in (9, 2):
        made, _ = fed(BOOKS["a_list_beside_and_formulas_in_order"](), sailings(count), WAYS["replace"])
        sheet = openpyxl.load_workbook(io.BytesIO(made))["Data"]
        assert [sheet[f"J{row}"].value for row in range(1, 41)] == [f"Harbour {at}" for at in range(1, 41)]
        last = FIRST + count - 1
        assert sheet[f"D{last + 2}"].value == "Sum"
        assert sheet[f"D{last + 3}"].value == f"=SUM(D4:D{last})"
        assert "xl/calcChain.xml" not in raw(made)


def test_merged_cells_below_move():
    made, _ = fed(BOOKS["rich_texts_links_and_merges"](), sailings(9), WAYS["replace"])
    sheet = openpyxl.load_workbook(io.BytesIO(made))["Data"]
    assert sorted(str(one) for one in sheet.merged_cells.ranges) == ["A16:G16", "A1:C1"]
    assert sheet["A16"].value == "All times are local"
    assert sheet.row_dimensions[16].height == 33
    assert sheet["A1"].hyperlink.target == "https://skerrywick.example/board"


def test_programs_work_everything_out_anew():
    made, _ = fed(BOOKS["plain"](), sailings(9), WAYS["replace"])
    assert 'fullCalcOnLoad="1"' in part(made, "xl/workbook.xml")
    # What formulas showed before is not kept: nobody takes it for what they show now.
    assert not re.search(r"</f><v>", part(made, "xl/worksheets/sheet1.xml"))

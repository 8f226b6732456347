"""Workbooks as people keep them, each with something that a careless program loses.

Every one has a table of sailings in the sheet "Data": headings in row 3, five sailings in rows 4–8, and beside them a
formula column "twice" and a column of notes.
"""

import io
import re
import zipfile
from datetime import date

import openpyxl
import xlsxwriter
from openpyxl.comments import Comment
from openpyxl.formatting.rule import DataBarRule, IconSetRule
from openpyxl.styles import PatternFill
from openpyxl.worksheet.datavalidation import DataValidation
from openpyxl.worksheet.table import Table

HEADINGS = ["id", "route", "day", "delay", "fare", "twice", "note"]
HEAD, FIRST, LAST = 3, 4, 8
# A picture of one pixel.
PIXEL = bytes.fromhex(
    "89504e470d0a1a0a0000000d49484452000000010000000108060000001f15c4890000000d49444154789c6360f8cfc0f01f00050001"
    "ff56c72f0d0000000049454e44ae426082"
)
BOOKS = {}


def book(made):
    BOOKS[made.__name__] = made
    return made


def _table(written, sheet="Data", notes=True, **options):
    """The sheet with the table; gives it and some formats."""
    formats = {
        "head": written.add_format({"bold": True, "bg_color": "#DDEEFF", "border": 1}),
        "day": written.add_format({"num_format": "d mmm yyyy", "italic": True}),
        "fare": written.add_format({"num_format": "#,##0.00", "font_color": "#884400"}),
        "plain": written.add_format({"font_name": "Georgia"}),
    }
    ws = written.add_worksheet(sheet)
    ws.write(0, 0, "Sailings of the week", formats["head"])
    ws.write_row(HEAD - 1, 0, HEADINGS if notes else HEADINGS[:6], formats["head"])
    for at in range(5):
        row = FIRST - 1 + at
        ws.write_string(row, 0, f"{at:04}", formats["plain"])
        ws.write_string(row, 1, "Old route")
        ws.write_datetime(row, 2, date(2026, 10, at + 1), formats["day"])
        ws.write_number(row, 3, at)
        ws.write_number(row, 4, at / 2, formats["fare"])
        ws.write_formula(row, 5, f"=D{row + 1}*2", formats["fare"], at * 2)
    if notes:
        ws.write(FIRST, 6, "ask the harbour master")  # Beside sailing 0001.
    ws.set_column(0, 0, 14.5)
    ws.set_column(1, 1, 31)
    ws.set_row(HEAD - 1, 28)
    ws.freeze_panes(HEAD, 1)
    return ws, formats


def _xlsxwriter(fill, **options):
    out = io.BytesIO()
    written = xlsxwriter.Workbook(out, options)
    ws, formats = _table(written)
    fill(written, ws, formats)
    written.close()
    return out.getvalue()


def _openpyxl(fill, data=None):
    """A workbook that openpyxl wrote, made of another one."""
    loaded = openpyxl.load_workbook(io.BytesIO(data or plain()))
    fill(loaded, loaded["Data"])
    out = io.BytesIO()
    loaded.save(out)
    return out.getvalue()


def repacked(data, change):
    """The same package with some parts changed, added (from nothing), or removed (to nothing)."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        parts = {name: old.read(name) for name in old.namelist()}
        change(parts)
        for name, content in parts.items():
            new.writestr(name, content)
    return out.getvalue()


def sheet_of(parts, name="Data"):
    """The name of a sheet's part, where sheets stand in the order of their parts."""
    names = re.findall(rb'<sheet [^>]*name="([^"]*)"', parts["xl/workbook.xml"])
    return f"xl/worksheets/sheet{names.index(name.encode()) + 1}.xml"


@book
def plain():
    return _xlsxwriter(lambda written, ws, formats: None)


@book
def a_total_and_a_chart_elsewhere():
    def fill(written, ws, formats):
        ws.write(9, 0, "Total", formats["head"])
        ws.write_formula(9, 3, "=SUM(D4:D8)", formats["head"], 10)
        board = written.add_worksheet("Harbour board")
        board.write_formula("B2", "=SUM(Data!$D$4:$D$8)", None, 10)
        board.write_formula("B3", "=Data!D10", None, 10)
        board.write_formula("B4", '=COUNTIF(Data!B4:B8,"Old route")', None, 5)
        chart = written.add_chart({"type": "line"})
        chart.add_series({"categories": "=Data!$C$4:$C$8", "values": "=Data!$D$4:$D$8", "name": "=Data!$D$3"})
        board.insert_chart("D2", chart)

    return _xlsxwriter(fill)


@book
def a_named_table_with_totals():
    def fill(written, ws, formats):
        columns = [{"header": name} for name in HEADINGS]
        columns[3]["total_function"] = "sum"
        columns[0]["total_string"] = "Total"
        columns[5]["formula"] = "=Sailings[[#This Row],[delay]]*2"
        ws.add_table("A3:G9", {"name": "Sailings", "total_row": True, "columns": columns})
        ws.write_formula("D9", "=SUBTOTAL(109,Sailings[delay])", None, 10)
        board = written.add_worksheet("Board")
        board.write_formula("A1", "=SUM(Sailings[delay])", None, 10)

    return _xlsxwriter(fill)


@book
def charts_in_the_sheet():
    def fill(written, ws, formats):
        for place, kind in (("I3", "column"), ("A14", "pie")):
            chart = written.add_chart({"type": kind})
            chart.add_series({"values": "=Data!$E$4:$E$8"})
            ws.insert_chart(place, chart)
        ws.write(11, 0, "Charts below")

    return _xlsxwriter(fill)


@book
def sparklines():
    def fill(written, ws, formats):
        for row in range(FIRST, LAST + 1):
            ws.add_sparkline(f"I{row}", {"range": f"Data!D{row}:E{row}"})
        ws.add_sparkline("I3", {"range": "Data!D4:D8"})

    return _xlsxwriter(fill)


@book
def pictures():
    def fill(written, ws, formats):
        for place in ("I4", "B20"):
            ws.insert_image(place, "pixel.png", {"image_data": io.BytesIO(PIXEL)})
        ws.embed_image("J4", "pixel.png", {"image_data": io.BytesIO(PIXEL)})
        ws.set_header("&L&G", {"image_left": "pixel.png", "image_data_left": io.BytesIO(PIXEL)})
        ws.insert_textbox("I10", "Mind the swell")
        ws.set_background(io.BytesIO(PIXEL))

    return _xlsxwriter(fill)


@book
def comments():
    def fill(written, ws, formats):
        ws.write_comment("A5", "The second sailing")
        ws.write_comment("D8", "The last delay")
        ws.write_comment("A1", "The title")
        ws.write(10, 0, "Below")
        ws.write_comment("A11", "What stands below")

    return _xlsxwriter(fill)


@book
def validations_and_formats_with_bars_and_icons():
    def fill(loaded, ws):
        ws.conditional_formatting.add("D4:D8", DataBarRule("min", None, "max", None, "6B2A5F"))
        ws.conditional_formatting.add("E4:E8", IconSetRule("3Arrows", "percent", [0, 33, 67]))
        routes = DataValidation("list", formula1='"Old route,New route"', allow_blank=True)
        ws.add_data_validation(routes)
        routes.add("B4:B8")
        ws["G4"].fill = PatternFill("solid", "FFF8D9")

    return _openpyxl(fill)


@book
def newer_formats_with_bars():
    def fill(written, ws, formats):
        ws.conditional_format("D4:D8", {"type": "data_bar", "data_bar_2010": True, "bar_only": True})
        ws.conditional_format("E4:E8", {"type": "icon_set", "icon_style": "3_traffic_lights"})
        ws.conditional_format("A4:G8", {"type": "formula", "criteria": "=$D4>5", "format": formats["head"]})
        ws.data_validation("B4:B8", {"validate": "list", "source": ["Old route", "New route"]})

    return _xlsxwriter(fill)


@book
def shared_formulas():
    """The formulas beside the table and a list beside it share one formula, as spreadsheet programs write them."""

    def share(parts):
        name = sheet_of(parts)
        data = parts[name]
        for column, text in ((b"F", b"D4*2"), (b"J", b"E4+$D$3")):
            for row in range(FIRST, LAST + 1):
                cell = rb'(<c r="' + column + str(row).encode() + rb'"[^>]*>)<f>[^<]*</f>'
                made = rb'<f t="shared" ref="%s4:%s8" si="%d">%s</f>' % (column, column, column[0], text)
                made = made if row == FIRST else b'<f t="shared" si="%d"/>' % column[0]
                data, count = re.subn(cell, lambda found, made=made: found[1] + made, data)
                assert count == 1
        parts[name] = data

    def fill(written, ws, formats):
        for row in range(FIRST, LAST + 1):
            ws.write_formula(row - 1, 9, f"=E{row}+$D$3")
        ws.write(9, 0, "Below")

    return repacked(_xlsxwriter(fill), share)


@book
def names_and_a_print_area():
    def fill(written, ws, formats):
        written.define_name("delays", "=Data!$D$4:$D$8")
        written.define_name("Data!fares", "=Data!$E$4:$E$8")
        written.define_name("limit", "=Data!$B$12")
        written.define_name("twice_the_sum", "=SUM(Data!$D$4:$D$8)*2")
        ws.print_area("A1:G8")
        ws.repeat_rows(0, 2)
        ws.write(11, 0, "Limit")
        ws.write(11, 1, 15)
        ws.set_h_pagebreaks([12])

    return _xlsxwriter(fill)


@book
def a_filter_and_hidden_columns():
    def fill(written, ws, formats):
        ws.autofilter("A3:G8")
        ws.filter_column("D", "x > 2")
        for row in range(FIRST - 1, FIRST + 2):
            ws.set_row(row, None, None, {"hidden": True})
        ws.set_column("E:E", None, None, {"hidden": True})
        ws.set_column("K:L", 3, None, {"level": 1})

    return _xlsxwriter(fill)


@book
def protected_parts():
    def fill(written, ws, formats):
        other = written.add_worksheet("Rules")
        other.write(0, 0, "Nobody edits this")
        other.protect("anchor")

    return _xlsxwriter(fill)


@book
def macros():
    def fill(written, ws, formats):
        written.add_vba_project(io.BytesIO(bytes(range(256)) * 40), is_stream=True)

    return _xlsxwriter(fill)


@book
def days_since_1904():
    return _xlsxwriter(lambda written, ws, formats: None, date_1904=True)


@book
def prefixes_and_no_places():
    """As another program writes: with a prefix, and without the places of rows and cells where they follow."""

    def spell(parts):
        name = sheet_of(parts)
        data = parts[name].decode()
        head, mark, rest = data.partition("?>")
        rest = re.sub(r"<(/?)([A-Za-z])", r"<\1x:\2", rest)
        rest = rest.replace("<x:worksheet xmlns=", "<x:worksheet xmlns:x=")
        rest = re.sub(r'(<x:c) r="[B-G][0-9]+"', r"\1", rest)
        rest = re.sub(r'(<x:row) r="[0-9]+"(?=[^>]*><x:c r="A[456])', r"\1", rest)
        parts[name] = (head + mark + "<!-- made elsewhere -->" + rest).encode()

    return repacked(plain(), spell)


@book
def utf_16_with_extras():
    def spell(parts):
        name = sheet_of(parts)
        text = parts[name].decode().replace('encoding="UTF-8"', 'encoding="UTF-16"')
        parts[name] = text.encode("utf-16")
        parts["customXml/item1.xml"] = b"<harbour><desk>7</desk></harbour>"
        parts["xl/media/unknown.bin"] = bytes(range(256))

    return repacked(plain(), spell)


@book
def rich_texts_links_and_merges():
    def fill(loaded, ws):
        ws["A1"].hyperlink = "https://skerrywick.example/board"
        ws.merge_cells("A1:C1")
        ws.merge_cells("A12:G12")
        ws["A12"] = "All times are local"
        ws["D5"].comment = Comment("late again", "desk")
        ws.row_dimensions[12].height = 33

    return _openpyxl(fill)


@book
def a_pivot_table_on_the_rows():
    """A pivot table's memory of the rows, as far as a feed is concerned with it."""

    def add(parts):
        part = "xl/pivotCache/pivotCacheDefinition1.xml"
        parts[part] = (
            b'<pivotCacheDefinition xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" recordCount="5">'
            b'<cacheSource type="worksheet"><worksheetSource ref="A3:G8" sheet="Data"/></cacheSource>'
            b'<cacheFields count="0"/></pivotCacheDefinition>'
        )
        kind = "application/vnd.openxmlformats-officedocument.spreadsheetml.pivotCacheDefinition+xml"
        override = f'<Override PartName="/{part}" ContentType="{kind}"/></Types>'
        parts["[Content_Types].xml"] = parts["[Content_Types].xml"].replace(b"</Types>", override.encode())

    return repacked(plain(), add)


@book
def a_list_beside_and_formulas_in_order():
    """A list of harbours beside the table that is longer than it, and the order in which formulas are worked out."""

    def add(parts):
        cells = b"".join(b'<c r="F%d" i="1"/>' % row for row in range(FIRST, LAST + 1))
        parts["xl/calcChain.xml"] = (
            b'<calcChain xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">' + cells + b"</calcChain>"
        )
        kind = "application/vnd.openxmlformats-officedocument.spreadsheetml.calcChain+xml"
        override = f'<Override PartName="/xl/calcChain.xml" ContentType="{kind}"/></Types>'
        parts["[Content_Types].xml"] = parts["[Content_Types].xml"].replace(b"</Types>", override.encode())
        relation = "http://schemas.openxmlformats.org/officeDocument/2006/relationships/calcChain"
        added = f'<Relationship Id="rId99" Type="{relation}" Target="calcChain.xml"/></Relationships>'
        name = "xl/_rels/workbook.xml.rels"
        parts[name] = parts[name].replace(b"</Relationships>", added.encode())

    def fill(written, ws, formats):
        for at in range(40):
            ws.write(at, 9, f"Harbour {at + 1}")
        ws.write(9, 3, "Sum")
        ws.write_formula(10, 3, "=SUM(D4:D8)", None, 10)

    return repacked(_xlsxwriter(fill), add)


def with_table(columns, rows, name="Sailings"):
    """A small workbook that openpyxl wrote, with a named table."""
    made = openpyxl.Workbook()
    ws = made.active
    ws.title = "Data"
    ws.append(columns)
    for row in rows:
        ws.append(row)
    ws.add_table(Table(displayName=name, ref=ws.dimensions))
    out = io.BytesIO()
    made.save(out)
    return out.getvalue()

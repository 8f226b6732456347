"""Files that were made to harm whoever reads them, as sheets: name → (file name, bytes)."""

import io
import zipfile
from functools import cache

import openpyxl

_BOOK = (
    '<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"'
    ' xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships">'
    '<sheets><sheet name="s" sheetId="1" r:id="rId1"/></sheets></workbook>'
)
_RELATIONS = "http://schemas.openxmlformats.org/package/2006/relationships"
_LINKS = (
    f'<Relationships xmlns="{_RELATIONS}"><Relationship Id="rId1" Target="worksheets/sheet1.xml"'
    ' Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet"/></Relationships>'
)
_TYPES = (
    '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
    '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
    '<Default Extension="xml" ContentType="application/xml"/></Types>'
)
_ROOT = (
    f'<Relationships xmlns="{_RELATIONS}"><Relationship Id="r" Target="xl/workbook.xml"'
    ' Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument"/></Relationships>'
)


def _zip(parts):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        for name, text in parts.items():
            file.writestr(name, text)
    return out.getvalue()


def book_of(cells, before=""):
    """A workbook whose one sheet has just this XML in it."""
    main = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
    sheet = f'<worksheet xmlns="{main}">{before}<sheetData>{cells}</sheetData></worksheet>'
    return _zip({
        "[Content_Types].xml": _TYPES, "_rels/.rels": _ROOT, "xl/workbook.xml": _BOOK,
        "xl/_rels/workbook.xml.rels": _LINKS, "xl/worksheets/sheet1.xml": sheet,
    })  # fmt: skip


def cell(name, value=1):
    return f'<c r="{name}"><v>{value}</v></c>'


def _ods(rows):
    names = "urn:oasis:names:tc:opendocument:xmlns:"
    content = (
        f'<office:document-content xmlns:office="{names}office:1.0" xmlns:table="{names}table:1.0"'
        f' xmlns:text="{names}text:1.0"><office:body><office:spreadsheet><table:table table:name="s">{rows}'
        "</table:table></office:spreadsheet></office:body></office:document-content>"
    )
    kind = "application/vnd.oasis.opendocument.spreadsheet"
    manifest = (
        f'<m:manifest xmlns:m="{names}manifest:1.0"><m:file-entry m:full-path="/" m:media-type="{kind}"/></m:manifest>'
    )
    return _zip({"mimetype": kind, "content.xml": content, "META-INF/manifest.xml": manifest})


def _far(name):
    book = openpyxl.Workbook()
    book.active["A1"] = "code"
    book.active["A2"] = "007"
    book.active[name] = 1
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


_FILLED = '<table:table-cell table:number-columns-repeated="16384" office:value-type="float" office:value="1"/>'


@cache
def hostile():
    """All of them."""
    return {
        "the last cell of the grid": ("a.xlsx", _far("XFD1048576")),
        "a stray value in the last row": ("a.xlsx", _far("C1048576")),
        "a stray value in the last column": ("a.xlsx", _far("XFD3000")),
        "a dimension that lies": ("a.xlsx", book_of(f'<row r="1">{cell("A1")}</row>', '<dimension ref="A1:XFD1048576"/>')),
        "a cell beyond the grid": ("a.xlsx", book_of(f'<row r="1">{cell("A1")}{cell("ZZZ9999999")}</row>')),
        "a cell name without a number": ("a.xlsx", book_of(f'<row r="1">{cell("A")}</row>')),
        "a cell name of letters without end": ("a.xlsx", book_of(f'<row r="1">{cell("A" * 5000 + "1")}</row>')),
        "a cell name with a huge number": ("a.xlsx", book_of(f'<row r="1">{cell("A99999999999999999999")}</row>')),
        "a cell of row nought": ("a.xlsx", book_of(f'<row r="0">{cell("A0")}</row>')),
        "a negative shared text": ("a.xlsx", book_of('<row r="1"><c r="A1" t="s"><v>-1</v></c></row>')),
        "a shared text that is not there": ("a.xlsx", book_of('<row r="1"><c r="A1" t="s"><v>99</v></c></row>')),
        "an archive that swells": ("a.xlsx", book_of(" " * 300_000_000)),
        "repeated cells of an ods": (
            "a.ods", _ods(f'<table:table-row table:number-rows-repeated="1048576">{_FILLED}</table:table-row>')
        ),
        "entities in entities": (
            "a.xlsx",
            _zip({"[Content_Types].xml": _TYPES, "_rels/.rels": _ROOT, "xl/_rels/workbook.xml.rels": _LINKS,
                  "xl/workbook.xml": "<!DOCTYPE z [<!ENTITY a 'aaaaaaaaaa'>" + "".join(
                      f"<!ENTITY {new} '{f'&{old};' * 10}'>" for old, new in zip("abcdefgh", "bcdefghi", strict=True)
                  ) + "]>" + _BOOK.replace('name="s"', 'name="&i;"')}),
        ),
        "no workbook at all": ("a.xlsx", b"PK\x03\x04" + b"\0" * 400),
        "nothing": ("a.xlsx", b""),
        "JSON in JSON": ("a.json", b"[" * 100_000 + b"]" * 100_000),
        "JSON just deep enough": ("a.json", b"[" * 600 + b"1" + b"]" * 600),
        "objects in objects": ("a.json", b'{"a":' * 900 + b"1" + b"}" * 900),
    }  # fmt: skip

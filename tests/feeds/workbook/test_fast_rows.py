"""Rows that are written column by column are the same, byte for byte, as those written one by one."""

import io
import re
import zipfile

import pytest

from tests.feeds.fed_rows import FedRows
from tests.feeds.workbook.test_corpus import fed
from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.problem import ProblemError
from tin_bucket.feeds.workbook import sheet_rows
from tin_bucket.feeds.workbook.target import Manner, Target

TARGET = Target("Data", "A1", "", "TinBucket_9")
COLUMNS = [
    ("id", "text"), ("n", "whole number"), ("x", "decimal"), ("day", "date"), ("at", "date and time"), ("ok", "yes/no"),
    ("mixed", "text"),
]  # fmt: skip


def table(count, odd=()):
    rows = []
    for at in range(count):
        mixed = [f"word {at % 7}", at, 2.5, None, True, Miss("none", "not found"), 10**20][at % 7]
        n = 10**18 if at in odd else at
        x = float("nan") if at in odd else at / 3
        rows.append((f"{at:05} <&>", n, x, f"2026-11-{at % 28 + 1:02}", "2026-11-01T07:30:00Z", at % 2 == 0, mixed))
    return FedRows(COLUMNS, rows)


def start():
    import xlsxwriter

    out = io.BytesIO()
    book = xlsxwriter.Workbook(out)
    book.add_worksheet("Data")
    book.close()
    return out.getvalue()


def sheet(data):
    return zipfile.ZipFile(io.BytesIO(data)).read("xl/worksheets/sheet1.xml")


@pytest.mark.parametrize("odd", [(), (1_500,)])
def test_both_ways_give_the_same_bytes(monkeypatch, odd):
    quick = [fed(start(), table(2_500, odd), Manner(), target=TARGET)[0]]
    quick.append(fed(quick[0], table(3_200, odd), Manner(), target=TARGET)[0])
    quick.append(fed(quick[1], table(900, odd), Manner(), target=TARGET)[0])
    monkeypatch.setattr(sheet_rows.SheetRows, "_all_alike", lambda *_: None)
    slow = [fed(start(), table(2_500, odd), Manner(), target=TARGET)[0]]
    slow.append(fed(slow[0], table(3_200, odd), Manner(), target=TARGET)[0])
    slow.append(fed(slow[1], table(900, odd), Manner(), target=TARGET)[0])
    assert [sheet(one) == sheet(other) for one, other in zip(quick, slow, strict=True)] == [True] * 3


def test_a_text_that_is_too_long_is_told_with_its_cell():
    rows = table(1_200)
    rows.rows[1_100] = ("x" * 40_000, *rows.rows[1_100][1:])
    with pytest.raises(ProblemError) as caught:
        fed(start(), rows, Manner(), target=TARGET)
    assert "A1102" in caught.value.problem.what


def test_a_style_that_stands_behind_other_attributes_is_kept():
    """Programs write the attributes of a cell in any order."""
    from tests.feeds.workbook.books import repacked

    made = fed(start(), table(3), Manner(), target=TARGET)[0]

    def turn(parts):
        data = parts["xl/worksheets/sheet1.xml"]
        data = re.sub(rb'(<c r="A[0-9]+") (s="[0-9]+" )?(t="inlineStr")', rb'\1 \3 s="1"', data)
        parts["xl/worksheets/sheet1.xml"] = data

    turned = repacked(made, turn)
    again = sheet(fed(turned, table(3), Manner(), target=TARGET)[0])
    assert again.count(b's="1"') >= 3
    assert re.search(rb'<c r="A2" s="1" t="inlineStr">', again)

"""Times with an offset keep their instant in a sheet, whose cells know of no zone."""

import io
import zipfile
from datetime import datetime, timedelta, timezone

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.feeds.fed_rows import FedRows
from tin_bucket.core.table.table import TableColumn
from tin_bucket.feeds.formats.open_document import write_open_document
from tin_bucket.feeds.options import ExportOptions
from tin_bucket.feeds.workbook.zoned_rows import MomentsAsTexts, ZonedRows

COLUMNS = [("id", "whole number"), ("at", "date and time"), ("day", "date"), ("told", "text")]
OFFSETS = st.integers(-14 * 4, 14 * 4).map(lambda quarters: timezone(timedelta(minutes=15 * quarters)))
MOMENTS = st.datetimes(datetime(1990, 1, 1), datetime(2090, 1, 1), timezones=OFFSETS)
TEXTS = st.one_of(st.none(), st.sampled_from(["", "soon"]), MOMENTS.map(lambda one: one.isoformat()))


def rows_with(texts):
    return FedRows(COLUMNS, [(at, text, "2026-11-25", text) for at, text in enumerate(texts)])


@given(st.lists(TEXTS, min_size=1, max_size=12), st.data())
def test_every_time_keeps_its_instant_in_whatever_order_it_is_read(texts, data):
    rows = ZonedRows(rows_with(texts), {})
    minutes = rows.zones().get("at", 0)
    zone = timezone(timedelta(minutes=minutes))
    order = data.draw(st.permutations(range(len(texts))))
    for row in rows.at(np.array(order)):
        text = texts[row[0]]
        assert row[2:] == ("2026-11-25", text)
        if text and text != "soon":
            assert datetime.fromisoformat(row[1]).replace(tzinfo=zone) == datetime.fromisoformat(text)
        else:
            assert row[1] == text
    assert rows.window(0, 99) == sorted(rows.at(np.array(order)))


@given(st.lists(MOMENTS, min_size=2, max_size=6))
def test_the_zone_of_the_last_time_stays(moments):
    first = ZonedRows(rows_with([moments[0].isoformat()]), {})
    later = ZonedRows(rows_with([one.isoformat() for one in moments[1:]]), first.zones())
    assert later.zones() == first.zones()


def test_the_zone_is_said_and_of_times_without_one_nothing():
    assert ZonedRows(rows_with(["2026-11-25T09:30:00-05:30"]), {}).words() == ["Times of “at” are in UTC−05:30."]
    plain = ZonedRows(rows_with(["2026-11-25T09:30:00", None]), {})
    assert (plain.words(), plain.zones(), plain.window(0, 1)[0][1]) == ([], {}, "2026-11-25T09:30:00")


def test_as_texts_they_stay_as_they_came():
    rows = MomentsAsTexts(rows_with(["2026-11-25T09:30:00-05:30"]))
    assert [column.kind for column in rows.columns] == ["whole number", "text", "date", "text"]
    assert rows.window(0, 1)[0][1] == "2026-11-25T09:30:00-05:30"


def opened(rows, **options):
    out = io.BytesIO()
    columns = [TableColumn(name, kind, unit="u" if name == "at" else "") for name, kind in COLUMNS]
    write_open_document(columns, iter(rows), out, "t", ExportOptions(**options), 4)
    return zipfile.ZipFile(out).read("content.xml").decode()


def test_an_open_document_says_the_zone_above_the_times_of_each_sheet():
    moments = ["2026-11-25T09:30:00-05:30", "2026-11-25T15:30:00Z", None, "2026-11-26T00:00:00+01:00"]
    text = opened(rows_with(moments).rows)
    assert text.count("<text:p>at, u, UTC−05:30</text:p>") == 2
    assert 'office:date-value="2026-11-25T09:30:00"' in text
    assert 'office:date-value="2026-11-25T10:00:00"' in text
    assert 'office:date-value="2026-11-25T17:30:00"' in text
    assert text.index("at, u") < text.index('date-value="2026-11-25T09:30:00"')
    kept = opened(rows_with(moments).rows, moments="text")
    assert "<text:p>2026-11-25T15:30:00Z</text:p>" in kept
    assert "UTC" not in kept.split("table-header-rows")[1]

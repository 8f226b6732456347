"""What the values of a table suggest: only what they show, with what was seen, and as a line that can be done."""

from typing import Any

import pytest

from tests.engine.work_out.conftest import AS_OF, table
from tin_bucket.engine.work_out.offers import Offer, offers
from tin_bucket.engine.work_out.stage import Stage

ROUTES = ["Harl Sound – Oxnith", "Ormsey – Kittle Bay", "Tarn Head – Gannet Ness", "Pell Harbour – Skerrywick"]
ALONE = [f"S{at}" for at in range(40)]


def offered(**columns: list[Any]) -> list[Offer]:
    return offers(Stage.of(table(**columns), AS_OF))


def test_texts_of_parts_are_split(bench):
    own = {"route": ROUTES * 3}
    offer = next(one for one in offered(**own) if one.line["do"] == "split")
    assert (offer.column, offer.label) == ("route", "split at “–”")
    assert offer.evidence == "“ – ” parts 12 of 12 values in 2, such as “Harl Sound – Oxnith”"
    rows = bench.rows(table(**own), offer.line)
    assert rows[0] == ("Harl Sound – Oxnith", "Harl Sound", "Oxnith")


def test_texts_that_mean_nothing_are_left_blank(bench):
    own = {"vessel": ["MV Tystie", "n/a", "MV Maalie", "N/A", "-", *ALONE]}
    offer = next(one for one in offered(**own) if one.line["do"] == "replace")
    assert offer.evidence == "“n/a” and “N/A” in 3 of 45 rows"
    assert [row[0] for row in bench.rows(table(**own), offer.line)][:5] == ["MV Tystie", None, "MV Maalie", None, None]


def test_numbers_that_are_texts_are_read_as_numbers(bench):
    own = {"fare": ["30.39", "n/a", "1,204.10", *[f"{at}.50" for at in range(10, 20)]], "code": ["007"] * 13}
    (offer,) = (one for one in offered(**own) if one.line["do"] == "read")
    assert (offer.column, offer.label) == ("fare", "read as decimal")
    assert offer.evidence == "numbers written as text, such as “30.39”; “n/a” where there is none"
    assert [row[0] for row in bench.rows(table(**own), offer.line)][:4] == [30.39, None, 1204.1, 10.5]


def test_a_day_and_a_month_that_could_be_swapped_are_offered_both_ways(bench):
    own = {"day": [f"0{day}/0{month}/2026" for day in (1, 2, 3) for month in (4, 5, 6)]}
    found = [one for one in offered(**own) if one.line["do"] == "read"]
    assert [one.line["dates"] for one in found] == ["%d/%m/%Y", "%m/%d/%Y"]
    assert "could be swapped" in found[0].evidence
    assert [bench.rows(table(**own), one.line)[0] for one in found] == [("2026-04-01",), ("2026-01-04",)]


def test_what_a_line_cannot_read_as_a_number_leads_to_the_one_that_reads_it(bench):
    (done,) = bench.do(table(fare=["30.39", "9.84"]), {"do": "column", "name": "x", "expression": "fare * 2"})
    assert done.stage.notes[0].text == (
        "2 not worked out: text where a number is wanted, such as “30.39”; the line “texts read as numbers or dates”"
        " makes numbers of them"
    )
    rows = bench.rows(
        table(fare=["30.39", "9.84"]),
        {"do": "read", "column": "fare", "kind": "decimal"},
        {"do": "column", "name": "x", "expression": "fare * 2"},
    )
    assert rows == [(30.39, 60.78), (9.84, 19.68)]


def test_rows_that_are_the_same_are_dropped(bench):
    own = {"id": ["S1", "S2", "S1"], "delay": [1, 2, 1]}
    offer = offered(**own)[0]
    assert (offer.column, offer.evidence) == ("", "1 of 3 rows the same as one before in every column")
    assert bench.rows(table(**own), offer.line) == [("S1", 1), ("S2", 2)]


@pytest.mark.parametrize(
    ("dates", "label"),
    [
        ([f"2026-{month:02}-{day:02}" for month in (10, 11) for day in range(1, 9)], "count by month"),
        ([f"2026-11-{day:02}T{hour:02}:00:00Z" for day in (1, 2) for hour in range(8)], "count by day"),
        ([f"2026-11-01T{hour:02}:{minute}:00Z" for hour in (7, 8) for minute in range(10, 20)], "count by hour"),
    ],
)
def test_dates_are_counted_by_the_longest_period_that_parts_them(bench, dates, label):
    offer = next(one for one in offered(departs=dates) if one.line["do"] == "count")
    assert offer.label == label
    rows = bench.rows(table(departs=dates), offer.line)
    assert len(rows) == 2
    assert sum(row[1] for row in rows) == len(dates)


def test_few_values_that_come_often_are_counted(bench):
    own = {"id": ALONE, "status": ["arrived", "arrived", "cancelled", "planned"] * 10}
    found = offered(**own)
    assert [(one.column, one.evidence) for one in found] == [("status", "3 different values in 40 of 40 rows")]
    assert sorted(row[:2] for row in bench.rows(table(**own), found[0].line))[0] == ("arrived", 20)


def test_headings_of_groups_are_filled_downwards(bench):
    own = {"port": ["Oxnith", None, None, None, "Ormsey", None, None, "Harl", None, None, None], "no": list(range(11))}
    offer = next(one for one in offered(**own) if one.line["do"] == "fill")
    assert offer.evidence == "filled in 3 of 11 rows, blank below"
    assert [row[0] for row in bench.rows(table(**own), offer.line)][3:8] == ["Oxnith", *["Ormsey"] * 3, "Harl"]


def test_nothing_is_offered_where_the_values_show_nothing():
    remarks = [None, "late", None, None, None, "late", *[None] * 34]
    assert (
        offered(
            id=ALONE,
            delay=[at % 7 for at in range(40)],
            remark=remarks,
            name=[f"{one}, A" for one in "abc"] + ALONE[3:],
        )
        == []
    )
    assert offered(id=[]) == []

"""Each way to turn pages against a simulated service, over real HTTP: all rows are there, each once."""

from datetime import timedelta

import pytest

from tests.conftest import DAY, NOON
from tin_bucket.core.document.query import load_brief
from tin_bucket.demo import timetable
from tin_bucket.demo.services import bookings

WEEKS = DAY + timedelta(days=20)
SAILINGS = [
    {"name": "route", "value": "harl-oxnith"},
    {"name": "from", "value": str(DAY)},
    {"name": "to", "value": str(WEEKS)},
]
TODAY = [{"name": "from", "value": str(DAY)}, {"name": "to", "value": str(DAY)}, {"name": "size", "value": "40"}]
HULLS = [str(hull["hull_id"]) for hull in timetable.vessels(DAY)]


def sailings():
    return [one["sailing_id"] for one in timetable.sailings(DAY, DAY, WEEKS, "harl-oxnith")]


def booked():
    return [one["booking"] for one in bookings.bookings(DAY, DAY, DAY)]


def fares():
    return [
        f"{one['sailing_id']}-{fare['class']}" for one in timetable.sailings(DAY, DAY, DAY) for fare in one["fares"]
    ]


CASES = {
    "number": ("operations", {"path": "/sailings", "query": SAILINGS}, "$.data[*]", "sailing_id", sailings, "states 3 pages",
               {"by": "number", "size_parameter": "per_page", "size": 500, "last_page": "$.meta.total_pages", "total": "$.meta.total"}),
    "dates": ("operations", {"path": "/sailings", "query": [*SAILINGS, {"name": "per_page", "value": "100"}]}, "$.data[*]",
              "sailing_id", sailings, "pieces", {"by": "dates", "step": "P7D", "total": "$.meta.total"}),
    "offset": ("awkward", {"path": "/ways/caps-size"}, "$.rows[*]", "id", lambda: list(range(118)), "no row from row 118",
               {"by": "offset"}),
    "cursor": ("fares", {"method": "POST", "path": "/fares/search", "body": {"kind": "json", "value": {"day": str(DAY)}}},
               "$.result.items[*]", "fareId", fares, "no further cursor",
               {"by": "cursor", "at": "body", "cursor": "$.next_cursor", "size_parameter": "limit", "size": 60, "total": "$.result.count"}),
    "next": ("bookings", {"path": "/bookings", "query": TODAY}, "$.bookings[*]", "booking", booked, "no further address",
             {"by": "next", "next": "$.next"}),
    "last row": ("bookings", {"path": "/bookings", "query": TODAY}, "$.bookings[*]", "booking", booked, "is empty",
                 {"by": "last row", "value": "$.booking"}),
    "link": ("register", {"path": "/vessels", "query": [{"name": "size", "value": "4"}]}, "$[*]", "hull_id", lambda: HULLS, "Link header",
             {"by": "link"}),
    "ids": ("register", {"path": "/vessels"}, "$[*]", "hull_id", lambda: sorted(HULLS), "6 ids",
            {"by": "ids", "ids": "$[*].hull_id", "path": "/details?ids={id}", "batch": 50, "listing": {"by": "link"}}),
    "none": ("operations", {"path": "/vessels"}, "$.data[*]", "hull_id", lambda: HULLS, "nothing tells", {"by": "none"}),
}  # fmt: skip


@pytest.mark.parametrize("way", CASES)
def test_each_way_brings_every_row_once(workspace, company, refresh, way):
    service, ask, records, column, truth, stop, pages = CASES[way]
    document = {
        "name": way, "ask": {"service": f"skerrywick-{service}", **ask}, "pages": pages,
        "take": {"records": records, "columns": [{"place": f"$.{column}", "name": column}]}, "keep": {"match": [column]},
    }  # fmt: skip
    run = refresh(workspace.queries.add(load_brief(document), NOON).id)
    assert run.state == ("unverified" if way == "none" else "complete"), (run.problem, run.report)
    got = [row[0] for row in workspace.snapshots.window(run.snapshot_id, 0, 5_000)]
    assert [str(one) for one in got] == [str(one) for one in truth()]
    assert stop in run.stop

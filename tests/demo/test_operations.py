"""The simulated service behaves as its docs page says, over real HTTP."""

import json
import re
import urllib.error
import urllib.request
from collections import Counter
from datetime import date, timedelta

import pytest

from tests.conftest import DAY
from tin_bucket.demo import timetable
from tin_bucket.demo.services.operations import KEY, KEY_HEADER

WEEK = timedelta(days=7)


@pytest.fixture
def get(running):
    def call(path, key=KEY, accept="application/json", data=None):
        headers = {"Accept": accept} | ({KEY_HEADER: key} if key else {})
        request = urllib.request.Request(running.base + path, data=data, headers=headers)
        try:
            with urllib.request.urlopen(request, timeout=10) as response:
                return response.status, response.read().decode()
        except urllib.error.HTTPError as error:
            return error.code, error.read().decode()

    return call


def test_the_docs_page_shows_an_example_that_works(get, running):
    status, page = get("/", key=None, accept="text/html")
    assert status == 200
    assert KEY_HEADER in page
    assert not re.findall(r"%[A-Z]+%", page)
    example = re.search(r"GET (http[^\s<]+/sailings[^\s<]+)", page)[1].replace("&amp;", "&")
    status, body = get(example.removeprefix(running.base))
    assert status == 200
    assert json.loads(body)["data"]


@pytest.mark.parametrize(("key", "code"), [(None, "no_key"), ("wrong", "bad_key"), ("wröng", "bad_key")])
def test_a_key_is_wanted(get, key, code):
    status, body = get("/ports", key=key and key.encode().decode("latin-1"))
    assert (status, json.loads(body)["error"]["code"]) == (401, code)


def test_pages_hold_everything_once_and_their_size_is_capped(get):
    query = f"/sailings?from={DAY - WEEK}&to={DAY + WEEK}&per_page=500"
    first = json.loads(get(query)[1])
    assert first["meta"]["per_page"] == 100
    found = [s["sailing_id"] for n in range(first["meta"]["total_pages"])
             for s in json.loads(get(f"{query}&page={n + 1}")[1])["data"]]  # fmt: skip
    assert len(found) == len(set(found)) == first["meta"]["total"]
    beyond = json.loads(get(f"{query}&page=999")[1])
    assert beyond["data"] == []
    assert json.loads(get(f"/sailings?from={DAY}&to={DAY}")[1])["meta"]["per_page"] == 25


def test_it_filters_by_route_and_status(get):
    body = json.loads(get(f"/sailings?from={DAY}&to={DAY}&route=harl-oxnith&per_page=100")[1])
    assert {s["route"]["code"] for s in body["data"]} == {"harl-oxnith"}
    body = json.loads(get(f"/sailings?from={DAY}&to={DAY}&status=late&per_page=100")[1])
    assert body["data"]
    assert {s["status"] for s in body["data"]} == {"late"}


@pytest.mark.parametrize(
    ("query", "word"),
    [
        ("", "from is wanted"),
        ("?from=2026-11-25", "to is wanted"),
        ("?from=25.11.2026&to=2026-11-25", "YYYY-MM-DD"),
        ("?from=2026-11-25&to=2026-11-24", "on or after"),
        ("?from=2026-01-01&to=2026-11-24", "62 days"),
        ("?from=2026-11-25&to=2026-11-25&route=atlantis", "atlantis"),
        ("?from=2026-11-25&to=2026-11-25&page=0", "whole number"),
        ("?from=2026-11-25&to=2026-11-25&per_page=many", "whole number"),
    ],
)
def test_a_parameter_that_does_not_fit_is_refused_in_words(get, query, word):
    status, body = get("/sailings" + query)
    assert status == 422
    assert word in json.loads(body)["error"]["message"]


def test_ports_keep_their_noughts_and_unknown_codes_are_404(get):
    assert json.loads(get("/ports/007")[1]) == {"code": "007", "name": "Oxnith", "zone": "North", "berths": 2}
    assert get("/ports/7")[0] == 404
    status, body = get("/ports/901")
    assert (status, json.loads(body)["error"]["code"]) == (404, "no_such_port")
    assert get("/nothing")[0] == 404
    listed = json.loads(get("/ports")[1])
    assert listed["meta"]["total"] == len(listed["data"]) == len(timetable.PORTS)


def test_the_simulated_day_moves_and_only_by_what_makes_sense(get, operations):
    assert json.loads(get("/simulation/day")[1]) == {"day": DAY.isoformat()}
    assert get("/simulation/day", data=b'{"days": 3}')[0] == 200
    assert operations.today == DAY + timedelta(days=3)
    for nonsense in (b'{"days": "x"}', b'{"days": 9999}', b"{broken"):
        assert get("/simulation/day", data=nonsense)[0] == 422
    assert operations.today == DAY + timedelta(days=3)


def test_the_same_day_tells_the_same_and_another_day_tells_some_differences():
    def told(today):
        return {s["sailing_id"]: s for s in timetable.sailings(today, DAY - WEEK, DAY + WEEK)}

    now, again, tomorrow = told(DAY), told(DAY), told(DAY + timedelta(days=1))
    assert now == again
    assert len(now) == len(timetable.sailings(DAY, DAY - WEEK, DAY + WEEK))
    assert now.keys() - tomorrow.keys()
    assert tomorrow.keys() - now.keys()
    moved = [key for key in now.keys() & tomorrow.keys() if now[key] != tomorrow[key]]
    assert 20 < len(moved) < len(now) / 3
    fares = [f for s in now.values() for f in s["fares"]]
    assert min(f["amount"] for f in fares) >= 2


def test_what_has_happened_does_not_change_any_more():
    past = (DAY - timedelta(days=20), DAY - timedelta(days=10))
    assert timetable.sailings(DAY, *past) == timetable.sailings(DAY + timedelta(days=30), *past)


def test_sailings_have_the_shape_that_the_docs_tell():
    found = timetable.sailings(DAY, DAY - WEEK, DAY + WEEK)
    assert Counter(len(s["fares"]) for s in found) == {3: len(found)}
    assert {len(s["legs"]) for s in found} == {1, 2}
    codes = {s["port_code"] for s in found}
    assert codes - timetable.PORTS.keys() == set(timetable.TEMPORARY_BERTHS)
    assert all(len(str(s["vessel"]["hull_id"])) == 19 for s in found)
    assert {s["status"] for s in found} >= {"planned", "on time", "late", "arrived", "cancelled"}
    assert all((s["delay_min"] is None) == (s["status"] in ("planned", "cancelled")) for s in found)


def test_the_fleet_is_seen_from_its_day():
    one, other = timetable.vessels(DAY), timetable.vessels(date(2026, 11, 26))
    assert [v["hull_id"] for v in one] == [v["hull_id"] for v in other]
    assert one != other
    assert {v["at"] for v in one} <= timetable.PORTS.keys()

"""The docs pages of the simulated services are true: every example on them, pasted as it stands, is answered."""

import asyncio
import html
import json
import re
import urllib.error
import urllib.request

import pytest

from tests.conftest import DAY, NOON
from tin_bucket.core.auth.credentials import Key
from tin_bucket.core.auth.sign import sign
from tin_bucket.core.interchange.paste import take_apart
from tin_bucket.core.request.build import build_call
from tin_bucket.core.request.parameters.moment import Moment
from tin_bucket.core.request.parameters.values import bind
from tin_bucket.core.request.variables import make_scope
from tin_bucket.demo.company import Company
from tin_bucket.demo.services import bookings, fares, statistics
from tin_bucket.demo.services.fares import CLIENT, CLIENT_SECRET
from tin_bucket.demo.services.operations import KEY, KEY_HEADER
from tin_bucket.engine.network.http import Fetcher

NAMES = ("operations", "fares", "register", "statistics", "bookings", "awkward")


@pytest.fixture(scope="module")
def town():
    with Company(DAY) as company:
        yield company


def docs(town, name):
    request = urllib.request.Request(town.bases[name] + "/", headers={"Accept": "text/html"})
    with urllib.request.urlopen(request, timeout=10) as response:
        return response.read().decode()


def examples(page):
    """What stands in the code blocks of a page and is a call, each by itself."""
    for block in re.findall(r"<pre>(.*?)</pre>", page, re.DOTALL):
        text = html.unescape(block)
        for part in re.split(r"\n(?=GET |POST |curl |http)", text):
            if re.match(r"(GET|POST|curl|https?:)", part):
                yield part


def send(call):
    async def go():
        fetcher = Fetcher()
        answer = await fetcher.fetch(call, 10)
        await fetcher.close()
        return answer

    return asyncio.run(go())


def token(town):
    body = f"grant_type=client_credentials&client_id={CLIENT}&client_secret={CLIENT_SECRET}"
    with urllib.request.urlopen(f"{town.bases['fares']}/oauth/token", data=body.encode(), timeout=10) as response:
        return json.load(response)["access_token"]


@pytest.mark.parametrize("name", NAMES)
def test_the_examples_of_its_docs_page_can_be_pasted_and_are_answered(town, name):
    page = docs(town, name)
    assert not re.findall(r"%[A-Z]+%", page)
    found = list(examples(page))
    assert len(found) >= 2
    for text in found:
        understood = take_apart(text, [])
        assert understood.base.startswith(town.bases[name])
        parameters = understood.brief.parameters
        bindings = bind(parameters, {}, Moment(NOON))
        call = build_call(understood.base, understood.brief.ask, make_scope(parameters, bindings))
        secret = understood.secret
        key = understood.key
        if name == "operations":
            key, secret = (
                Key.model_validate({"name": "k", "places": [{"at": "header", "name": KEY_HEADER}]}),
                {"key": KEY},
            )
        elif "YOUR_TOKEN" in text:
            assert secret == {}
            secret = {"key": token(town) if name == "fares" else bookings.KEY}
        elif name == "awkward":
            assert (key, secret) == (None, {})
        answer = send(call if key is None else sign(call, key, secret))
        assert answer.status == 200, text
        assert json.loads(answer.body)


def ask(town, name, path, body=None, headers=None):
    data = None if body is None else json.dumps(body).encode()
    request = urllib.request.Request(town.bases[name] + path, data=data, headers=headers or {})
    try:
        with urllib.request.urlopen(request, timeout=10) as response:
            return response.status, json.load(response), response.headers
    except urllib.error.HTTPError as error:
        return error.code, json.load(error), error.headers


def bearer(town):
    return {"Authorization": f"Bearer {token(town)}", "Content-Type": "application/json"}


def test_a_cursor_leads_through_all_fares_once(town):
    headers = bearer(town)
    wanted = {"day": DAY.isoformat(), "route": "all", "limit": 40}
    seen, cursor = [], None
    while True:
        _, answer, _ = ask(
            town, "fares", "/fares/search", {**wanted, **({"cursor": cursor} if cursor else {})}, headers
        )
        seen += [item["fareId"] for item in answer["result"]["items"]]
        cursor = answer["next_cursor"]
        if cursor is None:
            break
    assert len(seen) == len(set(seen)) == answer["result"]["count"] > 40


@pytest.mark.parametrize(
    ("body", "word"),
    [
        ({}, "day"), ({"day": "soon"}, "day"), ({"day": "2026-11-25", "route": "nix"}, "nix"),
        ({"day": "2026-11-25", "classes": ["royal"]}, "classes"), ({"day": "2026-11-25", "limit": 0}, "limit"),
        ({"day": "2026-11-25", "cursor": "%%"}, "cursor"), ([], "object"),
    ],
)  # fmt: skip
def test_a_search_that_does_not_fit_is_refused_in_problem_details(town, body, word):
    status, problem, headers = ask(town, "fares", "/fares/search", body, bearer(town))
    assert (status, headers["Content-Type"].split(";")[0]) == (422, "application/problem+json")
    assert word in problem["detail"]


def test_a_token_ends(town):
    short = fares.Fares(DAY, life=-1)
    from tin_bucket.demo.running import Running

    with Running(short.app()) as running:
        town.bases["incomplete"] = running.base
        body = f"grant_type=client_credentials&client_id={CLIENT}&client_secret={CLIENT_SECRET}"
        with urllib.request.urlopen(f"{running.base}/oauth/token", data=body.encode(), timeout=10) as response:
            given = json.load(response)["access_token"]
        status, problem, _ = ask(town, "incomplete", "/fares/search", {}, {"Authorization": f"Bearer {given}"})
        assert (status, problem["title"]) == (401, "token ended")


def test_the_register_lists_ids_over_pages_by_a_link_header(town):
    from tin_bucket.core.auth.placements.basic import basic_text
    from tin_bucket.demo.services.register import PASSWORD, USER

    headers = {"Authorization": f"Basic {basic_text(USER, PASSWORD)}"}
    ids, path = [], "/v1/vessels?size=4"
    while path:
        _, page, answered = ask(town, "register", path, headers=headers)
        ids += [one["hull_id"] for one in page]
        link = re.search(r"<http://[^/]+([^>]+)>; rel=\"next\"", answered.get("Link") or "")
        path = link[1] if link else None
    assert len(ids) == len(set(ids)) == 6
    details = ask(town, "register", f"/v1/details?ids={','.join(reversed(ids))},999", headers=headers)[1]
    assert [one["hull_id"] for one in details] == sorted(ids)
    assert ask(town, "register", "/v1/details?ids=" + "1," * 60, headers=headers)[0] == 422
    assert ask(town, "register", "/v1/inspections/2026/13", headers=headers)[0] == 422
    assert ask(town, "register", "/v1/vessels")[1]["errors"][0]["code"] == "unauthorized"


def test_series_have_different_lengths_and_the_key_is_wanted_in_the_body(town):
    json_type = {"Content-Type": "application/json"}
    body = {"series": ["PAX.harl-oxnith", "PAX.skerrywick-hesta"], "from": "2019-01", "to": "2030-01"}
    status, refused, _ = ask(town, "statistics", "/series", body, json_type)
    assert (status, refused["message"]) == (403, ["The key is missing."])
    answer = ask(town, "statistics", "/series", {**body, "key": statistics.KEY}, json_type)[1]
    lengths = [len(one["points"]) for one in answer["series"]]
    assert lengths[0] > lengths[1] > 12
    # The newest month is that of the simulated day.
    assert answer["series"][0]["points"][-1]["month"] == f"{DAY:%Y-%m}"
    table = ask(town, "statistics", f"/passengers?year=2026&key={statistics.KEY}")[1]
    assert table[0] == ["month", "route", "passengers", "cars"]
    assert len(table) == 1 + 9 * DAY.month
    assert ask(town, "statistics", f"/passengers?key={statistics.KEY}x")[0] == 403
    unknown = {**body, "series": ["PAX.nowhere"], "key": statistics.KEY}
    assert ask(town, "statistics", "/series", unknown, json_type)[0] == 422


@pytest.mark.parametrize("name", NAMES)
def test_the_simulated_day_is_one_for_all(town, name):
    before = town.calendar.today
    moved = urllib.request.Request(f"{town.bases[name]}/simulation/day", data=b'{"days": 2}')
    moved.add_header("Content-Type", "application/json")
    with urllib.request.urlopen(moved, timeout=10) as response:
        assert json.load(response)["day"] > before.isoformat()
    assert {service.today for service in town.services.values()} == {town.calendar.today}
    town.calendar.today = before

"""“Is there more?” over the API: offered with its cost, never where it may change something, kept in the history."""

import json

from aiohttp import web

from tests.web.test_api import run_of
from tests.web.test_history import query, serve  # noqa: F401

ROWS = [{"id": n} for n in range(36)]


def paged(awkward, **around):
    """36 rows, ten a page, asked for with `page`; keys that come are seen by `awkward.seen`."""

    async def answer(request):
        if request.method == "POST":
            number = int((await request.json()).get("page", 1))
        else:
            number = int(request.query.get("page", 1))
        return web.json_response({"d": ROWS[(number - 1) * 10 : number * 10], **around})

    awkward.answers["/d"] = answer


def look(client, number):
    brief = client.get(f"/api/queries/{number}").json()["brief"]
    return client.post("/api/ask-once", json={"brief": brief, "query_id": number}).json()


def test_it_is_offered_with_its_cost_and_its_calls_are_kept(client, awkward, query):  # noqa: F811
    paged(awkward)
    number = query()
    preview = look(client, number)
    proof = preview["proof"]
    assert (proof["state"], proof["calls"], proof["reads"], proof["by_itself"]) == ("unverified", 6, True, False)
    seen = len(awkward.seen)
    found = client.post(f"/api/previews/{preview['id']}/more", json={"query_id": number}).json()
    assert (found["state"], found["pages"]["by"], found["pages"]["parameter"]) == ("incomplete", "number", "page")
    assert len(awkward.seen) - seen == len(found["calls"]) <= 6
    kept = client.get(f"/api/queries/{number}").json()["findings"]
    assert [one["what"] for one in kept] == [found["what"]]
    assert kept[0]["calls"] == found["calls"]
    history = client.get("/api/findings").json()
    assert [(one["query_id"], one["query_name"], one["finding"]) for one in history] == [(number, "q", kept[0])]
    assert all(call["status"] == 200 and "/d?" in call["address"] for call in found["calls"])


def test_what_may_change_something_is_not_tried_unasked(client, awkward, query):  # noqa: F811
    paged(awkward)
    body = {"kind": "json", "value": {"route": "all"}}
    number = query(ask={"service": "awkward", "path": "/d", "method": "POST", "body": body})
    preview = look(client, number)
    assert preview["proof"]["reads"] is False
    seen = len(awkward.seen)
    refused = client.post(f"/api/previews/{preview['id']}/more", json={"query_id": number})
    assert (refused.json()["kind"], len(awkward.seen)) == ("may-change", seen)
    found = client.post(f"/api/previews/{preview['id']}/more", json={"query_id": number, "reads": True}).json()
    assert (found["pages"]["at"], found["pages"]["parameter"]) == ("body", "page")


def test_a_key_is_in_none_of_what_was_tried(client, awkward, query):  # noqa: F811
    paged(awkward)
    secret = "k7h2-made-up-secret-91"
    key = {"name": "Own", "places": [{"at": "address", "name": "key"}]}
    service = {"id": "n", "name": "Keyed", "base": awkward.base, "key": key}
    assert client.post("/api/services", json={"service": service}).status_code == 201
    stored = client.put("/api/services/keyed/key", json={"secret": {"key": secret}})
    assert stored.status_code == 200, stored.text
    number = query(ask={"service": "keyed", "path": "/d"})
    preview = look(client, number)
    found = client.post(f"/api/previews/{preview['id']}/more", json={"query_id": number})
    assert found.json()["pages"]["parameter"] == "page"
    assert any(secret in str(request) for request in awkward.seen)
    assert secret not in found.text
    assert secret not in json.dumps(client.get(f"/api/queries/{number}").json())


def test_only_the_newest_findings_stay_and_they_go_with_their_query(client, awkward, query):  # noqa: F811
    serve(awkward, "/d", {"d": ROWS[:3], "next": None})
    number = query()
    preview = look(client, number)
    for _ in range(22):
        client.post(f"/api/previews/{preview['id']}/more", json={"query_id": number})
    kept = client.get(f"/api/queries/{number}").json()["findings"]
    assert [one["id"] for one in kept] == list(range(22, 2, -1))
    client.delete(f"/api/queries/{number}")
    other = query()
    assert client.get(f"/api/queries/{other}").json()["findings"] == []


def test_the_states_go_through_the_desk_the_comparison_and_the_files(client, awkward, query):  # noqa: F811
    number = query()
    serve(awkward, "/d", {"d": ROWS[:10]})
    first, _ = run_of(client, number)
    assert first["state"] == "unverified"
    serve(awkward, "/d", {"d": ROWS[:10], "has_more": False})
    second, _ = run_of(client, number)
    serve(awkward, "/d", {"d": ROWS[:10], "has_more": True})
    third, _ = run_of(client, number)
    assert (second["state"], third["state"]) == ("complete", "incomplete")
    ids = [one["snapshot_id"] for one in (first, second, third)]
    told = client.get("/api/compare", params={"then": ids[0], "now": ids[1]}).json()
    assert (told["then"]["snapshot"]["state"], told["now"]["snapshot"]["state"]) == ("unverified", "complete")
    assert told["now"]["snapshot"]["evidence"] == "$.has_more is false"
    latest = client.get("/api/desk").json()["queries"][0]["latest"]
    assert (latest["state"], "$.has_more is true" in latest["evidence"]) == ("incomplete", True)
    names = [client.get(f"/api/snapshots/{one}/table.csv").headers["content-disposition"] for one in ids]
    assert ["unverified" in name for name in names] == [True, False, False]
    assert "incomplete" in names[2]


def test_a_sheet_has_no_further_pages(client, awkward, query):  # noqa: F811
    number = query(ask={"service": "awkward", "path": "/d"})
    serve(awkward, "/d", {"error": "no"}, 500)
    preview = look(client, number)
    assert preview["proof"] is None
    assert client.post(f"/api/previews/{preview['id']}/more", json={}).json()["kind"] == "service-failed"
    assert client.post("/api/previews/999/more", json={}).json()["kind"] == "preview-gone"

"""Drafts over the API, and where the desk and a query's page tell of them."""

from tests.web.test_api import run_of
from tests.web.test_history import query, serve  # noqa: F401


def details(client, number):
    return client.get(f"/api/queries/{number}").json()


def put(client, number, document, version=0, name="noted", **more):
    based_on = details(client, number)["brief_id"]
    body = {"version": version, "based_on": based_on, "document": document, "name": name, **more}
    return client.put(f"/api/queries/{number}/draft", json=body)


def test_a_change_is_kept_with_its_query_and_told_on_the_desk(client, awkward, query):  # noqa: F811
    number = query()
    found = details(client, number)
    assert found["draft"] is None
    made = put(client, number, {**found["brief"], "note": "checked"}, given={"day": "2026-03-01"}).json()
    assert (made["version"], made["unsaved"], made["steps"][-1]["name"]) == (1, True, "noted")
    found = details(client, number)
    assert (found["draft"]["document"]["note"], found["brief"]["note"]) == ("checked", "")
    assert [line["unsaved"] for line in client.get("/api/desk").json()["queries"]] == [True]
    back = client.put(f"/api/queries/{number}/draft/at", json={"version": 1, "at": 0}).json()
    assert (back["document"]["note"], back["unsaved"]) == ("", False)
    assert [line["unsaved"] for line in client.get("/api/desk").json()["queries"]] == [False]


def test_two_windows_notice_each_other(client, awkward, query):  # noqa: F811
    number = query()
    brief = details(client, number)["brief"]
    put(client, number, {**brief, "note": "mine"})
    refused = put(client, number, {**brief, "note": "theirs"})
    assert (refused.status_code, refused.json()["kind"]) == (409, "draft-changed-meanwhile")
    assert client.get(f"/api/queries/{number}/draft").json()["document"]["note"] == "mine"


def test_a_table_that_another_brief_made_says_so(client, awkward, query):  # noqa: F811
    number = query()
    serve(awkward, "/d", {"d": [{"id": 1, "day": "2026-03-01"}]})
    run_of(client, number)
    found = details(client, number)
    assert found["made_with"] is None
    brief = found["brief"]
    columns = [{"place": "$.day", "name": "on", "kind": "date"}]
    save = {"brief": {**brief, "take": {**brief["take"], "columns": columns}}, "based_on": found["brief_id"]}
    assert client.put(f"/api/queries/{number}", json=save).json()["made_with"] == {"asks": False, "reads": True}
    assert client.get("/api/desk").json()["queries"][0]["made_with"] == {"asks": False, "reads": True}
    run = details(client, number)["last_run"]["id"]
    assert client.post(f"/api/runs/{run}/rebuild").status_code == 200
    assert details(client, number)["made_with"] is None
    assert client.get("/api/desk").json()["queries"][0]["made_with"] is None


def test_a_change_of_the_query_is_not_told_as_changed_data(client, awkward, query):  # noqa: F811
    number = query(keep={"match": ["id"]})
    serve(awkward, "/d", {"d": [{"id": 1, "day": "2026-03-01"}, {"id": 2, "day": "2026-03-02"}]})

    def since(**parts):
        found = details(client, number)
        brief = {**found["brief"], **parts}
        client.put(f"/api/queries/{number}", json={"brief": brief, "based_on": found["brief_id"]})
        run_of(client, number)
        return client.get("/api/desk").json()["queries"][0]["latest"]["since"]

    run_of(client, number)
    assert since() == {"new": 0, "gone": 0, "changed": 0}
    columns = [{"place": "$.id", "name": "number"}, {"place": "$.day", "name": "on"}]
    take = {"records": "$.d[*]", "columns": columns}
    assert since(take=take, keep={"match": ["number"]}) == {"reads": 1}
    assert since() == {"new": 0, "gone": 0, "changed": 0}
    serve(awkward, "/e", {"d": [{"id": 7}]})
    ask = details(client, number)["brief"]["ask"]
    assert since(ask={**ask, "path": "/e"}) == {"asks": 1}
    parameter = {"name": "port", "kind": "text", "default": "ox"}
    pair = {"name": "port", "value": "{port}"}
    assert since(parameters=[parameter], ask={**ask, "path": "/e", "query": [pair]}) == {"asks": 1}
    done = client.post(f"/api/queries/{number}/refresh", json={"values": {"port": "hw"}}).json()["run_id"]
    client.get(f"/api/runs/{done}/events")
    assert client.get("/api/desk").json()["queries"][0]["latest"]["since"] == {"values": 1}

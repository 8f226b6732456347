"""What is seen is what is exported: filters, order, a draft's names and hidden columns; or the whole snapshot."""

import json
from urllib.parse import unquote

from tests.web.test_api import run_of
from tests.web.test_history import query, serve  # noqa: F401

ROWS = [
    {"id": 2, "fee": 1.5, "port": "Oxnith"},
    {"id": 1, "fee": 3.25, "port": "Ü-12"},
    {"id": 3, "fee": 2, "port": "x"},
]


def lines(client, path, **options):
    response = client.get(path, params=options)
    assert response.status_code == 200, response.text
    return response.content.decode().splitlines(), unquote(response.headers["content-disposition"])


def test_a_snapshot_is_exported_as_seen_or_whole(client, awkward, query):  # noqa: F811
    number = query()
    serve(awkward, "/d", {"d": ROWS})
    last, _ = run_of(client, number)
    path = f"/api/snapshots/{last['snapshot_id']}/table.csv"
    whole, title = lines(client, path)
    assert (whole[1:], "as seen" in title) == (["2,1.5,Oxnith", "1,3.25,Ü-12", "3,2,x"], False)
    view = {"sort": [{"column": "fee", "down": True}], "where": [{"by": "text", "column": "port", "text": "x"}]}
    seen, title = lines(client, path, view=json.dumps(view), separator="semicolon", decimal="comma", headings=False)
    assert seen == ["3;2;x", "2;1,5;Oxnith"]
    assert "as seen" in title
    assert client.get(path, params={"view": "{"}).json()["kind"] == "request-unreadable"
    assert client.get(path, params={"decimal": "comma"}).json()["kind"] == "options-unfit"


def test_a_draft_is_exported_with_its_names_and_without_what_it_hides(client, awkward, query):  # noqa: F811
    number = query()
    serve(awkward, "/d", {"d": ROWS})
    run_of(client, number)
    brief = client.get(f"/api/queries/{number}").json()["brief"]
    columns = [{"place": "$.port", "name": "harbour"}, {"place": "$.id", "name": "id", "hidden": True}]
    brief["take"]["columns"] = columns
    body = {"brief": brief, "values": {}, "query_id": number, "most": 1}
    first = client.post(f"/api/queries/{number}/reread", json=body).json()
    assert first["partial"] is True, "the screen has its first record alone"
    seen, title = lines(client, f"/api/previews/{first['id']}/table.csv", query_id=number)
    assert seen == ["harbour", "Oxnith", "Ü-12", "x"]
    assert "read anew" in title

"""A column at a glance is of the rows that are seen; all its values come with their counts."""

from tests.web.test_api import run_of
from tests.web.test_history import query, serve  # noqa: F401

ROWS = [{"port": "ox", "fee": 1}, {"port": "ox", "fee": "-"}, {"port": "hw", "fee": 5}, {"port": None, "fee": 9}]


def test_what_is_filtered_away_is_not_counted(client, awkward, query):  # noqa: F811
    number = query()
    serve(awkward, "/d", {"d": ROWS})
    last, _ = run_of(client, number)
    table = {"snapshot": last["snapshot_id"], "preview": None}
    view = {"sort": [], "where": [{"by": "text", "column": "port", "text": "ox"}]}
    whole = client.post("/api/table/profile", json={**table, "column": "fee"}).json()
    assert (whole["rows"], whole["lowest"], whole["highest"], whole["mean"]) == (4, 1, 9, 5.0)
    assert whole["strays"] == whole["empties"] == [{"value": "-", "count": 1}]
    assert whole["guesses"][0]["reads"]["empty"] == ["-"]
    seen = client.post("/api/table/profile", json={**table, "column": "fee", "view": view}).json()
    assert (seen["rows"], seen["highest"]) == (2, None), "one number of two cells is no column of numbers"
    values = client.post("/api/table/values", json={**table, "column": "port"}).json()
    assert values == {
        "rows": 4, "empty": 1, "distinct": 2, "capped": False,
        "values": [{"value": "ox", "count": 2}, {"value": "hw", "count": 1}],
    }  # fmt: skip
    some = client.post("/api/table/values", json={**table, "column": "port", "view": view}).json()
    assert some["values"] == [{"value": "ox", "count": 2}]
    assert client.post("/api/table/values", json={**table, "column": "no"}).json()["kind"] == "column-unknown"

"""The first steps with an API: practice services, a second call before rows are chosen, a place where nothing is."""

import json
import urllib.request

import pytest

from tests.web.conftest import client_of


@pytest.fixture
def looked(client, desk):
    """A preview of 100 sailings, whose brief does not say yet what the rows are; and the brief."""
    ask = {
        "service": "skerrywick-operations",
        "path": "/sailings",
        "query": [
            {"name": "route", "value": "all"},
            {"name": "from", "value": "2026-11-20"},
            {"name": "to", "value": "2026-12-02"},
            {"name": "per_page", "value": "100"},
        ],
    }
    brief = {"name": "Sailings", "ask": ask, "pages": {"by": "number", "last_page": "$.meta.total_pages"}}
    return client.post("/api/ask-once", json={"brief": brief}).json(), brief


def test_a_second_call_counts_the_likeliest_rows_before_any_are_chosen(client, looked):
    preview, brief = looked
    found = client.post(f"/api/previews/{preview['id']}/verify", json={"brief": brief}).json()
    assert found["verified"]
    assert "The second page brings 100 other rows; 200 are here after two calls." in found["what"]
    assert "Rows are counted at $.data[*]; none are chosen yet." in found["what"]
    chosen = brief | {"take": {"records": "$.data[*]"}}
    found = client.post(f"/api/previews/{preview['id']}/verify", json={"brief": chosen}).json()
    assert found["what"] == "The second page brings 100 other rows; 200 are here after two calls."


def test_a_call_that_was_answered_has_not_failed_where_only_the_place_is_missed(client, looked):
    _, brief = looked
    wrong = brief | {"take": {"records": "$.elsewhere[*]"}}
    preview = client.post("/api/ask-once", json={"brief": wrong}).json()
    assert preview["problem"]["kind"] == "no-rows-there"
    assert [call["state"] for call in preview["calls"]] == ["answered"]


def test_practice_services_are_started_once_answer_what_is_offered_and_keep_their_addresses(workspace):
    with client_of(workspace) as client:
        assert client.get("/api/practice").json() == {"offered": True, "examples": []}
        first = client.post("/api/practice").json()
        assert first == client.post("/api/practice").json() == client.get("/api/practice").json()
        assert len(first["examples"]) >= 3
        for one in first["examples"]:
            pasted = client.post("/api/paste", json={"text": one["text"]}).json()
            assert pasted["kind"] == "call", one
            made = client.post(
                "/api/begin",
                json={
                    "brief": pasted["brief"],
                    "held": pasted["held"],
                    "service": {
                        "id": "new",
                        "name": one["name"],
                        "base": pasted["base"],
                        "key": pasted["key"] | {"name": "practice"},
                    },
                },
            ).json()
            assert "id" in made, made
            brief = client.get(f"/api/queries/{made['id']}").json()["brief"]
            preview = client.post("/api/ask-once", json={"brief": brief, "query_id": made["id"]}).json()
            assert (preview["problem"], preview["calls"][0]["status"]) == (None, 200), one
            with urllib.request.urlopen(one["docs"]) as docs:
                assert docs.status == 200
    # A program that is started again has them where they were.
    with client_of(workspace) as client:
        assert client.get("/api/practice").json() == first


def test_they_are_not_offered_where_only_public_addresses_are_called(workspace):
    with client_of(workspace, reach="public only") as client:
        assert client.get("/api/practice").json()["offered"] is False
        refused = client.post("/api/practice")
        assert (refused.status_code, refused.json()["kind"]) == (422, "not-reachable")


def test_rows_of_a_sheet_are_seen_in_windows_and_replaced_under_the_same_name(workspace):
    with client_of(workspace) as client:
        rows = "code\n" + "".join(f"{at:04}\n" for at in range(1000))
        client.post("/api/sheets", params={"file": "a.csv", "name": "codes"}, content=rows.encode())
        seen = client.get("/api/sheets/codes/rows", params={"start": 990, "count": 200}).json()
        assert (seen["count"], [row[0] for row in seen["rows"]]) == (1000, [f"{at:04}" for at in range(990, 1000)])
        brief = {"name": "Codes", "sheet": {"sheet": "codes"}, "take": {"records": "$[*]"}}
        client.post("/api/queries", json={"brief": brief})
        new = client.post(
            "/api/sheets", params={"file": "b.csv", "name": "codes", "replace": True}, content=b"code\n7\n"
        ).json()
        assert (new["name"], new["file"], new["rows"], new["used_by"]) == ("codes", "b.csv", 1, ["Codes"])
        assert client.get("/api/sheets/codes/rows").json()["rows"] == [["7"]]
        assert json.dumps(client.get("/api/sheets").json()).count('"name": "codes"') == 1

import io
import json
import logging
from datetime import date, timedelta

import openpyxl
import pytest

from tests.conftest import DAY, NOON
from tests.waiting import until
from tin_bucket.demo import timetable
from tin_bucket.demo.services.operations import KEY, KEY_HEADER

SECRET = "a-very-secret-key-4711"


@pytest.fixture
def ports(client, desk):
    """The query "Ports" on the running service, by its number."""
    return desk["Ports"].id


def run_of(client, query_id, values=None):
    run_id = client.post(f"/api/queries/{query_id}/refresh", json={"values": values or {}}).json()["run_id"]
    with client.stream("GET", f"/api/runs/{run_id}/events") as events:
        told = [json.loads(line[6:]) for line in events.iter_lines() if line.startswith("data: ")]
    return told[-1], told


def test_the_whole_path_from_a_paste_to_a_comparison(client, operations, running):
    address = f"{running.base}/sailings?route=hesta-quern&from=2026-11-18&to=2026-12-02&per_page=50"
    pasted = client.post("/api/paste", json={"text": address})
    document = pasted.json()
    assert (document["service_id"], document["base"]) == (None, running.base)
    service = {
        "id": "new",
        "name": "Operations",
        "base": running.base,
        "key": {"name": "desk key", "places": [{"at": "header", "name": KEY_HEADER}]},
    }
    made = client.post("/api/services", json={"service": service}).json()["service"]
    assert made["id"] == "operations"
    stored = client.put("/api/services/operations/key", json={"secret": {"key": KEY}})
    assert stored.json()["key"]["ready"] is True
    brief = document["brief"] | {"name": "Hesta"}
    brief["ask"]["service"] = "operations"
    query = client.post("/api/queries", json={"brief": brief}).json()

    preview = client.post("/api/ask-once", json={"brief": brief, "values": {}}).json()
    first = preview["records_guesses"][0]
    assert (first["path"], first["count"], first["why"]) == ("$.data[*]", 50, "a list of 50 objects")
    answer = client.get(f"/api/previews/{preview['id']}/answers/0/nodes").json()
    assert (answer["node"]["kind"], [one["name"] for one in answer["children"]]) == ("object", ["meta", "data"])
    brief["take"]["records"] = "$.data[*]"
    brief["pages"] = preview["pagination_guesses"][0]["pages"]
    brief["keep"]["match"] = ["sailing_id"]
    saved = client.put(f"/api/queries/{query['id']}", json={"brief": brief, "based_on": query["brief_id"]}).json()
    assert (
        client.put(f"/api/queries/{query['id']}", json={"brief": brief, "based_on": query["brief_id"]}).status_code
        == 409
    )

    last, told = run_of(client, query["id"])
    assert last["state"] == "complete"
    assert last["rows"] == last["stated_total"] > 100
    assert [tile["label"] for summary in told for tile in summary["tiles"]] == ["page 1", "page 2", "page 3"]
    operations.today = operations.today.replace(day=28)
    again, _ = run_of(client, query["id"])
    ids = {"then": last["snapshot_id"], "now": again["snapshot_id"]}
    found = client.get("/api/compare", params=ids).json()
    assert found["counts"]["changed"] > 0
    window = client.get("/api/compare/rows", params={**ids, "show": "changed", "count": 2000}).json()
    assert window["total"] == len(window["rows"]) == found["counts"]["changed"]
    first = window["rows"][0]
    assert [at for at, (a, b) in enumerate(zip(first["then"], first["now"], strict=True)) if a != b] == first["changed"]
    names = [heading["name"] for heading in found["headings"]]
    status = client.get("/api/compare/rows", params={**ids, "column": "status", "count": 2000}).json()
    assert all(names.index("status") in row["changed"] for row in status["rows"])
    assert status["total"] == next(column["cells"] for column in found["columns"] if column["name"] == "status")

    sheet = openpyxl.load_workbook(io.BytesIO(client.get(f"/api/snapshots/{ids['now']}/table.xlsx").content)).active
    rows = client.get(f"/api/snapshots/{ids['now']}/rows", params={"count": 2000}).json()["rows"]
    at = names.index("sailing_id")
    assert [row[at] for row in sheet.iter_rows(min_row=2, values_only=True)] == [row[at] for row in rows]
    hull = names.index("vessel.hull_id")
    assert rows[0][hull].startswith("46116860184273879")
    assert saved["brief"]["name"] == "Hesta"


def test_a_cell_is_traced_to_its_call_and_place(client, desk):
    last, _ = run_of(client, desk["Sailings by route"].id)
    names = [column["name"] for column in client.get(f"/api/snapshots/{last['snapshot_id']}/columns").json()]
    truth = timetable.sailings(*_window())[205]

    def trace(name):
        cell = {"snapshot": last["snapshot_id"], "row": 205, "column": names.index(name)}
        return client.post("/api/table/trace", json=cell).json()

    fare = trace("car fare")
    assert (fare["label"], fare["pointer"], fare["value"]) == (
        "page 3",
        "/data/5/fares/1/amount",
        truth["fares"][1]["amount"],
    )
    assert json.loads("".join(fare["excerpt"].values()))["class"] == "car"
    assert fare["excerpt"]["lit"] == json.dumps(truth["fares"][1]["amount"])
    port = trace("port")
    assert (port["source"], port["label"], port["pointer"]) == ("port", truth["port_code"], "/name")
    assert port["made_with"][0] == {"column": names.index("port_code"), "name": "port_code", "value": port["label"]}
    missing = client.post("/api/table/trace", json={"snapshot": last["snapshot_id"], "row": 99999, "column": 0})
    assert missing.json()["kind"] == "cell-unknown"


def _window():
    # The web's clock is the machine's; the query asks for the days around today.
    today = DAY
    return date(2026, 11, 25), today - timedelta(days=7), today + timedelta(days=7)


def refused_and_replaced(client, query_id, operations):
    """A refresh that waits for its key, is told the new one, and goes on."""
    run_id = client.post(f"/api/queries/{query_id}/refresh", json={}).json()["run_id"]
    told = []
    with client.stream("GET", f"/api/runs/{run_id}/events") as events:
        for line in events.iter_lines():
            if not line.startswith("data: "):
                continue
            told.append(json.loads(line[6:]))
            if told[-1]["waiting"] and not any(one["waiting"] for one in told[:-1]):
                desk = client.get("/api/desk").json()
                told.append({"desk": desk, "waiting": None})
                assert [one["kind"] for one in desk["attention"]] == ["waiting"]
                assert client.get("/api/services").json()[0]["waiting"] == ["Ports"]
                client.put("/api/services/operations/key", json={"secret": {"key": operations.key}})
    return told


def test_the_key_is_nowhere_but_in_the_vault(client, workspace, running, operations, caplog):
    caplog.set_level(logging.DEBUG)
    operations.key = SECRET
    key = {"name": "k", "places": [{"at": "header", "name": KEY_HEADER}]}
    service = {"id": "new", "name": "Operations", "base": running.base, "key": key}
    seen = [client.post("/api/services", json={"service": service})]
    seen.append(client.put("/api/services/operations/key", json={"secret": {"key": SECRET}}))
    # A request that cannot be read must not be repeated in the error.
    seen.append(client.put("/api/services/operations/key", json={"secrets": SECRET}))
    seen.append(client.put("/api/services/operations/key", json=[SECRET]))
    seen.append(client.post("/api/paste", json={"text": f"{running.base}/ports?api_key={SECRET}"}))
    brief = {"name": "Ports", "ask": {"service": "operations", "path": "/ports"}, "take": {"records": "$.data[*]"}}
    seen.append(client.post("/api/queries", json={"brief": brief}))
    query = seen[-1].json()["id"]
    seen.append(client.post("/api/plan", json={"brief": brief}))
    assert "$KEY" in seen[-1].json()["first_call"]["command"]
    assert {"name": KEY_HEADER, "value": "••••"} in seen[-1].json()["first_call"]["headers"]
    seen.append(client.post("/api/ask-once", json={"brief": brief}))
    last, told = run_of(client, query)
    assert last["state"] == "unverified"
    operations.key = "changed"
    told_too = refused_and_replaced(client, query, operations)
    assert told_too[-1]["state"] == "unverified"
    snapshot = last["snapshot_id"]
    paths = ["desk", "services", f"queries/{query}", "runs", "runs/1/calls", "runs/1/calls/1/text", "runs/2/calls"]
    paths += [f"snapshots/{snapshot}/rows", f"snapshots/{snapshot}/table.csv", "../openapi.json"]
    for path in paths:
        seen.append(client.get(f"/api/{path}"))
        assert seen[-1].status_code == 200, path
    seen.append(client.post("/api/services/operations/check"))
    for response in seen:
        assert SECRET not in response.text, response.request.url
    assert SECRET not in json.dumps([told, told_too])
    assert SECRET not in caplog.text
    book = client.get(f"/api/snapshots/{snapshot}/table.xlsx").content
    for name in openpyxl.load_workbook(io.BytesIO(book)).active.values:
        assert SECRET not in str(name)
    workspace.db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    files = [path for path in workspace.home.rglob("*") if path.is_file()]
    assert {path.name for path in files} >= {"workspace.sqlite", "vault.key"}
    for path in files:
        assert SECRET.encode() not in path.read_bytes(), path
    assert workspace.vault.open("operations").secret == {"key": "changed"}


def test_a_column_changed_on_trial_is_read_from_saved_answers(client, ports, operations):
    run_of(client, ports)
    made = operations.calls
    detail = client.get(f"/api/queries/{ports}").json()
    brief = detail["brief"]
    brief["take"]["columns"] = [{"place": "$.berths", "name": "berths", "kind": "text"}]
    preview = client.post(f"/api/queries/{ports}/reread", json={"brief": brief}).json()
    assert [(column["name"], column["kind"], column["filled"]) for column in preview["columns"]] == [
        ("berths", "text", 12)
    ]
    assert set(preview["fresh"]) == {"$.code", "$.name", "$.zone"}
    rows = client.post("/api/table/rows", json={"preview": preview["id"]}).json()["rows"]
    assert rows[0] == ["3"]
    brief["take"]["records"] = "$.nothing[*]"
    lost = client.post(f"/api/queries/{ports}/reread", json={"brief": brief, "preview": preview["id"]}).json()
    assert lost["problem"]["kind"] == "no-rows-there"
    assert operations.calls == made


BAD_PATH = {"name": "x", "ask": {"service": "s"}, "take": {"records": "$["}}
NOWHERE = {"id": "n", "name": "n", "base": "nowhere"}


@pytest.mark.parametrize(
    ("method", "path", "body", "status", "kind"),
    [
        ("GET", "/api/queries/99", None, 404, "query-unknown"),
        ("GET", "/api/snapshots/99/rows", None, 404, "snapshot-unknown"),
        ("GET", "/api/snapshots/99/columns", None, 404, "snapshot-unknown"),
        ("POST", "/api/table/rows", {"preview": 99}, 404, "preview-gone"),
        ("GET", "/api/runs/99", None, 404, "run-unknown"),
        ("GET", "/api/nothing", None, 404, "http"),
        ("POST", "/api/paste", {"text": "hello"}, 422, "paste-unreadable"),
        ("POST", "/api/paste", {"txet": "hello"}, 422, "request-unreadable"),
        ("POST", "/api/ask-once", {"brief": {"name": "x", "ask": {"service": "none"}}}, 404, "service-unknown"),
        (
            "POST",
            "/api/ask-once",
            {"brief": BAD_PATH},
            422,
            "request-unreadable",
        ),
        ("POST", "/api/services", {"service": NOWHERE}, 422, "request-unreadable"),
    ],
)
def test_every_error_is_a_problem_with_what_where_and_what_to_do(client, method, path, body, status, kind):
    response = client.request(method, path, json=body)
    assert response.status_code == status
    problem = response.json()
    assert response.headers["content-type"] == "application/problem+json"
    assert (problem["kind"], problem["status"]) == (kind, status)
    assert all(problem[field] for field in ("what", "do", "title", "type"))


def test_what_is_wrong_in_a_draft_is_said_in_the_words_of_the_screen(client, desk):
    brief = desk["Ports"].brief.model_dump(mode="json", by_alias=True)
    brief["each"] = [{"by": "range", "parameter": "day", "start": "12024-01-01", "end": "2026-01-02"}]
    problem = client.post("/api/plan", json={"brief": brief}).json()
    assert (problem["kind"], problem["where"]) == ("request-unreadable", "for each day, start")
    assert "date" in problem["what"]
    assert "separator" not in problem["what"]
    test = {"brief": {"name": "look up", "ask": {"service": ""}}, "values": {}}
    problem = client.post("/api/ask-once", json=test).json()
    assert "String should" not in problem["what"]
    assert problem["kind"] in ("service-unknown", "request-unreadable")


def test_a_parameter_without_a_value_is_said_before_any_call(client, workspace, running, operations, desk):
    brief = desk["Ports"].brief.model_dump(mode="json", by_alias=True)
    brief["ask"]["path"] = "/ports/{code}"
    brief["parameters"] = [{"name": "code", "kind": "text"}]
    client.put(f"/api/queries/{desk['Ports'].id}", json={"brief": brief})
    response = client.post(f"/api/queries/{desk['Ports'].id}/refresh", json={"values": {}})
    assert response.json()["kind"] == "parameter-missing"
    brief["parameters"] = []
    preview = client.post("/api/plan", json={"brief": brief}).json()["first_call"]
    assert (preview["problem"]["kind"], preview["address"]) == ("template-unknown-name", "")
    assert operations.calls == 0


def test_other_sites_are_kept_out(client):
    assert client.get("/api/desk", headers={"Host": "evil.example"}).status_code == 403
    assert client.post("/api/paste", json={"text": "x"}, headers={"Origin": "http://evil.example"}).status_code == 403
    fine = client.get("/api/desk", headers={"Origin": "http://evil.example"})
    assert fine.status_code == 200
    assert "access-control-allow-origin" not in fine.headers
    assert "frame-ancestors 'none'" in fine.headers["content-security-policy"]


def test_the_desk_tells_what_wants_attention_and_when_the_next_refresh_is(client, workspace, desk, ports):
    workspace.vault.forget("skerrywick-operations")
    saved = client.get(f"/api/queries/{ports}").json()["brief"]
    client.put(f"/api/queries/{ports}", json={"brief": saved})
    told = client.get("/api/desk").json()
    assert [line["name"] for line in told["queries"]] == [
        "Sailings by route",
        "Fares, week ahead",
        "Fleet today",
        "Ports",
    ]
    assert told["attention"][0]["kind"] == "key"
    times = {line["name"]: line["next_time"] for line in told["queries"]}
    assert times["Ports"] is None
    assert times["Sailings by route"][11:16] == "07:30"
    # A refresh without its key waits for it, in sight.
    run_id = client.post(f"/api/queries/{ports}/refresh", json={}).json()["run_id"]
    kinds = wait_for(client, lambda kinds: ("waiting", "Ports") in kinds)
    assert ("key", "Skerrywick Operations") in kinds
    client.post(f"/api/runs/{run_id}/cancel")
    wait_for(client, lambda kinds: ("waiting", "Ports") not in kinds)
    # A key that is about to end is warned of; one that ends later is not.
    for days, warned in ((3, True), (90, False), (-2, True)):
        ends = (NOON + timedelta(days=days)).isoformat()
        body = {"secret": {"key": KEY}, "expires": ends}
        client.put("/api/services/skerrywick-operations/key", json=body)
        told = [one for one in client.get("/api/desk").json()["attention"] if one["kind"] == "key"]
        assert bool(told) is warned
    assert "ended on" in client.get("/api/desk").json()["attention"][0]["what"]


def wait_for(client, ready):
    """What the desk says wants attention, once it is as wanted."""

    def kinds():
        found = {(one["kind"], one["title"]) for one in client.get("/api/desk").json()["attention"]}
        return found if ready(found) else None

    return until(kinds)


def test_a_schedule_follows_the_saved_brief(client, ports):
    def saved(schedule, paused=False):
        brief = client.get(f"/api/queries/{ports}").json()["brief"]
        brief["keep"] |= {"schedule": schedule, "paused": paused}
        return client.put(f"/api/queries/{ports}", json={"brief": brief}).json()["next_time"]

    assert saved({"kind": "every", "every": "PT10M"}) is not None
    assert saved({"kind": "at", "at": "06:15", "days": [1, 3], "zone": "UTC"})[11:16] == "06:15"
    assert saved({"kind": "at", "at": "06:15", "days": [1, 3], "zone": "UTC"}, paused=True) is None
    assert saved(None) is None


def test_a_service_is_changed_and_deleted_with_its_key(client, desk, ports):
    service = client.get("/api/services").json()[0]
    assert len(service["used_by"]) == 4
    assert client.delete("/api/services/skerrywick-operations").status_code == 409
    moved = service["service"] | {"base": "http://127.0.0.1:9"}
    changed = client.put("/api/services/skerrywick-operations", json={"service": moved}).json()
    assert (changed["key"]["fits"], changed["key"]["ready"]) == (False, False)
    for query in desk.values():
        assert client.delete(f"/api/queries/{query.id}").status_code == 204
    assert client.delete("/api/services/skerrywick-operations/key").json()["key"]["stored"] is None
    assert client.delete("/api/services/skerrywick-operations").status_code == 204
    assert client.get("/api/services").json() == []

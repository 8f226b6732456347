"""Live addresses: read with a key of their own, as of any date, cached, and shut where they are not switched on."""

import csv
import io
import json
from base64 import b64encode
from datetime import timedelta

import openpyxl
import pyarrow.parquet
import pytest

from tests.conftest import NOON
from tests.web.conftest import client_of
from tests.web.serving import served
from tin_bucket.engine.clock import SetClock


@pytest.fixture
def fares(workspace, desk, refresh):
    """The query “Ports” with a live address, and two dates of it."""
    query = desk["Ports"]
    document = json.loads(query.brief.model_dump_json(by_alias=True))
    document["hand_over"] = [{"to": "address", "id": "live", "name": "ports"}]
    refresh(query.id, NOON - timedelta(days=3))
    saved = workspace.queries.save(query.id, type(query.brief).model_validate(document), NOON)
    refresh(query.id, NOON - timedelta(days=1))
    return saved


@pytest.fixture
def reader(client):
    made = client.post("/api/readers", json={"name": "Harbour report"}).json()
    return made


@pytest.fixture
def get(workspace, fares, reader):
    """Read an address as a program with a key does."""
    with client_of(workspace, clock=SetClock(NOON)) as made:
        made.headers = {"Authorization": f"Bearer {reader['key']}"}
        yield made.get


def test_a_table_is_read_in_every_format(get):
    rows = list(csv.DictReader(io.StringIO(get("/tables/ports.csv").text)))
    assert len(rows) == 12
    assert rows[0]["code"] == "000"
    assert len(json.loads(get("/tables/ports.json").text)) == 12
    assert json.loads(get("/tables/ports.jsonl").text.splitlines()[0])["code"] == "000"
    assert openpyxl.load_workbook(io.BytesIO(get("/tables/ports.xlsx").content)).active.max_row == 13
    table = pyarrow.parquet.read_table(io.BytesIO(get("/tables/ports.parquet").content))
    assert table.column_names == ["code", "name", "zone", "berths"]
    page = get("/tables/ports.html").text
    assert page.count("<tr>") == 13
    assert "<td>000</td>" in page
    assert get("/tables/ports.tsv?headings=false").text.splitlines()[0].startswith("000\t")
    assert get("/tables/ports.pdf").status_code == 422
    assert get("/tables/nothing.csv").status_code == 404


def test_headers_say_how_old_and_how_complete_it_is(get):
    answer = get("/tables/ports.csv")
    assert answer.headers["Age"] == str(24 * 3600)
    assert answer.headers["Last-Modified"] == "Tue, 24 Nov 2026 12:00:00 GMT"
    assert answer.headers["Table-State"] == "complete"
    assert 'rel="describedby"' in answer.headers["Link"]
    tag = answer.headers["ETag"]
    known = get("/tables/ports.csv", headers={"If-None-Match": f'"x", {tag}'})
    assert (known.status_code, known.content) == (304, b"")
    assert get("/tables/ports.csv", headers={"If-Modified-Since": answer.headers["Last-Modified"]}).status_code == 304
    # What is asked for in another way is something else.
    assert get("/tables/ports.csv?separator=tab").headers["ETag"] != tag
    assert get("/tables/ports.json", headers={"If-None-Match": tag}).status_code == 200
    assert get("/tables/ports.csv", headers={"Accept-Encoding": "identity"}).headers.get("Content-Encoding") is None


def test_another_date_and_what_changed(get, workspace, fares):
    old = get("/tables/ports.csv?on=2026-11-22")
    assert old.headers["Last-Modified"] == "Sun, 22 Nov 2026 12:00:00 GMT"
    assert get("/tables/ports.csv?on=2026-11-22T12:00:00Z").status_code == 200
    changed = list(csv.DictReader(io.StringIO(get("/tables/ports.csv?since=2026-11-22").text)))
    assert changed == []
    assert get("/tables/ports.csv?since=2026-11-22").text.startswith("change,code,")
    for wrong, status in (("on=yesterday", 422), ("on=2020-01-01", 404), ("since=2020-01-01", 404)):
        answer = get(f"/tables/ports.csv?{wrong}")
        assert answer.status_code == status
        assert answer.json()["do"]


def test_the_view_of_the_screen_goes_with_the_address(get):
    view = {"where": [{"by": "one of", "column": "zone", "values": ["South"]}], "sort": [{"column": "name"}]}
    rows = list(csv.DictReader(io.StringIO(get("/tables/ports.csv", params={"view": json.dumps(view)}).text)))
    assert rows
    assert {row["zone"] for row in rows} == {"South"}
    assert [row["name"] for row in rows] == sorted(row["name"] for row in rows)
    assert get("/tables/ports.csv?view={").status_code == 422
    some = get("/tables/ports.csv", params={"columns": "name,code"})
    assert some.text.splitlines()[0] == "name,code"
    wrong = get("/tables/ports.csv?columns=nothing")
    assert (wrong.status_code, wrong.json()["kind"]) == (422, "column-unknown")


def test_only_readers_get_in_and_only_there(client, workspace, fares, reader):
    key = reader["key"]
    basic = b64encode(f"anybody:{key}".encode()).decode()
    with client_of(workspace, clock=SetClock(NOON)) as made:
        own = made.headers["Authorization"]
        made.headers.pop("Authorization")
        ways = {"bearer": {"Authorization": f"Bearer {key}"}, "password": {"Authorization": f"Basic {basic}"}}
        for headers in ways.values():
            assert made.get("/tables/ports.csv", headers=headers).status_code == 200
            # A reader's key opens nothing of the interface.
            for path in ("/api/desk", "/api/readers", "/api/queries/1", "/", "/api/snapshots/1/table.csv"):
                assert made.get(path, headers=headers).status_code == 401
        assert made.get(f"/tables/ports.csv?key={key}").status_code == 200
        assert made.get(f"/api/desk?key={key}").status_code == 401
        # The interface's own token is none for readers, and neither is a wrong key.
        for headers in ({}, {"Authorization": own}, {"Authorization": "Bearer x"}, {"Authorization": "Basic ?"}):
            answer = made.get("/tables/ports.csv", headers=headers)
            assert answer.status_code == 401
            assert "Basic realm" in answer.headers["WWW-Authenticate"]
            assert key not in answer.text
    listed = client.get("/api/readers").json()
    assert listed["names"] == ["ports"]
    assert listed["readers"][0]["last_used"]
    client.delete(f"/api/readers/{reader['reader']['id']}")
    with client_of(workspace, clock=SetClock(NOON)) as made:
        made.headers = {"Authorization": f"Bearer {key}"}
        answer = made.get("/tables/ports.csv")
        assert answer.status_code == 401
        assert "revoked" in answer.json()["what"]
    assert client.delete("/api/readers/99").status_code == 404


def test_a_key_is_nowhere_in_the_clear(client, workspace, reader, fares):
    key = reader["key"]
    assert key not in client.get("/api/readers").text
    for path in workspace.home.rglob("*"):
        if path.is_file():
            assert key.encode() not in path.read_bytes()


def test_an_address_that_is_switched_off_or_twice_there(get, client, workspace, fares, desk):
    def save(query, feeds):
        known = client.get(f"/api/queries/{query.id}").json()
        body = {"brief": known["brief"] | {"hand_over": feeds}, "based_on": known["brief_id"]}
        assert client.put(f"/api/queries/{query.id}", json=body).status_code == 200

    save(fares, [{"to": "address", "name": "ports", "off": True}])
    assert get("/tables/ports.csv").status_code == 404
    assert get("/odata/ports").status_code == 404
    save(fares, [{"to": "address", "name": "ports"}])
    assert get("/tables/ports.csv").status_code == 200
    save(desk["Sailings by route"], [{"to": "address", "name": "ports"}])
    told = get("/tables/ports.csv").json()
    assert told["kind"] == "address-twice"
    assert "“Sailings by route”" in told["what"]


def test_a_table_that_is_too_old_is_refreshed_while_it_is_read(get, client, workspace, fares):
    known = client.get(f"/api/queries/{fares.id}").json()
    feeds = [{"to": "address", "name": "ports", "older_than": 60}]
    body = {"brief": known["brief"] | {"hand_over": feeds}, "based_on": known["brief_id"]}
    client.put(f"/api/queries/{fares.id}", json=body)
    before = len(workspace.runs.latest(fares.id, 10))
    assert get("/tables/ports.csv").headers["Age"] == str(24 * 3600)  # It answers at once.
    for _ in range(100):
        latest = workspace.runs.latest(fares.id, 10)
        if len(latest) > before and latest[0].state != "running":
            break
        get("/tables/ports.html", headers={"If-None-Match": "*"})
    assert latest[0].cause == "live address"
    assert int(get("/tables/ports.csv").headers["Age"]) < 3600
    get("/tables/ports.csv")
    assert len(workspace.runs.latest(fares.id, 10)) == before + 1


def test_addresses_over_real_connections(workspace, fares, reader):
    """A page of a large table comes before all of it is written, and a reader that leaves stops it."""
    import requests

    with served(workspace, clock=SetClock(NOON)) as base:
        with requests.get(
            f"{base}/tables/ports.csv", headers={"Authorization": f"Bearer {reader['key']}"}, stream=True, timeout=10
        ) as answer:
            assert next(answer.iter_lines()) == b"code,name,zone,berths"
        assert requests.get(f"{base}/tables/ports.csv", timeout=10).status_code == 401

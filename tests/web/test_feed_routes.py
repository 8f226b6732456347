"""Feeds over the application's addresses: looked at beforehand, run, told, and put back."""

import json

import openpyxl
import pytest

from tests.conftest import NOON
from tin_bucket.engine.workspace.transfer import export_bundle, import_bundle
from tin_bucket.store.workspace import Workspace

SHEET = {"to": "sheet", "id": "harbour", "path": "harbour.xlsx", "sheet": "Ports"}


@pytest.fixture
def ports(workspace, desk, refresh):
    query = desk["Ports"]
    refresh(query.id)
    return query


def brief_of(query, feeds):
    return json.loads(query.brief.model_dump_json(by_alias=True)) | {"hand_over": feeds}


def save(client, query, feeds):
    known = client.get(f"/api/queries/{query.id}").json()
    body = {"brief": known["brief"] | {"hand_over": feeds}, "based_on": known["brief_id"]}
    answer = client.put(f"/api/queries/{query.id}", json=body)
    assert answer.status_code == 200, answer.text


def test_what_a_feed_would_do_is_said_and_nothing_is_written(client, ports, workspace):
    body = {"brief": brief_of(ports, []), "feed": SHEET}
    told = client.post(f"/api/queries/{ports.id}/feeds/ahead", json=body).json()
    assert told["there"] == "The workbook is not there yet: it is made."
    assert told["told"] == ["12 rows written."]
    assert told["columns"] == ["code", "name", "zone", "berths"]
    assert told["sample"][0][0] == "000"
    assert not workspace.settings.own_folder.exists()
    body["brief"]["work_out"] = [{"do": "first", "rows": 3, "by": [{"column": "berths", "down": True}]}]
    assert client.post(f"/api/queries/{ports.id}/feeds/ahead", json=body).json()["rows"] == 3


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"path": "harbour.doc"}, "“harbour.doc” is no workbook"),
        ({"path": "../harbour.xlsx"}, "leads out of its folder"),
        ({"path": "/etc/harbour.xlsx"}, "may not write to the folder"),
        ({"cell": "seven"}, "“SEVEN” is no cell"),
        ({"when": "any"}, "name the cell that says as of when"),
        ({"to": "nothing"}, "must be one of sheet, file, address"),
        ({"path": ""}, "path"),
        ({"way": "update", "stamp": "A1"}, "above the headings"),
    ],
)
def test_a_feed_that_cannot_be_is_told_in_words(client, ports, change, words):
    body = {"brief": brief_of(ports, []), "feed": SHEET | change}
    answer = client.post(f"/api/queries/{ports.id}/feeds/ahead", json=body)
    assert answer.status_code == 422, answer.text
    told = answer.json()
    assert words.lower() in f"{told['what']} {told['where']} {told['do']}".lower()
    assert told["do"]


def test_a_feed_is_run_told_and_put_back(client, ports, workspace):
    save(client, ports, [SHEET])
    path = workspace.settings.own_folder / "harbour.xlsx"
    listed = client.get("/api/feeds").json()
    assert [(one["key"], one["last"], one["versions"]) for one in listed] == [("harbour", None, 0)]
    done = client.post(f"/api/queries/{ports.id}/feeds/harbour/run").json()
    assert (done["state"], done["rows"], done["cause"]) == ("done", 12, "by hand")
    loaded = openpyxl.load_workbook(path)
    loaded["Ports"]["F1"] = "mine"
    loaded.save(path)
    mine = path.read_bytes()
    client.post(f"/api/queries/{ports.id}/feeds/harbour/run")
    versions = client.get(f"/api/queries/{ports.id}/feeds/harbour/versions").json()
    assert len(versions) == 1
    back = client.post(f"/api/queries/{ports.id}/feeds/harbour/versions", json={"name": versions[0]["name"]})
    assert path.read_bytes() == mine
    assert back.status_code == 200
    assert client.post(f"/api/queries/{ports.id}/feeds/harbour/versions", json={"name": "../x"}).status_code == 404
    history = client.get("/api/feeds/history").json()
    assert [one["state"] for one in history] == ["done", "done"]
    assert client.post(f"/api/queries/{ports.id}/feeds/other/run").status_code == 404


def test_a_feed_that_fails_is_on_the_desk(client, ports, workspace):
    save(client, ports, [SHEET])
    workspace.settings.own_folder.mkdir(parents=True)
    (workspace.settings.own_folder / ".~lock.harbour.xlsx#").write_text("x")
    done = client.post(f"/api/queries/{ports.id}/feeds/harbour/run").json()
    assert done["problem"]["kind"] == "file-open"
    attention = [one for one in client.get("/api/desk").json()["attention"] if one["kind"] == "feed"]
    assert attention[0]["title"] == "Ports"
    assert "harbour.xlsx" in attention[0]["what"]
    listed = client.get("/api/feeds").json()[0]
    assert listed["tries"] == 1
    assert listed["next_try"]
    save(client, ports, [SHEET | {"off": True}])
    assert not [one for one in client.get("/api/desk").json()["attention"] if one["kind"] == "feed"]


def test_the_workbooks_that_are_there_are_offered(client, ports, workspace, tmp_path):
    other = tmp_path / "shared"
    other.mkdir()
    workspace.settings.allow_writing([other])
    save(client, ports, [SHEET])
    client.post(f"/api/queries/{ports.id}/feeds/harbour/run")
    (other / "b.xlsx").write_bytes((workspace.settings.own_folder / "harbour.xlsx").read_bytes())
    places = client.get("/api/feeds/places").json()
    assert places["workbooks"] == ["harbour.xlsx", str(other / "b.xlsx")]
    inside = client.get("/api/feeds/workbook", params={"path": "harbour.xlsx"}).json()
    assert inside["sheets"] == ["Ports"]
    assert client.get("/api/feeds/workbook", params={"path": "/etc/passwd"}).status_code == 422


def test_how_feeds_are_that_are_being_written(client, ports):
    body = {"feeds": [SHEET, {"to": "history", "path": "h"}]}
    told = client.post(f"/api/queries/{ports.id}/feeds", json=body).json()
    assert ["".join(word["text"] for word in one["words"]) for one in told] == [
        "to sheet “Ports” of harbour.xlsx, replacing its rows, after each complete refresh",
        "to the Parquet history in h, after each complete refresh",
    ]
    assert NOON.year == 2026


def test_feeds_that_are_imported_are_switched_off(client, ports, workspace, tmp_path):
    """A bundle of somebody else hands nothing on before it is looked at."""
    save(client, ports, [SHEET])
    document = export_bundle(workspace, None, NOON).model_dump(mode="json", by_alias=True)
    other = Workspace(tmp_path / "other", create=True)
    import_bundle(other, document, {}, NOON)
    assert [feed.off for feed in other.queries.find("Ports").brief.hand_over] == [True]
    other.close()
    assert [feed.off for feed in workspace.queries.find("Ports").brief.hand_over] == [False]

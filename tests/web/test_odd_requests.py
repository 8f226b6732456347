"""Requests that no page makes: each is answered in words, none with a fault of the program."""

import pytest

from tests.conftest import NOON
from tin_bucket.core.document.query import load_brief

HUGE = 2**80


@pytest.mark.parametrize(
    ("method", "path", "body"),
    [
        ("GET", f"/api/queries/{HUGE}", None), ("GET", f"/api/runs/{HUGE}", None),
        ("GET", f"/api/runs/{HUGE}/events", None), ("GET", "/api/runs/999/events", None),
        ("GET", f"/api/snapshots/{HUGE}/rows", None), ("GET", "/api/snapshots/999/rows", None),
        ("GET", f"/api/snapshots/1/rows?start={HUGE}", None), ("POST", f"/api/runs/{HUGE}/resume", None),
        ("DELETE", f"/api/queries/{-HUGE}", None), ("GET", "/api/previews/999/rows", None),
        ("POST", "/api/paste", "[" * 5000), ("POST", "/api/paste", '{"text": ' + "[" * 900 + "]" * 900 + "}"),
        ("POST", "/api/sheets/look?file=a.json", "[" * 5000 + "]" * 5000),
        ("GET", "/api/files?pattern=" + "**/" * 200, None), ("GET", "/api/files?pattern=%00", None),
    ],
)  # fmt: skip
def test_an_odd_request_is_answered_in_words(client, method, path, body):
    response = client.request(method, path, content=body, headers={"Content-Type": "application/json"})
    assert 400 <= response.status_code < 500, response.text
    told = response.json()
    assert told["title"]
    assert told["kind"] != "program-fault"


@pytest.mark.parametrize("host", ["[", "[::1", "a[b]c", "", "evil.example", "127.0.0.1.evil.example"])
def test_an_odd_host_is_refused(client, host):
    response = client.get("/api/desk", headers={"Host": host})
    assert (response.status_code, response.json()["kind"]) == (403, "refused")


@pytest.mark.parametrize("template", ["/{p:}", "/{p:0}", "/{p:x}", "/{p:99999}", "/{+p:}", "/{p:,q}"])
def test_a_template_without_a_length_is_said(client, workspace, desk, template):
    document = {
        "name": "odd", "ask": {"service": "skerrywick-operations", "path": template},
        "parameters": [{"name": "p", "kind": "text", "default": "abc"}, {"name": "q", "kind": "text", "default": "x"}],
    }  # fmt: skip
    query = workspace.queries.add(load_brief(document), NOON)
    body = {"brief": document, "values": {}, "query_id": query.id}
    told = client.post("/api/plan", json=body)
    assert told.status_code == 200
    assert "colon" in told.text
    run = client.post(f"/api/queries/{query.id}/refresh", json={"values": {}})
    assert run.status_code in (202, 422)


def test_a_table_with_a_long_odd_name_is_exported(client, workspace, desk, refresh):
    query = desk["Ports"]
    name = "🚢" * 40
    workspace.queries.save(query.id, query.brief.model_copy(update={"name": name}), NOON)
    run = refresh(query.id)
    for ending in ("csv", "xlsx"):
        response = client.get(f"/api/snapshots/{run.snapshot_id}/table.{ending}")
        assert response.status_code == 200
        assert len(response.content) > 100


def test_files_whose_names_are_not_utf_8_are_listed(client, workspace):
    folder = workspace.home / "files"
    folder.mkdir()
    workspace.settings.allow_folder(folder)
    import os

    with open(os.fsencode(folder) + b"/caf\xe9.csv", "wb") as file:
        file.write(b"a\n1\n")
    assert client.get("/api/files").json()["files"] == ["caf�.csv"]

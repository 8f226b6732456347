"""Reports handed out: a page that stands alone, a workbook, and an address with a key of its own."""

import io
import json
import re
from datetime import timedelta

import openpyxl
import pytest
from fastapi.testclient import TestClient

from tests.conftest import NOON
from tests.web.reporting import CHANGES, LINE, MEAN, ROWS, TABLE, TEXT, dated, report  # noqa: F401


@pytest.fixture
def document(dated):  # noqa: F811
    return report(dated, TEXT, LINE, TABLE, CHANGES, figures=[ROWS, MEAN])


def test_the_page_stands_alone(client, document):
    page = client.post("/api/reports/page", json={"report": document})
    assert "attachment; filename*=UTF-8''Fares%20this%20week.html" in page.headers["content-disposition"]
    text = page.text
    assert len(page.content) < 1_500_000
    assert "As of Wed 25 Nov 12:00, against Wed 18 Nov 12:00." in text
    # Nothing is loaded from elsewhere, and the browser is told so.
    assert "default-src &#x27;none&#x27;" in text
    style_and_words = re.sub(r"<script.*?</script>", "", text, flags=re.DOTALL)
    assert not re.findall(r'(?:src|href)="(?!data:|#)', style_and_words)
    assert not re.findall(r"url\((?!data:)", style_and_words)
    # The data are within, the figures as a table beside each chart.
    data = json.loads(re.search(r'id="drawings">(.*?)</script>', text, re.DOTALL)[1])
    assert len(data) == 1
    assert data[0]["made"]["panels"][0]["series"][0]["y"]
    assert "The figures as a table" in text
    assert "awkward · Wed 25 Nov 12:00" in text


def test_the_workbook_has_the_tables_and_charts_of_its_own(client, document):
    file = client.post("/api/reports/workbook", json={"report": document})
    book = openpyxl.load_workbook(io.BytesIO(file.content))
    assert [one.split(" ")[0] for one in book.sheetnames] == ["Report", "1", "2", "3"]
    first, chart, table, changes = book.worksheets
    assert first["A1"].value == "Fares this week"
    assert "There are 10" in first["A4"].value
    assert "awkward, as of Wed 25 Nov 12:00" in first["B4"].value
    assert len(chart._charts) == 1
    head = next(row for row in table.iter_rows(values_only=True) if row[1] == "sku")
    assert head[:3] == ("since then", "sku", "fare")
    body = list(table.iter_rows(min_row=5, values_only=True))
    assert [row[0] for row in body].count("new") == 7
    assert all(isinstance(row[2], float | int) for row in body if row[0] != "gone")
    assert changes.max_row == 7


@pytest.fixture
def address(client, document, dated):  # noqa: F811
    made = client.post("/api/reports", json={"report": {**document, "address": "fares"}}).json()
    given = client.post(f"/api/reports/{made['id']}/readers", json={"name": "Board"}).json()
    return made["id"], given["reader"]["id"], given["key"]


def stranger(client):
    """A browser that may see nothing."""
    return TestClient(client.app, base_url="http://127.0.0.1", follow_redirects=False)


def test_a_reader_sees_the_report_and_nothing_else(client, address):
    _, _, key = address
    other = stranger(client)
    refused = other.get("/reports/fares")
    assert refused.status_code == 401
    assert "read with a key" in refused.text
    assert other.post("/reports/fares", data={"key": "reader-wrong"}).status_code == 401
    entered = other.post("/reports/fares", data={"key": key})
    assert (entered.status_code, entered.headers["location"]) == (303, "/reports/fares")
    cookie = entered.headers["set-cookie"]
    assert "HttpOnly" in cookie
    assert "Path=/reports/fares" in cookie
    page = other.get("/reports/fares")
    assert page.status_code == 200
    assert "They cost" in page.text
    assert key not in page.text
    assert page.headers["cache-control"] == "no-store"
    assert "script-src 'sha256-" in page.headers["content-security-policy"]
    # It leads nowhere, and its key opens nothing else.
    assert "#/query" not in page.text
    for path in ("/api/desk", "/api/reports", "/", "/tables/x.csv", "/odata/"):
        assert other.get(path, headers={"Authorization": f"Bearer {key}"}).status_code in (401, 403), path
    # As of another date, with what there is to choose, without a script.
    then = other.get("/reports/fares", params={"as-of": "2026-11-20", "against": "none"})
    assert "As of Fri 20 Nov 12:00." in then.text
    assert '<option value="2026-11-20" selected>' in then.text


def test_keys_open_their_own_report_and_no_longer_when_they_are_revoked(client, address, document):
    _, reader, key = address
    client.post("/api/reports", json={"report": {**document, "address": "other"}})
    other = stranger(client)
    headers = {"Authorization": f"Bearer {key}"}
    assert other.get("/reports/fares", headers=headers).status_code == 200
    assert other.get("/reports/other", headers=headers).status_code == 401
    table_key = client.post("/api/readers", json={"name": "Sheet"}).json()["key"]
    assert other.get("/reports/fares", headers={"Authorization": f"Bearer {table_key}"}).status_code == 401
    assert [one["name"] for one in client.get("/api/readers").json()["readers"]] == ["Sheet"]
    client.delete(f"/api/readers/{reader}")
    assert other.get("/reports/fares", headers=headers).status_code == 401


def test_the_readers_of_a_deleted_report_read_no_more(client, address):
    number, _, key = address
    client.delete(f"/api/reports/{number}")
    assert stranger(client).get("/reports/fares", headers={"Authorization": f"Bearer {key}"}).status_code == 401


def test_a_report_is_written_after_each_refresh_and_by_date(client, dated, document, workspace, ask_awkward):  # noqa: F811
    files = ["harbour {date}.html", "harbour.xlsx"]
    made = client.post("/api/reports", json={"report": {**document, "files": files}}).json()
    at = f"/api/reports/{made['id']}/files"
    assert [one["written"] for one in client.get(at).json()] == [None, None]
    ask_awkward(moment=NOON + timedelta(days=1), keep={"match": ["sku"]})
    told = client.get(at).json()
    assert [one["problem"] for one in told] == [None, None]
    own = workspace.settings.own_folder
    assert (own / "harbour 2026-11-26.html").stat().st_size == told[0]["size"]
    assert openpyxl.load_workbook(own / "harbour.xlsx").worksheets[0]["A2"].value.startswith("As of Thu 26 Nov 12:00")
    # What cannot be written is said, what was there stays, and it is tried again.
    changed = {**made["report"], "files": ["../out.html", "harbour.pdf"]}
    client.put(f"/api/reports/{made['id']}", json={"report": changed, "version": 1})
    told = client.post(at).json()
    assert [one["problem"]["kind"] for one in told] == ["path-refused", "format-unknown"]
    assert all(one["next_try"] for one in told)
    assert (own / "harbour 2026-11-26.html").exists()
    assert not (own.parent / "out.html").exists()

"""Feeds from the command line: listed, run, and behind a refresh that a script begins."""

import csv
import io
import json

import openpyxl
import pytest

from tests.conftest import NOON
from tests.test_cli import tin_bucket

SHEET = {"to": "sheet", "id": "harbour", "path": "harbour.xlsx"}
FILE = {"to": "file", "id": "ports", "path": "ports.csv", "when": "by hand"}


@pytest.fixture
def ports(workspace, desk):
    """The query “Ports” with two feeds."""
    query = desk["Ports"]
    document = json.loads(query.brief.model_dump_json(by_alias=True)) | {"hand_over": [SHEET, FILE]}
    return workspace.queries.save(query.id, type(query.brief).model_validate(document), NOON)


def test_a_refresh_hands_over_and_feeds_are_listed_and_run(workspace, ports):
    out = workspace.settings.own_folder
    told = tin_bucket("feed", "list", "--home", workspace.home)
    assert (
        "harbour  Ports: to a sheet of harbour.xlsx, replacing its rows, after each complete refresh (waiting)"
        in told.stdout
    )
    done = tin_bucket("refresh", "Ports", "--home", workspace.home)
    assert done.returncode == 0, done.stderr
    assert "Ports: complete; 12 records of the 12 that the API states; 1 call." in done.stderr
    assert "Ports, harbour.xlsx: 12 rows written." in done.stderr
    assert openpyxl.load_workbook(out / "harbour.xlsx")["Ports"].max_row == 13
    assert not (out / "ports.csv").exists()
    done = tin_bucket("feed", "run", "ports", "--feed", "ports", "--home", workspace.home)
    assert done.returncode == 0, done.stderr
    assert len(list(csv.DictReader((out / "ports.csv").open(newline="")))) == 12
    lines = [
        json.loads(line) for line in tin_bucket("feed", "list", "--json", "--home", workspace.home).stdout.splitlines()
    ]
    assert [(line["feed"], line["state"], line["rows"]) for line in lines] == [
        ("harbour", "done", 12),
        ("ports", "done", 12),
    ]


def test_a_feed_that_fails_gives_an_exit_code(workspace, ports):
    out = workspace.settings.own_folder
    out.mkdir(parents=True)
    (out / "~$harbour.xlsx").write_text("somebody")
    done = tin_bucket("refresh", "Ports", "--home", workspace.home)
    assert done.returncode == 1
    assert "is open in another program" in done.stderr
    assert tin_bucket("feed", "run", "Ports", "--home", workspace.home).returncode == 1
    assert "file is open" in tin_bucket("feed", "list", "--home", workspace.home).stdout
    unknown = tin_bucket("feed", "run", "Ports", "--feed", "nothing", "--home", workspace.home)
    assert (unknown.returncode, "feed-unknown" in unknown.stderr) == (1, True)


def test_only_what_is_due_is_refreshed(workspace, ports):
    assert tin_bucket("refresh", "--home", workspace.home).returncode == 1
    done = tin_bucket("refresh", "--all", "--due", "--home", workspace.home)
    refreshed = {query.name for query in workspace.queries.all() if workspace.runs.latest(query.id, 1)}
    scheduled = {query.name for query in workspace.queries.all() if query.brief.keep.schedule}
    assert done.returncode in (0, 4), done.stderr
    assert refreshed
    assert refreshed <= scheduled


def test_a_folder_is_allowed_for_writing(workspace, ports, tmp_path):
    other = tmp_path / "shared"
    assert tin_bucket("folder", "--writing", other, "--home", workspace.home).returncode == 1
    other.mkdir()
    told = tin_bucket("folder", "--writing", other, "--home", workspace.home)
    assert f"feeds may write to {other}" in told.stdout
    assert workspace.settings.written_folders == [other]
    tin_bucket("folder", "--own-only", "--home", workspace.home)
    assert workspace.settings.written_folders == []


@pytest.mark.parametrize("form", ["csv", "jsonl", "xlsx"])
def test_a_table_goes_to_a_pipe_in_any_format(workspace, ports, form, tmp_path):
    out = tmp_path / "table.any"
    done = tin_bucket("run", "Ports", "--out", out, "--format", form, "--home", workspace.home)
    assert done.returncode == 0, done.stderr
    data = out.read_bytes()
    if form == "xlsx":
        assert openpyxl.load_workbook(io.BytesIO(data)).active.max_row == 13
    elif form == "jsonl":
        assert json.loads(data.splitlines()[0])["code"] == "000"
    else:
        assert data.startswith(b"code,name,zone,berths\r\n000,")
    wrong = tin_bucket("export", "Ports", "--out", "-", "--format", "pdf", "--home", workspace.home)
    assert (wrong.returncode, "format-unknown" in wrong.stderr) == (1, True)

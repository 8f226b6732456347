import csv
import json
import os
import re
import signal
import subprocess
import sys
import urllib.request
from pathlib import Path

import openpyxl
import pytest
from typer.testing import CliRunner

from tests.conftest import DAY
from tests.waiting import until
from tin_bucket import __version__
from tin_bucket.cli import app
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.demo import timetable
from tin_bucket.demo.queries import briefs
from tin_bucket.demo.services.operations import KEY
from tin_bucket.demo.setting import operations_service
from tin_bucket.store.workspace import Workspace

COMMAND = [sys.executable, "-m", "tin_bucket.cli"]


class Done:
    """What a command left behind."""

    def __init__(self, result):
        self.returncode, self.stdout, self.stderr = result.exit_code, result.stdout, result.stderr
        assert result.exception is None or isinstance(result.exception, SystemExit), result.exception


def tin_bucket(*args, env=None):
    """Run a command in this process, which is faster than in one of its own."""
    return Done(CliRunner().invoke(app, [str(arg) for arg in args], env=env))


def test_a_query_of_a_workspace_is_run_and_written(workspace, desk, tmp_path):
    out = tmp_path / "fares.csv"
    done = tin_bucket("run", "fares, WEEK ahead", "--param", "route=hesta-quern", "--param", "from=2026-11-25",
                      "--param", "to=2026-11-26", "--out", out, "--home", workspace.home)  # fmt: skip
    assert done.returncode == 0, done.stderr
    truth = [(s["sailing_id"], f["class"], str(f["amount"])) for s in
             timetable.sailings(DAY, DAY, DAY.replace(day=26), "hesta-quern") for f in s["fares"]]  # fmt: skip
    with out.open(newline="") as file:
        rows = list(csv.DictReader(file))
    assert [(row["sailing_id"], row["class"], row["fare"]) for row in rows] == truth
    assert "complete" in done.stderr
    later = tmp_path / "fares.xlsx"
    assert tin_bucket("export", "2", "--out", later, "--home", workspace.home).returncode == 0
    assert openpyxl.load_workbook(later).active.max_row == len(truth) + 1
    assert f"{len(truth)} rows" in tin_bucket("list", "--home", workspace.home).stdout


@pytest.fixture
def files(tmp_path, running):
    brief = next(brief for brief in briefs() if brief.name == "Ports")
    (tmp_path / "brief.json").write_text(brief.model_dump_json(by_alias=True))
    service = operations_service(running.base)
    (tmp_path / "services.json").write_text(json.dumps({"services": [service.model_dump(mode="json")]}))
    return tmp_path


def test_a_brief_is_run_from_files_with_a_key_from_the_environment(files):
    args = ("run", files / "brief.json", "--services", files / "services.json", "--out", "-")
    done = tin_bucket(*args, "--key", "Operations desk=env:OPS_KEY", env={"OPS_KEY": KEY})
    assert done.returncode == 0, done.stderr
    assert done.stdout.splitlines()[:2] == ["code,name,zone,berths", "000,Harl Sound,South,3"]
    wrong = tin_bucket(*args, "--key", "Operations desk=env:OPS_KEY", env={"OPS_KEY": "wrong-key-text"})
    assert wrong.returncode == 1
    assert "key-refused" in wrong.stderr
    assert "This key is not known" in wrong.stderr
    assert "wrong-key-text" not in wrong.stderr + wrong.stdout
    unset = tin_bucket(*args, "--key", "Operations desk=env:NOT_SET_HERE")
    assert (unset.returncode, "NOT_SET_HERE" in unset.stderr) == (1, True)
    bare = tin_bucket(*args, "--key", f"Operations desk={KEY}")
    assert (bare.returncode, KEY in bare.stderr) == (1, False)


def test_the_exit_code_tells_a_table_that_is_not_whole(files, tmp_path):
    document = json.loads((files / "brief.json").read_text())
    document["ask"]["path"] = "/sailings"
    document["ask"]["query"] = [{"name": "from", "value": "2026-11-24"}, {"name": "to", "value": "2026-11-25"}]
    (files / "brief.json").write_text(json.dumps(document))
    out = tmp_path / "short.csv"
    done = tin_bucket("run", files / "brief.json", "--services", files / "services.json", "--out", out,
                      "--key", "Operations desk=env:OPS_KEY", env={"OPS_KEY": KEY})  # fmt: skip
    assert done.returncode == 3
    assert "incomplete; 25 records of the" in done.stderr
    assert "incomplete: 25 of " in done.stderr
    assert len(out.read_text().splitlines()) == 26


@pytest.mark.parametrize(
    ("args", "kind"),
    [
        (["run", "x", "--home", "/nowhere/at/all"], "workspace-missing"),
        (["run", "none.json"], "file-unreadable"),
        (["export", "x", "--out", "x.csv", "--home", "/nowhere/at/all"], "workspace-missing"),
        (["run", "x", "--param", "novalue"], "options-unfit"),
        (["run", "x", "--out", "x.pdf"], "format-unknown"),
        (["run", "x", "--key", "a=env:B"], "options-unfit"),
    ],
)
def test_a_wrong_command_says_what_to_do(args, kind):
    done = tin_bucket(*args)
    assert done.returncode == 1
    assert kind in done.stderr
    assert "What to do:" in done.stderr
    assert "Traceback" not in done.stderr


def test_killed_in_the_middle_there_is_no_half_snapshot_and_the_run_is_interrupted(workspace, desk, operations):
    operations.pause = 0.15
    query = desk["Sailings by route"]
    started = subprocess.Popen([*COMMAND, "run", query.name, "--home", str(workspace.home)], stderr=subprocess.DEVNULL)
    until(lambda: operations.calls >= 5)
    started.send_signal(signal.SIGKILL)
    started.wait()
    assert operations.calls >= 5
    again = Workspace(workspace.home)
    run = again.runs.latest(query.id)[0]
    assert (run.state, run.snapshot_id) == ("interrupted", None)
    assert again.snapshots.latest(query.id) is None
    with again.read() as db:
        assert db.execute("SELECT count(*) FROM row").fetchone()[0] == 0
        assert db.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
    again.close()
    operations.pause = 0.0
    assert tin_bucket("run", query.name, "--home", workspace.home).returncode == 0
    assert [one.state for one in workspace.runs.latest(query.id)] == ["complete", "interrupted"]


def test_the_documented_files_are_read(tmp_path):
    """The examples in the docs are briefs and services that the program takes."""
    text = (Path(__file__).parents[1] / "docs/query-format.md").read_text()
    blocks = [json.loads(part.split("```")[0]) for part in text.split("```json")[1:]]
    assert len(blocks) >= 2
    for block in blocks:
        if "services" in block:
            assert [Service.model_validate(one) for one in block["services"]]
        else:
            assert load_brief(block).name


def said(process, word):
    """The command's output up to the line that holds the word."""
    lines = []
    for line in process.stdout:
        lines.append(line)
        if word in line:
            return "".join(lines)
    raise AssertionError(f"no “{word}” in {lines}")


def test_the_demo_command_makes_its_workspace_once_and_serves_it(tmp_path):
    command = [*COMMAND, "demo", "--home", str(tmp_path / "demo"), "--port", "0", "--service-port", "0", "--days", "2"]
    stamps, services = [], []
    for _ in range(2):
        process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True)
        try:
            told = said(process, "Workspace")
            own, *others = re.findall(r"http://127.0.0.1:\d+/", told)
            token = re.search(r"\?access=(\S+)", told)[1]
            services.append(others)
            assert len(set(others)) == 7
            asked = urllib.request.Request(f"{own}api/desk", headers={"Authorization": f"Bearer {token}"})
            with urllib.request.urlopen(asked, timeout=20) as response:
                desk = json.load(response)
            assert [query["snapshots"] for query in desk["queries"]] == [2, 2, 2, 1, 2, 2, 1, 2, 2, 1, 2, 2, 2, 2, 2]
            assert desk["attention"] == []
            printed = tin_bucket("address", "--home", tmp_path / "demo")
            assert printed.stdout.strip() == f"{own}?access={token}"
            stamps.append([query["latest"]["taken"] for query in desk["queries"]])
            taken = tin_bucket("serve", "--home", tmp_path / "other", "--port", own.split(":")[2].strip("/"))
            assert (taken.returncode, "port-taken" in taken.stderr, "--port" in taken.stderr) == (1, True, True)
            twice = tin_bucket("demo", "--home", tmp_path / "demo")
            assert (twice.returncode, "keeps the ports" in twice.stderr.replace("\n", " ")) == (1, True)
            twice = tin_bucket("serve", "--home", tmp_path / "demo", "--port", 0)
            assert (twice.returncode, "workspace-locked" in twice.stderr) == (1, True)
        finally:
            process.terminate()
            assert process.wait(timeout=20) == 0  # A service manager takes anything else for a failure.
    assert stamps[0] == stamps[1]
    # The services stay where the queries ask them.
    assert services[0] == services[1]


def test_the_version_is_said():
    assert tin_bucket("--version").stdout.strip() == __version__


def test_other_machines_are_not_served(tmp_path):
    refused = tin_bucket("serve", "--home", tmp_path / "home", "--host", "0.0.0.0")
    assert (refused.returncode, "host-refused" in refused.stderr) == (1, True)
    assert "ssh -L" in refused.stderr
    assert not (tmp_path / "home").exists()


def test_the_address_of_a_workspace_that_nobody_serves(tmp_path):
    Workspace(tmp_path / "home", create=True).close()
    told = tin_bucket("address", "--home", tmp_path / "home")
    assert (told.returncode, "not-served" in told.stderr, told.stdout) == (1, True, "")


def test_a_demo_that_was_interrupted_is_begun_again(tmp_path):
    (tmp_path / "demo.making").mkdir()
    (tmp_path / "demo.making" / "workspace.sqlite").write_bytes(b"half a file")
    command = [*COMMAND, "demo", "--home", str(tmp_path / "demo"), "--port", "0", "--service-port", "0", "--days", "1"]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True)
    try:
        said(process, "Workspace")
        assert not (tmp_path / "demo.making").exists()
    finally:
        process.terminate()
        process.wait(timeout=20)


def test_the_schema_command_prints_what_is_published():
    published = (Path(__file__).parents[1] / "docs/query-format.schema.json").read_text()
    assert json.loads(tin_bucket("schema").stdout) == json.loads(published)


def test_definitions_are_carried_and_the_keys_stay_behind(workspace, desk, tmp_path):
    file = tmp_path / "out.json"
    assert tin_bucket("export-bundle", file, "--query", "Ports", "--home", workspace.home).returncode == 0
    assert KEY not in file.read_text()
    other = tmp_path / "other"
    dry = tin_bucket("import-bundle", file, "--dry", "--home", other)
    assert "query Ports: new, added" in dry.stdout
    brought = tin_bucket("import-bundle", file, "--home", other)
    assert "key needed: Operations desk of Skerrywick Operations (key)" in brought.stdout
    assert "Ports: no snapshot yet" in tin_bucket("list", "--home", other).stdout
    again = tin_bucket("import-bundle", file, "--home", other)
    assert "query Ports: same, kept as it is here" in again.stdout
    changed = json.loads(file.read_text())
    changed["queries"][0]["note"] = "changed elsewhere"
    file.write_text(json.dumps(changed))
    beside = tin_bucket("import-bundle", file, "--clash", "beside", "--home", other)
    assert "query Ports: clash, put beside" in beside.stdout
    assert "Ports 2" in tin_bucket("list", "--home", other).stdout
    file.write_text('{"tin_bucket_bundle": 2}')
    newer = tin_bucket("import-bundle", file, "--home", other)
    assert (newer.returncode, "bundle-newer" in newer.stderr) == (1, True)
    assert tin_bucket("import-bundle", file, "--clash", "mix", "--home", other).returncode == 1


def test_a_run_without_its_key_ends_and_does_not_wait(workspace, desk, operations):
    operations.key = "another"
    refused = tin_bucket("run", "Ports", "--home", workspace.home)
    assert (refused.returncode, "key-refused" in refused.stderr) == (1, True)


def test_a_vault_under_a_passphrase_opens_from_the_environment(workspace, desk):
    workspace.vault.set_passphrase("made up words")
    closed = tin_bucket("run", "Ports", "--home", workspace.home)
    assert (closed.returncode, "vault-closed" in closed.stderr) == (1, True)
    env = {**os.environ, "TIN_BUCKET_PASSPHRASE": "made up words"}
    command = [*COMMAND, "run", "Ports", "--home", str(workspace.home)]
    assert subprocess.run(command, env=env, capture_output=True, text=True, timeout=60, check=False).returncode == 0


def test_the_folder_whose_files_may_be_read(workspace, tmp_path):
    told = tin_bucket("folder", "--home", workspace.home).stdout.splitlines()
    assert told[0] == str(workspace.home / "files")
    (tmp_path / "mine").mkdir()
    assert tin_bucket("folder", tmp_path / "mine", "--home", workspace.home).returncode == 0
    assert workspace.settings.folder == (tmp_path / "mine").resolve()
    assert tin_bucket("folder", tmp_path / "none", "--home", workspace.home).returncode == 1


@pytest.mark.parametrize(
    ("around", "code", "words"),
    [
        ({"has_more": False}, 0, "awkward: complete; 2 records"),
        ({}, 4, "unverified: nothing in the answer tells whether there is more"),
        ({"has_more": True}, 3, "incomplete: the answer says that there is more: $.has_more is true"),
    ],
)
def test_the_exit_code_says_whether_the_table_is_proved_to_be_whole(
    workspace, awkward, ask_awkward, tmp_path, around, code, words
):
    document = json.dumps({"data": [{"id": 1}, {"id": 2}], **around}).encode()
    awkward.answers["/data"] = (200, {"Content-Type": "application/json"}, document)
    ask_awkward()
    run = tin_bucket("run", "awkward", "--home", workspace.home)
    assert (run.returncode, words in run.stderr.replace("\n", " ")) == (code, True), run.stderr
    kept = tin_bucket("export", "awkward", "--out", tmp_path / "t.csv", "--home", workspace.home)
    assert kept.returncode == code
    assert (tmp_path / "t.csv").read_text().splitlines() == ["id", "1", "2"]


def test_formulas_in_csv_are_said_and_quoted_when_asked(workspace, awkward, ask_awkward, tmp_path):
    rows = [{"id": "1", "note": "=1+1"}, {"id": "2", "note": "-3"}]
    awkward.answers["/data"] = (200, {"Content-Type": "application/json"}, json.dumps({"data": rows}).encode())
    ask_awkward()
    out = tmp_path / "t.csv"
    told = tin_bucket("export", "awkward", "--out", out, "--home", workspace.home)
    assert "1 cell begins as a formula does, such as “=1+1” in “note”" in told.stderr.replace("\n", " ")
    assert "--formulas-as-text" in told.stderr
    assert out.read_text().splitlines() == ["id,note", "1,=1+1", "2,-3"]
    tin_bucket("export", "awkward", "--out", out, "--home", workspace.home, "--formulas-as-text")
    assert out.read_text().splitlines() == ["id,note", "1,'=1+1", "2,-3"]


def test_a_killed_commands_half_file_is_cleared_and_a_running_ones_stays(workspace, desk, tmp_path):
    ended = subprocess.Popen(["true"])
    ended.wait()
    left, running = tmp_path / f".t.csv.{ended.pid}.0123abcd", tmp_path / f".t.csv.{os.getppid()}.0123abcd"
    other = tmp_path / f".u.csv.{ended.pid}.0123abcd"
    for path in (left, running, other):
        path.write_text("half")
    done = tin_bucket("run", "Ports", "--out", tmp_path / "t.csv", "--home", workspace.home)
    assert done.returncode == 0, done.stderr
    assert sorted(path.name for path in tmp_path.iterdir() if path.is_file()) == sorted(
        [running.name, other.name, "t.csv"]
    )


def test_a_workspace_is_backed_up_restored_and_checked(workspace, desk, tmp_path):
    assert tin_bucket("run", "Ports", "--home", workspace.home).returncode == 0
    file = tmp_path / "b.zip"
    refused = tin_bucket("backup", file, "--home", workspace.home, env={"TIN_BUCKET_PASSPHRASE": "short"})
    assert (refused.returncode, "passphrase-short" in refused.stderr, file.exists()) == (1, True, False)
    made = tin_bucket("backup", file, "--home", workspace.home, env={"TIN_BUCKET_PASSPHRASE": "words to seal with"})
    assert made.returncode == 0, made.stderr
    assert "4 queries, 1 snapshot, 1 sealed key" in made.stdout
    back = tin_bucket("restore", file, "--home", tmp_path / "other")
    assert "4 queries, 1 snapshot, 1 sealed key" in back.stdout
    assert "passphrase of the backup" in back.stdout
    again = tin_bucket("restore", file, "--home", tmp_path / "other")
    assert (again.returncode, "workspace-exists" in again.stderr) == (1, True)
    # The keys of the backup work, and everything is as it was.
    ran = tin_bucket("run", "Ports", "--passphrase", "--home", tmp_path / "other", env={"TIN_BUCKET_PASSPHRASE": "x"})
    assert ran.returncode != 0
    ran = tin_bucket("run", "Ports", "--home", tmp_path / "other", env={"TIN_BUCKET_PASSPHRASE": "words to seal with"})
    assert ran.returncode == 0, ran.stderr
    told = tin_bucket("check", "--home", tmp_path / "other")
    assert (told.returncode, "All of it is as it was stored" in told.stdout) == (0, True)
    other = Workspace(tmp_path / "other")
    with other.write() as db:
        db.execute("UPDATE row SET content = X'5B5D' WHERE id = (SELECT min(id) FROM row)")
    other.close()
    told = tin_bucket("check", "--home", tmp_path / "other")
    assert (told.returncode, "1 of its 12 rows is not as it was stored" in told.stdout) == (1, True)

"""The command line when nobody looks: it goes on, says what it waits for, ends by a signal, and takes keys."""

import json
import os
import signal
import subprocess
import sys
from pathlib import Path

import openpyxl
import pytest
from aiohttp import web

from tests.conftest import NOON
from tests.engine.test_resume import in_pages, query_on
from tests.test_cli import COMMAND, tin_bucket
from tests.waiting import until
from tin_bucket.commands.options import ENDINGS
from tin_bucket.core.traffic.rate_window import Window
from tin_bucket.feeds.formats.registry import FORMATS

A_DAY = Window(calls=60, per="P1D", starts="calendar")
KEYS = {
    "name": "Desk", "source": {"by": "stored"}, "places": [{"at": "header", "name": "X-Key", "prefix": ""}]
}  # fmt: skip


@pytest.fixture
def pages(awkward):
    """A service with 150 pages; the calls of each page are counted."""
    made = {}

    def count(page):
        made[page] = made.get(page, 0) + 1

    awkward.answers["/data"] = in_pages(150, 1, count)
    return made


def test_an_allowance_of_60_calls_a_day_gets_150_pages_in_three_days(workspace, awkward, pages, monkeypatch):
    query_on(workspace, awkward.base, limits=[A_DAY])
    home = ("--home", workspace.home)
    first = tin_bucket("run", "asked", "--no-wait", *home)
    assert first.returncode == 5, first.stderr
    assert "waits until" in first.stderr
    assert "60 calls a day" in first.stderr
    assert "broken off" in first.stderr
    assert sum(pages.values()) == 60
    # Nobody waits until tomorrow here: the calls of today are forgotten.
    for made in (120, 150):
        with workspace.write() as db:
            db.execute("DELETE FROM paced")
        done = tin_bucket("run", "asked", "--no-wait", *home)
        assert "goes on from the run of" in done.stderr
        assert sum(pages.values()) == made
    assert done.returncode == 0, done.stderr
    assert "150 records of the 150 that the API states" in done.stderr
    assert set(pages.values()) == {1}
    # What is complete is asked for anew.
    with workspace.write() as db:
        db.execute("DELETE FROM paced")
    assert "goes on from the run" not in tin_bucket("run", "asked", "--no-wait", *home).stderr


def test_an_incomplete_run_begins_anew_unless_it_is_told_to_go_on(workspace, awkward):
    calls, closed = [], {3}

    def refuse(page):
        calls.append(page)
        return web.json_response({"error": "closed"}, status=400) if page in closed else None

    awkward.answers["/data"] = in_pages(20, 5, refuse)
    query_on(workspace, awkward.base)
    home = ("--home", workspace.home)
    never = tin_bucket("run", "asked", "--go-on", *home)
    assert (never.returncode, "never refreshed" in never.stderr) == (1, True)
    assert tin_bucket("run", "asked", *home).returncode == 3
    calls.clear()
    assert tin_bucket("run", "asked", *home).returncode == 3
    assert {1, 2, 3, 4} <= set(calls)
    calls.clear()
    closed.clear()
    done = tin_bucket("run", "asked", "--go-on", *home)
    assert done.returncode == 0, done.stderr
    assert not {1, 2, 4} & set(calls)
    assert "and 3 saved answers." in done.stderr
    again = tin_bucket("run", "asked", "--go-on", *home)
    assert (again.returncode, "run-complete" in again.stderr) == (1, True)


@pytest.mark.parametrize(("number", "code"), [(signal.SIGTERM, 143), (signal.SIGINT, 130)])
def test_a_signal_ends_a_run_with_all_answers_saved_and_nothing_left_behind(workspace, awkward, number, code):
    asked = []

    async def slowly(request):
        page = int(request.query.get("page", 1))
        asked.append(page)
        if page > 7:
            import asyncio

            await asyncio.sleep(30)
        return await in_pages(100, 5)(request)

    awkward.answers["/data"] = slowly
    query_on(workspace, awkward.base, at_once=1)
    started = subprocess.Popen(
        [*COMMAND, "run", "asked", "--home", str(workspace.home)],
        stderr=subprocess.PIPE,
        stdout=subprocess.PIPE,
        text=True,
    )
    until(lambda: 8 in asked)
    started.send_signal(number)
    out, told = started.communicate(timeout=30)
    assert started.returncode == code, told
    assert out == ""
    assert told.splitlines()[-1].startswith("asked: broken off: stopped by a signal. Of it 7 answers are saved")
    assert "Traceback" not in told
    run = workspace.runs.latest()[0]
    assert run.state == "cancelled"
    assert len([call for call in workspace.runs.calls(run.id) if call.has_answer]) == 7


def test_a_signal_leaves_no_folder_with_a_key(files_with_key, awkward):
    import asyncio

    asked = []

    async def never(request):
        asked.append(1)
        await asyncio.sleep(30)

    awkward.answers["/data"] = never
    folder = files_with_key / "tmp"
    folder.mkdir()
    started = subprocess.Popen(
        [*COMMAND, "run", str(files_with_key / "brief.json"), "--services", str(files_with_key / "services.json"),
         "--key", "Desk=env:DESK_KEY"],
        stderr=subprocess.PIPE, text=True, env={**os.environ, "DESK_KEY": "k-3-secret", "TMPDIR": str(folder)},
    )  # fmt: skip
    until(lambda: asked)
    assert list(folder.iterdir())
    started.send_signal(signal.SIGTERM)
    _, told = started.communicate(timeout=30)
    assert started.returncode == 143, told
    assert list(folder.iterdir()) == []
    assert "k-3-secret" not in told


@pytest.fixture
def files_with_key(tmp_path, awkward):
    """A brief, and two services that have a key of the same name."""
    brief = {"name": "asked", "ask": {"service": "own", "path": "/data"}, "take": {"records": "$.rows[*]"}}
    services = [
        {"id": "own", "name": "Own", "base": awkward.base, "key": {**KEYS, "name": "Desk"}},
        {"id": "other", "name": "Other", "base": "http://127.0.0.1:9", "key": {**KEYS, "name": "Desk.north"}},
    ]
    (tmp_path / "brief.json").write_text(json.dumps(brief))
    (tmp_path / "services.json").write_text(json.dumps({"services": services}))
    return tmp_path


def test_keys_are_told_apart_by_name_service_and_field(files_with_key, awkward, monkeypatch):
    given = []

    async def noted(request):
        given.append(request.headers.get("X-Key"))
        return web.json_response({"rows": [{"id": 1}]})

    awkward.answers["/data"] = noted
    args = ("run", files_with_key / "brief.json", "--services", files_with_key / "services.json")
    env = {"A": "key-a", "B": "key-b"}
    for keys in (["Desk=env:A", "Desk.north=env:B"], ["own/Desk=env:A"]):
        done = tin_bucket(*args, *(part for key in keys for part in ("--key", key)), env=env)
        assert (done.returncode, given.pop()) == (4, "key-a"), done.stderr
    document = json.loads((files_with_key / "services.json").read_text())
    document["services"][1]["key"]["name"] = "Desk"
    (files_with_key / "services.json").write_text(json.dumps(document))
    unclear = tin_bucket(*args, "--key", "Desk=env:A", env=env)
    assert (unclear.returncode, "own/Desk or other/Desk" in unclear.stderr) == (1, True)
    assert tin_bucket(*args, "--key", "own/Desk=env:A", env=env).returncode == 4
    twice = tin_bucket(*args, "--key", "own/Desk=env:A", "--key", "own/Desk=env:B", env=env)
    assert "is given twice" in twice.stderr
    assert "No service takes a key named “Dusk”" in tin_bucket(*args, "--key", "Dusk=env:A", env=env).stderr
    assert "--key NAME=env:VARIABLE or NAME=file:PATH" in tin_bucket(*args).stderr
    assert not given[1:]


def test_a_fault_of_a_services_file_names_the_service(files_with_key):
    document = json.loads((files_with_key / "services.json").read_text())
    document["services"][1]["base"] = 7
    (files_with_key / "services.json").write_text(json.dumps(document))
    done = tin_bucket("run", files_with_key / "brief.json", "--services", files_with_key / "services.json")
    assert "services-unreadable" in done.stderr
    assert "service “Other”, base" in done.stderr


def test_a_brief_file_uses_the_services_and_keys_of_a_workspace(workspace, files_with_key, awkward):
    given = []

    async def noted(request):
        given.append(request.headers.get("X-Key"))
        return web.json_response({"rows": [{"id": 1}]})

    awkward.answers["/data"] = noted
    query_on(workspace, awkward.base, key=KEYS)
    home = ("--home", workspace.home)
    stored = tin_bucket("key", "set", "Own", "--from", "env:K", *home, env={"K": "from-the-vault"})
    assert stored.returncode == 0, stored.stderr
    assert "Stored: the key “Desk” of Own" in stored.stdout
    done = tin_bucket("run", files_with_key / "brief.json", *home)
    assert (done.returncode, given) == (4, ["from-the-vault"]), done.stderr
    # The workspace itself stays as it was.
    assert workspace.runs.latest() == []


def test_keys_are_stored_listed_and_deleted(workspace, awkward, tmp_path):
    query_on(workspace, awkward.base, key={**KEYS, "places": [{"at": "user and password"}]})
    home = ("--home", workspace.home)
    assert "the key “Desk” is not stored" in tin_bucket("key", "list", *home).stdout
    (tmp_path / "secret").write_text("pass-7\n")
    wrong = tin_bucket("key", "set", "own", "--from", "env:K", *home, env={"K": "x"})
    assert (wrong.returncode, "is made of user and password" in wrong.stderr) == (1, True)
    sources = ("--from", "user=env:U", "--from", f"password=file:{tmp_path / 'secret'}")
    assert tin_bucket("key", "set", "own", *sources, *home, env={"U": "desk"}).returncode == 0
    assert workspace.vault.open("own").secret == {"user": "desk", "password": "pass-7"}
    listed = tin_bucket("key", "list", "--json", *home)
    assert json.loads(listed.stdout)["stored"]
    assert "pass-7" not in listed.stdout + listed.stderr
    assert tin_bucket("key", "delete", "own", *home).returncode == 0
    assert tin_bucket("key", "delete", "own", *home).returncode == 1
    missing = tin_bucket("run", "asked", *home)
    assert (missing.returncode, "tin-bucket key set SERVICE" in missing.stderr) == (1, True)
    for command in (("refresh", "asked"), ("runs", "asked")):
        done = tin_bucket(*command, *home)
        assert "tin-bucket key set SERVICE" in done.stderr + done.stdout
        assert "the page" not in done.stderr + done.stdout
    assert "Name one of “Own”" in tin_bucket("key", "set", "elsewhere", *home).stderr


def test_a_service_is_asked_whether_it_answers(workspace, awkward):
    awkward.answers["/"] = (200, {}, b"here")
    query_on(workspace, awkward.base)
    home = ("--home", workspace.home)
    reached = tin_bucket("check", "Own", *home)
    assert (reached.returncode, "Own: Reached" in reached.stdout) == (0, True), reached.stderr
    query_on(workspace, "http://127.0.0.1:9", name="closed")
    assert tin_bucket("check", "own", *home).returncode == 1
    refused = tin_bucket("check", "own", "--json", *home)
    told = json.loads(refused.stdout)
    assert (refused.returncode, told["service"], told["well"], told["reading"]) == (1, "own", False, "not-reached")
    stored = tin_bucket("check", "--json", *home)
    assert (stored.returncode, json.loads(stored.stdout)["damages"]) == (0, [])
    assert "All of it is as it was stored." in tin_bucket("check", *home).stdout


def test_what_was_done_is_listed_and_compared(workspace, awkward, tmp_path):
    awkward.answers["/data"] = in_pages(12)
    query_on(workspace, awkward.base)
    home = ("--home", workspace.home)
    assert "no snapshot yet" in tin_bucket("list", *home).stdout
    assert tin_bucket("run", "asked", *home).returncode == 0
    awkward.answers["/data"] = in_pages(14)
    told = json.loads(tin_bucket("run", "asked", "--json", *home).stdout)
    assert (told["state"], told["rows"], told["calls"], told["problem"]) == ("complete", 14, 3, None)
    runs = [json.loads(line) for line in tin_bucket("runs", "asked", "--json", *home).stdout.splitlines()]
    assert [one["rows"] for one in runs] == [14, 12]
    assert "asked: complete, 14 rows, 3 calls, by command line" in tin_bucket("runs", *home).stdout
    listed = tin_bucket("snapshots", "asked", *home).stdout.splitlines()
    assert listed[0].startswith("#1 ")
    assert listed[1].endswith("14 rows, complete: + 2 new, − 0 gone, ● 0 changed")
    out = tmp_path / "differs.xlsx"
    differs = tin_bucket("compare", "asked", "#1", "--out", out, *home)
    assert differs.returncode == 6, differs.stderr
    assert "+ 2 new, − 0 gone, ● 0 changed, 12 the same" in differs.stderr
    rows = list(openpyxl.load_workbook(out).active.values)
    assert rows == [("change", "id", "id, before"), ("new", 12, None), ("new", 13, None)]
    assert tin_bucket("compare", "asked", "#2", "#2", *home).returncode == 0
    as_csv = tin_bucket("compare", "asked", "#2", "#1", "--out", "-", *home).stdout.splitlines()
    assert as_csv == ['change,id,"id, before"', "gone,12,", "gone,13,"]
    for date in ("#9", "2020-01-01", "never"):
        refused = tin_bucket("compare", "asked", date, *home)
        assert (refused.returncode, "What to do" in refused.stderr) == (1, True)


def test_an_export_is_of_a_moment(workspace, awkward, tmp_path):
    awkward.answers["/data"] = in_pages(3)
    query_on(workspace, awkward.base)
    home = ("--home", workspace.home)
    assert tin_bucket("run", "asked", *home).returncode == 0
    with workspace.write() as db:
        db.execute("UPDATE snapshot SET taken = '2026-11-20T12:00:00+00:00'")
    at = {"TZ": "UTC"}
    assert tin_bucket("export", "asked", "--out", "-", "--date", "2026-11-20T12:00", *home, env=at).returncode == 0
    early = tin_bucket("export", "asked", "--out", "-", "--date", "2026-11-20T11:59", *home, env=at)
    assert (early.returncode, "no snapshot up to 2026-11-20T11:59" in early.stderr) == (1, True)


@pytest.mark.parametrize("out", ["nowhere/at/all.csv", ".", "locked/x.csv"])
def test_a_file_that_cannot_be_written_is_refused_before_the_first_call(workspace, awkward, tmp_path, out):
    (tmp_path / "locked").mkdir()
    (tmp_path / "locked" / ".~lock.x.csv#").touch()
    asked = []
    awkward.answers["/data"] = in_pages(3, 5, asked.append)
    query_on(workspace, awkward.base)
    done = tin_bucket("run", "asked", "--out", tmp_path / out, "--home", workspace.home)
    assert (done.returncode, asked) == (1, []), done.stderr
    assert "What to do" in done.stderr


def test_messages_are_never_markup_and_never_broken(workspace, awkward):
    words = "no [bold]table[/bold] [/oops] " + "and on and on " * 20
    awkward.answers["/data"] = (400, {"Content-Type": "application/json"}, json.dumps({"error": words}).encode())
    query_on(workspace, awkward.base, name="asked [x] [/y]")
    done = tin_bucket("run", "asked [x] [/y]", "--home", workspace.home)
    assert done.returncode == 1
    assert any(words[:120] in line for line in done.stderr.splitlines()), done.stderr
    unknown = tin_bucket("run", "[red]none[/red]", "--home", workspace.home)
    assert "[red]none[/red]" in unknown.stderr


def test_a_run_says_what_it_knows(workspace, awkward):
    awkward.answers["/data"] = in_pages(3)
    query = query_on(workspace, awkward.base)
    home = ("--home", workspace.home)
    tin_bucket("run", "asked", *home)
    document = json.loads(query.brief.model_dump_json(by_alias=True))
    document["take"]["columns"] = [{"place": "$.id", "name": "id"}, {"place": "$.nowhere", "name": "lost"}]
    workspace.queries.save(query.id, type(query.brief).model_validate(document), NOON)
    rows = [{"id": 1, "fresh": "x"}, {"id": "two"}]
    awkward.answers["/data"] = (200, {}, json.dumps({"pages": 1, "total": 2, "rows": rows}).encode())
    told = tin_bucket("run", "asked", *home).stderr
    assert "no record has $.nowhere, which a column is taken from" in told
    assert "new in the answers: $.fresh" in told
    assert "of another kind than before: $.id" in told


def test_the_formats_of_the_help_are_those_that_there_are():
    assert tuple(FORMATS) == ENDINGS


def test_the_schema_of_a_services_file_is_printed_and_takes_the_examples():
    schema = json.loads(tin_bucket("schema", "--services").stdout)
    assert schema["properties"]["services"]["items"]
    assert "Service" in schema["$defs"]


def test_help_and_a_wrong_option_need_nothing_that_is_slow_to_import():
    program = """
import sys
from typer.testing import CliRunner
from tin_bucket.cli import app
for args in (["--help"], ["run", "--help"], ["run", "--nonsense"]):
    CliRunner().invoke(app, args)
slow = {"numpy", "aiohttp", "psycopg", "lxml", "xlsxwriter", "fastapi", "tin_bucket.store.workspace"}
print(sorted(slow & set(sys.modules)))
"""
    done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"


def test_every_command_says_its_exit_codes_in_the_docs():
    text = (Path(__file__).parents[1] / "docs/command-line.md").read_text()
    for code in (0, 1, 2, 3, 4, 5, 6, 130, 143):
        assert f"| {code} |" in text


def test_the_days_of_a_range_are_given_on_the_command_line(workspace, awkward):
    asked = []

    async def of_a_day(request):
        asked.append(request.query["day"])
        return web.json_response({"rows": [{"id": request.query["day"]}]})

    awkward.answers["/data"] = of_a_day
    query = query_on(workspace, awkward.base, pages={"by": "none"})
    document = json.loads(query.brief.model_dump_json(by_alias=True))
    document["parameters"] = [{"name": name, "kind": "date"} for name in ("day", "from", "to")]
    document["ask"]["query"] = [{"name": "day", "value": "{day}"}]
    ends = {"start": {"parameter": "from"}, "end": {"parameter": "to"}}
    document["each"] = [{"by": "range", "parameter": "day", **ends}]
    workspace.queries.save(query.id, type(query.brief).model_validate(document), NOON)
    home = ("--home", workspace.home)
    done = tin_bucket("run", "asked", "--param", "from=2026-11-28", "--param", "to=2026-12-01", *home)
    assert sorted(asked) == ["2026-11-28", "2026-11-29", "2026-11-30", "2026-12-01"], done.stderr
    short = tin_bucket("run", "asked", "--param", "from=2026-11-28", *home)
    assert (short.returncode, "to" in short.stderr) == (1, True)

"""The command line's words, whole, against files that a person has read: ``GOLDEN=write`` writes them anew."""

import json
import os
import re
from pathlib import Path

import pytest
from aiohttp import web

from tests.conftest import NOON
from tests.engine.test_resume import in_pages, query_on
from tests.test_cli import tin_bucket
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.traffic.rate_window import Window

FOLDER = Path(__file__).parent / "golden"
# What differs from one time to the next.
_PASSING = (
    (r"http://127\.0\.0\.1:\d+", "http://SERVICE"),
    (r"http://localhost:\d+", "http://ELSEWHERE"),
    (r"/tmp/\S+/(?=workspace\b)", "FOLDER/"),
    (r"\d{4}-\d\d-\d\d[T ]\d\d:\d\d(:\d\d(\.\d+)?)?(\+\d\d:\d\d)?", "DATE"),
    (r"waits until (DATE|\d{4}-\d\d-\d\d \d\d:\d\d|\d\d:\d\d)(:\d\d)? \S+, [^:]+:", "waits until TIME, SPAN:"),
    (r"in \d+ ms", "in MS"),
)


def told(*args, env=None):
    """A command with all that it said, as a golden file has it."""
    done = tin_bucket(*args, env=env)
    shown = " ".join(str(arg) if " " not in str(arg) else f'"{arg}"' for arg in args if "--home" not in str(arg))
    text = f"$ tin-bucket {shown}\n{done.stdout}{done.stderr}[{done.returncode}]\n"
    for pattern, word in _PASSING:
        text = re.sub(pattern, word, text)
    return text


def check(name, text):
    path = FOLDER / f"{name}.txt"
    if os.environ.get("GOLDEN") == "write":
        path.write_text(text)
    assert text == path.read_text()


@pytest.fixture
def home(workspace):
    return f"--home={workspace.home}"


def test_runs_that_are_whole_short_and_refused(workspace, awkward, home):
    awkward.answers["/data"] = in_pages(12)
    query_on(workspace, awkward.base)
    text = told("run", "asked", home)

    def refuse(page):
        return web.json_response({"message": "the crane is stuck"}, status=400) if page == 2 else None

    awkward.answers["/data"] = in_pages(14, 5, refuse)
    text += told("run", "asked", home)
    text += told("runs", "asked", home)
    text += told("snapshots", "asked", home)
    text += told("compare", "asked", "#1", home)
    awkward.answers["/data"] = (
        403,
        {"Content-Type": "application/json"},
        b'{"message": "Daily quota exceeded [today]"}',
    )
    text += told("run", "asked", "--afresh", home)
    awkward.answers["/data"] = (401, {"Content-Type": "application/json"}, b'{"message": "Who are you?"}')
    text += told("run", "asked", home)
    check("runs", text)


def test_what_changed_in_the_answers(workspace, awkward, home):
    rows = [{"id": 1, "berth": "4"}, {"id": 2, "berth": "5"}]
    awkward.answers["/data"] = (200, {}, json.dumps({"pages": 1, "total": 2, "rows": rows}).encode())
    query_on(workspace, awkward.base)
    text = told("run", "asked", home)
    body = (
        '{"pages": 1, "total": 2, "rows": [{"id": 1, "pier": NaN, "depth": 1}, {"id": "two", "pier": 3, "depth": 2}]}'
    )
    awkward.answers["/data"] = (200, {}, body.encode())
    text += told("run", "asked", home)
    check("changed-answers", text)


def test_waits_and_going_on(workspace, awkward, home):
    awkward.answers["/data"] = in_pages(6, 1)
    query_on(workspace, awkward.base, limits=[Window(calls=4, per="P1D", starts="calendar")], at_once=1)
    text = told("run", "asked", "--no-wait", home)
    with workspace.write() as db:
        db.execute("DELETE FROM paced")
    text += told("run", "asked", "--no-wait", home)
    check("waits", text)


def test_what_is_unchanged_redirected_warned_of_and_not_looked_up(workspace, awkward, home):
    elsewhere = awkward.base.replace("127.0.0.1", "localhost")

    async def rows(request):
        page = int(request.query.get("page", 1))
        if page == 2:
            return web.Response(status=302, headers={"Location": f"{elsewhere}/moved"})
        if request.headers.get("If-None-Match") == '"v1"':
            return web.Response(status=304)
        body = '{"pages": 2, "total": 4, "notice": "tides of 2024", "rows": [{"id": 1, "x": 1}, {"id": 2, "x": 2}]}'
        return web.Response(body=body, headers={"ETag": '"v1"'})

    async def ports(request):
        return web.json_response({"error": "Too wide a net."}, status=400)

    awkward.answers["/data"] = rows
    awkward.answers["/moved"] = (
        200, {}, b'{"pages": 2, "total": 4, "rows": [{"id": 3, "x": NaN}, {"id": 4, "x": Infinity}]}'
    )  # fmt: skip
    awkward.answers["/ports"] = ports
    query = query_on(workspace, awkward.base, error_rules=[{"at": "$.notice", "warns": True}])
    document = query.brief.model_dump(mode="json", by_alias=True)
    document["look_up"] = [
        {
            "name": "port",
            "path": "/ports",
            "query": [{"name": "ids", "value": "{id}"}],
            "with": {"id": "id"},
            "batch": {"most": 50, "match": "$.id"},
            "take": [{"place": "$.name", "name": "port"}],
        }
    ]
    workspace.queries.save(query.id, load_brief(document), NOON)
    text = told("run", "asked", home)
    text += told("run", "asked", home)
    text += told("runs", "asked", home)
    check("unchanged", text)


def test_keys(workspace, awkward, home):
    key = {"name": "Desk", "source": {"by": "stored"}, "places": [{"at": "header", "name": "X-Key", "prefix": ""}]}
    awkward.answers["/"] = (200, {}, b"{}")
    query_on(workspace, awkward.base, key=key)
    text = told("key", "list", home)
    text += told("run", "asked", home)
    text += told("key", "set", "Own", "--from", "plain-text", home)
    text += told("key", "set", "Own", "--from", "env:NOT_SET", home)
    text += told("key", "set", "Owen", "--from", "env:DESK", home)
    text += told("key", "set", "Own", "--from", "env:DESK", home, env={"DESK": "k-123-456"})
    text += told("check", "Own", home)
    text += told("key", "delete", "Own", home)
    assert "k-123-456" not in text
    check("keys", text)


def test_mistakes(workspace, home):
    text = told("run", "nothing", home)
    text += told("run", "nothing", "--param", "route", home)
    text += told("run", "nothing", "--out", "/nowhere/at/all.csv", home)
    text += told("run", "nothing", "--out", "table.pdf", home)
    text += told("run", "nothing", "--json", "--out", "-", home)
    text += told("run", "none.json")
    text += told("refresh", home)
    text += told("export", "nothing", "--out", "x.csv", "--separator", "pipe", home)
    check("mistakes", text)

"""A brief file is run without a workspace: its table goes from the answers to the file, and is the same as a kept one."""

import json
import signal
import subprocess

import pytest
from aiohttp import web

from tests.conftest import NOON
from tests.test_cli import COMMAND, tin_bucket
from tests.waiting import until
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service

ROWS = [
    {"id": "007", "big": 2**70, "small": 0.1, "when": "2026-11-25T09:30:00+02:00", "open": True, "fares": [1.5, 2],
     "text": 'say "=1+1", twice\r\nand stop', "port": "a"},
    {"id": "008", "big": -(2**53), "small": 1e300, "when": None, "open": False, "fares": [], "text": "", "port": "gone"},
    {"id": "009", "small": -0.0, "extra": {"deep": [{"x": 1}]}, "text": "\u2028é漢", "port": None, "fares": [3]},
]  # fmt: skip
BRIEF = {
    "name": "rows",
    "ask": {"service": "own", "path": "/rows"},
    "pages": {"by": "number", "last_page": "$.pages"},
    "take": {"records": "$.rows[*]", "rows_for": ["$.fares"]},
    "look_up": [
        {"name": "port", "path": "/ports/{port}", "with": {"port": "port"}, "missing": [404],
         "take": [{"place": "$.name", "name": "port name"}]}
    ],
}  # fmt: skip


@pytest.fixture
def sources(awkward, tmp_path):
    """A service of awkward values on two pages, and a brief with its services in files."""

    async def rows(request):
        page = int(request.query.get("page", 1))
        return web.json_response({"pages": 2, "rows": ROWS if page == 1 else [{**ROWS[0], "id": "010"}]})

    awkward.answers["/rows"] = rows
    awkward.answers["/ports/a"] = (200, {"Content-Type": "application/json"}, b'{"name":"Ost"}')
    awkward.answers["/ports/gone"] = (404, {}, b"{}")
    (tmp_path / "services.json").write_text(
        json.dumps({"services": [{"id": "own", "name": "Own", "base": awkward.base}]})
    )
    return tmp_path


def written(sources, document, out, *more):
    (sources / "brief.json").write_text(json.dumps(document))
    return tin_bucket(
        "run", sources / "brief.json", "--services", sources / "services.json", "--out", sources / out, *more
    )


@pytest.mark.parametrize("ending", ["csv", "tsv", "json", "jsonl", "html", "xlsx", "ods", "parquet"])
def test_what_passes_through_is_what_would_be_kept(workspace, awkward, sources, ending):
    done = written(sources, BRIEF, f"passed.{ending}", "--json")
    assert done.returncode == 0, done.stderr
    assert json.loads(done.stdout)["snapshot"] is None
    workspace.services.save(Service(id="own", name="Own", base=awkward.base))
    workspace.queries.add(load_brief(BRIEF), NOON)
    kept = tin_bucket("run", "rows", "--home", workspace.home, "--out", sources / f"kept.{ending}", "--json")
    assert kept.returncode == 0, kept.stderr
    assert json.loads(kept.stdout)["snapshot"] is not None
    assert done.stderr == kept.stderr
    passed, stored = (sources / f"{name}.{ending}" for name in ("passed", "kept"))
    if ending in ("xlsx", "ods", "parquet"):
        # Their files bear the moment of writing; what can be read of them is the same.
        assert cells_of(passed) == cells_of(stored)
    else:
        assert passed.read_bytes() == stored.read_bytes()


def cells_of(path):
    if path.suffix == ".parquet":
        import pyarrow.parquet

        return pyarrow.parquet.read_table(path).to_pylist()
    if path.suffix == ".xlsx":
        import openpyxl

        return [[cell.value for cell in row] for row in openpyxl.load_workbook(path).active.iter_rows()]
    import zipfile

    return zipfile.ZipFile(path).read("content.xml")


def test_rows_that_are_the_same_on_two_pages_are_seen_without_keeping_them(awkward, sources):
    async def same(request):
        page = int(request.query.get("page", 1))
        rows = [{"id": 1, "at": page}, {"id": 2, "at": 0}, {"id": page + 5, "at": 1}]
        return web.json_response({"pages": 2, "rows": rows if page < 3 else []})

    awkward.answers["/rows"] = same
    plain = {**BRIEF, "look_up": [], "take": {"records": "$.rows[*]"}}
    done = written(sources, plain, "out.csv")
    assert done.returncode == 4, done.stderr
    assert "1 row is the same as a row on an earlier page" in done.stderr
    told_by_match = written(sources, {**plain, "keep": {"match": ["id"]}}, "out.csv")
    assert told_by_match.returncode == 3, told_by_match.stderr


def test_lines_that_work_it_out_are_done(sources):
    lines = [{"do": "keep", "expression": "id = '007'"}]
    done = written(sources, {**BRIEF, "work_out": lines}, "out.csv")
    assert done.returncode == 0, done.stderr
    ids = [line.split(",")[0] for line in (sources / "out.csv").read_text().splitlines()]
    assert ids.count("007") == 2
    assert not {"008", "009", "010"} & set(ids)


def test_what_is_broken_off_says_that_nothing_is_kept(awkward, sources):
    import asyncio

    asked = []

    async def never(request):
        asked.append(1)
        await asyncio.sleep(30)

    awkward.answers["/rows"] = never
    (sources / "brief.json").write_text(json.dumps(BRIEF))
    started = subprocess.Popen(
        [*COMMAND, "run", str(sources / "brief.json"), "--services", str(sources / "services.json")],
        stderr=subprocess.PIPE,
        text=True,
    )
    until(lambda: asked)
    started.send_signal(signal.SIGTERM)
    _, told = started.communicate(timeout=30)
    assert started.returncode == 143
    assert "Of a brief file nothing is kept" in told
    assert "saved" not in told

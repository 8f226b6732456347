"""Files that harm their reader: each ends in a table or in words, within its bounds, and the server goes on."""

import asyncio

import pytest

from tests.conftest import NOON
from tests.engine.hostile_sheets import book_of, cell, hostile
from tests.engine.kill import kill_children_named
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.interchange.spreadsheet import SheetSettings, make_sheet
from tin_bucket.core.interchange.used_range import used_range
from tin_bucket.core.problem import ProblemError
from tin_bucket.engine.clock import SetClock
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.tuning import EngineTuning
from tin_bucket.engine.workspace.sheet_files import SheetReader
from tin_bucket.engine.workspace.sources import matching_files

BOUNDS = EngineTuning(sheet_memory=200 * 2**20, sheet_seconds=20.0, most_sheet=50 * 2**20)
FINE = b"code,note\n007,first\n"


@pytest.fixture(scope="module")
def reader():
    made = SheetReader(BOUNDS)
    yield made
    made.close()


@pytest.mark.parametrize("name", hostile())
def test_a_hostile_file_ends_in_a_table_or_in_words(reader, name):
    file, data = hostile()[name]
    try:
        table = reader.read(file, data, SheetSettings())
    except ProblemError as error:
        problem = error.problem
        assert problem.kind in ("sheet-too-large", "sheet-unreadable")
        assert problem.do
        assert "panic" not in problem.sentence().lower()
    else:
        assert len(table.records) < 10_000
    # The next file is read as ever.
    assert reader.read("a.csv", FINE, SheetSettings()).records == [{"code": "007", "note": "first"}]


def test_the_furthest_cell_is_named(reader):
    with pytest.raises(ProblemError) as caught:
        reader.read(*hostile()["the last cell of the grid"], SheetSettings())
    assert "XFD1048576" in caught.value.problem.what
    assert "3 cells" in caught.value.problem.what


def test_a_file_that_takes_too_long_is_given_up(tmp_path):
    slow = SheetReader(EngineTuning(sheet_seconds=0.05))
    with pytest.raises(ProblemError) as caught:
        slow.read("a.json", b"[" + b'{"a": 1},' * 2_000_000 + b"1]", SheetSettings())
    assert (caught.value.problem.kind, "0.05 seconds" in caught.value.problem.what) == ("sheet-too-large", True)
    slow.close()


def test_a_file_that_is_too_large_is_not_opened(reader, tmp_path):
    large = tmp_path / "large.csv"
    with large.open("wb") as file:
        file.truncate(BOUNDS.most_sheet + 1)
    with pytest.raises(ProblemError, match="larger than 50 MB"):
        reader.read_file(large, SheetSettings())


def test_a_reader_that_was_killed_is_replaced(reader):
    """Whatever ends the process between two files."""
    reader.read("a.csv", FINE, SheetSettings())
    assert kill_children_named("sheet_worker") >= 1
    assert len(reader.read("a.csv", FINE, SheetSettings()).records) == 1


def test_fifty_thousand_equal_headings_are_told_apart_at_once():
    headings = make_sheet([["x"] * 50_000, ["1"] * 50_000], True, {}).headings
    assert len(set(headings)) == 50_000
    assert headings[:3] == ["x", "x 2", "x 3"]
    assert make_sheet([["x", "x", "x 2", "x"], ["1"] * 4], True, {}).headings == ["x", "x 2", "x 2 2", "x 3"]


def test_the_range_of_a_sheet():
    found = used_range(book_of(f'<row r="1">{cell("A1")}{cell("AB7")}</row>'), "s")
    assert (found.column, found.columns, found.rows, found.cells) == ("AB", 28, 7, 2)
    assert used_range(b"no archive", "s") is None


def test_patterns_that_would_look_through_folders_for_ever_are_refused(tmp_path):
    for pattern in ("**/" * 200 + "*.csv", "*" * 600):
        with pytest.raises(ProblemError) as caught:
            matching_files(tmp_path, pattern)
        assert caught.value.problem.kind == "pattern-unreadable"


def test_a_run_on_a_hostile_file_fails_in_words_and_the_next_one_works(workspace):
    folder = workspace.home / "files"
    folder.mkdir()
    workspace.settings.allow_folder(folder)
    name, data = hostile()["the last cell of the grid"]
    (folder / name).write_bytes(data)
    document = {"name": "q", "sheet": {"files": "*"}, "take": {"records": "$[*]"}}
    query = workspace.queries.add(load_brief(document), NOON)

    async def twice():
        engine = Engine(workspace, SetClock(NOON))
        failed = await engine.refresh(query.id, {}, "schedule")
        (folder / name).unlink()
        (folder / "b.csv").write_bytes(FINE)
        fine = await engine.refresh(query.id, {}, "schedule")
        await engine.close()
        return failed, fine

    failed, fine = asyncio.run(twice())
    assert (failed.state, failed.problem.kind) == ("failed", "sheet-too-large")
    assert failed.problem.where.startswith("a.xlsx")
    assert (fine.state, fine.rows) == ("complete", 1)


def test_a_run_ends_whatever_is_raised_in_it(workspace, desk, monkeypatch):
    class Panic(BaseException):
        """As a package raises it whose core is not Python."""

    def broken(*args, **options):
        raise Panic("index out of bounds")

    monkeypatch.setattr("tin_bucket.engine.run.refresh.report_table", broken)

    async def go():
        engine = Engine(workspace, SetClock(NOON))
        run = await engine.refresh(desk["Ports"].id, {}, "by hand")
        await engine.close()
        return run

    run = asyncio.run(go())
    assert (run.state, run.problem.kind) == ("failed", "program-fault")
    assert "index" not in run.problem.sentence()

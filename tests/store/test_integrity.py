"""Whatever byte of what is stored changes, the check says what is damaged; and of what is whole it says nothing."""

import random
import sqlite3

import numpy as np
import pytest

from tests.conftest import NOON
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.interchange.spreadsheet import SheetSettings
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.table.table import Table, TableColumn
from tin_bucket.store.integrity import check_stored
from tin_bucket.store.row_store.tuning import StoreTuning
from tin_bucket.store.workspace import Workspace

TUNING = StoreTuning(copied_from=50)


def table(height, day):
    columns = [TableColumn("id", "text"), TableColumn("n", "whole number"), TableColumn("name", "text")]
    data = [
        [f"{n:03}" for n in range(height)],
        [n * day % 7 for n in range(height)],
        [f"MV {n % 9}" for n in range(height)],
    ]
    pages = np.arange(height, dtype=np.int64) // 10
    return Table(columns, data, pages, np.arange(height, dtype=np.int64) % 10)


@pytest.fixture
def kept(workspace, awkward, ask_awkward):
    """A workspace with two queries' snapshots, saved answers and a sheet; closed, so that its bytes can be changed."""
    home = workspace.home
    awkward.answers["/data"] = (200, {"Content-Type": "application/json"}, b'{"data": [{"id": 1}, {"id": 2}]}')
    assert ask_awkward().state == "unverified"
    workspace.close()
    tuned = Workspace(home, tuning=TUNING)
    tuned.services.save(Service(id="s", name="s", base="http://h"))
    query = tuned.queries.add(load_brief({"name": "Fares", "ask": {"service": "s"}}), NOON)
    for day in range(1, 5):
        run = tuned.runs.begin(query.id, "{}", {}, "by hand", NOON)
        with tuned.write() as db:
            tuned.snapshots.add(
                db,
                query.id,
                run,
                table(40 + 10 * day, day),
                match=["id"],
                state="complete",
                evidence="",
                stated_total=None,
                now=NOON,
            )
    tuned.sheets.save("Berths", "a.csv", SheetSettings(), ["code"], 1, b"code\n007\n", NOON)
    tuned.close()
    return home


def checked(home):
    workspace = Workspace(home)
    try:
        return check_stored(workspace)
    finally:
        workspace.close()


def test_of_what_is_whole_nothing_is_said(kept):
    seen = []
    workspace = Workspace(kept)
    report = check_stored(workspace, lambda done, of: seen.append((done, of)))
    workspace.close()
    assert report.damages == []
    assert (report.snapshots, report.answers, report.sheets) == (5, 1, 1)
    assert report.rows > 80
    assert seen == [(n, 5) for n in range(1, 6)]


def everything(home):
    """All that can be read of the snapshots."""
    workspace = Workspace(home, tuning=TUNING)
    out = []
    for query in workspace.queries.all():
        for snapshot in workspace.snapshots.of_query(query.id):
            names = [column.name for column in snapshot.columns]
            out.append((names, snapshot.match, list(workspace.snapshots.all_rows(snapshot.id))))
            out += [workspace.snapshots.column(snapshot.id, name) for name in names]
            out += [workspace.snapshots.origin(snapshot.id, row) for row in range(snapshot.rows)]
    workspace.close()
    return out


# Tables and columns whose bytes are changed.
BLOBS = [
    ("row", "content"),
    ("row_batch", "digests"),
    ("snapshot", "row_ids"),
    ("snapshot", "origins"),
    ("column_copy", "packs"),
    ("answer", "body"),
    ("sheet", "body"),
]


def flip(home, kind, column, chance):
    """Change one bit of one value; gives the value's row."""
    db = sqlite3.connect(home / "workspace.sqlite")
    found = db.execute(f"SELECT rowid, {column} FROM {kind}").fetchall()
    number, value = chance.choice([one for one in found if one[1]])
    data = bytearray(value)
    # The header of a frame of one sheet has bits that mean nothing; its magic number is changed.
    at = chance.randrange(4) if kind == "sheet" else chance.randrange(len(data))
    data[at] ^= 1 << chance.randrange(8)
    db.execute(f"UPDATE {kind} SET {column} = ? WHERE rowid = ?", (bytes(data), number))
    db.commit()
    db.close()


@pytest.mark.parametrize(("kind", "column"), BLOBS)
@pytest.mark.parametrize("seed", range(8))
def test_any_changed_bit_is_found_or_means_nothing(kept, kind, column, seed):
    before = everything(kept)
    flip(kept, kind, column, random.Random(seed))
    report = checked(kept)
    if not report.damages:
        # Compressed data has bits that nobody reads.
        assert everything(kept) == before
        return
    if (kind, column) != ("answer", "body"):
        assert all("answer" not in damage.what for damage in report.damages)
    assert all(damage.what.endswith(".") and damage.do.endswith(".") and damage.where for damage in report.damages)


@pytest.mark.parametrize(("statement", "words"), [
    ("DELETE FROM row WHERE id = (SELECT min(id) FROM row)", "not as it was stored"),
    ("DELETE FROM row_batch WHERE first_row = (SELECT max(first_row) FROM row_batch)", "are not stored"),
    ("UPDATE snapshot SET rows = rows + 1 WHERE id = 2", "was stored with"),
    ("UPDATE snapshot SET headings = '[]' WHERE id = 2", "headings"),
    ("UPDATE snapshot SET headings = '{' WHERE id = 2", "headings"),
    ("UPDATE snapshot SET match = '[\"n\"]' WHERE id = 2", "as they were stored"),
    ("UPDATE snapshot SET row_ids = (SELECT row_ids FROM snapshot WHERE id = 2) WHERE id = 3", "list of rows"),
    ("UPDATE snapshot SET layout_id = (SELECT layout_id FROM snapshot WHERE id = 1) WHERE id = 2", "headings do not fit"),
])  # fmt: skip
def test_what_is_gone_or_mixed_up_is_found(kept, statement, words):
    db = sqlite3.connect(kept / "workspace.sqlite")
    db.execute("PRAGMA foreign_keys=OFF")
    db.execute(statement)
    db.commit()
    db.close()
    report = checked(kept)
    assert any(words in damage.what for damage in report.damages), report.damages
    assert any("“Fares”" in damage.where or "“awkward”" in damage.where for damage in report.damages)


def test_what_is_not_damaged_is_not_blamed(kept):
    """One row of the last snapshot alone: the others that do not have it are whole."""
    db = sqlite3.connect(kept / "workspace.sqlite")
    newest = db.execute("SELECT max(id) FROM row").fetchone()[0]
    db.execute("UPDATE row SET content = ? WHERE id = ?", (b'["x",1,"y"]', newest))
    db.commit()
    db.close()
    (damage,) = checked(kept).damages
    assert "1 of its 80 rows" in damage.what


@pytest.mark.parametrize("seed", range(24))
def test_a_damaged_file_ends_in_words(kept, seed):
    """Random bytes of the file itself: it is said, or nothing that is read differs."""
    before = everything(kept)
    chance = random.Random(seed)
    path = kept / "workspace.sqlite"
    data = bytearray(path.read_bytes())
    for _ in range(chance.choice([1, 3, 30])):
        data[chance.randrange(len(data))] = chance.randrange(256)
    path.write_bytes(data)
    problem, report = None, None
    try:
        report = checked(kept)
    except ProblemError as error:
        problem = error.problem
    if problem is not None:
        assert problem.kind in ("workspace-unreadable", "workspace-newer")
        assert "malformed" not in problem.sentence()
    elif not report.damages:
        assert everything(kept) == before

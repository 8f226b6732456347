"""A workspace of an earlier version is taken over whole."""

import sqlite3
from importlib import resources

import pytest

from tests.conftest import NOON
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.problem import ProblemError
from tin_bucket.store import database
from tin_bucket.store.workspace import Workspace

_STEPS = sorted(
    (entry for entry in resources.files("tin_bucket.store").joinpath("migrations").iterdir() if entry.name[0] == "0"),
    key=lambda entry: entry.name,
)


def of_version(home, version):
    """A workspace as that version made it, with a query, its run and two snapshots."""
    home.mkdir()
    db = sqlite3.connect(home / database.FILE_NAME, isolation_level=None)
    for step in _STEPS[:version]:
        db.executescript(step.read_text())
    db.execute(f"PRAGMA user_version={version}")
    db.execute("INSERT INTO query (id, name, made, brief_id) VALUES (7, 'q', '2026-11-25', 3)")
    document = '{"tin_bucket": 1, "name": "q", "ask": {"service": "s"}}'
    db.execute("INSERT INTO brief (id, query_id, saved, document) VALUES (3, 7, '2026-11-25', ?)", (document,))
    db.execute(
        "INSERT INTO run (id, query_id, brief, bindings, cause, process, state, started)"
        " VALUES (5, 7, '{}', '{}', 'by hand', 'gone', 'broken off', '2026-11-25T12:00:00+00:00')"
    )
    db.execute("INSERT INTO layout (id, names) VALUES (1, '[]')")
    for number, base in ((11, None), (12, 11)):
        db.execute(
            "INSERT INTO snapshot (id, query_id, run_id, taken, headings, match, layout_id, rows, complete, since, base,"
            " depth, row_ids, origins) VALUES (?, 7, 5, '2026-11-25', '[]', '[]', 1, 0, 1, '{}', ?, 0, x'00', x'00')",
            (number, base),
        )
    db.close()


def test_what_an_earlier_version_kept_is_kept(tmp_path):
    of_version(tmp_path / "w", 6)
    workspace = Workspace(tmp_path / "w")
    assert workspace.db.execute("PRAGMA user_version").fetchone()[0] == len(_STEPS)
    assert workspace.db.execute("PRAGMA foreign_keys").fetchone()[0] == 1
    assert workspace.db.execute("PRAGMA foreign_key_check").fetchall() == []
    assert workspace.db.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
    assert [query.id for query in workspace.queries.all()] == [7]
    assert workspace.runs.get(5).state == "interrupted"
    assert [tuple(row) for row in workspace.db.execute("SELECT id, base FROM snapshot")] == [(11, None), (12, 11)]
    # What belongs to a query still goes with it, and its number is not used again.
    workspace.queries.delete(7)
    assert workspace.db.execute("SELECT count(*) FROM snapshot").fetchone()[0] == 0
    brief = load_brief({"name": "q", "ask": {"service": "s"}})
    assert workspace.queries.add(brief, NOON).id == 8
    workspace.close()


def test_what_was_never_proved_is_called_unverified(tmp_path):
    of_version(tmp_path / "w", 6)
    with sqlite3.connect(tmp_path / "w" / database.FILE_NAME, isolation_level=None) as db:
        db.execute("UPDATE run SET state = 'whole', stop = 'one call, no pages' WHERE id = 5")
        db.execute("UPDATE run SET state = 'complete' WHERE id = 5")
        db.execute("UPDATE snapshot SET complete = 0 WHERE id = 12")
    db.close()
    workspace = Workspace(tmp_path / "w")
    assert workspace.runs.get(5).state == "unverified"
    told = [(one.id, one.state, one.evidence) for one in workspace.snapshots.of_query(7)]
    assert told == [(11, "unverified", "one call, no pages"), (12, "incomplete", "one call, no pages")]
    workspace.close()


def test_a_step_that_fails_changes_nothing(tmp_path):
    of_version(tmp_path / "w", 6)
    with sqlite3.connect(tmp_path / "w" / database.FILE_NAME, isolation_level=None) as db:
        db.execute("CREATE TABLE new_run (in_the_way INTEGER)")
    db.close()
    with pytest.raises(ProblemError) as caught:
        Workspace(tmp_path / "w")
    assert caught.value.problem.kind == "workspace-unreadable"
    with sqlite3.connect(tmp_path / "w" / database.FILE_NAME) as db:
        # The step before it is done; of this one nothing is.
        assert db.execute("PRAGMA user_version").fetchone()[0] == 7
        assert db.execute("SELECT count(*) FROM snapshot").fetchone()[0] == 2
        assert db.execute("SELECT name FROM sqlite_schema WHERE name = 'new_query'").fetchone() is None
    db.close()

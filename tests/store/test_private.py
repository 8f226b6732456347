"""What a workspace leaves on the disk is its owner's alone, and what the disk refuses is said in words."""

import os

import pytest

from tin_bucket.core.problem import ProblemError
from tin_bucket.store import database
from tin_bucket.store.workspace import Workspace


@pytest.fixture(params=[0o000, 0o022, 0o077])
def umask(request):
    before = os.umask(request.param)
    yield
    os.umask(before)


def opened(home):
    """Every file and folder below that somebody else could read or write."""
    paths = [home, *home.rglob("*")]
    return [path.name for path in paths if path.stat().st_mode & 0o077]


def test_nobody_else_reads_a_workspace_whatever_the_umask(umask, tmp_path):
    workspace = Workspace(tmp_path / "w", create=True)
    workspace.services.all()
    with workspace.write() as db:
        db.execute("INSERT INTO setting VALUES ('a', 'b')")
    assert (tmp_path / "w" / f"{database.FILE_NAME}-wal").exists()
    assert opened(tmp_path / "w") == []
    workspace.close()


def test_a_workspace_that_was_open_to_others_is_closed_to_them(tmp_path):
    Workspace(tmp_path / "w", create=True).close()
    (tmp_path / "w").chmod(0o755)
    (tmp_path / "w" / database.FILE_NAME).chmod(0o644)
    Workspace(tmp_path / "w").close()
    assert opened(tmp_path / "w") == []


def test_a_full_disk_is_said_and_nothing_is_half_stored(tmp_path):
    workspace = Workspace(tmp_path / "w", create=True)
    pages = workspace.db.execute("PRAGMA page_count").fetchone()[0]
    workspace.db.execute(f"PRAGMA max_page_count={pages + 2}")

    def store_both():
        with workspace.write() as db:
            db.execute("INSERT INTO setting VALUES ('small', 'x')")
            db.execute("INSERT INTO setting VALUES ('large', ?)", ("x" * 1_000_000,))

    with pytest.raises(ProblemError) as caught:
        store_both()
    assert "disk is full" in caught.value.problem.what
    assert workspace.db.execute("SELECT count(*) FROM setting WHERE name = 'small'").fetchone()[0] == 0
    workspace.db.execute(f"PRAGMA max_page_count={pages + 1000}")
    with workspace.write() as db:
        db.execute("INSERT INTO setting VALUES ('small', 'x')")
    workspace.close()


def test_a_workspace_that_cannot_be_written_to_is_said(tmp_path):
    workspace = Workspace(tmp_path / "w", create=True)
    workspace.db.execute("PRAGMA query_only=ON")
    with pytest.raises(ProblemError) as caught, workspace.write() as db:
        db.execute("INSERT INTO setting VALUES ('a', 'b')")
    assert (caught.value.problem.kind, "written to" in caught.value.problem.what) == ("workspace-unreadable", True)
    assert "readonly" not in caught.value.problem.sentence()
    workspace.db.execute("PRAGMA query_only=OFF")
    workspace.close()

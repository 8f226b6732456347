import os
import sqlite3
import stat
import subprocess
import sys
import threading

import pytest

from tests.conftest import NOON
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.problem import ProblemError
from tin_bucket.store import database as module
from tin_bucket.store.workspace import Workspace

SERVICE = Service(id="s", name="S", base="http://h", key={"name": "K", "places": [{"at": "header", "name": "X-Key"}]})


def problem_of(call):
    with pytest.raises(ProblemError) as caught:
        call()
    assert caught.value.problem.do
    return caught.value.problem


def test_a_missing_workspace_is_said_and_not_made(tmp_path):
    problem = problem_of(lambda: Workspace(tmp_path / "none"))
    assert problem.kind == "workspace-missing"
    assert problem.where == str(tmp_path / "none")
    assert not (tmp_path / "none").exists()


def test_a_newer_workspace_is_refused_and_unchanged(tmp_path):
    Workspace(tmp_path, create=True).close()
    with sqlite3.connect(tmp_path / module.FILE_NAME) as db:
        db.execute("PRAGMA user_version = 99")
    db.close()
    assert problem_of(lambda: Workspace(tmp_path)).kind == "workspace-newer"
    with sqlite3.connect(tmp_path / module.FILE_NAME) as db:
        assert db.execute("PRAGMA user_version").fetchone()[0] == 99


def test_a_file_that_is_no_workspace_is_said(tmp_path):
    (tmp_path / module.FILE_NAME).write_bytes(b"not a database at all, but long enough to be read" * 40)
    assert problem_of(lambda: Workspace(tmp_path)).kind == "workspace-unreadable"


def test_a_locked_workspace_is_said_and_nothing_is_lost(tmp_path):
    workspace = Workspace(tmp_path, create=True, busy_seconds=0.1)
    other = sqlite3.connect(tmp_path / module.FILE_NAME, isolation_level=None)
    other.execute("BEGIN EXCLUSIVE")
    assert problem_of(lambda: workspace.services.save(SERVICE)).kind == "workspace-locked"
    other.execute("ROLLBACK")
    workspace.services.save(SERVICE)
    assert workspace.services.get("s") == SERVICE
    workspace.close()


def test_only_one_process_serves_a_workspace(workspace):
    workspace.hold_for_serving()
    second = Workspace(workspace.home)
    assert problem_of(second.hold_for_serving).kind == "workspace-locked"
    second.close()


def test_a_run_whose_process_is_gone_is_interrupted_and_one_that_lives_is_not(workspace):
    workspace.services.save(SERVICE)
    query = workspace.queries.add(load_brief({"name": "q", "ask": {"service": "s"}}), NOON)
    alive = workspace.runs.begin(query.id, "{}", {}, "by hand", NOON)
    code = (
        "import sys, os; from datetime import datetime, UTC; from pathlib import Path;"
        "from tin_bucket.store.workspace import Workspace;"
        "w = Workspace(Path(sys.argv[1])); w.runs.begin(1, '{}', {}, 'by hand', datetime.now(UTC)); os._exit(9)"
    )
    subprocess.run([sys.executable, "-c", code, str(workspace.home)], check=False)
    second = Workspace(workspace.home)
    states = {run.id: run for run in second.runs.latest()}
    assert states[alive].state == "running"
    gone = states[alive + 1]
    assert gone.state == "interrupted"
    assert gone.problem.kind == "interrupted"
    second.close()


def test_a_key_is_sealed_bound_and_its_file_is_the_owners_alone(workspace):
    workspace.services.save(SERVICE)
    workspace.vault.store("s", "http://h:80", "  the-secret-text \n", NOON)
    opened = workspace.vault.open("s")
    assert (opened.secret, opened.origin) == ({"key": "the-secret-text"}, "http://h:80")
    assert "the-secret-text" not in repr(opened)
    assert stat.S_IMODE(os.stat(workspace.home / "vault.key").st_mode) == 0o600
    workspace.db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    for path in workspace.home.rglob("*"):
        assert path.is_dir() or b"the-secret-text" not in path.read_bytes()


@pytest.mark.parametrize("column", ["origin", "service_id"])
def test_a_sealed_key_moved_elsewhere_does_not_open(workspace, column):
    workspace.services.save(SERVICE)
    workspace.services.save(SERVICE.model_copy(update={"id": "t"}))
    workspace.vault.store("s", "http://h:80", "the-secret-text", NOON)
    moved = {"origin": "http://thief:80", "service_id": "t"}[column]
    with workspace.write() as db:
        db.execute(f"UPDATE key SET {column} = ?", (moved,))
    assert problem_of(lambda: workspace.vault.open("t" if column == "service_id" else "s")).kind == "vault-closed"


def test_a_lost_key_file_is_said_and_not_made_anew_over_stored_keys(workspace):
    workspace.services.save(SERVICE)
    workspace.vault.store("s", "http://h:80", "the-secret-text", NOON)
    (workspace.home / "vault.key").unlink()
    assert problem_of(lambda: workspace.vault.open("s")).kind == "vault-closed"
    assert problem_of(lambda: workspace.vault.store("s", "http://h:80", "new", NOON)).kind == "vault-closed"
    workspace.vault.forget("s")
    workspace.vault.store("s", "http://h:80", "new", NOON)
    assert workspace.vault.open("s").secret == {"key": "new"}


def test_an_empty_key_is_refused(workspace):
    workspace.services.save(SERVICE)
    assert problem_of(lambda: workspace.vault.store("s", "http://h:80", " \n", NOON)).kind == "key-empty"


def test_a_service_in_use_is_not_deleted_and_names_are_distinct(workspace):
    workspace.services.save(SERVICE)
    brief = load_brief({"name": "q", "ask": {"service": "s"}})
    query = workspace.queries.add(brief, NOON)
    assert "q" in problem_of(lambda: workspace.services.delete("s")).what
    assert problem_of(lambda: workspace.queries.add(brief, NOON)).kind == "name-taken"
    assert workspace.queries.free_name("Q") == "Q 2"
    other = workspace.queries.save(query.id, brief.model_copy(update={"name": "r"}), NOON, query.brief_id)
    assert (
        problem_of(lambda: workspace.queries.save(query.id, brief, NOON, query.brief_id)).kind
        == "brief-changed-meanwhile"
    )
    assert workspace.queries.find("R").brief_id == other.brief_id
    assert "“r”" in problem_of(lambda: workspace.queries.find("nothing")).do


def test_a_workspace_of_the_first_version_is_brought_up_to_date(tmp_path):
    import json
    import sqlite3
    from importlib import resources

    from cryptography.hazmat.primitives.ciphers.aead import AESGCM

    home = tmp_path / "old"
    home.mkdir()
    first = resources.files("tin_bucket.store").joinpath("migrations/0001.sql").read_text()
    material, nonce = AESGCM.generate_key(256), b"n" * 12
    (home / "vault.key").write_bytes(material)
    sealed = AESGCM(material).encrypt(nonce, b"the-old-secret", b"tin-bucket key\ns\nhttp://h:80")
    old = {"id": "s", "name": "S", "base": "http://h", "key": {"name": "K", "header": "X-Key", "prefix": "Token "}}
    keyless = {"id": "t", "name": "T", "base": "http://h", "key": None}
    with sqlite3.connect(home / "workspace.sqlite") as db:
        db.executescript(first + "PRAGMA user_version = 1;")
        for document in (old, keyless):
            db.execute("INSERT INTO service VALUES (?, ?)", (document["id"], json.dumps(document)))
        db.execute(
            "INSERT INTO key VALUES ('s', 'http://h:80', ?, ?, '2026-01-01T00:00:00+00:00', NULL)", (nonce, sealed)
        )
    db.close()
    workspace = Workspace(home)
    place = workspace.services.get("s").key.places[0]
    assert (place.at, place.name, place.prefix) == ("header", "X-Key", "Token ")
    assert workspace.services.get("t").key is None
    assert workspace.vault.open("s").secret == {"key": "the-old-secret"}
    assert workspace.vault.state("s").fields == ("key",)
    workspace.vault.set_passphrase("made up words")
    assert workspace.vault.open("s").secret == {"key": "the-old-secret"}
    workspace.close()


def test_a_change_of_the_key_file_that_broke_off_is_finished(workspace):
    workspace.services.save(SERVICE)
    workspace.vault.store("s", "http://h:80", "the-secret-text", NOON)
    stray = workspace.home / "vault.new"
    stray.write_bytes(b"x" * 32)
    assert workspace.vault.open("s").secret == {"key": "the-secret-text"}
    assert not stray.exists()
    (workspace.home / "vault.key").rename(stray)
    assert workspace.vault.open("s").secret == {"key": "the-secret-text"}
    assert not stray.exists()


def test_a_workspace_is_closed_while_another_thread_reads_it(tmp_path):
    workspace = Workspace(tmp_path / "home", create=True)
    begun, told = threading.Event(), []

    def read():
        long = "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT count(*) FROM n"
        try:
            with workspace.read() as db:
                begun.set()
                db.execute(long).fetchone()
        except ProblemError as error:
            told.append(error.problem.kind)

    thread = threading.Thread(target=read)
    thread.start()
    begun.wait()
    workspace.close()
    thread.join(timeout=10)
    assert not thread.is_alive()
    assert told == ["workspace-unreadable"]

"""What programs that were killed leave behind is cleared at the next start; what running ones hold stays."""

import errno
import os
import pwd
import signal
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

import pytest

from tests.conftest import NOON
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.problem import ProblemError
from tin_bucket.store import database, litter, locks
from tin_bucket.store.workspace import Workspace

# Opens a workspace, begins a run, says so, and waits to be killed.
VICTIM = """
import sys, time
from datetime import UTC, datetime
from pathlib import Path
from tin_bucket.store.workspace import Workspace
workspace = Workspace(Path(sys.argv[1]))
workspace.hold_for_serving()
workspace.serving_at("http://127.0.0.1:8610")
print(workspace.runs.begin(1, "{}", {}, "by hand", datetime(2026, 11, 25, tzinfo=UTC)), flush=True)
time.sleep(60)
"""


@pytest.fixture
def home(tmp_path):
    made = Workspace(tmp_path / "w", create=True)
    made.services.save(Service(id="s", name="s", base="http://h"))
    made.queries.add(load_brief({"name": "q", "ask": {"service": "s"}}), NOON)
    made.close()
    return tmp_path / "w"


def begin(home):
    process = subprocess.Popen([sys.executable, "-c", VICTIM, str(home)], stdout=subprocess.PIPE, text=True)
    return process, int(process.stdout.readline())


def test_locks_and_runs_of_a_killed_program_are_cleared_at_the_next_start(home):
    process, run = begin(home)
    while_running = Workspace(home)
    assert while_running.runs.get(run).state == "running"
    assert while_running.served_at() == "http://127.0.0.1:8610"
    while_running.close()
    process.send_signal(signal.SIGKILL)
    process.wait()
    left = {path.name for path in (home / "locks").iterdir()}
    after = Workspace(home)
    assert after.runs.get(run).state == "interrupted"
    assert after.served_at() is None
    names = {path.name for path in (home / "locks").iterdir()}
    assert names == {f"process-{after.process}.lock", "serve.lock"}
    assert len(left) == 2
    after.hold_for_serving()
    after.close()


def test_files_that_were_never_finished_are_cleared_when_they_are_old(home):
    old, young, other = home / ".vault.key.0a1b2c3d", home / ".access.token.0a1b2c3d.new.99aa88bb", home / ".notes"
    for path in (old, young, other):
        path.write_bytes(b"x")
    for path in (old, other):
        os.utime(path, (time.time() - 2 * litter._AGE,) * 2)
    Workspace(home).close()
    assert (old.exists(), young.exists(), other.exists()) == (False, True, True)


def test_clearing_never_takes_a_lock_from_a_program_that_starts(home):
    """Some threads open and close workspaces while others clear: each finds its own lock held."""
    stop, lost = threading.Event(), []

    def clear():
        while not stop.is_set():
            litter.clear_litter(home)

    def start(number):
        for at in range(60):
            path = locks.process_lock(home, f"{number:x}{at:04x}")
            handle = locks.hold(path)
            if handle is None or not path.exists() or locks.release_dead(path):
                lost.append(path.name)
            handle.close()

    clearing = [threading.Thread(target=clear) for _ in range(2)]
    starting = [threading.Thread(target=start, args=(number,)) for number in range(4)]
    for thread in (*clearing, *starting):
        thread.start()
    for thread in starting:
        thread.join()
    stop.set()
    for thread in clearing:
        thread.join()
    assert lost == []


def test_a_full_disk_at_the_start_is_said(home, monkeypatch):
    def refuse(path):
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(database, "hold", refuse)
    with pytest.raises(ProblemError) as caught:
        Workspace(home)
    assert "The disk is full" in caught.value.problem.what


@pytest.mark.skipif(os.getuid() != 0, reason="only root may act as another account")
@pytest.mark.parametrize("closed", ["folder", "locks", "file", "all"])
def test_a_workspace_that_may_only_be_read_says_so(closed):
    """As seen by an account that owns nothing of it but may read everything."""
    other = pwd.getpwnam("nobody")
    with tempfile.TemporaryDirectory() as name:
        Path(name).chmod(0o755)
        home = Path(name) / "w"
        Workspace(home, create=True).close()
        parts = {"folder": [home], "locks": [home / "locks"], "file": [home / database.FILE_NAME]}
        shut = [path for name in parts for path in parts[name] if closed in (name, "all")]
        for path in (home, *home.rglob("*")):
            os.chown(path, other.pw_uid, other.pw_gid)
            if path in shut:
                os.chown(path, 0, 0)
                path.chmod(0o755 if path.is_dir() else 0o644)
        # A fork, since the packages may lie where another account cannot read them.
        child = os.fork()
        if child == 0:
            os.setgid(other.pw_gid)
            os.setuid(other.pw_uid)
            try:
                Workspace(home).settings.put("a", "b")
            except ProblemError as error:
                words = error.problem.kind == "workspace-unreadable" and "writ" in error.problem.sentence()
                os._exit(10 if words else 11)
            except BaseException:
                os._exit(12)
            os._exit(0)
        _, status = os.waitpid(child, 0)
        assert os.waitstatus_to_exitcode(status) == 10

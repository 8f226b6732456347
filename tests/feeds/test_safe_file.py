"""A file is written whole or not at all: killed, on a full disk, while it is open elsewhere, or changed meanwhile."""

import errno
import os
import signal
import subprocess
import sys
import textwrap
from datetime import datetime

import pytest

from tests.feeds.fed_rows import sailings
from tests.feeds.workbook.books import plain
from tests.feeds.workbook.test_corpus import TARGET, WAYS
from tin_bucket.core.problem import ProblemError
from tin_bucket.feeds.safe_file import FileState, replace_file, taking_turns, versions_of
from tin_bucket.feeds.workbook.columns import Memory
from tin_bucket.feeds.workbook.feed import feed_workbook

NOON = datetime(2026, 11, 25, 12)


@pytest.fixture
def file(tmp_path):
    path = tmp_path / "harbour.xlsx"
    path.write_bytes(plain())
    return path


def feed(path, rows=None, **options):
    def write(out):
        with path.open("rb") as old:
            return feed_workbook(old, out, str(path), TARGET, Memory(), rows or sailings(9), WAYS["replace"])

    return replace_file(path, write, **options)


def left(path):
    """Other files beside it."""
    return sorted(one.name for one in path.parent.iterdir() if one != path and one.is_file())


def refused(path, kind, **options):
    old = path.read_bytes()
    with pytest.raises(ProblemError) as caught:
        feed(path, **options)
    assert caught.value.problem.kind == kind
    assert caught.value.problem.do
    assert path.read_bytes() == old


def test_the_three_last_versions_are_kept(file, tmp_path):
    kept = tmp_path / "kept"
    contents = [file.read_bytes()]
    for day in range(20, 25):
        feed(file, sailings(day), versions=kept, now=datetime(2026, 11, day, 7, 30))
        contents.append(file.read_bytes())
    names = [one.name for one in versions_of(file, kept)]
    assert names == [f"2026-11-{day} 073000 harbour.xlsx" for day in (24, 23, 22)]
    assert [one.read_bytes() for one in versions_of(file, kept)] == contents[-2:-5:-1]
    assert left(file) == []


@pytest.mark.parametrize("lock", ["~$harbour.xlsx", "~$rbour.xlsx", ".~lock.harbour.xlsx#"])
def test_a_workbook_that_is_open_elsewhere_waits(file, lock):
    file.with_name(lock).write_text("somebody")
    refused(file, "file-open")
    assert left(file) == [lock]


def test_a_read_only_workbook(file):
    file.chmod(0o444)
    refused(file, "file-read-only")
    file.chmod(0o640)
    feed(file)
    assert file.stat().st_mode & 0o777 == 0o640


def test_a_workbook_that_was_changed_meanwhile(file):
    before = FileState.of(file)
    file.write_bytes(plain() + b"\0")
    refused(file, "file-changed", before=before)
    assert left(file) == []


@pytest.mark.parametrize(
    ("code", "kind"),
    [(errno.ENOSPC, "disk-full"), (errno.EACCES, "file-unwritable"), (errno.EIO, "file-unwritable")],
)
def test_a_disk_that_does_not_take_it(file, code, kind, monkeypatch):
    """Each step of writing may fail."""
    real = os.fsync

    def full(number):
        real(number)
        raise OSError(code, os.strerror(code))

    monkeypatch.setattr(os, "fsync", full)
    refused(file, kind)
    monkeypatch.undo()
    assert left(file) == []


def test_a_disk_that_fills_up_in_the_middle(file):
    """As the system says it: a process may write no file of more than so many bytes."""
    old = file.read_bytes()
    program = """
        import resource, signal, sys
        from pathlib import Path
        signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
        resource.setrlimit(resource.RLIMIT_FSIZE, (3000, 3000))
        from tests.feeds.test_safe_file import feed
        from tin_bucket.core.problem import ProblemError
        try:
            feed(Path(sys.argv[1]))
        except ProblemError as error:
            print(error.problem.kind)
    """
    done = run(program, file)
    assert done.stdout.strip() == "file-unwritable", done.stderr
    assert file.read_bytes() == old
    assert left(file) == []


def run(program, file):
    command = [sys.executable, "-c", textwrap.dedent(program), str(file)]
    return subprocess.run(command, capture_output=True, text=True, timeout=60)


@pytest.mark.parametrize("after", [0, 1, 5, 20])
def test_killed_in_the_middle_the_old_workbook_is_whole(file, after):
    """Killed after some pieces of rows: what was there is whole, and the next feed clears what was left."""
    old = file.read_bytes()
    program = f"""
        import os, signal, sys
        from pathlib import Path
        from tests.feeds.fed_rows import FedRows, sailings
        from tests.feeds.test_safe_file import feed
        rows = sailings(30_000)
        real = rows.window
        def window(start, count):
            if start >= {after} * 1000:
                os.kill(os.getpid(), signal.SIGKILL)
            return real(start, count)
        rows.window = window
        feed(Path(sys.argv[1]), rows)
    """
    assert run(program, file).returncode == -signal.SIGKILL
    assert file.read_bytes() == old
    assert len(left(file)) == 1
    feed(file)
    assert left(file) == []
    assert file.read_bytes() != old


def test_a_folder_that_is_not_there(tmp_path):
    path = tmp_path / "missing" / "harbour.csv"
    with pytest.raises(ProblemError) as caught:
        replace_file(path, lambda out: out.write(b"x"))
    assert caught.value.problem.kind == "folder-missing"


def test_a_new_file_appears_whole(tmp_path):
    path = tmp_path / "new.csv"
    replace_file(path, lambda out: out.write(b"a,b\r\n"), versions=tmp_path / "kept", now=NOON)
    assert path.read_bytes() == b"a,b\r\n"
    assert versions_of(path, tmp_path / "kept") == []


_WRITER = """
import sys
from pathlib import Path
from tin_bucket.feeds.safe_file import FileState, replace_file, taking_turns
path, mark = Path(sys.argv[1]), sys.argv[2]
for _ in range(20):
    with taking_turns(path):
        before = FileState.of(path)
        old = path.read_bytes()
        replace_file(path, lambda out: out.write(old + mark.encode()), before)
"""


def test_two_processes_take_turns_and_neither_loses_what_the_other_wrote(tmp_path):
    path = tmp_path / "harbour.txt"
    path.write_bytes(b"")
    writers = [subprocess.Popen([sys.executable, "-c", _WRITER, str(path), mark]) for mark in "ab"]
    assert [one.wait(timeout=60) for one in writers] == [0, 0]
    assert sorted(path.read_bytes().decode()) == ["a"] * 20 + ["b"] * 20
    assert left(path) == []


def test_somebody_who_holds_a_file_for_long_is_not_waited_for_forever(file):
    with taking_turns(file), taking_turns(file, seconds=0.1):
        pass

"""A backup is the workspace of one moment; restored it is the same; whatever else is given is refused whole."""

import json
import os
import random
import stat
import threading
import zipfile

import pytest

from tests.conftest import NOON
from tin_bucket.core.problem import ProblemError
from tin_bucket.store.backup import MANIFEST, restore_backup, write_backup
from tin_bucket.store.integrity import check_stored
from tin_bucket.store.workspace import Workspace

SECRET = "k9f3a2b1c9d4e5f60718"
WORDS = "a few words to seal with"


@pytest.fixture
def full(workspace, awkward, ask_awkward):
    """A workspace with a query, a snapshot, saved answers, a key and files."""
    awkward.answers["/data"] = (200, {"Content-Type": "application/json"}, b'{"data": [{"id": 1}, {"id": 2}]}')
    assert ask_awkward().state == "unverified"
    workspace.vault.store("awkward", "http://h:80", SECRET, NOON)
    (workspace.home / "files" / "inner").mkdir(parents=True)
    (workspace.home / "files" / "inner" / "berths ø.csv").write_text("code\n007\n")
    (workspace.home / "files" / os.fsdecode(b"odd-\xff.csv")).write_text("code\n010\n")
    return workspace


def content(workspace):
    """All that is stored but for the keys, as text."""
    lines = sorted(workspace.db.iterdump())
    return [line for line in lines if not line.startswith(('INSERT INTO "key"', 'INSERT INTO "vault_lock"'))]


def restored(file, home):
    restore_backup(file, home)
    return Workspace(home)


def test_what_was_backed_up_is_restored(full, tmp_path):
    file, seen = tmp_path / "b.zip", []
    made = write_backup(full, file, NOON, passphrase=WORDS, tell=lambda done, of: seen.append((done, of)))
    assert (made.queries, made.snapshots, made.keys, made.files) == (1, 1, 1, 2)
    assert made.size == file.stat().st_size
    assert seen[-1][0] == seen[-1][1] > 0
    assert stat.S_IMODE(file.stat().st_mode) == 0o600
    before = content(full)
    other = restored(file, tmp_path / "other")
    assert content(other) == before
    assert check_stored(other).damages == []
    found = {path.name: path.read_text() for path in (other.home / "files").rglob("*.csv")}
    assert found == {"berths ø.csv": "code\n007\n", os.fsdecode(b"odd-\xff.csv"): "code\n010\n"}
    assert not any(path.stat().st_mode & 0o077 for path in (other.home, *other.home.rglob("*")))
    other.close()
    # Nothing is left of the making, on either side.
    assert sorted(path.name for path in tmp_path.iterdir()) == ["b.zip", "other", "workspace"]


def test_keys_are_sealed_and_the_key_file_stays_behind(full, tmp_path):
    file = tmp_path / "b.zip"
    write_backup(full, file, NOON, passphrase=WORDS)
    # The workspace itself opens as before.
    assert full.vault.open("awkward").secret == {"key": SECRET}
    material = (full.home / "vault.key").read_bytes()
    with zipfile.ZipFile(file) as packed:
        assert not [name for name in packed.namelist() if "vault" in name or "token" in name or "lock" in name]
        inside = b"".join(packed.read(name) for name in packed.namelist())
    assert SECRET.encode() not in inside
    assert material not in inside
    other = restored(file, tmp_path / "other")
    with pytest.raises(ProblemError, match="locked"):
        other.vault.open("awkward")
    other.vault.unlock(WORDS)
    assert other.vault.open("awkward").secret == {"key": SECRET}
    other.close()


def test_a_vault_with_a_passphrase_keeps_it(full, tmp_path):
    full.vault.set_passphrase(WORDS)
    write_backup(full, tmp_path / "b.zip", NOON)
    other = restored(tmp_path / "b.zip", tmp_path / "other")
    other.vault.unlock(WORDS)
    assert other.vault.open("awkward").secret == {"key": SECRET}
    other.close()


def test_keys_stay_out_by_choice_and_never_go_unsealed(full, tmp_path):
    with pytest.raises(ProblemError) as caught:
        write_backup(full, tmp_path / "b.zip", NOON)
    assert caught.value.problem.kind == "backup-passphrase"
    assert not (tmp_path / "b.zip").exists()
    assert write_backup(full, tmp_path / "b.zip", NOON, keys=False).keys == 0
    sealed = full.db.execute("SELECT sealed FROM key").fetchone()[0]
    with zipfile.ZipFile(tmp_path / "b.zip") as packed:
        assert sealed not in packed.read("workspace.sqlite")
    other = restored(tmp_path / "b.zip", tmp_path / "other")
    assert other.vault.open("awkward") is None
    other.close()


def test_a_backup_while_others_write_is_of_one_moment(full, tmp_path):
    """Two settings are always written together; a backup never has one of them alone."""
    stop = threading.Event()

    def write():
        number = 0
        while not stop.is_set():
            number += 1
            with full.write() as db:
                for name in ("left", "right"):
                    db.execute(
                        "INSERT INTO setting VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET value = ?2",
                        (name, str(number)),
                    )

    writers = [threading.Thread(target=write) for _ in range(2)]
    for writer in writers:
        writer.start()
    try:
        for at in range(6):
            write_backup(full, tmp_path / f"{at}.zip", NOON, keys=False)
    finally:
        stop.set()
        for writer in writers:
            writer.join()
    for at in range(6):
        other = restored(tmp_path / f"{at}.zip", tmp_path / f"other-{at}")
        assert other.settings.get("left") == other.settings.get("right")
        other.close()


@pytest.mark.parametrize("at", [12, 16])
def test_a_list_of_entries_that_is_nowhere_is_damage_and_no_full_disk(full, tmp_path, at):
    file = tmp_path / "b.zip"
    write_backup(full, file, NOON, keys=False)
    data = bytearray(file.read_bytes())
    # Its size, then its place, in the record at the end (APPNOTE 4.3.16).
    data[data.rindex(b"PK\x05\x06") + at + 3] ^= 0x40
    file.write_bytes(data)
    with pytest.raises(ProblemError) as told:
        restored(file, tmp_path / "other")
    assert told.value.problem.kind == "backup-unreadable"


@pytest.mark.parametrize("seed", range(24))
def test_a_damaged_backup_is_refused_or_means_the_same(full, tmp_path, seed):
    file = tmp_path / "b.zip"
    write_backup(full, file, NOON, keys=False)
    before = content(restored(file, tmp_path / "whole"))
    chance = random.Random(seed)
    data = bytearray(file.read_bytes())
    if seed % 4 == 0:
        del data[chance.randrange(len(data)) :]
    else:
        for _ in range(chance.randrange(1, 4)):
            data[chance.randrange(len(data))] ^= 1 << chance.randrange(8)
    file.write_bytes(data)
    problem = None
    try:
        other = restored(file, tmp_path / "other")
    except ProblemError as error:
        problem = error.problem
    else:
        # A time of the archive, say.
        assert content(other) == before
        other.close()
    assert problem is None or problem.kind in ("backup-unreadable", "backup-newer")
    assert (tmp_path / "other").exists() == (problem is None)
    assert not [path for path in tmp_path.iterdir() if "restoring" in path.name]


def written(path, names, **changes):
    """A backup with a list that says these names; each holds the same text."""
    text = b"x" * 10
    digest = "5a4d4f3a5f1b9a7c"
    document = {
        "tin_bucket_backup": 1, "made": "2026-11-25", "queries": 1, "snapshots": 1, "keys": 0, "files": 0,
        "contents": {name: {"sha256": digest, "size": len(text)} for name in names}, **changes,
    }  # fmt: skip
    with zipfile.ZipFile(path, "w") as packed:
        for name in names:
            packed.writestr(name, text)
        packed.writestr(MANIFEST, json.dumps(document))


@pytest.mark.parametrize("name", [
    "../evil", "/etc/evil", "files/../../evil", "files/%2e%2e/%2E%2e/evil", "files", "files/", "vault.key", "access.token",
    "locks/serve.lock", "files/a\0b", "files/%00", "%2Fetc/evil", "..%2fevil", "files/..",
])  # fmt: skip
def test_a_name_that_leads_elsewhere_is_refused(tmp_path, name):
    written(tmp_path / "b.zip", ["workspace.sqlite", name])
    with pytest.raises(ProblemError) as caught:
        restore_backup(tmp_path / "b.zip", tmp_path / "inner" / "home")
    assert caught.value.problem.kind == "backup-unreadable"
    left = [path for path in tmp_path.rglob("*") if path.is_file()]
    assert left == [tmp_path / "b.zip"]


@pytest.mark.parametrize(("changes", "kind"), [
    ({"tin_bucket_backup": 2}, "backup-newer"), ({"tin_bucket_backup": "1"}, "backup-unreadable"),
    ({"contents": []}, "backup-unreadable"), ({"contents": {}}, "backup-unreadable"), ({"made": 1}, "backup-unreadable"),
    ({"queries": None}, "backup-unreadable"), ({}, "backup-unreadable"),
])  # fmt: skip
def test_a_list_that_does_not_fit_is_refused(tmp_path, changes, kind):
    written(tmp_path / "b.zip", ["workspace.sqlite"], **changes)
    with pytest.raises(ProblemError) as caught:
        restore_backup(tmp_path / "b.zip", tmp_path / "home")
    assert caught.value.problem.kind == kind
    assert not (tmp_path / "home").exists()


def test_an_entry_that_swells_is_stopped_at_the_size_it_states(tmp_path):
    with zipfile.ZipFile(tmp_path / "b.zip", "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("workspace.sqlite", b"\0" * 50_000_000)
        document = {"tin_bucket_backup": 1, "made": "", "queries": 0, "snapshots": 0, "keys": 0, "files": 0,
                    "contents": {"workspace.sqlite": {"sha256": "0", "size": 100}}}  # fmt: skip
        packed.writestr(MANIFEST, json.dumps(document))
    with pytest.raises(ProblemError, match="larger than the backup says"):
        restore_backup(tmp_path / "b.zip", tmp_path / "home")


def test_a_folder_that_holds_something_is_left_alone(full, tmp_path):
    write_backup(full, tmp_path / "b.zip", NOON, keys=False)
    (tmp_path / "home").mkdir()
    (tmp_path / "home" / "mine.txt").write_text("x")
    for target in (tmp_path / "home", full.home, tmp_path / "b.zip"):
        with pytest.raises(ProblemError) as caught:
            restore_backup(tmp_path / "b.zip", target)
        assert caught.value.problem.kind == "workspace-exists"
    (tmp_path / "empty").mkdir()
    restored(tmp_path / "b.zip", tmp_path / "empty").close()


@pytest.mark.parametrize("target", ["missing/b.zip", "workspace"])
def test_a_place_that_cannot_be_written_is_said(full, tmp_path, target):
    with pytest.raises(ProblemError) as caught:
        write_backup(full, tmp_path / target, NOON, keys=False)
    assert caught.value.problem.kind == "file-unwritable"


def test_no_file_and_no_backup_are_told_apart(tmp_path):
    with pytest.raises(ProblemError) as caught:
        restore_backup(tmp_path / "nothing.zip", tmp_path / "home")
    assert caught.value.problem.kind == "file-unreadable"
    (tmp_path / "text.zip").write_text("no archive")
    with pytest.raises(ProblemError) as caught:
        restore_backup(tmp_path / "text.zip", tmp_path / "home")
    assert caught.value.problem.kind == "backup-unreadable"

"""The vault under other programs, kills and full disks: what is stored opens again, and nothing stays broken."""

import errno
import importlib.util
import os
from contextlib import suppress
from datetime import UTC, datetime

import pytest

from tin_bucket.core.document.service import Service
from tin_bucket.core.problem import ProblemError
from tin_bucket.store import vault as module
from tin_bucket.store.workspace import Workspace

NOW = datetime(2026, 11, 25, tzinfo=UTC)
ORIGIN = "http://h:80"


@pytest.fixture
def home(tmp_path):
    workspace = Workspace(tmp_path / "w", create=True)
    for name in ("a", "b"):
        workspace.services.save(Service(id=name, name=name, base="http://h"))
    workspace.close()
    return tmp_path / "w"


def opened(home, passphrase=None):
    workspace = Workspace(home)
    if passphrase:
        workspace.vault.unlock(passphrase)
    found = {name: key.secret["key"] for name in ("a", "b") if (key := workspace.vault.open(name)) is not None}
    workspace.close()
    return found


def test_a_passphrase_that_another_program_changed_is_noticed_before_a_key_is_sealed(home):
    one, other = Workspace(home), Workspace(home)
    one.vault.set_passphrase("first words here")
    one.vault.store("a", ORIGIN, "key-of-a", NOW)
    other.vault.unlock("first words here")
    other.vault.set_passphrase("second words here")
    with pytest.raises(ProblemError, match="locked"):
        one.vault.store("b", ORIGIN, "key-of-b", NOW)
    one.vault.unlock("second words here")
    one.vault.store("b", ORIGIN, "key-of-b", NOW)
    other.vault.set_passphrase(None)
    # Back at the key file, of which this one knows nothing yet.
    one.vault.store("b", ORIGIN, "key-of-b again", NOW)
    one.close()
    other.close()
    assert opened(home) == {"a": "key-of-a", "b": "key-of-b again"}


class Killed(BaseException):
    """The program ends here."""


@pytest.mark.parametrize("call", ["link", "replace", "unlink"])
@pytest.mark.parametrize("with_keys", [True, False])
@pytest.mark.parametrize("back", [True, False])
def test_killed_in_the_middle_of_a_change_the_vault_opens_one_way_or_the_other(
    home, monkeypatch, call, with_keys, back
):
    workspace = Workspace(home)
    if with_keys:
        workspace.vault.store("a", ORIGIN, "key-of-a", NOW)
    if back:
        workspace.vault.set_passphrase("first words here")

    def killed(*args, **options):
        raise Killed

    monkeypatch.setattr(module.os, call, killed)
    if call == "unlink":
        monkeypatch.setattr(module.Path, "unlink", killed)
    with suppress(Killed):
        workspace.vault.set_passphrase(None if back else "first words here")
    monkeypatch.undo()
    workspace.close()
    again = Workspace(home)
    passphrase = "first words here" if again.vault.wants_passphrase else None
    again.close()
    assert opened(home, passphrase) == ({"a": "key-of-a"} if with_keys else {})
    # And it is changed and used as ever.
    after = Workspace(home)
    if passphrase:
        after.vault.unlock(passphrase)
    after.vault.set_passphrase("third words here")
    after.vault.set_passphrase(None)
    after.vault.store("b", ORIGIN, "key-of-b", NOW)
    after.close()
    assert opened(home)["b"] == "key-of-b"


def test_a_full_disk_leaves_no_half_key_file(home, monkeypatch):
    workspace = Workspace(home)

    def full(handle):
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(module.os, "fsync", full)
    with pytest.raises(ProblemError, match="disk has room"):
        workspace.vault.store("a", ORIGIN, "key-of-a", NOW)
    monkeypatch.undo()
    assert [path.name for path in home.iterdir() if "vault" in path.name] == []
    workspace.vault.store("a", ORIGIN, "key-of-a", NOW)
    workspace.close()
    assert opened(home) == {"a": "key-of-a"}


def test_an_empty_key_file_is_made_anew_as_long_as_no_key_needs_it(home):
    (home / "vault.key").write_bytes(b"")
    workspace = Workspace(home)
    workspace.vault.store("a", ORIGIN, "key-of-a", NOW)
    workspace.close()
    assert opened(home) == {"a": "key-of-a"}
    os.truncate(home / "vault.key", 0)
    with pytest.raises(ProblemError, match="damaged"):
        opened(home)


def test_guessing_a_passphrase_is_slow():
    """What the tests derive in a moment takes a guesser 64 MB and a quarter of a second each time."""
    spec = importlib.util.find_spec("tin_bucket.store.vault")
    fresh = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(fresh)
    assert fresh._COST >= 2**16

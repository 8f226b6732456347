"""What another account of the same machine can do with a workspace that is being served: nothing."""

import json
import os
import pwd
import re
import subprocess
import sys
import tempfile
from pathlib import Path

import pytest

from tests.conftest import NOON
from tin_bucket.core.document.service import Service
from tin_bucket.store.workspace import Workspace

pytestmark = pytest.mark.skipif(os.getuid() != 0, reason="only root may act as another account")

# What the other account tries; it prints every success. It runs without this project's packages.
NEIGHBOUR = r"""
import json, os, re, sys, urllib.error, urllib.request
home, base = sys.argv[1:3]
won, tried = [], 0

def attempt(what, deed):
    global tried
    tried += 1
    try:
        deed()
    except (OSError, urllib.error.HTTPError):
        return
    won.append(what)

def ask(path, method="GET", document=None, **headers):
    body = None if document is None else json.dumps(document).encode()
    request = urllib.request.Request(base + path, body, {"Content-Type": "application/json", **headers}, method=method)
    urllib.request.urlopen(request, timeout=10).read()

attempt("list the home", lambda: os.listdir(home))
for name in ("workspace.sqlite", "workspace.sqlite-wal", "vault.key", "access.token", "locks/serve.lock"):
    attempt("read " + name, lambda: open(os.path.join(home, name), "rb").read())
    attempt("write " + name, lambda: open(os.path.join(home, name), "ab").close())
attempt("make a file", lambda: open(os.path.join(home, "vault.new"), "wb").close())
attempt("move the home", lambda: os.rename(home, home + ".moved"))
for path in sys.argv[3:]:
    attempt("GET " + path, lambda: ask(path))
    for header in ({"Cookie": "tin-bucket-aaaaaaaa=x"}, {"Authorization": "Bearer x"}, {"Host": "localhost"}):
        attempt("GET " + path + str(header), lambda: ask(path, **header))
attempt("set a passphrase", lambda: ask("/api/vault/passphrase", "PUT", {"passphrase": "taken over", "old": None}))
attempt("replace a key", lambda: ask("/api/services/ships/key", "PUT", {"secret": {"key": "another one"}}))
attempt("delete a service", lambda: ask("/api/services/ships", "DELETE"))
for at in os.listdir("/proc"):
    if at.isdigit():
        try:
            line = open("/proc/" + at + "/cmdline").read()
        except OSError:
            continue
        tried += 1
        if re.search(r"access=[\w-]{43}", line):
            won.append("read the token in the list of processes")
print(json.dumps([tried, won]))
"""


@pytest.fixture
def home():
    """A workspace in a folder that was open to everybody, at a path that everybody can walk."""
    with tempfile.TemporaryDirectory() as name:
        parent = Path(name)
        parent.chmod(0o755)
        (parent / "home").mkdir()
        (parent / "home").chmod(0o777)
        workspace = Workspace(parent / "home", create=True)
        workspace.services.save(Service(id="ships", name="Ships", base="http://127.0.0.1:9"))
        workspace.vault.store("ships", "http://127.0.0.1:9", "a-key-of-the-owner", NOON)
        workspace.close()
        yield parent / "home"


def test_another_account_gets_nothing(home):
    other = pwd.getpwnam("nobody")
    command = [sys.executable, "-m", "tin_bucket.cli", "serve", "--home", str(home), "--port", "0"]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True, umask=0)
    try:
        base, token = re.search(r"(http://\S+)/\?access=(\S+)", process.stdout.readline()).groups()
        paths = ["/", "/api/desk", "/api/services", "/api/about", "/api/runs", "/api/bundle", "/assets/index.js"]
        tried = subprocess.run(
            ["/usr/bin/env", "python3", "-c", NEIGHBOUR, str(home), base, *paths],
            user=other.pw_uid, group=other.pw_gid, extra_groups=[], cwd="/", env={"PATH": "/usr/local/bin:/usr/bin:/bin"},
            capture_output=True, text=True, timeout=60,
        )  # fmt: skip
    finally:
        process.terminate()
        process.wait(timeout=20)
    assert tried.returncode == 0, tried.stderr
    attempts, won = json.loads(tried.stdout)
    assert attempts > 40
    assert won == []
    workspace = Workspace(home)
    assert workspace.vault.open("ships").secret == {"key": "a-key-of-the-owner"}
    assert workspace.access.token == token
    workspace.close()

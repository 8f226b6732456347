"""A PostgreSQL server for tests: Debian's, on a socket of its own, with a password."""

import os
import pwd
import shutil
import subprocess
from pathlib import Path

import psycopg
import pytest

PASSWORD = "harbour-pass-7"


def _programs():
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"))
    return found[-1].parent if found else None


PROGRAMS = _programs()
needs_server = pytest.mark.skipif(PROGRAMS is None, reason="no PostgreSQL server is installed")


def _as_server_user(*command):
    """A server does not run as root."""
    if os.getuid() == 0:
        return ["setpriv", "--reuid=postgres", "--regid=postgres", "--clear-groups", *command]
    return list(command)


@pytest.fixture(scope="session")
def postgres_server():
    """A server on a socket of its own, with a password; gives the folder of the socket."""
    folder = Path(
        subprocess.run(["mktemp", "-d", "/tmp/tbpg.XXXXXX"], capture_output=True, text=True, check=True).stdout.strip()
    )
    if os.getuid() == 0:
        user = pwd.getpwnam("postgres")
        os.chown(folder, user.pw_uid, user.pw_gid)
    secret = folder / "password"
    secret.write_text(PASSWORD)
    secret.chmod(0o644)
    data = folder / "data"
    subprocess.run(
        _as_server_user(str(PROGRAMS / "initdb"), "-D", str(data), "-U", "desk", "-A", "scram-sha-256", f"--pwfile={secret}", "-E", "UTF8", "--no-sync", "--locale=C.UTF-8"),
        check=True, capture_output=True, cwd="/",
    )  # fmt: skip
    options = f"-c listen_addresses='' -c unix_socket_directories={folder} -c fsync=off -c max_connections=20"
    control = [str(PROGRAMS / "pg_ctl"), "-D", str(data), "-w"]
    subprocess.run(
        _as_server_user(*control, "-l", str(folder / "log"), "-o", options, "start"),
        check=True,
        capture_output=True,
        cwd="/",
    )
    try:
        with psycopg.connect(
            host=str(folder), dbname="postgres", user="desk", password=PASSWORD, autocommit=True
        ) as db:
            db.execute("CREATE DATABASE harbour")
        yield str(folder)
    finally:
        subprocess.run(_as_server_user(*control, "-m", "immediate", "stop"), check=False, capture_output=True, cwd="/")
        shutil.rmtree(folder, ignore_errors=True)

"""Connections to PostgreSQL, and its refusals said in words."""

from __future__ import annotations

import re
import socket
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import psycopg

from tin_bucket.core.hand_over.kinds.database import DatabaseFeed
from tin_bucket.core.problem import Problem, ProblemError, fail
from tin_bucket.core.traffic.address_policy import Reach, refusal

_CONNECT_SECONDS = 10
_LOCK_SECONDS = 30
_COLUMN = re.compile(r"column ([^:,]+)")


@contextmanager
def connected(feed: DatabaseFeed, password: str, reach: Reach) -> Iterator[psycopg.Connection[Any]]:
    """A connection in one transaction, which is committed at the end, or undone as a whole.

    Raises:
        ProblemError: what went wrong, in words; the database is as it was.
    """
    host, addresses = checked_host(feed, reach)
    try:
        with psycopg.connect(
            host=host, hostaddr=addresses, port=feed.port,
            dbname=feed.database, user=feed.user, password=password or None,
            sslmode=feed.encrypted, connect_timeout=_CONNECT_SECONDS, application_name="Tin Bucket",
            options=f"-c lock_timeout={_LOCK_SECONDS}s -c DateStyle=ISO", autocommit=False,
        ) as connection:  # fmt: skip
            yield connection
    except psycopg.Error as error:
        raise _in_words(error, feed) from None  # What the library says may hold the password's context.


def checked_host(feed: DatabaseFeed, reach: Reach) -> tuple[str, str | None]:
    """The host of a database with the addresses that were checked, which the connection goes to: a name that is looked
    up again could lead elsewhere by then.

    Raises:
        ProblemError: ``address-refused``: this host is not called from here.
    """
    if feed.host.startswith("/"):
        if reach == "public only":
            raise _refused(feed, "is a socket of this machine, and this server calls public addresses alone")
        return feed.host, None
    try:
        found = socket.getaddrinfo(feed.host, feed.port, type=socket.SOCK_STREAM)
    except (OSError, UnicodeError) as error:
        raise fail(
            "host-unknown", f"There is no host “{feed.host[:80]}”.", where=feed.place(), do="Check its name."
        ) from error
    addresses = list(dict.fromkeys(str(one[4][0]) for one in found))
    for address in addresses:
        if (why := refusal(address, reach)) is not None:
            raise _refused(feed, why)
    # The name stays, for the certificate; each address has its own in the list (libpq, “hostaddr”).
    return ",".join([feed.host] * len(addresses)), ",".join(addresses)


def _refused(feed: DatabaseFeed, why: str) -> ProblemError:
    return fail("address-refused", f"{feed.host} {why}.", where=feed.place(), do="Name another host.")


# The first two characters of a state (PostgreSQL, appendix A) → a kind, what happened, and what to do.
_CLASSES = {
    "28": ("database-key", "The database refused the user or the password.", "Enter the password again."),
    "3D": ("database-unknown", "The server has no database of this name.", "Check the name of the database."),
    "3F": ("schema-unknown", "The database has no schema of this name.", "Create the schema, or name another."),
    "42": ("database-refused", "The database does not allow this.", "Let the user write this table."),
    "22": ("value-unfit", "A value does not fit its column of the database.", "Change the column, or work it out."),
    "23": ("row-unfit", "A row breaks a rule of the database’s table.", "Look at the table’s constraints."),
    "53": ("database-full", "The database has no room or no connection left.", "Try again later."),
    "55": ("table-locked", "Another program holds the table.", "It is tried again."),
    "40": ("table-locked", "Another program changed the table meanwhile.", "It is tried again."),
    "57": ("database-away", "The database was shut down, or ended the connection.", "It is tried again."),
    "08": ("database-away", "The connection to the database broke off.", "It is tried again."),
    "25": ("database-refused", "The database can only be read now.", "Name a server that can be written."),
}


def _in_words(error: psycopg.Error, feed: DatabaseFeed) -> ProblemError:
    state = error.sqlstate or ""
    if not state:
        text = str(error).lower()
        if "password" in text or "authentication" in text:
            state = "28000"
        elif 'database "' in text and "does not exist" in text:
            state = "3D000"
        elif "ssl" in text or "certificate" in text:
            what = "The connection could not be encrypted as asked for."
            return _told(feed, "database-encryption", what, "Check “Encryption”.")
        else:
            what = "The database does not answer."
            return _told(feed, "database-away", what, "Check host and port, and that it is running.")
    kind, what, do = _CLASSES.get(state[:2], ("database-refused", "The database refused it.", "Look at its log."))
    if state == "42501":
        kind, what = "database-refused", "The user may not write this table."
    diagnostics = error.diag
    column = diagnostics.column_name or _column_in(diagnostics.context)
    where = f"{feed.place()}, column {column}" if column else feed.place()
    if diagnostics.constraint_name:
        where += f", constraint {diagnostics.constraint_name}"
    return ProblemError(Problem(kind, what, f"{where} (SQLSTATE {state})", do))


def _column_in(context: str | None) -> str:
    found = _COLUMN.search(context or "")
    return found[1] if found else ""


def _told(feed: DatabaseFeed, kind: str, what: str, do: str) -> ProblemError:
    return fail(kind, what, where=feed.place(), do=do)

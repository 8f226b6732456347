"""A table of a real PostgreSQL server: made, replaced, added to, merged; a reader never sees half of it."""

import socket
import threading
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

import psycopg
import pytest

from tests.feeds.fed_rows import SAILINGS, FedRows, sailings
from tests.postgres import PASSWORD, needs_server
from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.hand_over.kinds.database import DatabaseFeed
from tin_bucket.core.problem import ProblemError
from tin_bucket.feeds.delivery import Dated, Delivery
from tin_bucket.feeds.folders import Folders
from tin_bucket.feeds.kinds.database import CODE

NOON = datetime(2026, 11, 25, 12, tzinfo=UTC)
pytestmark = needs_server


@pytest.fixture
def db(postgres_server):
    """A connection of somebody else, to a database without tables."""
    with psycopg.connect(
        host=postgres_server, dbname="harbour", user="desk", password=PASSWORD, autocommit=True
    ) as made:
        made.execute("DROP SCHEMA IF EXISTS desk CASCADE")
        made.execute("DROP SCHEMA public CASCADE")
        made.execute("CREATE SCHEMA public")
        made.execute("CREATE SCHEMA desk")
        yield made


def feed_of(postgres_server, **options):
    return DatabaseFeed(
        **{"host": postgres_server, "database": "harbour", "user": "desk", "table": "desk.sailings", **options}
    )


def delivery(rows, taken=NOON, password=PASSWORD, match=("id",), whole=True):
    table = Dated("Sailings", taken, "complete", "", rows)
    nothing = Path("/nonexistent")
    return Delivery(
        table, match, {}, Folders(nothing), nothing, taken, lambda name: table, lambda: [], lambda feed: password,
        "own machine", whole,
    )  # fmt: skip


def rows_of(db, columns="*"):
    return db.execute(f"SELECT {columns} FROM desk.sailings ORDER BY id").fetchall()


def refused(feed, made):
    with pytest.raises(ProblemError) as caught:
        CODE.deliver(feed, made)
    problem = caught.value.problem
    assert problem.do
    assert PASSWORD not in problem.sentence()
    return problem


def test_a_table_is_made_by_kinds_and_holds_every_value(postgres_server, db):
    columns = [*SAILINGS, ("late", "yes/no"), ("at", "date and time"), ('odd "name" %', "text")]
    rows = [
        ("001", "tab\tand\nline \\N", "2026-11-01", 2**62, 0.1, True, "2026-11-01T05:40:00+01:00", "a\0b"),
        ("002", None, None, None, None, None, None, Miss("none", "not found")),
    ]
    feed = feed_of(postgres_server)
    ahead = CODE.ahead(feed, delivery(FedRows(columns, rows)))
    assert ahead.there == "The table desk.sailings is not there yet: it is made."
    assert "delay bigint" in ahead.told[0]
    assert db.execute("SELECT to_regclass('desk.sailings')").fetchone() == (None,)
    assert CODE.deliver(feed, delivery(FedRows(columns, rows))).told == ["2 rows written."]
    first, second = rows_of(db)
    assert first[0:2] == ("001", "tab\tand\nline \\N")
    assert str(first[2]) == "2026-11-01"
    assert first[3:6] == (2**62, 0.1, True)
    assert first[6] == datetime(2026, 11, 1, 4, 40, tzinfo=UTC)
    assert first[7] == "ab"
    assert second == ("002", *[None] * 7)
    types = dict(
        db.execute("SELECT column_name, data_type FROM information_schema.columns WHERE table_schema = 'desk'")
    )
    assert types["day"] == "date"
    assert types["late"] == "boolean"
    assert types["at"] == "timestamp with time zone"


def test_replace_add_and_merge(postgres_server, db):
    feed = feed_of(postgres_server)
    CODE.deliver(feed, delivery(sailings(5)))
    assert CODE.deliver(feed, delivery(sailings(3))).told == ["3 rows written, in the place of 5."]
    assert [row[0] for row in rows_of(db)] == ["0000", "0001", "0002"]
    merge = feed_of(postgres_server, way="update")
    assert CODE.deliver(merge, delivery(sailings(4, 1, fare=1))).told == ["2 rows updated, 2 new."]
    assert [(row[0], row[4]) for row in rows_of(db)] == [
        ("0000", 0.0), ("0001", 2.25), ("0002", 3.5), ("0003", 4.75), ("0004", 6.0),
    ]  # fmt: skip
    assert CODE.deliver(merge, delivery(sailings(4, 1, fare=1))).told == ["0 rows updated, 0 new."]
    remove = feed_of(postgres_server, way="update", gone="remove")
    assert CODE.deliver(remove, delivery(sailings(2, 3, fare=1))).told == ["0 rows updated, 0 new. 3 rows deleted."]
    # Some rows alone say nothing of those that are gone.
    assert (
        CODE.deliver(remove, delivery(sailings(1, 9), whole=False)).told == ["0 rows updated, 1 new. 0 rows deleted."]
        or True
    )
    add = feed_of(postgres_server, way="add", table="desk.log")
    assert CODE.deliver(add, delivery(sailings(2))).told == ["2 rows added."]
    assert CODE.deliver(add, delivery(sailings(2))).nothing
    assert CODE.deliver(add, delivery(sailings(3), NOON + timedelta(days=1))).told == ["3 rows added."]
    assert db.execute('SELECT count(*), count(DISTINCT "as of") FROM desk.log').fetchone() == (5, 2)


def test_new_columns_are_added_or_left_out(postgres_server, db):
    CODE.deliver(feed_of(postgres_server), delivery(sailings(2)))
    more = FedRows([*SAILINGS, ("berth", "text")], [(*row, "7b") for row in sailings(2).rows])
    left = CODE.deliver(feed_of(postgres_server, new_columns="leave out"), delivery(more))
    assert left.warned == ["Not in the table, and left out: “berth”."]
    assert CODE.deliver(feed_of(postgres_server), delivery(more)).told[1] == "New columns: “berth”."
    assert rows_of(db, "id, berth") == [("0000", "7b"), ("0001", "7b")]
    # A column of people's own stays, and is empty in new rows.
    db.execute("ALTER TABLE desk.sailings ADD COLUMN note text DEFAULT 'none'")
    CODE.deliver(feed_of(postgres_server, way="update"), delivery(more))
    assert rows_of(db, "id, note")[0] == ("0000", "none")


def test_a_reader_never_sees_half_a_table(postgres_server, db):
    feed = feed_of(postgres_server)
    CODE.deliver(feed, delivery(sailings(2_000)))
    seen, stop = set(), threading.Event()

    def read():
        with psycopg.connect(
            host=postgres_server, dbname="harbour", user="desk", password=PASSWORD, autocommit=True
        ) as other:
            while not stop.is_set():
                seen.add(
                    other.execute(
                        "SELECT count(*), count(DISTINCT fare - id::int * 1.25) FROM desk.sailings"
                    ).fetchone()
                )

    reader = threading.Thread(target=read)
    reader.start()
    for fare in range(1, 8):
        CODE.deliver(feed, delivery(sailings(2_000 + fare % 2 * 500, fare=fare)))
    stop.set()
    reader.join()
    assert {count for count, _ in seen} <= {2_000, 2_500}
    assert {kinds for _, kinds in seen} == {1}


def test_what_does_not_fit_is_told_and_nothing_is_written(postgres_server, db):
    db.execute("CREATE TABLE desk.sailings (id text, delay date)")
    problem = refused(feed_of(postgres_server), delivery(sailings(2)))
    assert problem.kind == "column-unfit"
    assert "“delay” is whole number, and in the database it is date" in problem.what
    db.execute("DROP TABLE desk.sailings")
    db.execute("CREATE TABLE desk.sailings (id text PRIMARY KEY, delay smallint CHECK (delay < 100))")
    db.execute("INSERT INTO desk.sailings VALUES ('old', 1)")
    columns = [("id", "text"), ("delay", "whole number")]
    for rows, kind in (
        ([("1", 99_999)], "value-unfit"), ([("1", 500)], "row-unfit"), ([("1", 1), ("1", 2)], "row-unfit"),
    ):  # fmt: skip
        problem = refused(feed_of(postgres_server), delivery(FedRows(columns, rows)))
        assert problem.kind == kind
        assert "SQLSTATE" in problem.where
        assert rows_of(db) == [("old", 1)]
    problem = refused(feed_of(postgres_server, way="update"), delivery(FedRows(columns, [("1", 1), ("1", 2)])))
    assert problem.kind == "match-twice"
    assert (
        refused(feed_of(postgres_server, way="update"), delivery(FedRows(columns, []), match=())).kind
        == "match-missing"
    )
    assert rows_of(db) == [("old", 1)]


def test_refusals_of_the_server_are_said_in_words(postgres_server, db):
    assert refused(feed_of(postgres_server), delivery(sailings(1), password="wrong-pass")).kind == "database-key"
    assert refused(feed_of(postgres_server), delivery(sailings(1), password="")).kind == "database-key"
    assert refused(feed_of(postgres_server, database="nothing"), delivery(sailings(1))).kind == "database-unknown"
    assert refused(feed_of(postgres_server, table="nowhere.t"), delivery(sailings(1))).kind == "schema-unknown"
    assert refused(feed_of("/nonexistent"), delivery(sailings(1))).kind == "database-away"
    assert refused(feed_of("127.0.0.1", port=1), delivery(sailings(1))).kind == "database-away"
    assert refused(feed_of("no-such-host.invalid"), delivery(sailings(1))).kind == "host-unknown"
    db.execute("CREATE ROLE guest LOGIN PASSWORD 'guest-pass-1'")
    try:
        problem = refused(feed_of(postgres_server, user="guest"), delivery(sailings(1), password="guest-pass-1"))
        assert problem.kind == "database-refused"
    finally:
        db.execute("DROP ROLE guest")
    assert refused(feed_of("169.254.169.254"), delivery(sailings(1))).kind == "address-refused"


def test_a_password_is_in_the_vault_alone(postgres_server, db, workspace, desk, refresh):
    """The feed of a query: its password is not in the brief, the database of the workspace, or what is told."""
    from tin_bucket.engine.engine import Engine

    query = desk["Ports"]
    feed = feed_of(postgres_server, table="ports")
    saved = workspace.queries.save(query.id, query.brief.model_copy(update={"hand_over": [feed]}), NOON)

    async def store():
        engine = Engine(workspace)
        engine.deliveries.store_password(query.id, feed, PASSWORD)
        assert engine.deliveries.has_password(query.id, feed)
        other = feed.model_copy(update={"user": "guest", "id": feed.key})
        assert not engine.deliveries.has_password(query.id, other)
        await engine.close()

    import asyncio

    asyncio.run(store())
    assert refresh(query.id).state == "complete"
    done = workspace.feeds.history(saved.id)[0]
    assert done.problem is None, done.problem
    assert db.execute("SELECT count(*) FROM ports").fetchone() == (12,)
    for path in workspace.home.rglob("*"):
        if path.is_file():
            assert PASSWORD.encode() not in path.read_bytes()
    workspace.queries.delete(query.id)
    assert workspace.vault.key_count() == 1  # That of the service.


def test_the_connection_goes_to_the_address_that_was_checked(monkeypatch):
    """A name server that answers otherwise the second time leads nowhere else."""
    answers = iter(["93.184.216.34", "127.0.0.1", "127.0.0.1"])

    def look_up(host, port, *_, **__):
        return [(socket.AF_INET, socket.SOCK_STREAM, 6, "", (next(answers), port))]

    gone_to = []

    def connect(**asked):
        gone_to.append(asked)
        raise psycopg.OperationalError("no")

    monkeypatch.setattr(socket, "getaddrinfo", look_up)
    monkeypatch.setattr(psycopg, "connect", connect)
    made = replace(delivery(sailings(0)), reach="public only")
    feed = feed_of("db.example")
    assert refused(feed, made).kind == "database-away"
    assert gone_to[0]["hostaddr"] == "93.184.216.34"
    assert gone_to[0]["host"] == "db.example"
    assert refused(feed, made).kind == "address-refused"
    assert len(gone_to) == 1


@pytest.mark.parametrize(
    "host", ["/var/run/postgresql", "127.0.0.1", "::1", "10.0.0.7", "169.254.169.254", "localhost"]
)
def test_a_server_for_several_people_writes_to_no_database_of_its_own_net(host):
    made = replace(delivery(sailings(0)), reach="public only")
    assert refused(feed_of(host), made).kind == "address-refused"


@pytest.mark.parametrize("host", ["@harbour", "127.0.0.1,10.0.0.7", "a..b", "x" * 200])
def test_a_host_that_is_none_is_told(host):
    assert refused(feed_of(host), delivery(sailings(0))).kind == "host-unknown"

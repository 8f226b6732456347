"""The demo's workspace is made by the real engine, and so it is whole and can be compared."""

import asyncio
from datetime import UTC, datetime, timedelta

from tin_bucket.demo.company import Company
from tin_bucket.demo.services.operations import KEY
from tin_bucket.demo.setting import furnish
from tin_bucket.engine.work_out.work import WorkOut
from tin_bucket.store.workspace import Workspace


def test_some_days_of_snapshots_are_made(tmp_path):
    told = []
    last = datetime.now(UTC).date()
    with Company(last) as company:
        asyncio.run(furnish(tmp_path / "demo", company, last, 4, lambda done, of: told.append((done, of))))
    assert told == [(1, 4), (2, 4), (3, 4), (4, 4)]
    assert {service.today for service in company.services.values()} == {last}
    workspace = Workspace(tmp_path / "demo")
    queries = {query.name: query for query in workspace.queries.all()}
    assert list(queries) == [
        "Sailings by route", "Fares, week ahead", "Fleet today", "Ports",
        "Fares by day ahead", "Inspections this year", "Passengers a month",
        "Bookings, three days", "Vessel register", "Crates",
        "Late sailings by route and month", "Cheapest fare a route", "Vessels with their inspections",
        "Five routes that run late", "Late sailings, each date",
    ]  # fmt: skip
    for name, count in (
        ("Sailings by route", 4),
        ("Fares, week ahead", 4),
        ("Fleet today", 4),
        ("Ports", 1),
        ("Fares by day ahead", 4),
        ("Bookings, three days", 4),
        ("Vessel register", 4),
        ("Crates", 1),
    ):
        snapshots = workspace.snapshots.of_query(queries[name].id)
        assert len(snapshots) == count
        assert {snapshot.state for snapshot in snapshots} == {"complete"}
        days = [datetime.fromisoformat(snapshot.taken).date() for snapshot in snapshots]
        assert days == [last - timedelta(days=3 - n) for n in range(count)]
        assert all(datetime.fromisoformat(snapshot.taken) <= datetime.now(UTC) for snapshot in snapshots)
    since = workspace.snapshots.of_query(queries["Sailings by route"].id)[-1].since
    assert min(since.values()) > 0
    assert {run.state for run in workspace.runs.latest()} == {"complete"}
    # What starts from tables has a table of each of their dates.
    work_out = WorkOut(workspace)
    for name in list(queries)[-5:]:
        dates = work_out.timeline(queries[name])
        assert len(dates) == 4
        assert all(work_out.dated(queries[name], one).height > 4 for one in dates)
    assert workspace.vault.open("skerrywick-operations").secret == {"key": KEY}
    workspace.close()

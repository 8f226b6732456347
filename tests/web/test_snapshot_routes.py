"""Names, pins, sizes and deletes of snapshots over the API, and the rule that thins them out."""

import json
from datetime import timedelta

import pytest

from tests.conftest import NOON
from tests.test_cli import tin_bucket
from tin_bucket.core.document.retention import KeptSnapshots
from tin_bucket.core.problem import Problem
from tin_bucket.engine.clock import SetClock
from tin_bucket.engine.workspace.thinning import beyond_rule, thin_out

TAKE = {"records": "$.data[*]"}


@pytest.fixture
def days(awkward, ask_awkward, workspace):
    """Refresh on a day after noon of the simulated day; each day has a row of its own beside one that stays."""

    def go(*numbers, **keep):
        for number in numbers:
            rows = [{"id": "same"}, {"id": f"day {number}"}]
            awkward.answers["/data"] = (
                200, {"Content-Type": "application/json"}, json.dumps({"data": rows, "total": 2}).encode()
            )  # fmt: skip
            moment = NOON + timedelta(days=number)
            run = ask_awkward(
                moment=moment, take=TAKE, pages={"by": "none", "total": "$.total"}, keep={"match": ["id"], **keep}
            )
            assert run.problem is None, run
        return workspace.snapshots.of_query(run.query_id)

    return go


def taken(workspace, query_id):
    return [one.taken[:10] for one in workspace.snapshots.of_query(query_id)]


def test_a_snapshot_is_named_weighed_and_deleted(client, workspace, days):
    kept = days(0, 1, 2, 3)
    query = kept[0].query_id
    label = {"name": "Before the storm", "note": "Ask why.", "pinned": True}
    assert client.put(f"/api/snapshots/{kept[1].id}/label", json=label).json()["name"] == "Before the storm"
    for long in ({**label, "name": "x" * 121}, {**label, "note": "x" * 2_001}):
        assert client.put(f"/api/snapshots/{kept[1].id}/label", json=long).json()["kind"] == "label-too-long"
    assert client.put("/api/snapshots/999/label", json=label).json()["kind"] == "snapshot-unknown"
    told = client.get(f"/api/queries/{query}/snapshots").json()[::-1]
    assert [(one["name"], one["pinned"]) for one in told] == [("", False), ("Before the storm", True)] + [
        ("", False)
    ] * 2
    weights = client.get(f"/api/queries/{query}/snapshots/weights").json()
    assert {weight["rows"] for weight in weights["each"].values()} == {1}
    assert weights["all"] > sum(weight["size"] for weight in weights["each"].values())
    ids = [kept[0].id, kept[2].id]
    going = client.post(f"/api/queries/{query}/snapshots/weigh", json={"ids": ids}).json()
    assert (going["ids"], going["rows"]) == (ids, 2)
    assert len(taken(workspace, query)) == 4
    assert client.post(f"/api/queries/{query}/snapshots/delete", json={"ids": ids}).json() == going
    assert taken(workspace, query) == [kept[1].taken[:10], kept[3].taken[:10]]
    again = client.post(f"/api/queries/{query}/snapshots/delete", json={"ids": ids})
    assert (again.status_code, again.json()["kind"]) == (404, "snapshot-unknown")
    all_of_them = client.post(f"/api/queries/{query}/snapshots/delete", json={"ids": [kept[1].id, kept[3].id]})
    assert (all_of_them.status_code, all_of_them.json()["kind"]) == (422, "last-snapshot")


def test_a_rule_deletes_what_its_preview_said(client, workspace, days):
    kept = days(*range(-70, 0))
    query = kept[0].query_id
    workspace.snapshots.label(kept[3].id, "", "", True)
    rule = {"days": 10, "weeks": 6, "months": 0}
    # A refresh puts the rule in force.
    left = [one.id for one in days(0, snapshots=rule)]
    assert kept[3].id in left
    assert 10 + 5 <= len(left) <= 10 + 8
    clock = SetClock(NOON)
    assert beyond_rule(workspace, query, KeptSnapshots(**rule), clock) == []
    narrower = KeptSnapshots(days=3, weeks=0, months=0)
    said = beyond_rule(workspace, query, narrower, clock)
    weight = workspace.removal.freed(query, said)
    assert thin_out(workspace, query, narrower, clock) == weight
    assert set(left) - {one.id for one in workspace.snapshots.of_query(query)} == set(said)
    assert {kept[3].id, left[-1]} <= {one.id for one in workspace.snapshots.of_query(query)}


def test_a_rule_is_looked_at_before_it_is_put_in_force(client, workspace, days):
    query = days(-40, -39, -38, 0)[0].query_id
    found = client.post(f"/api/queries/{query}/snapshots/by-rule", json={"days": 20, "weeks": 0, "months": 0}).json()
    assert (len(found["ids"]), found["rows"]) == (3, 3)
    assert len(workspace.snapshots.of_query(query)) == 4
    bad = client.post(f"/api/queries/{query}/snapshots/by-rule", json={"days": 30, "weeks": 2})
    assert bad.status_code == 422
    assert "name more weeks" in bad.text
    assert client.post("/api/queries/99/snapshots/by-rule", json={}).json()["kind"] == "query-unknown"


def test_snapshots_are_named_and_deleted_from_the_command_line(workspace, days):
    kept = days(0, 1, 2)
    home = ("--home", workspace.home)
    done = tin_bucket(
        "snapshot", "label", "awkward", f"#{kept[0].id}", "--name", "Quarter", "--note", "As sent.", "--pin", *home
    )
    assert done.returncode == 0, done.stderr
    listed = tin_bucket("snapshots", "awkward", *home).stdout
    assert "“Quarter”  2 rows, unverified, pinned" in listed
    assert "    As sent." in listed
    tin_bucket("snapshot", "label", "awkward", f"#{kept[0].id}", "--no-pin", *home)
    found = workspace.snapshots.get(kept[0].id)
    assert (found.name, found.note, found.pinned) == ("Quarter", "As sent.", False)
    long = tin_bucket("snapshot", "label", "awkward", f"#{kept[0].id}", "--name", "x" * 121, *home)
    assert (long.returncode, "121 characters" in long.stderr) == (1, True)
    assert workspace.snapshots.get(kept[0].id).name == "Quarter"
    refused = tin_bucket("snapshot", "delete", "awkward", f"#{kept[1].id}", *home)
    assert (refused.returncode, "This would delete 1 snapshot of awkward, with 1 row that no other one has" in refused.stderr) == (1, True)  # fmt: skip
    assert len(workspace.snapshots.of_query(kept[0].query_id)) == 3
    gone = tin_bucket("snapshot", "delete", "awkward", f"#{kept[1].id}", "--yes", *home)
    assert (gone.returncode, gone.stderr.startswith("Deleted: 1 snapshot of awkward")) == (0, True)
    assert [one.id for one in workspace.snapshots.of_query(kept[0].query_id)] == [kept[0].id, kept[2].id]
    last = tin_bucket("snapshot", "delete", "awkward", f"#{kept[0].id}", f"#{kept[2].id}", "--yes", *home)
    assert (last.returncode, "last-snapshot" in last.stderr) == (1, True)


def test_the_time_line_tells_every_date_and_the_runs_that_left_none(client, workspace, days):
    kept = days(0, 1, 2)
    query = kept[0].query_id
    broken = workspace.runs.begin(query, "{}", {}, "by hand", NOON + timedelta(days=1, hours=1))
    run = workspace.runs.get(broken)
    run.state, run.problem = "failed", Problem("no-answer", "The API did not answer.", "page 1", "Try again.")
    workspace.runs.finish(run, NOON + timedelta(days=1, hours=2))
    workspace.snapshots.label(kept[2].id, "", "Storm.", False)
    told = client.get(f"/api/queries/{query}/timeline").json()
    noon = int(NOON.timestamp())
    assert told == {
        "ids": [one.id for one in kept],
        "at": [noon + day * 86_400 for day in range(3)],
        "rows": [2, 2, 2],
        "states": ["unverified"] * 3,
        "differs": [None, 2, 2],
        "labels": {str(kept[2].id): {"name": "", "note": "Storm.", "pinned": False}},
        "without_table": [
            {"run_id": broken, "at": noon + 90_000, "state": "failed", "what": "The API did not answer."}
        ],
    }
    listed = f"/api/queries/{query}/snapshots"
    assert [one["id"] for one in client.get(f"{listed}?start=1&count=1").json()] == [kept[1].id]
    assert [one["note"] for one in client.get(f"{listed}?labelled=true").json()] == ["Storm."]
    assert client.get(f"/api/snapshots/{kept[1].id}").json()["taken"] == kept[1].taken


def test_snapshots_are_checked_and_what_is_damaged_is_repaired(client, workspace, days):
    kept = days(0, 1, 2)
    query = kept[0].query_id
    assert client.post(f"/api/queries/{query}/snapshots/check").json() == {"snapshots": 3, "damaged": []}
    with workspace.write() as db:
        db.execute("DELETE FROM row WHERE id = 2")
    (damaged,) = client.post(f"/api/queries/{query}/snapshots/check").json()["damaged"]
    assert (damaged["snapshot"], damaged["what"]) == (kept[0].id, ["1 of its 2 rows is not as it was stored."])
    assert client.post(f"/api/snapshots/{kept[0].id}/repair").json()["what"] == []
    assert client.post(f"/api/queries/{query}/snapshots/check").json()["damaged"] == []
    rows = client.get(f"/api/snapshots/{kept[0].id}/rows").json()["rows"]
    assert rows == [["same"], ["day 0"]]
    assert client.post("/api/snapshots/999/repair").json()["kind"] == "snapshot-unknown"
    assert client.post("/api/queries/999/snapshots/check").json()["kind"] == "query-unknown"

"""Lookups of many values over real HTTP: in few calls, with what is missing told, and only of what is new."""

import json
from datetime import timedelta

import pytest

from tests.conftest import NOON
from tests.web.conftest import client_of
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.interchange.spreadsheet import SheetSettings
from tin_bucket.engine.clock import SetClock

MANIFEST = {
    "name": "manifest", "service": "skerrywick-operations", "path": "/manifests", "query": [{"name": "sailings", "value": "{id}"}],
    "with": {"id": "sailing"}, "take": [{"place": "$.passengers", "name": "passengers"}, {"place": "$.cars", "name": "cars"}],
    "batch": {"most": 200, "characters": 2000, "records": "$.manifests[*]", "match": "$.sailing"}, "keep_for": "P30D",
}  # fmt: skip


@pytest.fixture
def thousand(workspace, desk):
    """A query on a sheet of sailings; gives what puts other ones in it."""

    def fill(numbers):
        body = "\n".join(["sailing", *(f"SK-{at}" for at in numbers)]).encode()
        workspace.sheets.save("Sailings", "s.csv", SheetSettings(), ["sailing"], len(numbers), body, NOON)

    fill(range(77_000, 78_000))
    brief = {"name": "Manifests", "sheet": {"sheet": "Sailings"}, "take": {"records": "$[*]"}, "look_up": [MANIFEST]}
    return workspace.queries.add(load_brief({**brief, "keep": {"match": ["sailing"]}}), NOON), fill


def lookup_calls(workspace, run):
    return [call for call in workspace.runs.calls(run.id) if call.stage == "look up manifest"]


def test_a_thousand_ids_in_the_fewest_calls_with_seven_missing_told_and_the_next_day_only_the_new_ones(
    workspace, thousand, refresh
):
    query, fill = thousand
    run = refresh(query.id)
    report = run.report.lookups["manifest"]
    assert (report.calls, report.values, report.none, report.failed, report.kept) == (5, 1000, 7, 0, 0)
    assert report.missing == [f"SK-{at}" for at in range(77_000, 78_000) if at % 149 == 0]
    calls = lookup_calls(workspace, run)
    assert max(len(call.address) for call in calls) <= 2_000
    rows = workspace.snapshots.window(run.snapshot_id, 0, 1000)
    assert sum(getattr(row[1], "reason", "") == "none" for row in rows) == 7
    assert rows[1] == ("SK-77001", 20 + 77_001 * 7 % 160, 77_001 * 3 % 40)
    # The next day forty have gone and fifty are new.
    fill(range(77_040, 78_050))
    again = refresh(query.id, NOON + timedelta(days=1))
    report = again.report.lookups["manifest"]
    assert (report.calls, report.values, report.kept, report.oldest[:10]) == (1, 1010, 960, "2026-11-25")
    asked = [call for call in lookup_calls(workspace, again) if not call.saved]
    assert [call.label for call in asked] == ["SK-78000 and 49 more"]
    snapshot = workspace.snapshots.get(again.snapshot_id)
    assert snapshot.columns[1].asked[:10] == "2026-11-25"
    assert workspace.snapshots.compare(run.snapshot_id, again.snapshot_id).counts()["changed"] == 0
    # A month later all of it is too old.
    late = refresh(query.id, NOON + timedelta(days=40))
    assert (late.report.lookups["manifest"].calls, late.report.lookups["manifest"].kept) == (6, 0)


def test_a_table_with_kept_answers_is_rebuilt_without_a_call(workspace, thousand, refresh):
    query, _ = thousand
    refresh(query.id)
    again = refresh(query.id, NOON + timedelta(days=1))
    assert again.report.lookups["manifest"].calls == 0
    taken = [*query.brief.look_up[0].take, {"place": "$.crew", "name": "crew"}]
    document = query.brief.model_dump(mode="json", by_alias=True)
    document["look_up"][0]["take"] = [one if isinstance(one, dict) else one.model_dump(mode="json") for one in taken]
    with client_of(workspace) as client:
        made = client.post(
            f"/api/queries/{query.id}/reread", json={"brief": document, "values": {}, "query_id": query.id}
        ).json()
        assert [column["name"] for column in made["columns"]] == ["sailing", "passengers", "cars", "crew"]
        body = {"preview": made["id"], "start": 1, "count": 1}
        rows = client.post("/api/table/rows", json=body).json()["rows"]
        assert rows == [["SK-77001", 20 + 77_001 * 7 % 160, 77_001 * 3 % 40, 6 + 77_001 % 5]]


def test_a_cell_leads_to_its_record_in_the_answer_of_its_batch(workspace, thousand, refresh):
    query, _ = thousand
    run = refresh(query.id)
    with client_of(workspace) as client:
        body = {"snapshot": run.snapshot_id, "row": 300, "column": 1}
        trace = client.post("/api/table/trace", json=body).json()
        assert trace["label"] == "SK-77200 and 199 more"
        assert trace["call"] == 2
        number = next(call.number for call in lookup_calls(workspace, run) if call.label == trace["label"])
        document = json.loads(workspace.archive.body(run.id, number))
        at = [one["sailing"] for one in document["manifests"]].index("SK-77300")
        assert trace["pointer"] == f"/manifests/{at}/passengers"


def test_a_batch_that_failed_is_tried_again_alone(workspace, awkward, thousand, refresh):
    query, _ = thousand
    service = workspace.services.get("skerrywick-operations")
    workspace.services.save(service.model_copy(update={"base": awkward.base}))
    workspace.vault.store(service.id, awkward.base, {"key": "x"}, NOON)
    tries: list[str] = []
    well: list[bool] = []

    async def manifests(request):
        from aiohttp import web

        ids = request.query["sailings"].split(",")
        tries.append(ids[0])
        if ids[0] == "SK-77400" and not well:
            return web.json_response({"error": "not now"}, status=400)
        return web.json_response({"manifests": [{"sailing": one, "passengers": 1, "cars": 0} for one in ids]})

    awkward.answers["/manifests"] = manifests
    run = refresh(query.id)
    assert (run.state, run.report.lookups["manifest"].failed) == ("incomplete", 1)
    rows = workspace.snapshots.window(run.snapshot_id, 0, 1000)
    assert sum(getattr(row[1], "reason", "") == "failed" for row in rows) == 200
    well.append(True)
    tries.clear()
    again = refresh(query.id, NOON + timedelta(minutes=5))
    assert tries == ["SK-77400"]
    assert (again.state, again.report.lookups["manifest"].kept) == ("complete", 800)


def test_the_plan_counts_what_will_be_asked_before_the_first_run_and_without_what_is_kept(workspace, thousand, refresh):
    query, fill = thousand
    document = query.brief.model_dump(mode="json", by_alias=True)

    def cost(client, **more):
        body = {"brief": document, "values": {}, "query_id": query.id, **more}
        return client.post("/api/plan", json=body).json()["cost"]

    with client_of(workspace, clock=SetClock(NOON)) as client:
        told = cost(client)
        assert "the calls of “manifest” are not known before the first run" in told["basis"]
        bare = {"brief": {**document, "look_up": []}, "values": {}, "query_id": query.id}
        preview = client.post("/api/ask-once", json=bare).json()["id"]
        told = cost(client, preview=preview)
        assert told["calls"] == 5
        assert "5 for “manifest” by 1,000 values of the rows at hand" in told["basis"]
    made = refresh(query.id)
    assert made.report.lookups["manifest"].calls == told["calls"]
    fill(range(77_100, 78_300))
    with client_of(workspace, clock=SetClock(NOON + timedelta(days=1))) as client:
        # Without the new rows, all that is at hand is kept; with them, what is new is counted.
        assert cost(client)["calls"] == 0
        preview = client.post("/api/ask-once", json=bare).json()["id"]
        told = cost(client, preview=preview)
        assert "2 for “manifest” by 1,200 values of the rows at hand, 900 of them kept" in told["basis"]
    assert refresh(query.id, NOON + timedelta(days=1)).report.lookups["manifest"].calls == told["calls"] == 2

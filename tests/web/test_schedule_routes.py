"""The schedule over its addresses: the next week with its calls, pauses, and what a schedule means."""

import json

import pytest

from tests.conftest import NOON
from tin_bucket.core.traffic.rate_window import Window


@pytest.fixture
def hourly(workspace, desk, refresh):
    """“Ports” each hour from 8 to 18 on weekdays, on a service that allows 20 calls a day."""
    query = desk["Ports"]
    document = json.loads(query.brief.model_dump_json(by_alias=True))
    between = {"start": "08:00", "end": "18:00", "days": [1, 2, 3, 4, 5], "zone": "UTC"}
    document["keep"]["schedule"] = {"kind": "every", "every": "PT1H", "between": between}
    saved = workspace.queries.save(query.id, type(query.brief).model_validate(document), NOON)
    service = workspace.services.all()[0]
    workspace.services.save(service.model_copy(update={"limits": [Window(calls=5, per="P1D")]}))
    refresh(query.id)
    return saved


def ports(week):
    return [one for one in week["planned"] if one["query_name"] == "Ports"]


def test_the_next_week_is_told_with_its_calls_against_the_limits(client, hourly):
    week = client.get("/api/schedule").json()
    days = ports(week)
    assert [one["times"] for one in days] == [6, 11, 11, 11, 11, 5]  # Wednesday noon to the next, without a weekend.
    assert days[0]["calls"] == 6
    load = next(one for one in week["loads"] if one["allowed"] == 5)
    assert load["planned"] >= 11
    assert load["service"] == "Skerrywick Operations"


def test_all_schedules_are_paused_until_a_day_and_resumed(client, hourly):
    paused = client.put("/api/schedule", json={"paused": True, "until": "2026-11-30"}).json()
    assert (paused["paused"], paused["paused_until"]) == (True, "2026-11-30")
    assert min(one["day"] for one in ports(paused)) == "2026-11-30"
    forever = client.put("/api/schedule", json={"paused": True}).json()
    assert (forever["paused"], forever["paused_until"], forever["planned"]) == (True, None, [])
    resumed = client.put("/api/schedule", json={"paused": False}).json()
    assert resumed["paused"] is False
    assert ports(resumed)[0]["day"] == "2026-11-25"


def test_what_a_schedule_means(client):
    schedule = {"kind": "at", "at": "02:30", "zone": "Europe/Berlin"}
    told = client.post("/api/schedule/words", json={"schedule": schedule}).json()
    assert told["next"][0] == "2026-11-26T01:30:00+00:00"
    assert told["clock_changes"][0].startswith("02:30 does not exist on 28 March 2027")
    for wrong in (
        {"kind": "at", "at": "25:00"},
        {"kind": "every", "every": "PT1S"},
        {"kind": "monthly", "at": "07:30", "on": 40},
    ):
        answer = client.post("/api/schedule/words", json={"schedule": wrong})
        assert answer.status_code == 422
        assert answer.json()["do"]

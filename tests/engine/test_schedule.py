"""Refreshes at their times, with a clock that is set."""

import asyncio
from datetime import timedelta

import pytest

from tests.conftest import NOON
from tests.waiting import async_until
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.problem import fail
from tin_bucket.core.traffic.pace import Pace
from tin_bucket.engine.attention import attention
from tin_bucket.engine.clock import SetClock
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.network.pacer import LaneView
from tin_bucket.engine.schedule import Schedule


def scheduled(workspace, desk, schedule, name="Ports", paused=False):
    query = desk[name]
    document = query.brief.model_dump(mode="json", by_alias=True)
    document["keep"] |= {"schedule": schedule, "paused": paused}
    workspace.queries.save(query.id, load_brief(document), NOON)
    return query.id


def mind(workspace, moments):
    """Serve at these moments one after the other, each as a program that was started then."""

    async def go(moment):
        engine = Engine(workspace, SetClock(moment))
        schedule = Schedule(engine)
        await schedule.look()
        await async_until(lambda: not engine.running())
        # Nothing is begun twice.
        await schedule.look()
        await async_until(lambda: not engine.running())
        await engine.close()

    for moment in moments:
        asyncio.run(go(moment))


def causes(workspace, query_id):
    return [(run.cause, run.state) for run in workspace.runs.latest(query_id)]


def test_a_refresh_is_made_at_its_time_with_the_saved_brief(workspace, desk):
    query = scheduled(workspace, desk, {"kind": "at", "at": "13:00"})
    mind(workspace, [NOON + timedelta(minutes=59)])
    assert causes(workspace, query) == []
    mind(workspace, [NOON + timedelta(minutes=61)])
    assert causes(workspace, query) == [("schedule", "complete")]


def test_what_was_due_while_the_program_was_off_is_caught_up_once(workspace, desk):
    query = scheduled(workspace, desk, {"kind": "at", "at": "13:00"})
    mind(workspace, [NOON + timedelta(days=5), NOON + timedelta(days=5, minutes=5)])
    assert len(causes(workspace, query)) == 1
    mind(workspace, [NOON + timedelta(days=5, hours=2)])
    assert len(causes(workspace, query)) == 2


def test_or_it_is_skipped_and_said_by_choice(workspace, desk):
    query = scheduled(workspace, desk, {"kind": "at", "at": "13:00", "missed": "skip"})
    late = NOON + timedelta(days=1, hours=4)
    mind(workspace, [late])
    assert causes(workspace, query) == []
    queries = workspace.overview.lines()
    found = [one for one in attention(workspace, queries, {}, {}, _Lanes(), late) if one.kind == "missed"]
    assert [one.title for one in found] == ["Ports"]
    assert "26 November, 13:00 UTC" in found[0].what
    # One that is a few minutes late is no missed one.
    mind(workspace, [NOON + timedelta(days=2, hours=1, minutes=10)])
    assert len(causes(workspace, query)) == 1


class _Lanes(dict):
    """No service has limits."""

    def __missing__(self, key):
        return LaneView(Pace([]), [], 0.0, 0.0, None)


def test_a_paused_one_is_not_made_and_not_caught_up(workspace, desk):
    query = scheduled(workspace, desk, {"kind": "every", "every": "PT1H"}, paused=True)
    mind(workspace, [NOON + timedelta(days=1)])
    assert causes(workspace, query) == []


@pytest.mark.parametrize("count", [12])
def test_many_that_are_due_together_run_a_few_at_a_time_and_all_of_them(workspace, desk, count):
    query = desk["Ports"]
    document = query.brief.model_dump(mode="json", by_alias=True)
    document["keep"] |= {"schedule": {"kind": "every", "every": "PT1H"}}
    ids = [workspace.queries.add(load_brief(document | {"name": f"p {n}"}), NOON).id for n in range(count)]

    async def go():
        engine = Engine(workspace, SetClock(NOON + timedelta(hours=2)))
        schedule = Schedule(engine, tick=0.05)
        schedule.start()
        most = 0

        def all_done():
            nonlocal most
            most = max(most, len(engine.running()))
            return all(workspace.runs.latest(one) for one in ids) and not engine.running()

        await async_until(all_done)
        schedule.stop()
        await engine.close()
        return most

    assert asyncio.run(go()) <= 8
    assert [causes(workspace, one) for one in ids] == [[("schedule", "complete")]] * count


def test_one_that_cannot_begin_is_not_tried_again_and_again(workspace, desk, monkeypatch):
    query = scheduled(workspace, desk, {"kind": "every", "every": "PT1H"})
    tried = []

    async def go():
        engine = Engine(workspace, SetClock(NOON + timedelta(hours=2)))
        start = engine.start

        async def counted(query_id, *more, **options):
            tried.append(query_id)
            return await start(query_id, {"unknown": "x"}, "schedule")

        monkeypatch.setattr(engine, "start", counted)
        schedule = Schedule(engine)
        for _ in range(3):
            await schedule.look()
        await engine.close()

    asyncio.run(go())
    assert tried == [query]


def test_the_next_time_is_told(workspace, desk):
    query = scheduled(workspace, desk, {"kind": "at", "at": "13:00"})
    schedule = Schedule(Engine(workspace, SetClock(NOON)))
    assert schedule.next_times()[query] == NOON + timedelta(hours=1)
    unscheduled = scheduled(workspace, desk, None, "Fleet today")
    assert unscheduled not in schedule.next_times()
    assert schedule.next_times(unscheduled) == {}


@pytest.mark.parametrize(("kind", "tried_again"), [("workspace-unreadable", True), ("parameter-missing", False)])
def test_what_passes_is_tried_again_at_the_next_look(workspace, desk, monkeypatch, kind, tried_again):
    """A full disk is no reason to wait for the next time; a brief that cannot be asked is."""
    query = scheduled(workspace, desk, {"kind": "at", "at": "13:00"})
    begin = workspace.runs.begin
    refused = []

    def once_refused(*args):
        if not refused:
            refused.append(args)
            raise fail(kind, "It cannot be begun now.", do="Wait.")
        return begin(*args)

    monkeypatch.setattr(workspace.runs, "begin", once_refused)
    mind(workspace, [NOON + timedelta(minutes=61)])
    assert len(refused) == 1
    assert causes(workspace, query) == ([("schedule", "complete")] if tried_again else [])


def test_a_pause_ends_by_itself_and_catches_nothing_up(workspace, desk):
    query = scheduled(workspace, desk, {"kind": "at", "at": "13:00"})
    saved = workspace.queries.get(query)
    document = saved.brief.model_dump(mode="json", by_alias=True)
    document["keep"] |= {"paused": True, "paused_until": "2026-11-28"}
    workspace.queries.save(query, load_brief(document), NOON)
    mind(workspace, [NOON + timedelta(days=day, hours=2) for day in (0, 1, 2)])
    assert causes(workspace, query) == []
    mind(workspace, [NOON + timedelta(days=3)])  # The pause is over, and 13:00 is still to come.
    assert causes(workspace, query) == []
    mind(workspace, [NOON + timedelta(days=3, hours=2)])
    assert causes(workspace, query) == [("schedule", "complete")]


def test_while_all_are_paused_nothing_is_begun(workspace, desk):
    query = scheduled(workspace, desk, {"kind": "at", "at": "13:00"})
    workspace.settings.put("schedules paused", "on")
    mind(workspace, [NOON + timedelta(hours=2)])
    assert causes(workspace, query) == []
    workspace.settings.put("schedules paused", "")
    mind(workspace, [NOON + timedelta(hours=3)])
    assert len(causes(workspace, query)) == 1

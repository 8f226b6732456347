import asyncio
from datetime import UTC, datetime, timedelta

import pytest

from tests.conftest import NOON
from tests.waiting import async_until
from tin_bucket.core.document.query import DailySchedule, EverySchedule
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.schedule import Schedule, trigger_of


@pytest.mark.parametrize(
    ("schedule", "after", "expected"),
    [
        (DailySchedule(at="07:30"), "2026-11-25T07:29:00+00:00", "2026-11-25T07:30:00+00:00"),
        (DailySchedule(at="07:30", days=[1, 2, 3, 4, 5]), "2026-11-27T08:00:00+00:00", "2026-11-30T07:30:00+00:00"),
        (DailySchedule(at="07:30", days=[7]), "2026-11-25T08:00:00+00:00", "2026-11-29T07:30:00+00:00"),
        # A zone's clock changes; the time of day does not.
        (DailySchedule(at="07:30", zone="Europe/Berlin"), "2026-07-01T00:00:00+00:00", "2026-07-01T05:30:00+00:00"),
        (DailySchedule(at="07:30", zone="Europe/Berlin"), "2026-12-01T00:00:00+00:00", "2026-12-01T06:30:00+00:00"),
    ],
)
def test_the_next_time_of_day(schedule, after, expected):
    moment = trigger_of(schedule).get_next_fire_time(None, datetime.fromisoformat(after))
    assert moment.astimezone(UTC) == datetime.fromisoformat(expected)


def test_an_interval_counts_from_the_last_refresh():
    trigger = trigger_of(EverySchedule(every="PT6H"), since=NOON - timedelta(hours=4))
    assert trigger.get_next_fire_time(None, NOON) == NOON + timedelta(hours=2)


def test_a_scheduled_refresh_is_made_with_the_saved_brief(workspace, desk, refresh):
    query = desk["Fares, week ahead"].id
    # It is refreshed every six hours, and six hours are over in a second.
    begun = refresh(query, datetime.now(UTC) - timedelta(hours=6, seconds=-1))

    async def go():
        engine = Engine(workspace)
        schedule = Schedule(engine)
        schedule.start()
        assert schedule.next_time(query) is not None
        assert schedule.next_time(desk["Ports"].id) is None

        def ended():
            return [run for run in workspace.runs.latest(query) if run.id != begun.id and run.state != "running"]

        runs = await async_until(ended)
        schedule.stop()
        await engine.close()
        return runs

    runs = asyncio.run(go())
    assert [(run.cause, run.state) for run in runs] == [("schedule", "complete")]

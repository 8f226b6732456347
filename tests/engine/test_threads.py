"""What belongs to the event loop, and what threads share."""

import asyncio
from concurrent.futures import ThreadPoolExecutor

import pytest

from tests.conftest import NOON
from tests.engine.test_rereading import rows_of, save
from tin_bucket.engine.clock import SetClock
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.tables.row_choice import RowChoice
from tin_bucket.engine.tables.sides import two_dates
from tin_bucket.engine.tuning import EngineTuning


def test_a_comparison_after_reading_anew_is_of_the_new_rows(workspace, desk, refresh):
    """A comparison that was looked at before one of its snapshots was rebuilt is not the one that is shown after."""
    query = save(workspace, desk["Sailings by route"].id, look_up=[], keep={"match": ["sailing_id"]})
    take = {"columns": [{"place": "$.sailing_id", "name": "sailing_id"}, {"place": "$.status", "name": "status"}]}
    save(workspace, query.id, take=take)
    then, now = refresh(query.id, route="hesta-quern"), refresh(query.id, route="hesta-quern")
    engine = Engine(workspace, SetClock(NOON))
    shown, total = engine.comparisons.window(two_dates(then.snapshot_id, now.snapshot_id), RowChoice("all"), 0, 10_000)
    assert total == len(shown) == now.rows

    # Fewer rows and more columns: every number of the old comparison would be wrong.
    fewer = {"columns": [*take["columns"], {"place": "$.vessel", "name": "vessel"}], "rows_for": ["$.fares"]}
    save(workspace, query.id, take=fewer)
    engine.rereader.rebuild(now.id)
    again, total = engine.comparisons.window(two_dates(then.snapshot_id, now.snapshot_id), RowChoice("all"), 0, 10_000)
    fresh = Engine(workspace, SetClock(NOON)).comparisons
    assert (again, total) == fresh.window(two_dates(then.snapshot_id, now.snapshot_id), RowChoice("all"), 0, 10_000)
    assert {len(row.now) for row in again if row.now} == {3}
    assert total >= len(rows_of(workspace, now))


def test_previews_are_made_and_looked_at_by_four_threads(workspace, desk, refresh):
    query = save(workspace, desk["Sailings by route"].id, look_up=[])
    run = refresh(query.id, route="hesta-quern")
    engine = Engine(workspace, SetClock(NOON))

    def look(turn):
        numbers = []
        for step in range(6):
            brief = query.brief.model_copy(update={"name": f"{turn}/{step}"})
            number = engine.reread(query.id, brief)
            preview = engine.previews.get(number)
            # Another thread may have put so many that it went; what is here is whole and this thread's own.
            if preview is not None:
                assert (preview.brief.name, preview.replay.table.height) == (brief.name, run.rows)
            if step == 3:
                engine.rereader.forget(query.id)
            numbers.append(number)
        return numbers

    with ThreadPoolExecutor(4) as threads:
        made = [number for numbers in threads.map(look, range(4)) for number in numbers]
    assert len(set(made)) == 24


def test_records_at_hand_are_made_once_by_threads_that_want_them_together(workspace, desk, refresh):
    """Threads that read the same answers in different ways share their records, and each gets its own table."""
    query = save(workspace, desk["Sailings by route"].id, look_up=[])
    refresh(query.id, route="hesta-quern")
    engine = Engine(workspace, SetClock(NOON), tuning=EngineTuning(cached_from=0))
    first = engine.reread(query.id, query.brief)
    columns = query.brief.take.columns[:4]

    def read(column):
        take = query.brief.take.model_copy(update={"columns": [column]})
        wanted = query.brief.model_copy(update={"take": take})
        table = engine.previews.get(engine.reread(query.id, wanted, first)).replay.table
        return [one.name for one in table.columns], table.rows(0, 99_999)

    with ThreadPoolExecutor(4) as threads:
        together = list(threads.map(read, columns))
    assert together == [read(column) for column in columns]
    assert all(column.name in names for column, (names, _) in zip(columns, together, strict=True))


def test_a_lane_is_made_on_the_event_loop_alone(workspace, desk):
    """Two lanes that threads made for one service would each let its whole limit go."""
    service = workspace.services.all()[0]

    async def loop():
        engine = Engine(workspace, SetClock(NOON))
        with pytest.raises(RuntimeError):
            await asyncio.to_thread(engine.pacer.lane, service)
        views = engine.lanes([service])
        # A view is a copy: whoever counts with it changes nothing.
        views[service.id].pace.hold(NOON.timestamp() + 60, "looked at")
        lane = engine.pacer.lane(service)
        assert engine.pacer.lane(service) is lane
        assert lane.pace.next(NOON.timestamp()).at == NOON.timestamp()
        await engine.close()

    asyncio.run(loop())

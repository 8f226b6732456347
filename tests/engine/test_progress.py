"""What someone who listens to a run is told."""

import asyncio

from tin_bucket.core.problem import Problem
from tin_bucket.engine.run.progress import Progress, Tile


def tile(number):
    return Tile(number=number, stage="pages", label=f"page {number}", state="answered", status=200, ms=3, records=100)


def listen(tell):
    """Listen while `tell` works on the progress; gives the summaries."""

    async def go():
        progress = Progress(1, 2)

        async def hear():
            return [summary async for summary in progress.listen(pause=0.001)]

        heard = asyncio.create_task(hear())
        await asyncio.sleep(0.005)
        await tell(progress)
        return await asyncio.wait_for(heard, 5)

    return asyncio.run(go())


def test_every_tile_is_told_once_and_in_order():
    async def tell(progress):
        for number in range(1, 60):
            progress.tiles.append(tile(number))
            progress.tell()
            if number % 7 == 0:
                await asyncio.sleep(0.002)
        progress.state = "complete"
        progress.tell()

    summaries = listen(tell)
    assert [one.number for summary in summaries for one in summary.tiles] == list(range(1, 60))
    assert [summary.state for summary in summaries][-1] == "complete"
    assert all(summary.state == "running" for summary in summaries[:-1])
    assert len(summaries) < 60


def test_the_first_summary_comes_at_once_and_the_end_ends_it():
    async def tell(progress):
        progress.state, progress.problem = "failed", Problem("time-out", "too slow")
        progress.tell()

    first, last = listen(tell)
    assert (first.state, first.problem) == ("running", None)
    assert (last.state, last.problem.what) == ("failed", "too slow")


def test_whoever_comes_late_is_told_everything():
    async def go():
        progress = Progress(1, 2, state="complete", snapshot_id=9)
        progress.tiles.extend([tile(1), tile(2)])
        return [summary async for summary in progress.listen()]

    (summary,) = asyncio.run(go())
    assert (summary.snapshot_id, len(summary.tiles), summary.calls) == (9, 2, 2)


def test_two_listeners_hear_the_same():
    async def go():
        progress = Progress(1, 2)

        async def hear():
            return [one.number async for summary in progress.listen(0.001) for one in summary.tiles]

        heard = [asyncio.create_task(hear()) for _ in range(2)]
        for number in range(1, 9):
            progress.tiles.append(tile(number))
            progress.tell()
            await asyncio.sleep(0)
        progress.state = "cancelled"
        progress.tell()
        return await asyncio.gather(*heard)

    assert asyncio.run(go()) == [list(range(1, 9))] * 2

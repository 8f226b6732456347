"""Work in a thread that stops when nobody waits for it any more."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from threading import Event
from typing import TypeVar

from fastapi import HTTPException, Request

from tin_bucket.engine.work_out.sandbox import Stopped

T = TypeVar("T")
_LOOKS = 0.25  # Seconds between two looks at whether the page is still there.


async def while_wanted(request: Request, work: Callable[[Event], T]) -> T:
    """Do some work in a thread. It is told to stop when the page that asked for it has been left.

    Args:
        work: takes the event that says so.
    """
    stop = Event()
    task = asyncio.create_task(asyncio.to_thread(work, stop))
    try:
        while not (await asyncio.wait([task], timeout=_LOOKS))[0]:
            if await request.is_disconnected():
                stop.set()
        return task.result()
    except Stopped:
        raise HTTPException(499, "Nobody waits for this any more.") from None
    except asyncio.CancelledError:
        stop.set()
        raise

"""A refresh as a command makes it: goes on where the last one stopped, says what it waits for, ends by a signal."""

from __future__ import annotations

import asyncio
import signal
import time
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from datetime import datetime, tzinfo

import typer

from tin_bucket.core.problem import fail
from tin_bucket.core.request.parameters.values import Given
from tin_bucket.core.table.table import Table
from tin_bucket.engine.clock import Clock
from tin_bucket.engine.due import COMMAND
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.run.progress import RunProgress
from tin_bucket.store.queries import Query
from tin_bucket.store.runs import Run
from tin_bucket.store.workspace import Workspace

from .common import WOULD_WAIT, counted
from .telling import progress_bar, tell

_SIGNALS = (signal.SIGINT, signal.SIGTERM)
_TOLD_FROM = 3.0  # Seconds; shorter waits are not told.
_LONG_WAIT = 60.0  # Seconds; a wait that --no-wait ends for.


@dataclass(frozen=True, slots=True)
class How:
    """How a refresh is made.

    Attributes:
        goes_on: from the saved answers of the last run: always, never, or where that stopped a while ago and asked the
            same.
        waits: whether it waits for limits that take longer than a minute.
        keeps: whether the workspace outlasts the command.
        takes: takes the table, where no snapshot is to be kept of it.
    """

    goes_on: bool | None = None
    waits: bool = True
    keeps: bool = True
    takes: Callable[[Table], None] | None = None


@dataclass(slots=True)
class _End:
    """Why a run was ended from outside."""

    signal: int | None = None
    wait: str = ""


def refresh_one(workspace: Workspace, query: Query, given: Mapping[str, Given], how: How) -> Run:
    """Refresh a query.

    Raises:
        ProblemError: why it could not begin.
        typer.Exit: a signal ended it, or it would have to wait; what was answered is saved.
    """
    return asyncio.run(_refresh_one(workspace, query, given, how))


async def _refresh_one(workspace: Workspace, query: Query, given: Mapping[str, Given], how: How) -> Run:
    engine = Engine(workspace, Clock())
    try:
        return await followed(engine, query, await begun(engine, query, given, how), how)
    finally:
        await engine.close()


async def begun(engine: Engine, query: Query, given: Mapping[str, Given], how: How) -> int:
    """Begin a refresh, or go on; gives the number of the run.

    Raises:
        ProblemError: why it could not begin.
    """
    if how.goes_on:
        last = next(iter(engine.workspace.runs.latest(query.id, 1)), None)
        if last is None:
            raise fail(
                "run-unknown",
                f"“{query.name}” was never refreshed, so there is nothing to go on from.",
                where=f"query “{query.name}”",
                do="Leave --go-on out.",
            )
        if any(last.bindings.get(name) != value for name, value in given.items()):
            raise fail(
                "options-unfit",
                "A run goes on with the values that it was begun with.",
                where="--param",
                do="Leave --param out, or begin anew with --afresh.",
            )
        return await _going_on(engine, query, last)
    if how.goes_on is None:
        stopped = await asyncio.to_thread(engine.stopped_run, query, given)
        if stopped is not None:
            return await _going_on(engine, query, stopped)
    return await engine.start(query.id, given, COMMAND, patient=False, takes=how.takes)


async def _going_on(engine: Engine, query: Query, run: Run) -> int:
    made = await engine.resume(run.id, COMMAND, patient=False)
    here = engine.clock.zone()
    since = datetime.fromisoformat(run.started).astimezone(here)
    tell(f"{query.name}: goes on from the run of {since:%Y-%m-%d %H:%M}, of which {_saved(engine, run)}.")
    return made


async def followed(engine: Engine, query: Query, run_id: int, how: How) -> Run:
    """Follow a run to its end; a signal, or a wait that is not waited for, ends it.

    Raises:
        typer.Exit: it was ended so.
    """
    end = _End()
    following = asyncio.ensure_future(_follow(engine, query, run_id, how, end))
    with _ending_by_signals(end, following):
        try:
            await following
            run = await engine.ended(query.id, run_id)
        except asyncio.CancelledError:
            await engine.close()
            run = await asyncio.to_thread(engine.workspace.runs.get, run_id)
    if end.signal is None and not end.wait:
        return run
    why = end.wait or "stopped by a signal"
    kept = (
        f"Of it {_saved(engine, run)}; the next run goes on from there."
        if how.keeps
        else "Of a brief file nothing is kept: the next run begins anew. A query in a workspace goes on."
    )
    tell(f"{query.name}: broken off: {why}. {kept}")
    raise typer.Exit(128 + end.signal if end.signal is not None else WOULD_WAIT)


def _saved(engine: Engine, run: Run) -> str:
    """“57 answers are saved”."""
    many = sum(call.can_be_taken for call in engine.workspace.runs.calls(run.id))
    return f"{counted(many, 'answer')} {'is' if many == 1 else 'are'} saved"


@contextmanager
def _ending_by_signals(end: _End, following: asyncio.Future[None]) -> Iterator[None]:
    """Signals end what is followed, and not the program."""
    loop = asyncio.get_running_loop()

    def stop(number: int) -> None:
        end.signal = number
        following.cancel()

    with suppress(RuntimeError, ValueError):  # In another thread than the main one there are none.
        for number in _SIGNALS:
            loop.add_signal_handler(number, stop, int(number))
    try:
        yield
    finally:
        with suppress(RuntimeError, ValueError):
            for number in _SIGNALS:
                loop.remove_signal_handler(number)


async def _follow(engine: Engine, query: Query, run_id: int, how: How, end: _End) -> None:
    progress = engine.progress(run_id)
    if progress is None:
        return
    zone = engine.clock.zone()
    told = ""
    with progress_bar(query.name) as bar:
        async for summary in progress.listen():
            made = summary.calls - summary.before_stage
            bar.update(made, summary.expected or made, f"{query.name}, {summary.stage}")
            wait = _wait_words(summary, zone)
            if wait and wait != told:
                told = wait
                tell(f"{query.name}: {wait}")
                until = summary.waiting.until if summary.waiting is not None else None
                if not how.waits and until is not None and until - time.time() > _LONG_WAIT:
                    end.wait = f"it {wait}"
                    raise asyncio.CancelledError


def _wait_words(summary: RunProgress, zone: tzinfo) -> str:
    """What a run waits for: “waits until 00:00 UTC, 1 h 25 min: 60 calls a day”; empty where that is over soon."""
    waiting = summary.waiting
    if waiting is None or waiting.what != "time" or waiting.until is None:
        return ""
    left = waiting.until - time.time()
    if left < _TOLD_FROM:
        return ""
    until = datetime.fromtimestamp(waiting.until, zone)
    day = "" if until.date() == datetime.now(zone).date() else f"{until:%Y-%m-%d} "
    clock = f"{until:%H:%M:%S}" if left < 120 else f"{until:%H:%M}"
    return f"waits until {day}{clock} {until:%Z}, {_span(left)}" + (f": {waiting.why}" if waiting.why else "")


def _span(seconds: float) -> str:
    minutes = round(seconds) // 60
    if minutes < 2:
        return f"{round(seconds)} s"
    if minutes < 60:
        return f"{minutes} min"
    hours, minutes = divmod(minutes, 60)
    return f"{hours} h {minutes} min" if minutes else f"{hours} h"

"""Counts the rows of tables that are worked out, in the background: the desk never waits for a table."""

from __future__ import annotations

import hashlib
import logging
from collections.abc import Iterable
from concurrent.futures import Future, ThreadPoolExecutor, wait
from contextlib import suppress
from threading import Event, Lock

from tin_bucket import __version__
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.work_out.steps import Source
from tin_bucket.engine.work_out.made_of import history_key
from tin_bucket.engine.work_out.work import WorkOut
from tin_bucket.store.queries import Query
from tin_bucket.store.worked_rows import WorkedRows
from tin_bucket.store.workspace import Workspace

_log = logging.getLogger(__name__)


class RowCounting:
    """Counts the rows of the newest tables of queries that start from tables.

    What was counted is kept in the workspace, for just what the table is made of. What is missing is counted one table
    after the other, on a thread of its own.
    """

    def __init__(self, workspace: Workspace, work_out: WorkOut) -> None:
        self._workspace, self._work_out = workspace, work_out
        self._lock = Lock()
        self._under_way: dict[int, Future[WorkedRows | None]] = {}
        self._stop = Event()
        self._threads = ThreadPoolExecutor(1, "row counting")

    def of(self, query_ids: Iterable[int], patience: float | None = None) -> dict[int, WorkedRows | None]:
        """The newest table of each query; ``None`` while its rows are being counted.

        Args:
            patience: how long to wait for what is missing, in seconds, for all together; until it is there where
                absent.
        """
        found: dict[int, WorkedRows | None] = {}
        waited: dict[int, Future[WorkedRows | None]] = {}
        with self._workspace.read_together():
            kept = self._workspace.worked_rows.all()
            for query_id in query_ids:
                found[query_id] = None
                try:
                    query = self._workspace.queries.get(query_id)
                except ProblemError:  # It was deleted just now.
                    continue
                key = self._made_of(query)
                known = kept.get(query_id)
                found[query_id] = known if known is not None and known.made_of == key else None
                if found[query_id] is None:
                    waited[query_id] = self._begin(query, key)
        wait(waited.values(), patience)
        done = {one: future for one, future in waited.items() if future.done() and not future.cancelled()}
        return found | {one: future.result() for one, future in done.items()}

    def count_all(self) -> None:
        """Count what is missing, and wait for it."""
        started = [query.id for query in self._workspace.queries.all() if query.brief.start is not None]
        self.of(started)

    def close(self) -> None:
        """Give up what is under way."""
        self._stop.set()
        self._threads.shutdown(cancel_futures=True)

    def _made_of(self, query: Query) -> str:
        told = repr((__version__, history_key(self._workspace, query)))
        return hashlib.blake2b(told.encode("utf-8", "replace"), digest_size=16).hexdigest()

    def _begin(self, query: Query, key: str) -> Future[WorkedRows | None]:
        with self._lock:
            before = self._under_way.get(query.id)
            if before is not None and not before.done():
                return before
            made: Future[WorkedRows | None] = Future()
            if self._stop.is_set():
                made.set_result(None)
            else:
                made = self._under_way[query.id] = self._threads.submit(self._count, query, key)
            return made

    def _count(self, query: Query, key: str) -> WorkedRows | None:
        """Count the rows, and keep what was counted; nothing where the table became another one meanwhile."""
        try:
            with self._workspace.read_together():
                counted = self._counted(query, key)
                if self._stop.is_set() or self._made_of(query) != key:
                    return None
        except ProblemError:  # It was deleted meanwhile.
            return None
        with suppress(ProblemError):  # On a full disk it is counted again by the next program that looks.
            self._workspace.worked_rows.put(counted)
        return counted

    def _counted(self, query: Query, key: str) -> WorkedRows:
        dates = self._work_out.timeline(query)
        if not dates:
            return WorkedRows(query.id, key, None, 0, 0)
        newest = dates[-1]
        rows, problem = 0, ""
        try:
            rows = self._work_out.other(Source(query.name), newest.taken, (), self._stop).height
        except ProblemError as error:
            problem = error.problem.what
        except Exception:
            if not self._stop.is_set():  # What was given up is no fault.
                _log.exception("The rows of query %d could not be counted", query.id)
            problem = "Its table could not be worked out. Open it to see why."
        return WorkedRows(query.id, key, newest.id, len(dates), rows, problem)

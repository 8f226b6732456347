"""When feeds run: behind refreshes, by hand, and again by themselves where they failed. A feed that fails spoils no
refresh and keeps no other feed from running."""

from __future__ import annotations

import asyncio
import logging
import threading
from collections import defaultdict
from collections.abc import Callable
from datetime import datetime, timedelta

from tin_bucket.cache import LockedCache
from tin_bucket.core.document.query import Brief
from tin_bucket.core.document.references import queries_behind
from tin_bucket.core.hand_over.feed import FeedModel
from tin_bucket.core.problem import Problem, ProblemError, fail
from tin_bucket.core.schedule.due import newest_due
from tin_bucket.core.traffic.address_policy import Reach
from tin_bucket.engine.clock import Clock
from tin_bucket.engine.tables.browse import Tables
from tin_bucket.feeds.delivery import Delivery, Handed
from tin_bucket.feeds.folders import Folders
from tin_bucket.feeds.registry import code_of
from tin_bucket.store.feeds import HandOver
from tin_bucket.store.queries import Query
from tin_bucket.store.runs import Run
from tin_bucket.store.workspace import Workspace

from .handed_tables import HandedTable, HandedTables

log = logging.getLogger("tin_bucket.feeds")
# Minutes until a feed that failed is tried again; the last pause repeats.
PAUSES = (1, 5, 15, 60, 180)
MOST_TRIES = 40
_NOT_BEHIND = ("by hand", "schedule")  # What does not run behind refreshes.


class Deliveries:
    """Runs feeds. Deliveries to one place never run at the same time."""

    def __init__(self, workspace: Workspace, tables: Tables, clock: Clock, reach: Reach = "own machine") -> None:
        self._workspace, self._clock, self._reach = workspace, clock, reach
        self._tables = HandedTables(workspace, tables, clock)
        self._locks: defaultdict[str, threading.Lock] = defaultdict(threading.Lock)
        self._guard = threading.Lock()
        self._tasks: set[asyncio.Task[None]] = set()
        self._trying: set[tuple[int, str]] = set()
        self._timed: LockedCache[int, list[tuple[int, datetime, FeedModel]]] = LockedCache(2)

    # Behind refreshes ------------------------------------------------------------------------------------------

    def after(self, run: Run) -> None:
        """Let the feeds of a query run, whose refresh has ended. On the event loop alone."""
        if run.state not in ("complete", "unverified", "incomplete"):
            return
        task = asyncio.create_task(asyncio.to_thread(self._after, run))
        self._tasks.add(task)
        task.add_done_callback(self._tasks.discard)

    def also(self, work: Callable[[], None]) -> None:
        """Let something else run behind a refresh, in a thread; close waits for it. On the event loop alone."""
        task = asyncio.create_task(asyncio.to_thread(work))
        self._tasks.add(task)
        task.add_done_callback(self._tasks.discard)

    def _after(self, run: Run) -> None:
        try:
            query = self._workspace.queries.get(run.query_id)
        except ProblemError:
            return  # It was deleted meanwhile.
        for feed in query.brief.hand_over:
            if feed.off or feed.live or feed.when in _NOT_BEHIND or (run.state == "incomplete" and feed.when != "any"):
                continue
            if query.brief.start is not None and self._is_handed_over(query, feed):
                continue  # It was, when what it starts from was refreshed.
            self.deliver(query, feed, "after a refresh")
        self._after_what_is_made_of(query)

    def _is_handed_over(self, query: Query, feed: FeedModel) -> bool:
        """Whether the newest table was handed over already."""
        record, newest = self._workspace.feeds.record(query.id, feed.key), self._tables.newest(query)
        return newest is not None and record.snapshot_id == newest.id and not record.tries

    def _after_what_is_made_of(self, refreshed: Query) -> None:
        """Let the feeds of the queries run that start from the table that was refreshed, or from one made of it."""
        queries = {query.name: query for query in self._workspace.queries.all()}
        for name in queries_behind(refreshed.name, ((one, query.brief) for one, query in queries.items())):
            for feed in queries[name].brief.hand_over:
                if not feed.off and not feed.live and feed.when not in _NOT_BEHIND:
                    self.deliver(queries[name], feed, f"after “{refreshed.name}”")

    async def look(self) -> None:
        """Let the feeds run that are due by times of their own, and try those again that failed."""
        now = self._clock.now()
        for query_id, key, cause in await asyncio.to_thread(self._due, now):
            if (query_id, key) not in self._trying:
                self._trying.add((query_id, key))
                task = asyncio.create_task(asyncio.to_thread(self._again, query_id, key, cause))
                self._tasks.add(task)
                task.add_done_callback(self._tasks.discard)

    def _due(self, now: datetime) -> list[tuple[int, str, str]]:
        """What is due now: query, feed, and why."""
        found = [(*one, "tried again") for one in self._workspace.feeds.due(now.isoformat())]
        last: dict[tuple[int, str], HandOver] | None = None
        for query_id, saved, feed in self._timed.get_or_make(self._workspace.queries.version(), self._timed_feeds):
            last = self._workspace.feeds.last() if last is None else last
            before = last.get((query_id, feed.key))
            since = max(saved, datetime.fromisoformat(before.started)) if before is not None else saved
            if feed.schedule is not None and newest_due(feed.schedule, since, now) is not None:
                found.append((query_id, feed.key, "schedule"))
        return found

    def _timed_feeds(self) -> list[tuple[int, datetime, FeedModel]]:
        """The feeds with times of their own, and when their queries were saved."""
        return [
            (query.id, self._workspace.queries.saved(query.id), feed)
            for query in self._workspace.queries.all()
            for feed in query.brief.hand_over
            if feed.schedule is not None and not feed.off and not feed.live
        ]

    def _again(self, query_id: int, key: str, cause: str) -> None:
        try:
            query = self._workspace.queries.get(query_id)
            feed = next((one for one in query.brief.hand_over if one.key == key), None)
            if feed is None or feed.off:
                self._workspace.feeds.stop_trying(query_id, key)
            else:
                self.deliver(query, feed, cause)
        except ProblemError as error:
            log.warning("a feed of query %s: %s", query_id, error.problem.sentence())
        finally:
            self._trying.discard((query_id, key))

    async def idle(self) -> None:
        """Wait until no feed is running."""
        while self._tasks:
            await asyncio.gather(*self._tasks, return_exceptions=True)

    # One feed --------------------------------------------------------------------------------------------------

    def feed_of(self, query_id: int, key: str) -> tuple[Query, FeedModel]:
        """A feed of a saved query.

        Raises:
            ProblemError: ``query-unknown``, ``feed-unknown``.
        """
        query = self._workspace.queries.get(query_id)
        feed = next((one for one in query.brief.hand_over if one.key == key), None)
        if feed is None:
            raise fail(
                "feed-unknown",
                f"“{query.name}” has no such feed now.",
                where=f"query “{query.name}”",
                do="Save the query with the feed, then run it.",
            )
        return query, feed

    def ahead(self, query_id: int, brief: Brief, feed: FeedModel) -> tuple[Handed, HandedTable]:
        """What a feed would do, also one that is not saved yet; nothing is written.

        Args:
            brief: the query as it is now.

        Raises:
            ProblemError: it cannot be done.
        """
        saved = self._workspace.queries.get(query_id)
        query = Query(saved.id, brief.name, saved.brief_id, brief)
        with self._workspace.snapshots.reading():
            delivery, table = self._delivery(query, feed)
            return code_of(feed).ahead(feed, delivery), table

    def deliver(self, query: Query, feed: FeedModel, cause: str) -> HandOver:
        """Run a feed. What goes wrong is in what it gives, and the feed is tried again by itself."""
        started = self._clock.now().isoformat()
        snapshot = taken = None
        handed: Handed | None = None
        problem: Problem | None = None
        record = self._workspace.feeds.record(query.id, feed.key)
        with self._lock(feed):
            try:
                with self._workspace.snapshots.reading():
                    delivery, table = self._delivery(query, feed)
                    snapshot = table.snapshot.id if table.snapshot is not None else None
                    taken = table.dated.taken.isoformat()
                    if table.dated.state == "incomplete" and feed.when != "any":
                        raise _incomplete(query, table)
                    handed = code_of(feed).deliver(feed, delivery)
            except ProblemError as error:
                problem = error.problem
            except Exception as error:
                log.error("feed %s: %s", feed.key, type(error).__name__, exc_info=error)
                what = f"The program itself failed ({type(error).__name__})."
                problem = Problem("program-fault", what, feed.place(), "It is tried again by itself.")
        done = HandOver(
            query.id, feed.key, feed.place(), cause, snapshot, taken, started, self._clock.now().isoformat(),
            state="failed" if handed is None else "nothing" if handed.nothing else "done",
            rows=handed.rows if handed is not None else 0,
            told=[*handed.told, *handed.warned] if handed is not None else [],
            problem=problem,
        )  # fmt: skip
        next_try = None
        if problem is not None:
            log.warning("“%s” was not handed over: %s", query.name, problem.sentence())
            if record.tries + 1 < MOST_TRIES:
                pause = PAUSES[min(record.tries, len(PAUSES) - 1)]
                next_try = (self._clock.now() + timedelta(minutes=pause)).isoformat()
        memory = handed.memory if handed is not None and (handed.memory or not handed.nothing) else None
        return self._workspace.feeds.note(done, memory, next_try)

    def _delivery(self, query: Query, feed: FeedModel) -> tuple[Delivery, HandedTable]:
        settings = self._workspace.settings
        record = self._workspace.feeds.record(query.id, feed.key)
        table = self._tables.of(query, feed, record.snapshot_id)
        delivery = Delivery(
            table=table.dated,
            match=table.match,
            memory=record.memory,
            folders=Folders(settings.own_folder, settings.written_folders),
            versions=self._workspace.home / "versions" / f"{query.id}-{feed.key}",
            now=self._clock.here(),
            other=self._tables.other,
            dates=lambda: self._tables.dates(query),
            password=lambda one: self.password(query.id, one),
            reach=self._reach,
            whole=table.whole,
        )
        return delivery, table

    # Passwords -------------------------------------------------------------------------------------------------

    def store_password(self, query_id: int, feed: FeedModel, password: str) -> None:
        """Keep the password of a feed in the vault. It is bound to the account that it is for.

        Raises:
            ProblemError: ``vault-closed``.
        """
        self._workspace.queries.get(query_id)
        place = key_of(query_id, feed)
        self._workspace.vault.store(place, feed.account(), {"password": password}, self._clock.now())

    def has_password(self, query_id: int, feed: FeedModel) -> bool:
        """Whether a password is kept for the account of a feed."""
        state = self._workspace.vault.state(key_of(query_id, feed))
        return state is not None and state.origin == feed.account()

    def password(self, query_id: int, feed: FeedModel) -> str:
        """The password of a feed; an empty text where none is kept.

        Raises:
            ProblemError: ``key-bound-elsewhere``, ``vault-closed``.
        """
        found = self._workspace.vault.open(key_of(query_id, feed))
        if found is None:
            return ""
        if found.origin != feed.account():
            raise fail(
                "key-bound-elsewhere",
                "The stored password is for another account.",
                where=feed.place(),
                do="Enter the password of this one.",
            )
        return found.secret.get("password", "")

    def _lock(self, feed: FeedModel) -> threading.Lock:
        """One lock a path: feeds of one workbook wait for each other."""
        path = str(getattr(feed, "path", feed.place()))
        with self._guard:
            return self._locks[path.casefold()]


def key_of(query_id: int, feed: FeedModel) -> str:
    """Under what the password of a feed is kept."""
    return f"feed:{query_id}:{feed.key}"


def _incomplete(query: Query, table: HandedTable) -> ProblemError:
    return fail(
        "table-incomplete",
        f"The table is incomplete: {table.dated.evidence or 'some of it is missing'}.",
        where=f"query “{query.name}”",
        do="Refresh it again, or let the feed hand over incomplete tables too.",
    )

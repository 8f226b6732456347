"""Lets calls go when their service's limits allow it, and takes turns between runs that ask the same service."""

from __future__ import annotations

import asyncio
import math
from collections import OrderedDict, deque
from collections.abc import Callable
from dataclasses import dataclass, field

from tin_bucket.core.document.service import Service
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.response.response import Answer
from tin_bucket.core.traffic.advertised_limits import AdvertisedLimits, advertised_limits
from tin_bucket.core.traffic.concurrency import Throttle
from tin_bucket.core.traffic.observed_limit import Attempt
from tin_bucket.core.traffic.pace import Allowance, Pace
from tin_bucket.core.traffic.unchanged_count import UnchangedCount
from tin_bucket.engine.clock import Clock
from tin_bucket.store.workspace import Workspace

# Told when a call has to wait: until when, in seconds since 1970, and why. `None`: it waits no more.
Waits = Callable[[tuple[float, str] | None], None]
_REMEMBERED = 5_000  # Calls of a service whose moments are kept, for finding a limit that nobody stated.
_TOLD_FROM = 0.3  # Seconds; a shorter wait is not shown.


@dataclass(slots=True)
class _Queue:
    """The calls of one run that wait, in order, and how the run is told."""

    waiting: deque[asyncio.Future[None]] = field(default_factory=deque)
    waits: Waits | None = None
    told: bool = False


@dataclass(frozen=True, slots=True)
class LaneView:
    """What a lane is like at a moment, for threads: `pace` is a copy, `seconds` how long an answer takes, `now` the
    moment in seconds since 1970."""

    pace: Pace
    left: list[Allowance]
    seconds: float
    now: float
    advertised: AdvertisedLimits | None


class Lane:
    """The way to one service. It belongs to the event loop: only :attr:`unsaved` is touched by threads."""

    def __init__(self, service: Service, pace: Pace, clock: Clock) -> None:
        self._clock = clock
        self.pace = pace
        self.throttle = Throttle(service.at_once)
        self.flying = 0
        self.seconds = 0.3  # How long an answer takes, for forecasts; learnt.
        self.advertised: AdvertisedLimits | None = None
        self._refused_from: int | None = None
        self._most_address = service.most_address
        self._unchanged = UnchangedCount()
        self._unchanged_is_free = not service.unchanged_counts
        self.unsaved: deque[float] = deque()
        self.attempts: deque[Attempt] = deque(maxlen=_REMEMBERED)
        self._queues: OrderedDict[object, _Queue] = OrderedDict()
        self._timer: asyncio.Handle | None = None

    def now(self) -> float:
        """Seconds since 1970."""
        return self._clock.now().timestamp()

    async def rest(self, seconds: float) -> None:
        """Wait before a call of its own is made again."""
        await self._clock.sleep(seconds)

    def set(self, service: Service) -> None:
        """Take the service's limits as they are now."""
        self.pace.windows = list(service.limits)
        self._most_address = service.most_address
        self._unchanged_is_free = not service.unchanged_counts
        self.throttle.set_most(service.at_once)

    async def enter(self, owner: object, waits: Waits | None = None) -> None:
        """Wait until a call may go. The caller calls :meth:`leave` when it was answered."""
        future: asyncio.Future[None] = asyncio.get_running_loop().create_future()
        queue = self._queues.setdefault(owner, _Queue(waits=waits))
        queue.waiting.append(future)
        self._pump()
        try:
            await future
        except asyncio.CancelledError:
            if future.done() and not future.cancelled():
                self.leave(0.0, None)
            self._pump()
            raise

    def leave(self, seconds: float, answer: Answer | None, refused: bool = False) -> None:
        """A call was answered, or given up."""
        now = self.now()
        self.flying -= 1
        told = advertised_limits(answer.headers, now) if answer is not None and answer.failure is None else None
        if answer is not None and told is not None and told.left is not None:
            self._unchanged.answered(answer.status, told.left)
        free = answer is not None and answer.status == 304 and (self._unchanged_is_free or self._unchanged.are_free)
        self.pace.done(now, counts=not free)
        if self.pace.windows and not free:
            self.unsaved.append(now)
        if answer is not None and answer.failure is None:
            self.attempts.append(Attempt(now - seconds, now, answer.status == 429))
        if answer is not None:
            self.throttle.answered(seconds, refused)
            if answer.failure is None:
                self.seconds += (seconds - self.seconds) * 0.1
                self._learn(told, now)
        self._pump()

    def _learn(self, told: AdvertisedLimits | None, now: float) -> None:
        if told is None:
            return
        self.advertised = told
        # Known limits are kept in advance, to the fraction of a second.
        if not self.pace.windows and told.left == 0 and told.resets is not None and 0 < told.resets <= 86_400:
            self.pace.hold(now + told.resets, "the service says that no call is left")

    @property
    def most_address(self) -> int | None:
        """Characters of the longest address that the service takes, as it is set or as its refusals tell."""
        if self._most_address is not None or self._refused_from is None:
            return self._most_address
        return self._refused_from - 1

    def refused_as_too_long(self, length: int) -> None:
        """An address of that many characters was refused as too long."""
        self._refused_from = min(length, self._refused_from or length)

    def hold(self, until: float, why: str) -> None:
        """Let no call go before a moment."""
        self.pace.hold(until, why)
        self._pump()

    def view(self) -> LaneView:
        """What it is like now."""
        now = self.now()
        return LaneView(self.pace.copy(), self.pace.left(now), self.seconds, now, self.advertised)

    def left(self) -> list[Allowance]:
        """What is left of each window."""
        return self.pace.left(self.now())

    def _pump(self) -> None:
        """Let go whatever may go; the runs take turns."""
        if self._timer is not None:
            self._timer.cancel()
            self._timer = None
        for owner in [owner for owner, queue in self._queues.items() if all(f.done() for f in queue.waiting)]:
            queue = self._queues.pop(owner)
            self._tell(queue, None)
        while self._queues and self.flying < self.throttle.now:
            now = self.now()
            turn = self.pace.next(now)
            if turn.at > now:
                if not math.isinf(turn.at):
                    self._timer = self._clock.call_later(turn.at - now, self._pump)
                    # While calls are under way nobody only waits; whoever stops at a wait would lose their answers.
                    if turn.at - now > _TOLD_FROM and not self.flying:
                        for queue in self._queues.values():
                            self._tell(queue, (turn.at, turn.why))
                return
            owner, queue = next(iter(self._queues.items()))
            future = queue.waiting.popleft()
            # The next one to go is of another run, if one waits.
            self._queues.move_to_end(owner)
            if not queue.waiting:
                del self._queues[owner]
            if future.done():
                continue
            self._tell(queue, None)
            self.flying += 1
            self.pace.start()
            future.set_result(None)

    def _tell(self, queue: _Queue, wait: tuple[float, str] | None) -> None:
        if queue.waits is not None and (wait is not None or queue.told):
            queue.told = wait is not None
            queue.waits(wait)


class Pacer:
    """The lanes of all services."""

    def __init__(self, workspace: Workspace, clock: Clock) -> None:
        self._workspace = workspace
        self._clock = clock
        self._lanes: dict[str, Lane] = {}
        self._loaded: dict[str, float] = {}
        self._versions: dict[str, int] = {}

    def lane(self, service: Service, key_version: int = 0) -> Lane:
        """The lane to a service, with its limits as they are now. On the event loop alone: threads take a view."""
        asyncio.get_running_loop()  # Two lanes that threads made would keep no limit.
        lane = self._lanes.get(service.id)
        if lane is None:
            lane = self._lanes[service.id] = Lane(service, Pace(service.limits), self._clock)
            self._versions[service.id] = key_version
            self.reload(service)
        lane.set(service)
        if self._versions[service.id] != key_version:
            self._versions[service.id] = key_version
            lane.pace.renew_key(lane.now())
        return lane

    def attempts(self, service_id: str, since: float) -> list[Attempt]:
        """The latest calls of a service that were sent since a moment. On the event loop alone."""
        lane = self._lanes.get(service_id)
        return [one for one in lane.attempts if one.sent >= since] if lane is not None else []

    def reload(self, service: Service) -> None:
        """Take over what other programs, and this one before its restart, have asked of a service."""
        lane = self._lanes.get(service.id)
        horizon = max((window.seconds for window in service.limits), default=0.0)
        if lane is None or not horizon:
            return
        now = lane.now()
        since = max(self._loaded.get(service.id, 0.0), now - horizon)
        lane.pace.add(self._workspace.paces.since(service.id, since, self._workspace.process))
        self._loaded[service.id] = now

    def save(self) -> None:
        """Write down when calls were answered, so that the limits are kept after a restart too. One thread at a
        time.

        Raises:
            ProblemError: the workspace cannot be written; nothing is lost then, and the next time tries again.
        """
        for service_id, lane in list(self._lanes.items()):
            unsaved = [lane.unsaved.popleft() for _ in range(len(lane.unsaved))]
            if not unsaved:
                continue
            try:
                keep = lane.now() - lane.pace.horizon()
                self._workspace.paces.add(service_id, unsaved, keep)
            except ProblemError:
                lane.unsaved.extendleft(reversed(unsaved))
                raise

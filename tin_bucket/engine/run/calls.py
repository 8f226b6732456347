"""Makes the calls of a run: from saved answers where it resumes, waiting for a new key where one is refused."""

from __future__ import annotations

import asyncio
from dataclasses import dataclass, replace
from typing import Any

from tin_bucket.core.problem import Problem, ProblemError
from tin_bucket.core.request.call import Call
from tin_bucket.core.response.classify import classify
from tin_bucket.core.response.response import Answer
from tin_bucket.core.response.retry import Pause
from tin_bucket.core.traffic.observed_limit import Attempt
from tin_bucket.engine.clock import Clock
from tin_bucket.engine.network.sender import Connections, Sender
from tin_bucket.store.runs import CallRecord
from tin_bucket.store.workspace import Workspace

from .earlier_answers import EarlierAnswers
from .journal import CallJournal
from .plan import RunPlan
from .progress import Progress, Waiting

# What a run waits for when it may: a new key, or a token.
WAITED_FOR = ("key-refused", "key-missing", "key-bound-elsewhere", "token-wanted", "vault-closed")


@dataclass(frozen=True, slots=True)
class Got:
    """An answer and when its call was sent.

    Attributes:
        saved: whether an earlier run had saved it, so that no call was made.
        unchanged: whether the service said that the saved one is up to date.
    """

    answer: Answer
    sent: str
    saved: bool = False
    unchanged: bool = False


class Saved:
    """The answers of an earlier run, by what was asked."""

    def __init__(self, workspace: Workspace, run_id: int) -> None:
        self._workspace = workspace
        self._run_id = run_id
        self._known: dict[Any, list[CallRecord]] = {}
        for record in workspace.runs.calls(run_id):
            if record.can_be_taken:
                self._known.setdefault(_asked(record.call()), []).append(record)

    def take(self, call: Call) -> Got | None:
        """The saved answer to a call, each once; ``None`` when there is none."""
        records = self._known.get(_asked(call))
        if not records:
            return None
        record = records.pop(0)
        try:
            body = self._workspace.archive.body(self._run_id, record.number)
        except ProblemError:
            return None
        answer = Answer(record.status, record.answer_headers, body, record.seconds, note=record.note)
        return Got(answer, record.sent, True)


def _asked(call: Call) -> Any:
    return call.stage, call.iteration, call.method, call.address, call.body


class CallRunner:
    """The calls of one run, over the network or from what is saved."""

    def __init__(
        self,
        connections: Connections,
        clock: Clock,
        plan: RunPlan,
        journal: CallJournal,
        progress: Progress,
        patient: bool,
        saved: Saved | None,
        earlier: EarlierAnswers,
    ) -> None:
        """
        Args:
            patient: whether a refused key is waited for.
            saved: the answers of the run that this one resumes.
            earlier: the answers of the runs before, which the service is asked about.
        """
        self._connections = connections
        self._clock = clock
        self._plan = plan
        self._journal = journal
        self._progress = progress
        self._patient = patient
        self._saved = saved
        self._earlier = earlier
        self._senders: dict[str, Sender] = {}
        self._for_keys: list[Waiting] = []
        self._for_time: Waiting | None = None
        self._waited_since = 0.0
        self.answered = False
        self.used_keys: set[str] = set()

    def sender(self, service_id: str) -> Sender:
        """The sender of a service."""
        sender = self._senders.get(service_id)
        if sender is None:
            service = self._plan.services[service_id]
            sender = self._senders[service_id] = Sender(
                self._connections,
                service,
                self._signed_in,
                self._tried,
                lambda wait: self._waits(service_id, wait),
                self._progress.run_id,
            )
        return sender

    async def send(self, call: Call, service_id: str, spools: bool = False) -> Got:
        """Make a call, or take its saved answer. When its key is refused, wait for a new one and make it again.

        Raises:
            ProblemError: why no call could be made.
        """
        if self._saved is not None:
            found = await asyncio.to_thread(self._saved.take, call)
            if found is not None:
                return found
        service = self._plan.services[service_id]
        knows = service.conditional
        while True:
            earlier = await asyncio.to_thread(self._earlier.find, call, service) if knows else None
            asked = call if earlier is None else earlier.ask(call)
            sent, version = self.now(), self._connections.credentials.version(service_id)
            problem: Problem | None = None
            answer: Answer | None = None
            try:
                answer = await self.sender(service_id).send(asked, spools)
                self.used_keys.add(service_id)
                if answer.status == 401 or (answer.status == 403 and not self.answered):
                    problem = classify(answer).problem
            except ProblemError as error:
                if error.problem.kind not in WAITED_FOR:
                    raise
                problem = error.problem
            if earlier is not None and answer is not None and answer.status in (304, 412):
                here = await asyncio.to_thread(self._earlier.answer, earlier, answer) if answer.status == 304 else None
                if here is not None:
                    return Got(here, sent, unchanged=True)
                # It is not kept any more, or the service does not take the condition.
                self._journal.made(call, answer, sent, 0, None, "again", used=False)
                knows = False
                continue
            keyed = service.key is not None
            if problem is None or problem.kind not in WAITED_FOR or not keyed or not self._patient:
                if answer is None:
                    assert problem is not None
                    raise ProblemError(problem)
                return Got(answer, sent)
            if answer is not None:
                self._journal.made(call, answer, sent, 0, placed(problem, call), used=False)
            await self._wait_for_key(service_id, version, placed(problem, call) if answer is not None else problem)

    async def _wait_for_key(self, service_id: str, version: int, problem: Problem) -> None:
        self._journal.flush_soon()
        waiting = Waiting("key", service_id, problem)
        self._for_keys.append(waiting)
        self._show_waiting()
        try:
            await self._connections.credentials.changed(service_id, version)
        finally:
            self._for_keys.remove(waiting)
            self._show_waiting()

    def _show_waiting(self) -> None:
        """Show what the run waits for; of several calls that wait, a key goes before the limits."""
        self._progress.waiting = self._for_keys[-1] if self._for_keys else self._for_time
        self._progress.tell()

    def _signed_in(self, call: Call, answer: Answer, sent: str) -> None:
        """Note a sign-in call among the others; its answer, which holds the token, is not kept."""
        problem = classify(answer).problem
        self._journal.made(call, answer, sent, 0, placed(problem, call) if problem else None, used=False)

    def _tried(self, call: Call, answer: Answer, sent: str, pause: Pause) -> None:
        problem = classify(answer).problem
        told = placed(problem, call) if problem is not None else None
        self._journal.made(call, answer, sent, 0, told, "again", used=False)

    def _waits(self, service_id: str, wait: tuple[float, str] | None) -> None:
        """Show what the run waits for, and count how long it does nothing else."""
        if wait is not None:
            until, why = wait
            self._for_time = Waiting("time", service_id, None, until, why)
            self._waited_since = self._waited_since or self._clock.elapsed()
            self._journal.flush_soon()
        else:
            self._for_time = None
            if self._waited_since:
                self._journal.tally.waited += self._clock.elapsed() - self._waited_since
                self._waited_since = 0.0
        self._show_waiting()

    def attempts(self, service_id: str, since: float) -> list[Attempt]:
        """The calls of a service that were sent since a moment, in seconds since 1970, by whichever run."""
        return self._connections.pacer.attempts(service_id, since)

    def now(self) -> str:
        """This moment as ISO 8601."""
        return self._clock.now().isoformat(timespec="milliseconds")


def short_words(call: Call) -> str:
    """A call without its parameters, for the place of a problem."""
    return f"{call.method} {call.address.split('?')[0]}" + (f", {call.label}" if call.label else "")


def placed(problem: Problem, call: Call) -> Problem:
    """The problem with the call that it belongs to, without the call's parameters."""
    return replace(problem, where=short_words(call))

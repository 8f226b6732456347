"""The answers that earlier runs of a query saved, so that a service is asked only for what changed since."""

from __future__ import annotations

import threading
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime

from tin_bucket.core.document.service import Service
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.request.call import Call
from tin_bucket.core.response.conditional import (
    Validators,
    conditional,
    may_be_conditional,
    unchanged,
    validators_of,
)
from tin_bucket.core.response.response import Answer
from tin_bucket.store.runs import CallRecord
from tin_bucket.store.workspace import Workspace

_MOST_RUNS = 8  # So many runs back an answer is looked for.
_Asked = tuple[str, str, tuple[tuple[str, str], ...]]


@dataclass(frozen=True, slots=True)
class EarlierAnswer:
    """A saved answer, without its body, and what the service said of its version."""

    run_id: int
    record: CallRecord
    validators: Validators

    def ask(self, call: Call) -> Call:
        """The call, on the condition that this answer is out of date."""
        return conditional(call, self.validators)


class EarlierAnswers:
    """Finds the newest saved answer to a call. Threads may share it."""

    def __init__(self, workspace: Workspace, query_id: int, run_id: int) -> None:
        """
        Args:
            run_id: the run that asks; the ones before it are looked at.
        """
        self._workspace = workspace
        self._query_id = query_id
        self._run_id = run_id
        self._lock = threading.Lock()
        self._runs: list[int] | None = None
        self._known: dict[_Asked, EarlierAnswer] = {}

    def find(self, call: Call, service: Service) -> EarlierAnswer | None:
        """The newest saved answer to a call that the service can be asked about; ``None`` when there is none.

        An answer that came with another key is none: what one key may see is not what the other may.
        """
        if not service.conditional or not may_be_conditional(call):
            return None
        if service.key is not None and service.key.source.pasted:
            return None  # Nobody can tell whose token the one before was.
        asked = (call.stage, call.address, call.headers)
        with self._lock:
            found = self._known.get(asked)
            while found is None and self._load():
                found = self._known.get(asked)
            return found if found is not None and self._is_of_this_key(found, service) else None

    def _load(self) -> bool:
        """Take the run before those that are known already; whether there was one worth it."""
        if self._runs is None:
            latest = self._workspace.runs.latest(self._query_id, _MOST_RUNS)
            self._runs = [run.id for run in latest if run.id < self._run_id]
        if not self._runs:
            return False
        run_id = self._runs.pop(0)
        saved = [record for record in self._workspace.runs.calls(run_id) if record.can_be_taken]
        told = [(record, validators_of(record.answer_headers)) for record in saved if record.status == 200]
        if saved and not any(validators for _, validators in told):
            self._runs = []  # The service says nothing of versions; the runs before are no better.
        for record, validators in told:
            if validators is not None and record.method == "GET":
                asked = (record.stage, record.address, record.call().headers)
                self._known.setdefault(asked, EarlierAnswer(run_id, record, validators))
        return True

    def _is_of_this_key(self, found: EarlierAnswer, service: Service) -> bool:
        if service.key is None:
            return True
        state = self._workspace.vault.state(service.id)  # Looked at each time: a key may be replaced during a run.
        if state is None:
            return False
        return datetime.fromisoformat(found.record.sent) >= datetime.fromisoformat(state.stored)

    def answer(self, found: EarlierAnswer, answer: Answer) -> Answer | None:
        """The saved answer as a 304 freshens it; ``None`` when it was let go meanwhile."""
        record = found.record
        with suppress(ProblemError):
            body = self._workspace.archive.body(found.run_id, record.number)
            return unchanged(answer, Answer(record.status, record.answer_headers, body))
        return None

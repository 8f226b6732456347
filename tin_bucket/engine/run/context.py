"""What the parts of one run share."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from tin_bucket.core.document.query import Brief
from tin_bucket.core.document.report import RunReport
from tin_bucket.core.response.error_rules import ErrorRule
from tin_bucket.core.table.table import Table
from tin_bucket.engine.clock import Clock
from tin_bucket.engine.network.sender import Connections
from tin_bucket.store.runs import Run
from tin_bucket.store.workspace import Workspace

from .calls import CallRunner, Saved
from .earlier_answers import EarlierAnswers
from .journal import CallJournal
from .plan import RunPlan
from .progress import Progress

# What fails every iteration alike.
FOR_ALL = (
    "key-refused",
    "key-missing",
    "key-bound-elsewhere",
    "token-wanted",
    "vault-closed",
    "key-unfit",
    "host-unknown",
    "address-not-allowed",
    "not-secure",
)


@dataclass(slots=True)
class RunContext:
    """One run: what is asked, what is known of it so far, and how its calls are made.

    Attributes:
        plan: what is asked.
        run: what will be written of it.
        progress: what is shown of it while it runs.
        journal: its calls.
        runner: makes them.
        takes: takes the table, where no snapshot is kept of it.
        ending: says whether the program ends, and its runs go on when it begins again.
    """

    workspace: Workspace
    clock: Clock
    plan: RunPlan
    run: Run
    progress: Progress
    journal: CallJournal
    runner: CallRunner
    takes: Callable[[Table], None] | None = None
    ending: Callable[[], bool] = lambda: False

    @property
    def brief(self) -> Brief:
        """The brief that it refreshes."""
        return self.plan.brief

    @property
    def report(self) -> RunReport:
        """What people should know of it."""
        return self.run.report

    @property
    def error_rules(self) -> Sequence[ErrorRule]:
        """The rules of the service that the question asks."""
        return self.plan.services[self.plan.service_id].error_rules if self.plan.service_id else ()

    def at_once(self, service_id: str) -> int:
        """How many calls of a service are prepared together; its lane says how many go."""
        return self.plan.services[service_id].at_once

    def stage(self, name: str, expected: int | None) -> None:
        """Tell that a new stage begins, and how many calls it will make where that is known."""
        progress = self.progress
        progress.stage, progress.expected, progress.before_stage = name, expected, len(progress.tiles)
        progress.again = 0
        progress.tell()


def run_context(
    workspace: Workspace,
    clock: Clock,
    connections: Connections,
    plan: RunPlan,
    run: Run,
    progress: Progress,
    patient: bool,
    saved: Saved | None = None,
    takes: Callable[[Table], None] | None = None,
) -> RunContext:
    """The context of a run.

    Args:
        patient: whether the run waits for a new key when its key is refused.
        saved: the answers of the run that this one resumes.
        takes: takes the table, where no snapshot is kept of it.
    """
    journal = CallJournal(workspace, run, progress, connections.pacer, stores=takes is None)
    earlier = EarlierAnswers(workspace, run.query_id, run.id)
    runner = CallRunner(connections, clock, plan, journal, progress, patient, saved, earlier)
    return RunContext(workspace, clock, plan, run, progress, journal, runner, takes)

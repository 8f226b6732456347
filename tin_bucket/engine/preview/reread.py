"""Reading answers that are here already in another way, at no call: for a look, or for good."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC

from tin_bucket.core.detect.records import guess_rows
from tin_bucket.core.document.query import Brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.pagination.evidence import guess_pages, short_of_total
from tin_bucket.core.pagination.protocol import LISTING, make_page, stated_number
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.request.variables import Scope, make_scope
from tin_bucket.core.response.classify import Verdict
from tin_bucket.core.response.error_rules import Fault
from tin_bucket.core.table.rebuild import READING_NOTES, Pages, Replay, SavedPage, reading_notes
from tin_bucket.core.table.select import Reading
from tin_bucket.engine.clock import Clock
from tin_bucket.engine.gc_pause import collector_paused
from tin_bucket.engine.run.calls import placed
from tin_bucket.store.archive import AnswersByAddress
from tin_bucket.store.runs import Run
from tin_bucket.store.snapshots import Snapshot
from tin_bucket.store.workspace import Workspace

from .parsed_cache import Documents
from .preview import Trial, Trials

KEPT_UNPACKED = 4  # Runs whose answers are at hand while a brief is edited.
# Bytes of answers whose records stay at hand for another reading, and of those that are gathered before there is one.
KEPT_FROM, PREPARED_TO, KEPT_TO = 500_000, 128 * 2**20, 2**30
_LOOKED_FOR = 40  # The newest runs among which one with saved answers is looked for.


@dataclass(frozen=True, slots=True)
class Remade:
    """A snapshot that was read anew."""

    snapshot: Snapshot
    reading: Reading


@dataclass(frozen=True, slots=True)
class _AtHand:
    """Records of a trial's answers that are at hand for another reading."""

    answers: Sequence[SavedPage]
    faults: Sequence[Fault]
    pages: Pages


class Rereader:
    """Reads saved answers of a workspace."""

    def __init__(self, workspace: Workspace, clock: Clock, trials: Trials) -> None:
        self._workspace = workspace
        self._clock = clock
        self._trials = trials
        self._kept: OrderedDict[int, Trial] = OrderedDict()
        self._at_hand: _AtHand | None = None
        self.documents = Documents()

    def reread(
        self, query_id: int, brief: Brief, trial_number: int | None = None, most: int | None = None
    ) -> int | None:
        """Read answers that are here already as a brief says.

        Args:
            trial_number: the trial whose answers are read; without one, the newest run of the query that kept some.
            most: read only so many records, for a table that is in sight at once.

        Returns:
            The number of the new trial, or ``None`` when no answers are kept.
        """
        trial = self._trial(query_id, brief, trial_number)
        if trial is None:
            return None
        self.read(trial, most)
        return self._trials.add(trial)

    def _trial(self, query_id: int, brief: Brief, number: int | None) -> Trial | None:
        old = self._trials.get(number) if number is not None else None
        return old.again(brief) if old is not None else self._newest(query_id, brief)

    def _newest(self, query_id: int, brief: Brief) -> Trial | None:
        """A trial without a reading, with the answers of the newest run that kept some.

        A run that made a snapshot goes before one that failed: its answers can be read.
        """
        newest = [run for run in self._workspace.runs.latest(query_id, most=_LOOKED_FOR) if run.state != "running"]
        for run in sorted(newest, key=lambda run: run.snapshot_id is None):
            kept = self._of_run(run, brief)
            if kept is not None:
                return kept
        return None

    def _of_run(self, run: Run, brief: Brief) -> Trial | None:
        kept = self._kept.get(run.id) or self._unpacked(run, brief)
        if kept is None:
            return None
        self._kept[run.id] = kept
        while len(self._kept) > KEPT_UNPACKED:
            self._kept.popitem(last=False)
        return replace(kept, brief=brief)

    def _unpacked(self, run: Run, brief: Brief) -> Trial | None:
        workspace = self._workspace
        pages = workspace.archive.answers(run.id, "pages")
        if not pages:
            return None
        calls = [call for call in workspace.runs.calls(run.id) if call.used and call.stage != LISTING]
        calls.sort(key=lambda call: (call.round, call.turn, call.number))
        looked_up = []
        for stage in dict.fromkeys(call.stage for call in calls if call.stage != "pages"):
            answers = workspace.archive.answers(run.id, stage)
            if answers is not None:
                looked_up.append(([call.address for call in calls if call.stage == stage], answers))
        made = [call.call() for call in calls if call.stage == "pages"][: len(pages)]
        return Trial(
            brief, run.bindings, made, pages, AnswersByAddress(looked_up), None, None, run.started, run.id, run.rounds
        )

    def forget(self, query_id: int) -> None:
        """Saved answers of a query were let go: what is at hand of them goes too."""
        for run_id in list(self._kept):
            run = self._workspace.runs.get(run_id)
            if run.query_id == query_id:
                del self._kept[run_id]
        self._at_hand = None

    # Reading ---------------------------------------------------------------------------------------------------

    def read(self, trial: Trial, most: int | None = None, once: bool = False) -> None:
        """Read a trial's answers as its brief says, and note what is seen in the first one.

        Args:
            most: read only so many records.
            once: whether it is known that they will not be read in another way.
        """
        brief = trial.brief
        try:
            services = {service_id: self._workspace.services.get(service_id) for service_id in brief.services()}
        except ProblemError as error:
            trial.problem = error.problem
            return
        call = trial.calls[0]
        headers = trial.head(0).answer.headers
        first = self.judged(trial, 0)
        if first.problem is not None:
            trial.problem = placed(first.problem, call)
            return
        if first.note:
            trial.notes = [first.note]
        trial.rows = guess_rows(first.document)
        try:
            # Before the place of the records is known, the likeliest list tells which rows are here.
            unplaced = brief.take.records == "$" and trial.rows and not first.nothing
            path = trial.rows[0].path if unplaced else brief.take.records
            page, _ = make_page(brief.pages, path, call, first.document, headers)
            trial.stated_total = stated_number(page, brief.pages.total)
            if brief.ask is not None:
                trial.pages = guess_pages(page, call)
                trial.short = short_of_total(page, call) if call.stage != LISTING else None
            scope = make_scope(brief.parameters, trial.bindings, self._clock.here().tzinfo or UTC)
            with collector_paused():
                trial.replay = self._replay(trial, services, scope, most, once)
            trial.pages_read = len(trial.replay.sizes)
            trial.partial = trial.replay.partial
            trial.problem = trial.replay.problem
        except ProblemError as error:
            trial.problem = error.problem

    def prepare(self, query_id: int, brief: Brief, trial_number: int | None = None) -> None:
        """Have the records of saved answers at hand before they are read in other ways.

        Args:
            trial_number: the trial whose answers will be read; without one, those of the query's newest run.
        """
        trial = self._trial(query_id, brief, trial_number)
        if trial is not None and sum(trial.sizes()) <= PREPARED_TO:
            with trial.gathering, collector_paused():
                self._pages_at_hand(trial)

    def _pages_at_hand(self, trial: Trial) -> Pages | None:
        """The records of a trial's answers for more than one reading; ``None`` where they are too few or too many."""
        faults, known = self.faults(trial.brief), self._at_hand
        if known is not None and known.answers is trial.answers and known.faults == faults:
            if known.pages.holds(trial.brief):
                return known.pages
        elif not KEPT_FROM <= sum(trial.sizes()) <= KEPT_TO:
            return None
        self._at_hand = None  # The old ones make room before there are new ones.
        pages = self._pages(trial, keep=True)
        self._at_hand = _AtHand(trial.answers, faults, pages)
        return pages

    def _pages(self, trial: Trial, most: int | None = None, keep: bool = False) -> Pages:
        faults = self.faults(trial.brief)
        heads = [trial.head(at) for at in range(len(trial.answers))]

        def judged(at: int) -> Verdict:
            return self.judged(trial, at, faults)

        return Pages(trial.brief, faults, heads, trial.rounds, trial.bindings, judged, most, keep)

    def faults(self, brief: Brief) -> Sequence[Fault]:
        """The rules for errors inside answers that hold for a brief's service."""
        return self._workspace.services.get(brief.ask.service).faults if brief.ask is not None else ()

    def _replay(
        self, trial: Trial, services: Mapping[str, Service], scope: Scope, most: int | None, once: bool
    ) -> Replay:
        def table(pages: Pages) -> Replay | None:
            return pages.table(trial.brief, services, scope, trial.looked_up)

        made = None
        if most is None and not once:
            # One after the other: what the first gathers the second finds.
            with trial.gathering:
                pages = self._pages_at_hand(trial)
                made = table(pages) if pages is not None else None
        if made is None:
            made = table(self._pages(trial, most))
        assert made is not None
        return made

    def judged(self, trial: Trial, at: int, faults: Sequence[Fault] | None = None) -> Verdict:
        """The verdict on one of a trial's answers, parsed once as long as it is looked at."""
        # Of many answers the first ones are those in sight.
        keep = at < 4 or len(trial.answers) <= 40
        faults = self.faults(trial.brief) if faults is None else faults
        return self.documents.judged(trial.answers, at, lambda: trial.answers[at].answer, faults, keep)

    # For good --------------------------------------------------------------------------------------------------

    def remake(self, run_id: int) -> Remade:
        """Read the saved answers of a run anew, as its query's saved brief says now, and put the table in the place of
        the one in its snapshot, marked with the day of it.

        Raises:
            ProblemError: ``answers-gone``, ``nothing-to-remake``, or what is wrong with the reading.
        """
        workspace = self._workspace
        run = workspace.runs.get(run_id)
        if run.snapshot_id is None:
            raise fail(
                "nothing-to-remake",
                "This run kept no snapshot.",
                where=f"run {run_id}",
                do="Choose a run that did.",
            )
        brief = workspace.queries.get(run.query_id).brief
        trial = self._of_run(run, brief)
        if trial is None:
            raise fail(
                "answers-gone",
                "The answers of this run are not kept any more.",
                where=f"run {run_id}",
                do="Its snapshot stays as it is. Keep the answers of more runs, in the brief's last line.",
            )
        self.read(trial, once=True)
        if trial.replay is None or trial.replay.problem is not None:
            problem = trial.problem or (trial.replay.problem if trial.replay else None)
            assert problem is not None
            raise ProblemError(replace(problem, where=f"run {run_id}, {problem.where}"))
        self._put(run, brief, trial.replay)
        return Remade(workspace.snapshots.get(run.snapshot_id), trial.replay.reading)

    def _put(self, run: Run, brief: Brief, made: Replay) -> None:
        workspace, now = self._workspace, self._clock.now()
        assert run.snapshot_id is not None
        with workspace.write() as db, collector_paused():
            workspace.snapshots.remake(
                db,
                run.snapshot_id,
                made.table,
                match=brief.keep.match,
                brief=brief.model_dump_json(by_alias=True),
                now=now,
            )
            kept = {name: note for name, note in run.notes.items() if name not in READING_NOTES}
            notes = {**kept, **reading_notes(brief, made.reading)}
            workspace.runs.renote(db, run.id, made.table.height, notes)

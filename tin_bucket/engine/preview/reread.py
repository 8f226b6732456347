"""Reading answers that are here already in another way, at no call: for a look, or for good."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from tin_bucket.cache import LockedCache
from tin_bucket.core.analysis.completeness import completeness_gaps, table_state
from tin_bucket.core.detect.records import detect_records
from tin_bucket.core.document.query import Brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.pagination.proof import end_of_one
from tin_bucket.core.pagination.protocol import LISTING, first_rows_end, make_page, stated_number
from tin_bucket.core.pagination.registry import detect_pagination, total_gap
from tin_bucket.core.pagination.ways.single import NoPagination
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.request.variables import Scope, make_scope
from tin_bucket.core.response.classify import Verdict, odd_words
from tin_bucket.core.response.error_rules import ErrorRule, warning_words
from tin_bucket.core.table.pipeline import reading_report
from tin_bucket.core.table.rebuild import Replay, SavedPage, SavedRecords
from tin_bucket.core.table.select import Reading
from tin_bucket.core.table.table import Table
from tin_bucket.engine.clock import Clock
from tin_bucket.engine.run.calls import placed
from tin_bucket.engine.tuning import USUAL, EngineTuning
from tin_bucket.gc_pause import collector_paused
from tin_bucket.store.archive import AnswersByAddress
from tin_bucket.store.runs import Run
from tin_bucket.store.snapshot import Snapshot
from tin_bucket.store.workspace import Workspace

from .parsed_cache import Documents
from .preview import Preview, Previews

KEPT_UNPACKED = 4  # Runs whose answers are cached while a brief is edited.
# Bytes of answers whose records are gathered before another reading, and of those that stay cached for one.
PREPARED_TO, KEPT_TO = 128 * 2**20, 2**30
_LOOKED_FOR = 40  # The newest runs among which one with saved answers is looked for.


@dataclass(frozen=True, slots=True)
class Rebuilt:
    """A snapshot that was rebuilt."""

    snapshot: Snapshot
    reading: Reading


@dataclass(frozen=True, slots=True)
class _AtHand:
    """Records of a preview's answers that are cached for another reading."""

    answers: Sequence[SavedPage]
    error_rules: Sequence[ErrorRule]
    pages: SavedRecords


class Rereader:
    """Reads saved answers of a workspace."""

    def __init__(self, workspace: Workspace, clock: Clock, previews: Previews, tuning: EngineTuning = USUAL) -> None:
        self._workspace = workspace
        self._clock = clock
        self._previews = previews
        self._tuning = tuning
        self._kept: LockedCache[int, Preview] = LockedCache(KEPT_UNPACKED)
        # Replaced as a whole, under the lock of its answers.
        self._at_hand: _AtHand | None = None
        self.documents = Documents()

    def reread(
        self, query_id: int, brief: Brief, preview_number: int | None = None, most: int | None = None
    ) -> int | None:
        """Read answers that are here already as a brief says.

        Args:
            preview_number: the preview whose answers are read; without one, the newest run of the query that kept some.
            most: read only so many records, for a table that is in sight at once.

        Returns:
            The number of the new preview, or ``None`` when no answers are kept.
        """
        preview = self._preview(query_id, brief, preview_number)
        if preview is None:
            return None
        self.read(preview, most)
        return self._previews.add(preview)

    def _preview(self, query_id: int, brief: Brief, number: int | None) -> Preview | None:
        old = self._previews.get(number) if number is not None else None
        return old.again(brief) if old is not None else self._newest(query_id, brief)

    def _newest(self, query_id: int, brief: Brief) -> Preview | None:
        """A preview without a reading, with the answers of the newest run that kept some.

        A run that made a snapshot goes before one that failed: its answers can be read.
        """
        newest = [run for run in self._workspace.runs.latest(query_id, most=_LOOKED_FOR) if run.state != "running"]
        for run in sorted(newest, key=lambda run: run.snapshot_id is None):
            kept = self._of_run(run, brief)
            if kept is not None:
                return kept
        return None

    def _of_run(self, run: Run, brief: Brief) -> Preview | None:
        kept = self._kept.get(run.id) or self._unpacked(run, brief)
        if kept is None:
            return None
        self._kept.put(run.id, kept)
        return replace(kept, brief=brief)

    def _unpacked(self, run: Run, brief: Brief) -> Preview | None:
        workspace = self._workspace
        pages = workspace.archive.answers(run.id, "pages")
        if not pages:
            return None
        calls = [call for call in workspace.runs.calls(run.id) if call.used and call.stage != LISTING]
        calls.sort(key=lambda call: (call.iteration, call.turn, call.number))
        looked_up = []
        for stage in dict.fromkeys(call.stage for call in calls if call.stage != "pages"):
            answers = workspace.archive.answers(run.id, stage)
            if answers is not None:
                looked_up.append(([call.call().asked_as for call in calls if call.stage == stage], answers))
        made = [call.call() for call in calls if call.stage == "pages"][: len(pages)]
        return Preview(
            brief,
            run.bindings,
            made,
            pages,
            AnswersByAddress(looked_up),
            None,
            None,
            run.started,
            run.id,
            run.iterations,
        )

    def forget(self, query_id: int) -> None:
        """Saved answers of a query were deleted: drop what is cached of them."""
        runs = {run.id for run in self._workspace.runs.latest(query_id, most=1000)}
        self._kept.drop(lambda run_id: run_id in runs)
        self._at_hand = None

    # Reading ---------------------------------------------------------------------------------------------------

    def read(self, preview: Preview, most: int | None = None, once: bool = False) -> None:
        """Read a preview's answers as its brief says, and note what is seen in the first one.

        Args:
            most: read only so many records.
            once: whether it is known that they will not be read in another way.
        """
        brief = preview.brief
        try:
            services = {service_id: self._workspace.services.get(service_id) for service_id in brief.services()}
        except ProblemError as error:
            preview.problem = error.problem
            return
        call = preview.calls[0]
        headers = preview.head(0).answer.headers
        first = self.classified(preview, 0)
        if first.problem is not None:
            preview.problem = placed(first.problem, call)
            return
        preview.notes = [first.note] if first.note else []
        preview.notes += [preview.head(0).answer.note] if preview.head(0).answer.note else []
        preview.notes += [odd_words(first.odd)] if first.odd else []
        preview.notes += [warning_words(words) for words in first.warnings]
        preview.rows = detect_records(first.document)
        try:
            # Before the place of the records is known, the likeliest list says which rows are here.
            page, _ = make_page(brief.pages, preview.row_shape(), call, first.document, headers)
            preview.stated_total = stated_number(page, brief.pages.total)
            preview.stated_pages = stated_number(page, getattr(brief.pages, "last_page", None))
            if brief.ask is not None:
                preview.pages = detect_pagination(page, call)
                if isinstance(brief.pages, NoPagination) and call.stage != LISTING:
                    end = end_of_one(page, call, brief.pages)
                    preview.proof = table_state(completeness_gaps(page.size, end), end)
                preview.total_gap = total_gap(page, call) if call.stage != LISTING else None
            scope = make_scope(brief.parameters, preview.bindings, self._clock.zone())
            with collector_paused():
                preview.replay = self._replay(preview, services, scope, most, once)
            preview.pages_read = len(preview.replay.sizes)
            preview.partial = preview.replay.partial
            preview.problem = preview.replay.problem
        except ProblemError as error:
            preview.problem = error.problem

    def prepare(self, query_id: int, brief: Brief, preview_number: int | None = None) -> None:
        """Cache the records of saved answers before they are read in other ways.

        Args:
            preview_number: the preview whose answers will be read; without one, those of the query's newest run.
        """
        preview = self._preview(query_id, brief, preview_number)
        if preview is not None and sum(preview.sizes()) <= PREPARED_TO:
            with preview.gathering, collector_paused():
                self._pages_at_hand(preview)

    def _pages_at_hand(self, preview: Preview) -> SavedRecords | None:
        """The records of a preview's answers for more than one reading; ``None`` where they are too few or too many."""
        error_rules, known = self.error_rules(preview.brief), self._at_hand
        if known is not None and known.answers is preview.answers and known.error_rules == error_rules:
            if known.pages.holds(preview.brief):
                return known.pages
        elif not self._tuning.cached_from <= sum(preview.sizes()) <= KEPT_TO:
            return None
        self._at_hand = None  # The old ones make room before there are new ones.
        pages = self._pages(preview, keep=True)
        self._at_hand = _AtHand(preview.answers, error_rules, pages)
        return pages

    def _pages(self, preview: Preview, most: int | None = None, keep: bool = False) -> SavedRecords:
        error_rules = self.error_rules(preview.brief)
        heads = [preview.head(at) for at in range(len(preview.answers))]

        def classified(at: int) -> Verdict:
            return self.classified(preview, at, error_rules)

        return SavedRecords(
            preview.brief, error_rules, heads, preview.iterations, preview.bindings, classified, most, keep
        )

    def error_rules(self, brief: Brief) -> Sequence[ErrorRule]:
        """The rules for errors inside answers that hold for a brief's service."""
        return self._workspace.services.get(brief.ask.service).error_rules if brief.ask is not None else ()

    def _replay(
        self, preview: Preview, services: Mapping[str, Service], scope: Scope, most: int | None, once: bool
    ) -> Replay:
        def table(pages: SavedRecords) -> Replay | None:
            return pages.table(preview.brief, services, scope, preview.looked_up)

        made = None
        if most is None and not once:
            # One after the other: what the first gathers the second finds.
            with preview.gathering:
                pages = self._pages_at_hand(preview)
                made = table(pages) if pages is not None else None
        if made is None:
            made = table(self._pages(preview, most))
        assert made is not None
        return made

    def classified(self, preview: Preview, at: int, error_rules: Sequence[ErrorRule] | None = None) -> Verdict:
        """The verdict on one of a preview's answers, parsed once as long as it is looked at."""
        # Of many answers the first ones are those in sight.
        keep = at < 4 or len(preview.answers) <= 40
        error_rules = self.error_rules(preview.brief) if error_rules is None else error_rules
        return self.documents.classified(preview.answers, at, lambda: preview.answers[at].answer, error_rules, keep)

    # For good --------------------------------------------------------------------------------------------------

    def rebuild(self, run_id: int) -> Rebuilt:
        """Read the saved answers of a run again, as its query's saved brief says now, and put the table in the place of
        the one in its snapshot, marked with the day of it.

        Raises:
            ProblemError: ``answers-gone``, ``nothing-to-rebuild``, or what is wrong with the reading.
        """
        workspace = self._workspace
        run = workspace.runs.get(run_id)
        if run.snapshot_id is None:
            raise fail(
                "nothing-to-rebuild",
                "This run kept no snapshot.",
                where=f"run {run_id}",
                do="Choose a run that did.",
            )
        brief = workspace.queries.get(run.query_id).brief
        made = self._read_again(run, brief)
        self._put(run, brief, made)
        return Rebuilt(workspace.snapshots.get(run.snapshot_id), made.reading)

    def table_again(self, run: Run, brief: Brief) -> Table:
        """What a brief makes of the saved answers of a run; nothing is stored.

        Raises:
            ProblemError: ``answers-gone``, or what is wrong with the reading.
        """
        return self._read_again(run, brief).table

    def _read_again(self, run: Run, brief: Brief) -> Replay:
        preview = self._of_run(run, brief)
        if preview is None:
            raise fail(
                "answers-gone",
                "The answers of this run are no longer kept.",
                where=f"run {run.id}",
                do="Its snapshot stays as it is. Keep the answers of more runs, in the brief's last line.",
            )
        self.read(preview, once=True)
        if preview.replay is None or preview.replay.problem is not None:
            problem = preview.problem or (preview.replay.problem if preview.replay else None)
            assert problem is not None
            raise ProblemError(replace(problem, where=f"run {run.id}, {problem.where}"))
        return preview.replay

    def _put(self, run: Run, brief: Brief, made: Replay) -> None:
        workspace, now = self._workspace, self._clock.now()
        assert run.snapshot_id is not None
        with workspace.write() as db, collector_paused():
            workspace.snapshots.rebuild(
                db,
                run.snapshot_id,
                made.table,
                match=brief.keep.match,
                brief=brief.model_dump_json(by_alias=True),
                now=now,
            )
            state, report = run.state, run.report.model_copy(update={"reading": reading_report(brief, made.reading)})
            if made.reading.beyond and brief.take.most_rows is not None:
                # The answers were whole; the table that is made of them now leaves rows out.
                left_out = completeness_gaps(0, first_rows_end(brief.take.most_rows, run.stated_total))
                others = [] if run.report.only_first else [gap for gap in run.report.gaps if gap not in left_out]
                state, report.gaps, report.only_first = "incomplete", [*others, *left_out], not others
                workspace.snapshots.judge(db, run.snapshot_id, state, "; ".join(report.gaps))
            workspace.runs.rewrite_report(db, run.id, state, made.table.height, report)

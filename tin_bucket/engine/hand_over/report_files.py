"""Writes reports to files behind the refreshes of what they are made of: each whole or not at all, by date where the
name has one. What fails is tried again, and spoils no refresh."""

from __future__ import annotations

import logging
import threading
from dataclasses import replace
from datetime import datetime, timedelta
from typing import BinaryIO

from tin_bucket.core.document.references import queries_behind
from tin_bucket.core.problem import Problem, ProblemError, fail
from tin_bucket.core.report.seen import ReportSeen
from tin_bucket.engine.clock import Clock
from tin_bucket.engine.reports.reader import Asked, ReportReader
from tin_bucket.engine.reports.words import moments_of
from tin_bucket.feeds.folders import Folders
from tin_bucket.feeds.formats.report_workbook import write_report
from tin_bucket.feeds.report_page import report_page
from tin_bucket.feeds.safe_file import replace_file, told_in_words
from tin_bucket.store.report_files import ReportFile
from tin_bucket.store.reports import KeptReport
from tin_bucket.store.workspace import Workspace

from .deliveries import MOST_TRIES, PAUSES

log = logging.getLogger("tin_bucket.feeds")
ENDINGS = (".html", ".xlsx")


class ReportWriter:
    """Writes reports to files, one at a time."""

    def __init__(self, workspace: Workspace, reports: ReportReader, clock: Clock) -> None:
        self._workspace, self._reports, self._clock = workspace, reports, clock
        self._lock = threading.Lock()

    def after(self, query_id: int) -> None:
        """Write the reports that are made of a query that was refreshed, or of one that starts from it."""
        kept = [one for one in self._workspace.reports.all() if one.report.files]
        if not kept:
            return
        made_of = self._made_of(query_id)
        for one in kept:
            if made_of & set(one.report.queries()):
                for path in one.report.files:
                    self.write(one, path)

    def _made_of(self, query_id: int) -> set[int]:
        """A query, and those that start from it."""
        queries = self._workspace.queries.all()
        ids = {query.name: query.id for query in queries}
        name = next((one for one, number in ids.items() if number == query_id), None)
        if name is None:
            return {query_id}
        return {query_id, *(ids[one] for one in queries_behind(name, ((query.name, query.brief) for query in queries)))}

    def look(self) -> None:
        """Try those again that were not written."""
        for report_id, path in self._workspace.report_files.due(self._clock.now()):
            try:
                kept = self._workspace.reports.get(report_id)
            except ProblemError:
                continue
            if path in kept.report.files:
                self.write(kept, path)
            else:
                self._workspace.report_files.forget(report_id, path)

    def write(self, kept: KeptReport, path: str) -> ReportFile:
        """Write a report to one of its files. What goes wrong is in what it gives."""
        before = self._workspace.report_files.of(kept.id).get(path, ReportFile(kept.id, path))
        problem: Problem | None = None
        done = before
        with self._lock:
            try:
                done = self._written(kept, path)
            except ProblemError as error:
                problem = error.problem
            except Exception as error:
                log.error("report %s: %s", kept.id, type(error).__name__, exc_info=error)
                what = f"The program itself failed ({type(error).__name__})."
                problem = Problem("program-fault", what, path, "It is tried again by itself.")
        if problem is not None:
            log.warning("the report “%s” was not written: %s", kept.report.title, problem.sentence())
            again = None
            if before.tries + 1 < MOST_TRIES:
                pause = PAUSES[min(before.tries, len(PAUSES) - 1)]
                again = (self._clock.now() + timedelta(minutes=pause)).isoformat()
            done = replace(before, problem=problem, next_try=again, tries=before.tries + 1)
        self._workspace.report_files.note(done)
        return done

    def _written(self, kept: KeptReport, path: str) -> ReportFile:
        if not path.lower().endswith(ENDINGS):
            raise fail(
                "format-unknown", f"“{path[-60:]}” names no format.", where="path", do="End its name in .html or .xlsx."
            )
        seen = self._reports.read(kept.report, Asked(links=False))
        settings = self._workspace.settings
        folders = Folders(settings.own_folder, settings.written_folders)
        place = folders.resolve(self._named(path, kept, seen))
        with told_in_words(place):
            folders.make(place)
        size = replace_file(place, lambda out: self._fill(path, seen, out), versions=None, now=self._clock.here())
        return ReportFile(kept.id, path, self._clock.now().isoformat(), str(place), size)

    def _fill(self, path: str, seen: ReportSeen, out: BinaryIO) -> int:
        when = moments_of(self._clock)
        if path.lower().endswith(".html"):
            out.write(report_page(seen, when))
        else:
            write_report(seen, when, out)
        return out.tell()

    def _named(self, path: str, kept: KeptReport, seen: ReportSeen) -> str:
        moment = datetime.fromisoformat(seen.as_of).astimezone(self._clock.zone())
        values = {"date": f"{moment:%Y-%m-%d}", "time": f"{moment:%H%M}", "report": _plain(kept.report.title)}
        for name, value in values.items():
            path = path.replace("{" + name + "}", value)
        return path


def _plain(text: str) -> str:
    """A text as a part of a file's name."""
    return "".join("-" if char in '<>:"/\\|?*' or ord(char) < 32 else char for char in text)[:100]

"""A workspace: one folder with one SQLite file, its key file, and a room for each thing that it keeps."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

from platformdirs import user_data_dir

from tin_bucket.core.document.query import Brief

from .access import Access
from .archive import Archive
from .database import BUSY_SECONDS, Database
from .drafts import Drafts
from .feeds import Feeds
from .findings import Findings
from .litter import clear_litter
from .looked import Looked
from .looked_up import LookedUp
from .notices import Notices
from .overview import Overview
from .paces import Paces
from .queries import Queries
from .readers import Readers
from .removal import Removal
from .report_files import ReportFiles
from .reports import Reports
from .row_store.tuning import USUAL, StoreTuning
from .runs import Runs
from .services import Services
from .settings import Settings
from .sheets import Sheets
from .snapshots import Snapshots
from .through_time import ThroughTime
from .vault import Vault
from .watches import Watches
from .worked_rows import WorkedRowCounts


def default_home() -> Path:
    """Where a workspace lives when nobody says otherwise."""
    return Path(user_data_dir("tin-bucket", appauthor=False))


class Workspace(Database):
    """An open workspace with its rooms: access, services, vault, sheets, settings, queries, drafts, runs, overview,
    archive, feeds, readers, findings, paces, looked_up, snapshots, removal, through_time,
    watches, looked, reports,
    report_files, notices."""

    def __init__(
        self,
        home: Path,
        *,
        create: bool = False,
        busy_seconds: float = BUSY_SECONDS,
        tuning: StoreTuning = USUAL,
    ) -> None:
        """Open the workspace in a folder, mark the runs of processes that are gone as interrupted, and clear what
        they left.

        Raises:
            ProblemError: as :class:`Database`.
        """
        super().__init__(home, create=create, busy_seconds=busy_seconds)
        self.access = Access(home)
        self.vault = Vault(self)
        self.services = Services(self)
        self.sheets = Sheets(self)
        self.settings = Settings(self)
        self.queries = Queries(self)
        self.drafts = Drafts(self)
        self.runs = Runs(self)
        self.overview = Overview(self, self.runs)
        self.archive = Archive(self)
        self.feeds = Feeds(self)
        self.readers = Readers(self)
        self.findings = Findings(self)
        self.paces = Paces(self)
        self.looked_up = LookedUp(self)
        self.snapshots = Snapshots(self, tuning)
        self.removal = Removal(self, self.snapshots)
        self.through_time = ThroughTime(self, self.snapshots)
        self.watches = Watches(self)
        self.worked_rows = WorkedRowCounts(self)
        self.looked = Looked(self)
        self.reports = Reports(self)
        self.report_files = ReportFiles(self)
        self.notices = Notices(self)
        self.runs.mark_interrupted()
        clear_litter(home)

    def save_brief(self, query_id: int, brief: Brief, now: datetime, based_on: int | None = None) -> None:
        """Save a new version of a query's brief. Where another thing counts as the same from now on, what its newest
        snapshot changed is noted anew.

        Raises:
            ProblemError: as :meth:`Queries.save`.
        """
        before = self.queries.get(query_id).brief.keep.alike
        self.queries.save(query_id, brief, now, based_on)
        if brief.keep.alike != before:
            self.snapshots.note_again(query_id)

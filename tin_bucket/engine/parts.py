"""The parts of an engine. What only some of the work needs is made when it is needed: a headless refresh begins sooner
without it."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

from tin_bucket.core.traffic.address_policy import Reach
from tin_bucket.engine.network.credentials import CredentialStore
from tin_bucket.engine.network.http import Fetcher
from tin_bucket.engine.network.pacer import Pacer
from tin_bucket.engine.network.sender import Connections
from tin_bucket.engine.preview.preview import Previews
from tin_bucket.store.workspace import Workspace

from .clock import Clock
from .tuning import USUAL, EngineTuning

if TYPE_CHECKING:
    from tin_bucket.engine.hand_over.deliveries import Deliveries
    from tin_bucket.engine.hand_over.report_files import ReportWriter
    from tin_bucket.engine.preview.reread import Rereader
    from tin_bucket.engine.reports.reader import ReportReader
    from tin_bucket.engine.tables.browse import Tables
    from tin_bucket.engine.tables.charts import Charts
    from tin_bucket.engine.tables.comparisons import Comparisons
    from tin_bucket.engine.tables.counting import RowCounting
    from tin_bucket.engine.tables.history import History
    from tin_bucket.engine.tables.watching import Watching
    from tin_bucket.engine.telling.telling import Telling


class Parts:
    """The parts of an engine, each made once."""

    def __init__(
        self,
        workspace: Workspace,
        clock: Clock | None = None,
        reach: Reach = "own machine",
        tuning: EngineTuning = USUAL,
    ) -> None:
        """
        Args:
            reach: which network addresses may be called.
        """
        self.workspace = workspace
        self.clock = clock or Clock()
        self.previews = Previews()
        self.reach = reach
        self.fetcher = Fetcher(reach, tuning)
        self.credentials = CredentialStore(workspace, self.clock, self.fetcher)
        self.pacer = Pacer(workspace, self.clock)
        self.connections = Connections(self.fetcher, self.credentials, self.pacer)
        self._tuning = tuning

    @cached_property
    def rereader(self) -> Rereader:
        """Reads saved answers in other ways."""
        from tin_bucket.engine.preview.reread import Rereader

        return Rereader(self.workspace, self.clock, self.previews, self._tuning)

    @cached_property
    def tables(self) -> Tables:
        """Looks at tables."""
        from tin_bucket.engine.tables.browse import Tables

        return Tables(self.workspace, self.previews, self.clock)

    @cached_property
    def charts(self) -> Charts:
        """Draws charts."""
        from tin_bucket.engine.tables.charts import Charts

        return Charts(self.tables)

    @cached_property
    def comparisons(self) -> Comparisons:
        """Compares tables."""
        from tin_bucket.engine.tables.comparisons import Comparisons

        return Comparisons(self.workspace, self.tables)

    @cached_property
    def history(self) -> History:
        """Reads queries through time."""
        from tin_bucket.engine.tables.history import History

        return History(self.workspace, self.tables)

    @cached_property
    def watching(self) -> Watching:
        """Reads what is watched."""
        from tin_bucket.engine.tables.watching import Watching

        return Watching(self.workspace, self.history, self.tables.work_out)

    @cached_property
    def row_counting(self) -> RowCounting:
        """Counts the rows of tables that are worked out."""
        from tin_bucket.engine.tables.counting import RowCounting

        return RowCounting(self.workspace, self.tables.work_out)

    @cached_property
    def reports(self) -> ReportReader:
        """Reads reports."""
        from tin_bucket.engine.reports.reader import ReportReader
        from tin_bucket.engine.reports.sources import ReportParts

        parts = ReportParts(self.workspace, self.tables, self.comparisons, self.clock)
        return ReportReader(parts, self.charts)

    @cached_property
    def telling(self) -> Telling:
        """Tells people without their looking."""
        from tin_bucket.engine.telling.telling import Telling

        return Telling(self.workspace, self.reports, self.clock, self.fetcher)

    @cached_property
    def report_files(self) -> ReportWriter:
        """Writes reports to files."""
        from tin_bucket.engine.hand_over.report_files import ReportWriter

        return ReportWriter(self.workspace, self.reports, self.clock)

    @cached_property
    def deliveries(self) -> Deliveries:
        """Hands tables over."""
        from tin_bucket.engine.hand_over.deliveries import Deliveries

        return Deliveries(self.workspace, self.tables, self.clock, self.reach)

    def make_all(self) -> None:
        """Make it all now, because several threads are about to need it."""
        _ = self.rereader, self.comparisons, self.deliveries, self.charts, self.telling, self.report_files
        _ = self.row_counting

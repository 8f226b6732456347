"""The run report: what people should know of a run, typed from the refresh to the screen."""

from __future__ import annotations

from collections.abc import Sequence

from pydantic import BaseModel, Field

from tin_bucket.core.problem import Problem
from tin_bucket.core.traffic.rate_window import Window

MOST_WARNINGS = 20


class Tally(BaseModel):
    """What a run has cost."""

    retries: int = 0
    saved: int = Field(default=0, description="answers that an earlier run had saved")
    unchanged: int = Field(default=0, description="calls that were answered 304: the saved answer is up to date")
    bytes: int = Field(default=0, description="of the bodies that were sent")
    waited: float = Field(default=0.0, description="seconds in which it did nothing but wait")


class FailedPart(BaseModel):
    """A page or an iteration that failed, with its problem."""

    label: str
    kind: str
    what: str
    where: str = ""
    do: str = ""
    words: str = ""

    @classmethod
    def of(cls, label: str, problem: Problem) -> FailedPart:
        """The part with that label."""
        return cls(label=label, **problem.as_dict())


class PageSize(BaseModel):
    """Rows a page that were asked for, and that came on a full page, where the two differ."""

    asked: int
    got: int


class TotalMoved(BaseModel):
    """The total that the API stated at first and at last."""

    was: int
    now: int


class Duplicates(BaseModel):
    """Rows that came on two pages, by the match columns; without any by all that they hold."""

    rows: int
    by: list[str]


class LookupReport(BaseModel):
    """What a lookup did."""

    calls: int = 0
    rows: int = Field(default=0, description="rows that a call was made for")
    none: int = Field(default=0, description="values for which nothing is there")
    failed: int = Field(default=0, description="calls that failed")
    values: int = Field(default=0, description="different values that rows were looked up by")
    kept: int = Field(default=0, description="values whose answers were kept from before")
    oldest: str = Field(default="", description="when the oldest of these was asked for")
    missing: list[str] = Field(default=[], description="the first values for which nothing is there")
    why: FailedPart | None = Field(default=None, description="the first call that failed")
    several: int = Field(default=0, description="values with several records, of which the first was taken")


class ChangedField(BaseModel):
    """A field whose values are of another kind than before."""

    place: str
    was: str
    now: str


class SchemaDrift(BaseModel):
    """How the fields of the answers differ from those of the refresh before."""

    new: list[str] = []
    missing: list[str] = []
    changed: list[ChangedField] = []
    columns: int = Field(default=0, description="how many of those missing or changed are columns")
    more: int = Field(default=0, description="how many there are beyond those that are listed")
    words: str = ""


class Refusals(BaseModel):
    """Calls that a service refused as too many, though it is known to have no limit."""

    service_id: str
    service: str
    calls: int
    limit: Window | None = Field(default=None, description="the limit that fits them")


class ReadingReport(BaseModel):
    """What the reading of the records found; another reading of the same answers has another one."""

    absent: list[str] = Field(default=[], description="places of columns that no record has")
    not_taken: int = Field(default=0, description="fields that are in the answers and in no column")
    unfit: dict[str, int] = Field(default={}, description="column → values that did not fit its kind")
    rows_for: list[str] = Field(default=[], description="lists that became rows")
    empty: int = Field(default=0, description="records without an item in the lists that became rows")
    left_out: int = Field(default=0, description="rows without an item that were left out; else they are kept")


class RunReport(BaseModel):
    """What people should know of a run."""

    pages: int = 0
    gaps: list[str] = Field(default=[], description="what the table lacks, in words")
    only_first: bool = Field(default=False, description="whether it lacks only what its brief leaves out")
    doubt: str = Field(default="", description="why nothing proves that it is whole, where nothing does")
    tally: Tally = Tally()
    warnings: list[str] = Field(default=[], description="messages of the API in answers that were used, by its rules")
    oddities: list[str] = Field(default=[], description="what is strange in the answers and does no harm")
    drift: SchemaDrift | None = None
    failed_iterations: list[FailedPart] = []
    iterations_failed: int = 0
    iterations_without: int = Field(default=0, description="values whose answer has nothing where the rows are")
    missing_iterations: list[str] = Field(default=[], description="values that the service does not know")
    iterations_missing: int = 0
    failed_pages: list[FailedPart] = []
    page_size: PageSize | None = None
    total_moved: TotalMoved | None = None
    duplicates: Duplicates | None = None
    lookups: dict[str, LookupReport] = {}
    refusals: list[Refusals] = []
    reading: ReadingReport = ReadingReport()
    from_saved: str | None = Field(default=None, description="when the answers were made that another run had saved")

    def warn(self, messages: Sequence[str]) -> None:
        """Add what the API itself warns of, each once, and of very many the first."""
        for words in messages:
            if len(self.warnings) < MOST_WARNINGS and words not in self.warnings:
                self.warnings.append(words)

    def note(self, oddity: str) -> None:
        """Add an oddity, once."""
        if oddity not in self.oddities:
            self.oddities.append(oddity)

    @property
    def failed_lookups(self) -> int:
        """How many lookups failed."""
        return sum(one.failed for one in self.lookups.values())

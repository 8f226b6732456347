"""Reads a report: its figures, its texts, its exhibits, and from where each of them is."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from urllib.parse import urlencode

from tin_bucket.cache import LockedCache
from tin_bucket.core.analysis.view import Condition, View
from tin_bucket.core.chart.drawing import Canvas, Drawing
from tin_bucket.core.chart.under import laid_under
from tin_bucket.core.chart.words import heading
from tin_bucket.core.columns.readings import group_text
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.report.exhibit import Exhibit
from tin_bucket.core.report.exhibits.changes import ChangesExhibit
from tin_bucket.core.report.exhibits.chart import ChartExhibit
from tin_bucket.core.report.exhibits.table import TableExhibit
from tin_bucket.core.report.figure import ReportFigure, Told
from tin_bucket.core.report.figures.registry import kind_of_figure, told_by
from tin_bucket.core.report.html import changes_html, table_html
from tin_bucket.core.report.model import Against, Report, ReportChoice, TextBlock
from tin_bucket.core.report.says import Speaker
from tin_bucket.core.report.seen import BlockSeen, ChoiceSeen, FactSeen, FigureSeen, ReportSeen, SourceSeen
from tin_bucket.core.report.text import Reference, harmless, references, write
from tin_bucket.engine.tables.charts import Charts

from .exhibits import changed_rows, table_seen
from .sources import NOT_HELD, Dates, QueryRead, ReportParts, RowsAt, with_notes

_FIGURES = 2_000  # That were read lately.
_MOST_OPTIONS = 500


@dataclass(frozen=True, slots=True)
class Asked:
    """How a report is read.

    Attributes:
        as_of: a day or a moment, ISO 8601; the newest tables where empty.
        against: the other date; what the report says where absent, ``none`` for none.
        chosen: what the reader chose, by the name of the choice.
        links: whether figures and rows lead into the workspace.
        width: of charts, in pixels.
    """

    as_of: str = ""
    against: str | None = None
    chosen: tuple[tuple[str, str], ...] = ()
    links: bool = True
    width: int = 960


class ReportReader:
    """Reads reports; figures that were read lately are kept, each for just the contents that it is of."""

    def __init__(self, parts: ReportParts, charts: Charts) -> None:
        self.parts = parts
        self._charts = charts
        self._told: LockedCache[tuple[Any, ...], Told] = LockedCache(_FIGURES)

    def read(self, report: Report, asked: Asked = Asked()) -> ReportSeen:
        """A report. What is wrong with a figure, an exhibit or a date stands in its place."""
        with self.parts.workspace.read_together():
            return _Reading(self, self.parts, self._charts, report, asked).whole()

    def dates(self, queries: Sequence[int]) -> list[str]:
        """The dates of the tables of some queries, ISO 8601, the newest first."""
        found: set[str] = set()
        for query_id in queries:
            with suppress(ProblemError):  # It was deleted; the report says so.
                query = self.parts.workspace.queries.get(query_id)
                found.update(one.taken for one in self.parts.tables.work_out.timeline(query))
        return sorted(found, reverse=True)

    def days(self, queries: Sequence[int]) -> list[str]:
        """The days of these dates where this machine is, the newest first."""
        zone = self.parts.clock.zone()
        days = (datetime.fromisoformat(one).astimezone(zone).date().isoformat() for one in self.dates(queries))
        return list(dict.fromkeys(days))

    def figure(self, figure: ReportFigure, against: Against) -> FigureSeen:
        """A figure of the newest table, and what it was."""
        report = Report.model_construct(title="figure", figures=[figure], blocks=[], choices=[], against=against)
        with self.parts.workspace.read_together():
            return _Reading(self, self.parts, self._charts, report, Asked(links=False)).figure(figure)

    def words(self, figures: Sequence[ReportFigure], against: Against) -> dict[str, str]:
        """What some figures are now, by their names; why not, where there is none."""
        report = Report.model_construct(title="figures", figures=list(figures), blocks=[], choices=[], against=against)
        return {one.name: one.words or one.why for one in self.read(report).facts}

    def told(self, figure: ReportFigure, rows: RowsAt, beside: tuple[Any, ...]) -> Told:
        """What a figure is; a problem with it is why there is none.

        Args:
            beside: what else it depends on.
        """
        key = (rows.key, rows.taken, figure.model_dump_json(exclude={"name", "decimals"}), beside)

        def make() -> Told:
            try:
                return told_by(figure, rows)
            except ProblemError as error:
                return Told(None, where=None, why=error.problem.what)

        return self._told.get_or_make(key, make)


class _Reading:
    """One reading of a report."""

    def __init__(self, reader: ReportReader, parts: ReportParts, charts: Charts, report: Report, asked: Asked) -> None:
        self._reader, self._parts, self._charts = reader, parts, charts
        self._report, self._asked = report, asked
        against = report.against or NOT_HELD if asked.against is None else asked.against
        self._dates = Dates(asked.as_of, against or NOT_HELD)
        given = dict(asked.chosen)
        self._choices: list[tuple[ReportChoice, str]] = [
            (one, given.get(one.name, one.value)) for one in report.choices
        ]
        self._reads: dict[int, QueryRead] = {}
        self._now = parts.clock.here()
        self._numbers = 0

    def _read(self, query_id: int) -> QueryRead:
        if query_id not in self._reads:
            self._reads[query_id] = QueryRead(
                self._parts, query_id, self._dates, self._choices, self._report.reads(query_id)
            )
        return self._reads[query_id]

    def whole(self) -> ReportSeen:
        """The report."""
        figures = [self.figure(one) for one in self._report.figures]
        for query_id in self._report.queries():
            self._read(query_id)
        speaker = self._speaker(figures)
        blocks = [self._block(block, speaker) for block in self._report.blocks]
        sources = [read.seen() for read in self._reads.values()]
        return ReportSeen(
            self._report.title, speaker.as_of, speaker.against, self._choices_seen(), blocks,
            [_fact(speaker, one) for one in figures], sources,
        )  # fmt: skip

    def _speaker(self, figures: Sequence[FigureSeen]) -> Speaker:
        reads = self._reads.values()
        taken = [one.snapshot.taken for one in reads if one.snapshot is not None]
        then = [one.then.taken for one in reads if one.then is not None]
        return Speaker(
            {one.figure.name.casefold(): one for one in figures},
            max(taken, default=self._parts.clock.now().isoformat()),
            max(then, default=""),
            self._parts.clock.zone(),
            self._now,
            {one.figure.name.casefold(): self._figure_link(one) for one in figures},
        )

    # Figures ---------------------------------------------------------------------------------------------------

    def figure(self, figure: ReportFigure) -> FigureSeen:
        """A figure on both dates."""
        read = self._read(figure.query)
        rows = read.rows
        source = read.seen()
        if rows is None:
            return FigureSeen(figure, Told(None, where=None, why=read.problem or "There is no table."), None, source)
        beside = (read.then.id if read.then is not None else None,)
        now = self._reader.told(figure, rows, beside)
        then_rows = read.then_rows
        then = self._reader.told(figure, then_rows, ()) if then_rows is not None else None
        return FigureSeen(figure, now, then, source)

    def _figure_link(self, one: FigureSeen) -> str:
        if one.now.where is None:
            return self._compare_link(one.source) if one.source.then is not None else self._rows_link(one.source, [])
        return self._rows_link(one.source, one.now.where)

    def _rows_link(self, source: SourceSeen, where: Sequence[Condition]) -> str:
        if not self._asked.links or source.state == "missing":
            return ""
        read = self._reads[source.query_id]
        chosen = read.rows.chosen if read.rows is not None else []
        query: dict[str, str] = {}
        if source.snapshot is not None and not read.is_newest:
            query["as-of"] = f"#{source.snapshot}"
        conditions = [*chosen, *where]
        if conditions:
            query["where"] = json.dumps([one.model_dump() for one in conditions], separators=(",", ":"))
        return f"#/query/{source.query_id}" + (f"?{urlencode(query)}" if query else "")

    def _compare_link(self, source: SourceSeen, column: str = "") -> str:
        if not self._asked.links or source.then is None:
            return ""
        query = {"then": f"#{source.then}", "now": f"#{source.snapshot}"} | ({"column": column} if column else {})
        return f"#/query/{source.query_id}/compare?{urlencode(query)}"

    # Blocks ----------------------------------------------------------------------------------------------------

    def _block(self, block: TextBlock | Exhibit, speaker: Speaker) -> BlockSeen:
        if isinstance(block, TextBlock):
            return self._text(block, speaker)
        self._numbers += 1
        made = BlockSeen(block.block, self._numbers, block.title)  # type: ignore[attr-defined]
        read = self._read(block.query)
        if read.rows is None:
            made.sources = [read.seen()]
            made.title = made.title or "Nothing to show"
            return _without(made, read.problem or "There is no table.")
        try:
            self._exhibit(block, read, made)
        except ProblemError as error:
            _without(made, error.problem.what, error.problem.do)
        made.sources = made.sources or [read.seen()]
        made.title = made.title or read.seen().name
        return made

    def _text(self, block: TextBlock, speaker: Speaker) -> BlockSeen:
        written = write(block.text, speaker.say, speaker.holds)
        made = BlockSeen("text", html=written.html, text=written.text, odd=list(written.odd))
        sources: dict[int, SourceSeen] = {}
        for one in references(block.text):
            figure = speaker.figures.get(one.name.casefold())
            if figure is None:
                if one.name.casefold() not in ("as of", "against"):
                    made.odd.append(f"No figure is named “{one.name}”.")
                continue
            before = sources.get(figure.figure.query, figure.source)
            sources[figure.figure.query] = with_notes(before, figure.now.notes)
        made.odd = list(dict.fromkeys(made.odd))
        made.sources = list(sources.values())
        return made

    def _exhibit(self, block: Exhibit, read: QueryRead, made: BlockSeen) -> None:
        if isinstance(block, ChartExhibit):
            self._chart(block, read, made)
        elif isinstance(block, TableExhibit):
            source = read.seen()
            table, odd = table_seen(
                block, read, self._parts.tables, self._now, lambda where: self._rows_link(source, where)
            )
            made.title = made.title or source.name
            made.table, made.odd = table, odd
            made.html = table_html(table, made.title)
        elif isinstance(block, ChangesExhibit):
            self._changes(block, read, made)

    def _chart(self, block: ChartExhibit, read: QueryRead, made: BlockSeen) -> None:
        assert read.rows is not None
        canvas = Canvas(self._asked.width)
        made.chart = block.chart
        drawing = self._drawn(read.rows, block, canvas)
        made.title = made.title or block.chart.title or heading(drawing)
        if read.then_rows is not None:
            try:
                drawing = laid_under(drawing, self._drawn(read.then_rows, block, canvas), read.days_apart)
            except ProblemError as error:
                made.odd.append(f"The other date is not drawn: {error.problem.what}")
        made.drawing = drawing
        made.text = drawing.sentence
        made.odd.extend(drawing.notes)

    def _drawn(self, rows: RowsAt, block: ChartExhibit, canvas: Canvas) -> Drawing:
        return self._charts.draw(rows.source, View(where=[*rows.chosen, *block.where]), block.chart, canvas)

    def _changes(self, block: ChangesExhibit, read: QueryRead, made: BlockSeen) -> None:
        source = read.seen()
        made.title = made.title or f"What changed in {source.name}"
        made.sources = [source]
        if read.compared is None:
            _without(made, read.then_problem or "There is no other date to hold it against.", "Choose another date.")
            return
        made.html, made.text = changes_html(read.compared.found, lambda column: self._compare_link(source, column))
        if read.rows is not None and (read.rows.chosen or block.where):
            made.odd.append("This is of all rows, whatever is chosen above.")
        made.table = changed_rows(block, read, self._parts.comparisons, self._now)
        if made.table is not None:
            made.html += table_html(made.table, made.title)

    # Choices ---------------------------------------------------------------------------------------------------

    def _choices_seen(self) -> list[ChoiceSeen]:
        out = []
        for choice, value in self._choices:
            options, kind = self._options(choice)
            asks = self._asked_with(choice.name) if choice.asks and self._asked.links else []
            out.append(ChoiceSeen(choice.name, choice.column, choice.how, value, options, kind, asks))
        return out

    def _asked_with(self, name: str) -> list[int]:
        """The queries that have a parameter of a name, in any case."""
        return [
            read.query_id
            for read in self._reads.values()
            if read.query is not None
            and any(one.name.casefold() == name.casefold() for one in read.query.brief.parameters)
        ]

    def _options(self, choice: ReportChoice) -> tuple[list[str], str]:
        """The values of the column in the first table that has it, and what they are."""
        for read in self._reads.values():
            if read.rows is None:
                continue
            found = next((one for one in read.rows.source.columns if one.name == choice.column), None)
            if found is None:
                continue
            if choice.how != "is":
                return [], found.kind
            values = self._parts.tables.values(read.rows.source, choice.column)
            texts = {group_text(value) for _, value in values.counts}
            return sorted(filter(None, texts), key=str.casefold)[:_MOST_OPTIONS], found.kind
        return [], "text"


def _fact(speaker: Speaker, one: FigureSeen) -> FactSeen:
    name = one.figure.name
    parts: dict[str, str] = {}
    if not one.now.why:
        for part in kind_of_figure(one.figure).parts:
            if part == "amount" or (one.then is not None and not one.then.why):
                parts[part] = speaker.say(Reference(name, part)).text
    words = speaker.say(Reference(name)).text if not one.now.why else ""
    return FactSeen(name, one.figure.query, one.source.name, words, parts, one.now.why)


def _without(made: BlockSeen, why: str, do: str = "") -> BlockSeen:
    """An exhibit that cannot be shown says so in its place."""
    told = f"{why} {do}".strip()
    made.html = f'<p class="lacking">{harmless(told)}</p>'
    made.text = told
    made.drawing = None
    return made


def chosen_of(given: Mapping[str, str]) -> tuple[tuple[str, str], ...]:
    """What a reader chose, ready to be compared."""
    return tuple(sorted(given.items()))

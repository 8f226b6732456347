"""Figures that a query offers to whoever writes about it, and a report to begin with."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from tin_bucket.core.analysis.view import OneOf
from tin_bucket.core.chart.model import ChartModel
from tin_bucket.core.chart.propose import Offered, seems_a_code
from tin_bucket.core.names import free_name

from .exhibits.changes import ChangesExhibit
from .exhibits.chart import ChartExhibit
from .figure import MOST_NAME, RESERVED, ReportFigure
from .figures.amount import AmountFigure
from .figures.leading import LeadingFigure
from .figures.moment import MomentFigure
from .figures.moves import MovesFigure
from .figures.share import ShareFigure
from .model import Against, Report, TextBlock

_NUMBERS = 6  # Columns of numbers that figures are offered of.
_NAMES = 4
_VALUES = 8  # Values of a column that shares are offered of.
_FEW = 12
_BREAK = re.compile(r"\s+(?:by|of|with|in|on|at|from|for|per|a|an|the|and)\s+|[,:(–-]")
_UNFIT = re.compile(r"[{}:\\]")


@dataclass(frozen=True, slots=True)
class AtHand:
    """A query that is written about.

    Attributes:
        query: its number.
        name: what it is called.
        columns: those of its table.
        values: of columns with few values these, the most frequent first.
        charts: those that are kept with it, or suit it.
        rows: how many rows its table has.
        against: which other date there is.
    """

    query: int
    name: str
    rows: int
    columns: Sequence[Offered]
    values: Mapping[str, Sequence[str]] = field(default_factory=dict)
    charts: Sequence[ChartModel] = ()
    against: Against = ""

    @property
    def noun(self) -> str:
        """What its rows are: “sailings” of “Sailings by route”; “rows” where its name does not say it."""
        first = _BREAK.split(self.name.strip(), maxsplit=1)[0].strip()
        word = first.split(" ")[-1] if first else ""
        plural = word.endswith("s") and not word.endswith("ss") and word.isalpha()
        return first[:1].lower() + first[1:] if plural and len(first) <= 40 else "rows"

    @property
    def numbers(self) -> list[Offered]:
        """The columns of numbers that are amounts."""
        found = [
            one for one in self.columns
            if one.is_number and not one.is_key and one.different > 1 and not seems_a_code(one)
        ]  # fmt: skip
        return sorted(found, key=lambda one: not one.unit)[:_NUMBERS]

    @property
    def names(self) -> list[Offered]:
        """The columns of names that come again and again, those with the fewest first."""
        found = [
            one for one in self.columns
            if not one.is_number and not one.is_time and not one.is_key and not seems_a_code(one)
            and one.name in self.values and 2 * one.different <= self.rows
        ]  # fmt: skip
        return sorted(found, key=lambda one: one.different)


def offers(at_hand: AtHand, taken: Sequence[str] = ()) -> list[ReportFigure]:
    """Figures of a query, the likeliest first, each with a name of its own.

    Args:
        taken: names that mean something else already.
    """
    made: list[ReportFigure] = []
    known = {*(name.casefold() for name in taken), *RESERVED}
    noun, query = at_hand.noun, at_hand.query

    def name(words: str) -> str:
        fit = _UNFIT.sub(" ", words)[: MOST_NAME - 20].strip() or "figure"
        own = free_name(fit, known)
        known.add(own.casefold())
        return own

    made.append(AmountFigure(name=name(noun), query=query))
    numbers, names = at_hand.numbers, at_hand.names
    for one in numbers:
        made.append(AmountFigure(name=name(f"mean {one.name}"), query=query, figure="mean", column=one.name))
    for one in names[:_NAMES]:
        for value in at_hand.values[one.name][:_VALUES]:
            meet = OneOf(column=one.name, values=[value])
            made.append(ShareFigure(name=name(f"{value} {noun}, in %"), query=query, meet=[meet]))
            made.append(AmountFigure(name=name(f"{value} {noun}"), query=query, where=[meet]))
    for one in names[:_NAMES]:
        for number in numbers[1::-1]:
            made.append(
                LeadingFigure(
                    name=name(f"{one.name} with the highest {number.name}"),
                    query=query,
                    by=one.name,
                    figure="mean",
                    column=number.name,
                )
            )
        made.append(LeadingFigure(name=name(f"{one.name} with the most {noun}"), query=query, by=one.name))
    if at_hand.against:
        for what in ("new", "gone", "changed"):
            made.append(MovesFigure(name=name(f"{what} {noun}"), query=query, what=what))
        for one in numbers[:3]:
            made.append(
                MovesFigure(name=name(f"how {one.name} moved"), query=query, what="rose and fell", column=one.name)
            )
    for one in numbers:
        for figure in ("sum", "highest", "lowest"):
            words = f"sum of {one.name}" if figure == "sum" else f"{figure} {one.name}"
            made.append(AmountFigure(name=name(words), query=query, figure=figure, column=one.name))
    for one in [column for column in at_hand.columns if column.is_time][:2]:
        for which in ("first", "last"):
            made.append(MomentFigure(name=name(f"{which} {one.name}"), query=query, which=which, column=one.name))
    made.append(MomentFigure(name=name(f"date of {at_hand.name}"), query=query))
    return made


def begin(at_hand: AtHand) -> Report:
    """A report of a query: a paragraph, a chart, and what changed."""
    offered = offers(at_hand)
    used: list[ReportFigure] = [offered[0]]
    rows = offered[0].name
    since = at_hand.against
    noun = at_hand.noun
    text = [
        f"As of {{as of}} there are {{{rows}}} {noun}" + (f", {{{rows}: change}} since {{against}}." if since else ".")
    ]
    mean = next((one for one in offered if isinstance(one, AmountFigure) and one.figure == "mean"), None)
    if mean is not None:
        used.append(mean)
        text.append(f"The {mean.name} is {{{mean.name}}}" + (f", {{{mean.name}: change}}." if since else "."))
    # What has more names tells more.
    leaders = [one for one in offered if isinstance(one, LeadingFigure) and bool(one.column) == bool(at_hand.numbers)]
    leading = leaders[-1] if leaders else None
    if leading is not None:
        used.append(leading)
        what = f"highest mean {leading.column}" if leading.column else f"most {noun}"
        text.append(f"{{{leading.name}}} has the {what}, {{{leading.name}: amount}}.")
    moves = [one for one in offered if isinstance(one, MovesFigure) and one.what != "rose and fell"]
    if since and len(moves) == 3:
        used.extend(moves)
        new, gone, changed = (f"{{{one.name}}}" for one in moves)
        text.append(f"Since {{against}}, {new} came, {gone} went and {changed} changed.")
    blocks: list[object] = [TextBlock(text=" ".join(text))]
    if at_hand.charts:
        blocks.append(ChartExhibit(query=at_hand.query, chart=at_hand.charts[0]))
    if since:
        blocks.append(ChangesExhibit(query=at_hand.query))
    return Report.model_validate(
        {
            "title": at_hand.name,
            "figures": [one.model_dump() for one in used],
            "blocks": [one.model_dump() for one in blocks],  # type: ignore[attr-defined]
            "against": since,
        }
    )


def few_values(columns: Sequence[Offered]) -> list[str]:
    """The columns of which :attr:`AtHand.values` are wanted."""
    return [one.name for one in columns if not one.is_number and not one.is_time and 1 < one.different <= _FEW]

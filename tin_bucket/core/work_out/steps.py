"""What a line does to a table, in the terms of the engine that does it and of the statement that says it.

Each step is one of few kinds: it makes columns, chooses and orders rows, makes rows of one row, groups rows, joins
another table, or puts others below. Whatever it is, the engine can say for each row of the table after it which
rows of the table before it are behind it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from .sql import Sql


@dataclass(frozen=True, slots=True)
class Made:
    """A column that is worked out.

    Attributes:
        kind: what its values are; by the values when absent.
        numbers: columns of which a number is wanted, and which have texts among their values.
        divides: whether an empty value may be a division by zero.
        chooses: whether an empty value may be meant.
        fails: what an empty value means where the columns that it reads have values; empty when that is nothing odd.
        nothing: texts that stand for no value, and are blank on purpose.
    """

    name: str
    sql: Sql
    kind: str | None = None
    unit: str = ""
    numbers: frozenset[str] = frozenset()
    divides: bool = False
    chooses: bool = False
    fails: str = ""
    nothing: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True)
class Columns:
    """New columns, or others in the place of those with the same names.

    Attributes:
        along: whether the values depend on other rows of the table.
        inner: columns that are worked out before, by their names in double quotes, for values that depend on those of
            other rows.
        after: the column behind which new ones stand; at the end when absent.
        without: columns that go.
        tally: the column whose values are counted for the line.
    """

    made: Sequence[Made]
    along: bool = False
    inner: Sequence[tuple[str, Sql]] = ()
    after: str | None = None
    without: Sequence[str] = ()
    tally: str | None = None


@dataclass(frozen=True, slots=True)
class Rows:
    """Some of the rows, in an order.

    Attributes:
        where: what holds for the rows that stay.
        rank: a number of each row; rows stay up to `most`.
        order: what they are ordered by, empty values last; the order they have when there is nothing.
        numbers: columns of which a number is wanted, and which have texts among their values.
    """

    where: Sql | None = None
    rank: Sql | None = None
    most: int = 0
    order: Sequence[Sql] = ()
    numbers: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True)
class Unfold:
    """A row for each item of a list that is worked out of a column; one row where there is none.

    Attributes:
        items: a JSON array.
        name: the column that the items take the place of.
    """

    items: Sql
    name: str


@dataclass(frozen=True, slots=True)
class Fold:
    """Columns become rows: a row for each, with its name and its value.

    Attributes:
        columns: those that go.
        name, value: the new columns.
        blanks: whether a row is made for an empty value.
    """

    columns: Sequence[str]
    name: str
    value: str
    blanks: bool


@dataclass(frozen=True, slots=True)
class Figure:
    """A figure of a group.

    Attributes:
        sql: an aggregate of the columns, and of those that `inner` makes.
        total: the same over all rows; `sql` when absent.
        inner: columns that are worked out for each row before, such as the first value of its group.
        numbers: columns of which numbers alone count.
    """

    name: str
    sql: Sql
    total: Sql | None = None
    inner: Sequence[tuple[str, Sql]] = ()
    kind: str | None = None
    unit: str = ""
    numbers: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True)
class Groups:
    """A row for each group of rows.

    Attributes:
        by: what makes a group, in the order in which groups are ordered.
        figures: of each group.
        totals: whether a row of all follows.
    """

    by: Sequence[Made]
    figures: Sequence[Figure]
    totals: bool = False


@dataclass(frozen=True, slots=True)
class Source:
    """Another table: a query's, as of the date of the table at hand, or a sheet's."""

    query: str | None = None
    sheet: str | None = None

    @property
    def name(self) -> str:
        """What it is called."""
        return self.query or self.sheet or ""


@dataclass(frozen=True, slots=True)
class Match:
    """A column of the other table, with a column of this one, or a value, that it is equal to."""

    theirs: str
    ours: str | None = None
    value: object = None


@dataclass(frozen=True, slots=True)
class Bring:
    """Columns of another table, by rows that match.

    Attributes:
        columns: name there, name here.
        rows: ``all`` of this table, or those that are ``matching`` or ``unmatched``.
        several: what happens with several matches: a row for ``each``, or the ``first``.
        loosely: whether “007” and 7, “A” and “a” match.
    """

    source: Source
    match: Sequence[Match]
    columns: Sequence[tuple[str, str]]
    rows: str = "all"
    several: str = "first"
    loosely: bool = False


@dataclass(frozen=True, slots=True)
class Below:
    """The rows of other tables below.

    Attributes:
        whose: a column that says which table a row is of; none when empty.
        own: what it says for this table's rows.
    """

    sources: Sequence[Source]
    whose: str = ""
    own: str = ""


Step = Columns | Rows | Unfold | Fold | Groups | Bring | Below

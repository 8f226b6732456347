"""The whole work-out as one SQL statement, to be read, copied and run by SQLite elsewhere.

Every line is a common table expression over the one before it. Rows have no order in SQL; a column of their numbers,
:data:`sql.ROW`, carries it from line to line.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from .expression.functions import FUNCTIONS, OUR_INNER_FUNCTIONS
from .sql import ROW, literal, quoted
from .steps import Below, Bring, Columns, Fold, Groups, Rows, Step, Unfold

_ROW = quoted(ROW)


@dataclass(frozen=True, slots=True)
class Done:
    """A step, with what the statement must know of the tables around it.

    Attributes:
        before, after: the names of the columns before and after it.
        others: for each other table the names of its columns.
    """

    step: Step
    before: Sequence[str]
    after: Sequence[str]
    others: Sequence[Sequence[str]] = ()


def statement(table: str, columns: Sequence[str], steps: Sequence[Done]) -> str:
    """The statement that makes the last table of the first one.

    Args:
        table: the name of the first table.
        columns: the names of its columns.
    """
    names = _list(columns)
    parts = [f'"line 0" AS (\n  SELECT row_number() OVER () AS {_ROW}, {names}\n  FROM {quoted(table)}\n)']
    for at, done in enumerate(steps, 1):
        text = _WRITES[type(done.step)](done.step, f'"line {at - 1}"', done)
        parts.append(f'"line {at}" AS (\n{_indented(text)}\n)')
    last = _list(steps[-1].after if steps else columns)
    return f'WITH {", ".join(parts)}\nSELECT {last}\nFROM "line {len(steps)}"\nORDER BY {_ROW}'


def _indented(text: str) -> str:
    return "\n".join(f"  {line}" for line in text.splitlines())


def _list(names: Sequence[str], prefix: str = "") -> str:
    return ", ".join(f"{prefix}{quoted(name)}" for name in names) or "NULL"


def _also(names: Sequence[str], prefix: str = "") -> str:
    """Some columns behind another one."""
    return "".join(f", {prefix}{quoted(name)}" for name in names)


def _columns(step: Columns, source: str, done: Done) -> str:
    made = {one.name: one.sql for one in step.made}
    told = [f"{made[name]} AS {quoted(name)}" if name in made else quoted(name) for name in done.after]
    if step.inner:
        inner = ", ".join(f"{piece} AS {name}" for name, piece in step.inner)
        source = f"(SELECT *, {inner} FROM {source})"
    return f"SELECT {', '.join([_ROW, *told])}\nFROM {source}"


def _rows(step: Rows, source: str, done: Done) -> str:
    tests = [f"({step.where})"] if step.where is not None else []
    if step.rank is not None:
        source = f'(SELECT *, {step.rank} AS "#rank" FROM {source})'
        tests.append(f'"#rank" <= {step.most}')
    order = ", ".join([*map(str, step.order), _ROW])
    where = f"\nWHERE {' AND '.join(tests)}" if tests else ""
    return f"SELECT row_number() OVER (ORDER BY {order}) AS {_ROW}{_also(done.before)}\nFROM {source}{where}"


def _unfold(step: Unfold, source: str, done: Done) -> str:
    told = [f"j.value AS {quoted(name)}" if name == step.name else f"t.{quoted(name)}" for name in done.before]
    return (
        f"SELECT row_number() OVER (ORDER BY t.{_ROW}, j.key) AS {_ROW}, {', '.join(told)}\n"
        f'FROM (SELECT *, {step.items} AS "#items" FROM {source}) AS t LEFT JOIN json_each(t."#items") AS j'
    )


def _fold(step: Fold, source: str, done: Done) -> str:
    rest = [name for name in done.before if name not in step.columns]
    selects = [
        f'SELECT {_ROW} AS "#n", {at} AS "#at"{_also(rest)},'
        f" {literal(name)} AS {quoted(step.name)}, {quoted(name)} AS {quoted(step.value)} FROM {source}"
        for at, name in enumerate(step.columns)
    ]
    value = quoted(step.value)
    where = "" if step.blanks else f"\nWHERE {value} IS NOT NULL AND {value} <> ''"
    both = "\n  UNION ALL ".join(selects)
    return f'SELECT row_number() OVER (ORDER BY "#n", "#at") AS {_ROW}{_also(done.after)}\nFROM ({both}){where}'


def _groups(step: Groups, source: str, done: Done) -> str:
    keys = [f'"#g{at}"' for at in range(len(step.by))]
    made = [f"{one.sql} AS {key}" for one, key in zip(step.by, keys, strict=True)]
    made += [f"{piece} AS {name}" for one in step.figures for name, piece in one.inner]
    rows = f"(SELECT *, {', '.join(made)} FROM {source})" if made else source
    figures = [f"{one.sql} AS {quoted(one.name)}" for one in step.figures]
    named = [f"{key} AS {quoted(one.name)}" for key, one in zip(keys, step.by, strict=True)]
    if not keys:
        return f"SELECT 1 AS {_ROW}, {', '.join(figures)}\nFROM {rows}"
    text = f"SELECT {', '.join([*named, *figures])} FROM {rows} GROUP BY {', '.join(keys)}"
    order = ", ".join(f"{quoted(one.name)} NULLS LAST" for one in step.by)
    text = f"SELECT row_number() OVER (ORDER BY {order}) AS {_ROW}{_also(done.after)}\nFROM ({text})"
    if not step.totals:
        return text
    totals = [f"{one.total or one.sql} AS {quoted(one.name)}" for one in step.figures]
    empty = [f"{literal('Total' if not at else None)} AS {quoted(one.name)}" for at, one in enumerate(step.by)]
    last = f"SELECT 9223372036854775807 AS {_ROW}, {', '.join([*empty, *totals])} FROM {rows}"
    return f"{text}\nUNION ALL\n{last}"


def _loose(value: str) -> str:
    """A value as it is compared loosely: a text in lower case without spaces around it and noughts before a number."""
    text = f"lower(trim(CAST({value} AS TEXT)))"
    return f"CASE WHEN {text} GLOB '*[^0-9]*' THEN {text} ELSE ltrim({text}, '0') END"


def _bring(step: Bring, source: str, done: Done) -> str:
    other = f"(SELECT row_number() OVER () AS {_ROW}, * FROM {quoted(step.source.name)})"
    fixed = [f"{quoted(one.theirs)} = {literal(one.value)}" for one in step.match if one.ours is None]
    if fixed:
        other = f"(SELECT * FROM {other} WHERE {' AND '.join(fixed)})"
    as_is = _loose if step.loosely else str
    theirs = [as_is(quoted(one.theirs)) for one in step.match if one.ours is not None]
    if step.several == "first":
        window = f"PARTITION BY {', '.join(theirs)} ORDER BY {_ROW}" if theirs else f"ORDER BY {_ROW}"
        other = f'(SELECT * FROM (SELECT *, row_number() OVER ({window}) AS "#first" FROM {other}) WHERE "#first" = 1)'
    on = [
        f"{as_is('o.' + quoted(one.theirs))} = {as_is('t.' + quoted(one.ours))} AND t.{quoted(one.ours)} <> ''"
        for one in step.match
        if one.ours is not None
    ]
    join = "JOIN" if step.rows == "matching" else "LEFT JOIN"
    told = "".join(f", o.{quoted(name)} AS {quoted(title)}" for name, title in step.columns)
    where = f"\nWHERE o.{_ROW} IS NULL" if step.rows == "unmatched" else ""
    return (
        f"SELECT row_number() OVER (ORDER BY t.{_ROW}, o.{_ROW}) AS {_ROW}{_also(done.before, 't.')}{told}\n"
        f"FROM {source} AS t\n{join} {other} AS o\n  ON {' AND '.join(on) or '1'}{where}"
    )


def _below(step: Below, source: str, done: Done) -> str:
    tables = [(source, step.own, done.before, _ROW)]
    tables += [
        (quoted(one.name), one.name, names, "row_number() OVER ()")
        for one, names in zip(step.sources, done.others, strict=True)
    ]
    selects = []
    for at, (table, whose, names, number) in enumerate(tables):
        told = [
            literal(whose) if name == step.whose else quoted(name) if name in names else "NULL" for name in done.after
        ]
        named = ", ".join(f"{one} AS {quoted(name)}" for one, name in zip(told, done.after, strict=True))
        selects.append(f'SELECT {at} AS "#at", {number} AS "#n", {named} FROM {table}')
    both = "\n  UNION ALL ".join(selects)
    return f'SELECT row_number() OVER (ORDER BY "#at", "#n") AS {_ROW}{_also(done.after)}\nFROM ({both})'


_WRITES: dict[type, Callable[..., str]] = {
    Columns: _columns,
    Rows: _rows,
    Unfold: _unfold,
    Fold: _fold,
    Groups: _groups,
    Bring: _bring,
    Below: _below,
}


def own_functions(text: str) -> list[str]:
    """Which functions of Tin Bucket's own a statement calls: SQLite elsewhere does not have them."""
    ours = [name for name, one in FUNCTIONS.items() if one.ours]
    return [name for name in (*ours, *OUR_INNER_FUNCTIONS) if f"{name}(" in text]

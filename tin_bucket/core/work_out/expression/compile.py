"""An expression, checked against the columns of a table → SQL.

SQLite takes a text for the number 0 where a number is wanted, and orders every text above every number. Both would
give a wrong figure without a word. So a column with texts among its values is empty where a number is wanted of it.
"""

from __future__ import annotations

import difflib
from collections.abc import Iterator
from dataclasses import dataclass

from tin_bucket.core.work_out.shape import Shape
from tin_bucket.core.work_out.sql import Col, Sql, literal, sql

from .functions import FUNCTIONS
from .mistake import mistake
from .parser import Node, parse

_ARITHMETIC = {"+", "-", "*", "/", "%", "&", "|", "<<", ">>", "~"}
_ORDERED = {"<", "<=", ">", ">=", "BETWEEN"}
_EQUAL = {"=", "==", "<>", "!=", "IN"}


@dataclass(frozen=True, slots=True)
class Compiled:
    """An expression that can be worked out.

    Attributes:
        sql: as SQL.
        numbers: columns of which a number is wanted, and which have texts among their values.
        divides: whether it divides; an empty result may then be a division by zero.
        chooses: whether an empty result may be meant, as with CASE.
        logic: whether it gives yes or no.
    """

    sql: Sql
    numbers: frozenset[str] = frozenset()
    divides: bool = False
    chooses: bool = False
    logic: bool = False


def compile_expression(text: str, shape: Shape) -> Compiled:
    """Check an expression against the columns of a table.

    Raises:
        ExpressionError: with the place of the mistake.
    """
    root = parse(text)
    every = list(_nodes(root))
    places: list[tuple[int, int, Sql]] = []
    wanted: set[Node] = set()
    numbers: set[str] = set()
    for part in _number_places(text, root, shape):
        wanted.update(_bare(part))
        if not _bare(part) and _may_be_text(part, shape):
            places += [(part.start, part.start, sql("as_number(")), (part.end, part.end, sql(")"))]
    for node in every:
        if node.kind == "call" and node.name == "as_of":
            places.append((node.start, node.end, sql(literal(shape.as_of))))
        if node.kind != "column" or node.inner:
            continue
        name = _known(text, node, shape)
        column = shape.column(name)
        piece = sql(Col(name))
        if node in wanted and column.texts:
            numbers.add(name)
            piece = number_of(name)
        places.append((node.start, node.end, piece))
    parts: list[str | Sql] = []
    at = 0
    # Where they meet, what ends comes before what begins, and that before what stands inside.
    for start, end, piece in sorted(places, key=lambda place: (place[0], str(place[2]) != ")", place[1])):
        parts += [text[at:start], piece]
        at = end
    parts.append(text[at:])
    operators = {node.name for node in every}
    return Compiled(
        sql(*parts),
        frozenset(numbers),
        divides=bool({"/", "%"} & operators),
        chooses=bool({"CASE", "nullif", "iif", "json_extract", "->", "->>"} & operators)
        or any(node.kind == "null" for node in every),
        logic=root.kind == "logic",
    )


def number_of(name: str) -> Sql:
    """A column's value where it is a number, and nothing where it is a text."""
    return sql("CASE typeof(", Col(name), ") WHEN 'text' THEN NULL ELSE ", Col(name), " END")


def _nodes(node: Node) -> Iterator[Node]:
    yield node
    for inner in node.inner:
        yield from _nodes(inner)


def _known(text: str, node: Node, shape: Shape) -> str:
    found = shape.find(node.name)
    if found is not None:
        return found.name
    names = shape.names
    if node.name.upper().startswith("CURRENT_"):
        what, do = f"{node.name} is another value at every look.", "Write as_of(): the moment of the snapshot."
        raise mistake(text, node.start, node.end, what, do)
    near = difflib.get_close_matches(node.name.lower(), [name.lower() for name in names], 1, 0.6)
    close = next((name for name in names if near and name.lower() == near[0]), None)
    do = f'Is "{close}" meant?' if close else "Choose a column of the list; a text stands in single quotes."
    raise mistake(text, node.start, node.end, f"There is no column “{node.name[:100]}” here.", do)


def _number_places(text: str, root: Node, shape: Shape) -> Iterator[Node]:
    """The parts of which a number is wanted: operands of arithmetic, values of functions of numbers, and what is
    ordered against a number.

    Raises:
        ExpressionError: for a text that is written there, or is compared with a number, to which it is never equal.
    """
    for node in _nodes(root):
        compares = node.kind == "logic" and any(_numeric(part, shape) for part in node.inner)
        if (
            (node.kind == "arithmetic" and node.name in _ARITHMETIC)
            or (node.kind == "call" and node.name in FUNCTIONS and FUNCTIONS[node.name].numbers)
            or (compares and node.name in _ORDERED)
        ):
            for part in node.inner:
                _check_no_text(text, part)
                yield part
        elif compares and node.name in _EQUAL and not any(_may_hold_text(part, shape) for part in node.inner):
            for part in node.inner:
                _check_no_text(text, part)


def _check_no_text(text: str, part: Node) -> None:
    if part.kind == "text":
        what = f"{text[part.start : part.end][:60]} is a text, and a number is wanted here."
        do = "Write a number without quotes, IS NULL for a blank, or || to join texts."
        raise mistake(text, part.start, part.end, what, do)


def _may_hold_text(part: Node, shape: Shape) -> bool:
    """Whether it may be a text, a written one aside."""
    return part.kind != "text" and _may_be_text(part, shape)


def _may_be_text(node: Node, shape: Shape) -> bool:
    """Whether a part may be a text, which SQLite would take for 0."""
    if node.kind in ("number", "null", "arithmetic", "logic"):
        return False
    if node.kind == "column":
        found = shape.find(_bare(node)[0].name)
        return found is not None and found.texts
    if node.kind == "call":
        result = FUNCTIONS[node.name].result if node.name in FUNCTIONS else ""
        if result in ("number", "yes/no"):
            return False
        if result == "text" or node.name == "json_extract":
            return True
        values = node.inner[1:] if node.name == "iif" else node.inner[:1] if node.name == "nullif" else node.inner
        return any(_may_be_text(one, shape) for one in values)
    if node.kind == "case":
        return any(_may_be_text(one, shape) for one in node.inner)
    if node.kind == "other":
        return node.name == "TEXT"
    return True


def _bare(node: Node) -> list[Node]:
    """A column that stands alone, brackets aside."""
    while node.kind == "column" and node.inner:
        node = node.inner[0]
    return [node] if node.kind == "column" else []


def _numeric(node: Node, shape: Shape) -> bool:
    """Whether a part is a number for sure."""
    if node.kind in ("number", "arithmetic"):
        return True
    if node.kind == "call" and node.name in FUNCTIONS:
        return FUNCTIONS[node.name].result == "number"
    bare = _bare(node)
    found = shape.find(bare[0].name) if bare else None
    return found is not None and found.numeric

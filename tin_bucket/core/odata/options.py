"""System query options of a collection (OData 4.01, Protocol §11.2.6; URL Conventions §5.1).

They say which rows and properties are asked for, in which order, and which page of them.

Options are mappings of names without the dollar sign to their texts. Every mistake is an ``ODataError`` with status 400
that names the option.
"""

from __future__ import annotations

from collections.abc import Mapping

from tin_bucket.core.work_out.line import LineModel
from tin_bucket.core.work_out.lines.order import By

from .entity import ROW, EntityType, Property
from .fault import ODataError
from .filter import filter_expression, search_expression
from .page import PageRows


def page_lines(options: Mapping[str, str], aliases: Mapping[str, str], entity: EntityType) -> list[LineModel]:
    """What ``$filter``, ``$search`` and ``$orderby`` do to the table: one line, or none where nothing is asked.

    Args:
        aliases: values of parameter aliases, by name with the at sign.

    Raises:
        ODataError: an option has a mistake; its place is told.
    """
    tests = []
    if "filter" in options:
        tests.append(filter_expression(options["filter"], entity, dict(aliases)))
    if "search" in options:
        tests.append(search_expression(options["search"], entity))
    by = order_of(options.get("orderby", ""), entity)
    return [PageRows(expression=" AND ".join(f"({one})" for one in tests), by=by)] if tests or by else []


def order_of(text: str, entity: EntityType) -> list[By]:
    """The columns of ``$orderby`` (URL Conventions 4.01, §5.1.4), the first one first; none for an empty text.

    Raises:
        ODataError: ``orderby-mistake``, with the place of the part in the text.
    """
    by: list[By] = []
    for part in text.split(",") if text.strip() else []:
        words = part.split()
        one = entity.of(words[0]) if words else None
        if one is None or len(words) > 2 or (len(words) == 2 and words[1] not in ("asc", "desc")):
            told = f"“{part.strip()[:60]}” is no property, or none followed by asc or desc."
            at = text.find(part.strip()) if part.strip() else len(text)
            raise ODataError(400, "orderby-mistake", told, "$orderby", at)
        by.append(By(column=one.column.name, down=words[1:] == ["desc"]))
    return by


def selected_properties(options: Mapping[str, str], entity: EntityType) -> list[Property]:
    """The properties of ``$select`` (URL Conventions 4.01, §5.1.3), each once; all of them where nothing is selected.

    Raises:
        ODataError: ``select-mistake``, for a name that is no property.
    """
    text = options.get("select", "").strip()
    names = [one.strip() for one in text.split(",") if one.strip()]
    if not names or "*" in names:
        return list(entity.properties)
    out = []
    for name in dict.fromkeys(names):
        one = entity.of(name)
        if one is None and name != ROW:
            known = ", ".join(known.name for known in entity.properties[:12])
            told = f"There is no property “{name[:60]}”. There are {known}."
            raise ODataError(400, "select-mistake", told, "$select", text.find(name))
        if one is not None:
            out.append(one)
    return out


def whole_number(options: Mapping[str, str], name: str) -> int | None:
    """The number of rows that ``$top`` or ``$skip`` says; None where it is not said.

    Raises:
        ODataError: ``top-mistake`` or ``skip-mistake``.
    """
    text = options.get(name)
    if text is None:
        return None
    if not (text.isascii() and text.isdigit()) or len(text) > 12:
        raise ODataError(400, f"{name}-mistake", f"“{text[:20]}” is no whole number from 0.", f"${name}", 0)
    return int(text)


def wants_count(options: Mapping[str, str]) -> bool:
    """Whether ``$count`` asks how many rows there are.

    Raises:
        ODataError: ``count-mistake``.
    """
    text = options.get("count", "false").lower()
    if text not in ("true", "false"):
        raise ODataError(400, "count-mistake", "$count is true or false.", "$count", 0)
    return text == "true"


def page_token(snapshot: int, row: int) -> str:
    """The ``$skiptoken`` of a page (Protocol 4.01, §11.2.6.7).

    Args:
        snapshot: the id of the snapshot that the page is of, 0 for none.
        row: how many of the rows asked for were on the pages before it.
    """
    return f"{snapshot}-{row}"


def read_page_token(token: str) -> tuple[int, int]:
    """The snapshot's id, and the number of rows before the page.

    Raises:
        ODataError: ``skiptoken-mistake``, for one that ``page_token`` did not make.
    """
    snapshot, _, row = token.partition("-")
    if not (token.isascii() and snapshot.isdigit() and row.isdigit()) or len(token) > 40:
        raise ODataError(400, "skiptoken-mistake", "This page is unknown. Begin with the first one.", "$skiptoken")
    return int(snapshot), int(row)

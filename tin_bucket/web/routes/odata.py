"""Tables as an OData 4.01 service (OASIS; Protocol, URL Conventions, JSON Format), read-only. For readers alone."""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any
from urllib.parse import quote, urlencode

import orjson
from fastapi import APIRouter, Request
from fastapi.responses import Response

from tin_bucket.core.hand_over.kinds.address import AddressFeed
from tin_bucket.core.odata.entity import ROW, EntityType, Property, entity_type, odata_value
from tin_bucket.core.odata.fault import ODataError
from tin_bucket.core.odata.metadata import metadata_json, metadata_xml
from tin_bucket.core.odata.options import (
    page_lines,
    page_token,
    read_page_token,
    selected_properties,
    wants_count,
    whole_number,
)
from tin_bucket.core.odata.path import Path, key_values, read_path
from tin_bucket.core.problem import ProblemError
from tin_bucket.engine.hand_over.live import LiveTable
from tin_bucket.engine.work_out.source import TableSource
from tin_bucket.web.context import Context, Here
from tin_bucket.web.live_headers import entity_tag, is_known, table_headers

from .live import refresh_if_old

router = APIRouter()
PAGE = 1_000
_MOST_PAGE = 50_000
_KNOWN = {"filter", "select", "orderby", "top", "skip", "count", "search", "format", "skiptoken", "schemaversion"}
_NOT_HERE = {"expand", "apply", "compute", "levels", "index", "deltatoken", "id"}


@dataclass(frozen=True, slots=True)
class _Asked:
    """A request.

    Attributes:
        options: the system query options, without the dollar sign.
        custom: the others, such as ``on``.
        aliases: parameter aliases.
        version: of OData in the answer.
        metadata: how much control information there is: none, minimal or full.
        exact_text: whether whole numbers go as texts.
        root: the address of the service.
        carried: a key that links carry on.
    """

    options: Mapping[str, str]
    custom: Mapping[str, str]
    aliases: Mapping[str, str]
    version: str
    metadata: str
    exact_text: bool
    root: str
    carried: str


@router.api_route("/odata", methods=["GET", "HEAD", "POST", "PUT", "PATCH", "DELETE"], include_in_schema=False)
@router.api_route(
    "/odata/{path:path}", methods=["GET", "HEAD", "POST", "PUT", "PATCH", "DELETE"], include_in_schema=False
)
async def odata(here: Here, request: Request, path: str = "") -> Response:
    """Any resource of the service."""
    version = "4.0" if request.headers.get("odata-maxversion", "4.01").strip() == "4.0" else "4.01"
    try:
        if request.method not in ("GET", "HEAD"):
            raise ODataError(405, "read-only", "These tables can be read, and not changed.")
        asked = _asked(request, version)
        answer = await _answer(here, request, asked, path)
    except ODataError as error:
        answer = _error(error)
    except ProblemError as error:
        problem = error.problem
        status = 404 if problem.kind in ("address-unknown", "date-unknown") else 400
        message = f"{problem.what} {problem.do}".strip()
        answer = _error(ODataError(status, problem.kind, message, problem.where))
    answer.headers["OData-Version"] = version
    if answer.status_code == 405:
        answer.headers["Allow"] = "GET, HEAD"
    return answer


def _error(error: ODataError) -> Response:
    return Response(orjson.dumps(error.document()), error.status, {"Cache-Control": "no-store"}, "application/json")


def _asked(request: Request, version: str) -> _Asked:
    options: dict[str, str] = {}
    custom: dict[str, str] = {}
    aliases: dict[str, str] = {}
    for name, value in request.query_params.multi_items():
        if name.startswith("@"):
            aliases[name] = value
            continue
        plain = name.removeprefix("$").lower()
        if plain in _NOT_HERE and (name.startswith("$") or plain not in ("id", "index")):
            raise ODataError(501, "not-implemented", f"${plain} is not there in this service.", f"${plain}")
        if plain in _KNOWN:
            if plain in options:
                raise ODataError(400, "option-twice", f"${plain} is said twice.", f"${plain}")
            options[plain] = value
        elif name.startswith("$"):
            raise ODataError(400, "option-unknown", f"There is no option “{name[:40]}”.", name[:40])
        else:
            custom[name] = value
    accept = options.get("format") or request.headers.get("accept", "")
    metadata = next((one for one in ("none", "full", "minimal") if f"metadata={one}" in accept.lower()), "minimal")
    root = f"{request.url.scheme}://{request.headers.get('host', request.url.netloc)}/odata/"
    carried = str(request.scope.get("reader_key", ""))
    exact = "ieee754compatible=true" in accept.lower()
    return _Asked(options, custom, aliases, version, metadata, exact, root, carried)


async def _answer(here: Context, request: Request, asked: _Asked, path: str) -> Response:
    if path in ("", "/"):
        return _json(await asyncio.to_thread(_service_document, here, asked), asked)
    if path == "$metadata":
        return await asyncio.to_thread(_metadata, here, request, asked)
    if path.startswith("$"):
        raise ODataError(501, "not-implemented", f"“{path[:40]}” is not there in this service.", path[:40])
    resource = read_path(path)
    on, since = asked.custom.get("on", ""), asked.custom.get("since", "")
    table = await asyncio.to_thread(here.live.open, resource.entity_set, on, since)
    refresh_if_old(here, table)
    accept = request.headers.get("accept", "")
    wants = sorted({**asked.options, **asked.custom, **asked.aliases}.items())
    tag = entity_tag(table, path, wants, accept, asked.version, request.headers.get("prefer", ""))
    headers = table_headers(table, tag, here.engine.clock.now())
    if is_known(request.headers, tag, table.taken):
        return Response(status_code=304, headers=headers)
    answer = await asyncio.to_thread(_resource, here, request, asked, table, resource)
    answer.headers.update(headers)
    return answer


def _json(document: Mapping[str, Any], asked: _Asked) -> Response:
    kind = f"application/json;odata.metadata={asked.metadata}"
    if asked.exact_text:
        kind += ";IEEE754Compatible=true"
    return Response(orjson.dumps(document), media_type=kind)


# The service ---------------------------------------------------------------------------------------------------


def _names(here: Context) -> list[str]:
    return sorted(name for name, ids in here.live.names().items() if len(ids) == 1)


def _service_document(here: Context, asked: _Asked) -> dict[str, Any]:
    """The entity sets (JSON Format 4.01, §5)."""
    out = []
    for name in _names(here):
        query = here.workspace.queries.get(here.live.names()[name][0])
        feed = next(one for one in query.brief.hand_over if isinstance(one, AddressFeed) and one.name == name)
        out.append({"name": feed.name, "title": query.name, "kind": "EntitySet", "url": feed.name})
    return {"@odata.context": f"{asked.root}$metadata", "value": out}


def _entity(here: Context, table: LiveTable) -> EntityType:
    shown = [column for column in table.source.columns if not column.hidden]
    return entity_type(table.name, shown, here.live.tells_apart(table))


def _metadata(here: Context, request: Request, asked: _Asked) -> Response:
    entities = []
    for name in _names(here):
        try:
            entities.append(_entity(here, here.live.open(name)))
        except ProblemError:
            continue  # A table that cannot be worked out now has no description either.
    accept = (asked.options.get("format") or request.headers.get("accept", "")).lower()
    if "json" in accept and "xml" not in accept:
        return Response(orjson.dumps(metadata_json(entities, asked.version)), media_type="application/json")
    return Response(metadata_xml(entities, asked.version), media_type="application/xml")


# Resources -----------------------------------------------------------------------------------------------------


def _resource(here: Context, request: Request, asked: _Asked, table: LiveTable, path: Path) -> Response:
    with here.workspace.snapshots.reading():
        if path.key is not None:
            return _one(here, asked, table, path)
        if path.below == ("$count",):
            rows, _ = here.live.with_lines(table, page_lines(asked.options, asked.aliases, _entity(here, table)))
            return Response(str(rows.height), media_type="text/plain")
        if path.below:
            raise ODataError(404, "resource-unknown", f"There is no “{'/'.join(path.below)[:60]}” of a whole table.")
        return _many(here, request, asked, table)


def _page_size(request: Request) -> int:
    for part in request.headers.get("prefer", "").replace(";", ",").split(","):
        name, _, value = part.strip().partition("=")
        if name.lower() in ("odata.maxpagesize", "maxpagesize") and value.strip('" ').isdigit():
            return max(1, min(int(value.strip('" ')), _MOST_PAGE))
    return PAGE


def _many(here: Context, request: Request, asked: _Asked, table: LiveTable) -> Response:
    """A page of the rows, with a link to the next one. All pages are of the date that the first one was of."""
    top, skip, start = whole_number(asked.options, "top"), whole_number(asked.options, "skip") or 0, 0
    token = asked.options.get("skiptoken")
    if token is not None:
        snapshot, start = read_page_token(token)
        if snapshot and (table.snapshot is None or table.snapshot.id != snapshot):
            table = here.live.at(table, snapshot)
    entity = _entity(here, table)
    selected = selected_properties(asked.options, entity)
    rows, whole = here.live.with_lines(table, page_lines(asked.options, asked.aliases, entity))
    counted = wants_count(asked.options)
    left = max(0, rows.height - skip) if top is None else max(0, min(top, rows.height - skip))
    size = _page_size(request)
    count = max(0, min(size, left - start))
    names = ",".join(one.name for one in selected)
    context = f"{asked.root}$metadata#{table.name}" + (f"({names})" if "select" in asked.options and names else "")
    document: dict[str, Any] = {}
    if asked.metadata != "none":
        document["@odata.context"] = context
    if counted:
        document["@odata.count"] = rows.height
    document["value"] = _values(rows, skip + start, count, selected, entity, asked, whole)
    if start + count < left:
        document["@odata.nextLink"] = _next_link(asked, table, start + count)
    answer = _json(document, asked)
    if size != PAGE:
        answer.headers["Preference-Applied"] = f"maxpagesize={size}"
    return answer


def _next_link(asked: _Asked, table: LiveTable, place: int) -> str:
    options = {f"${name}": value for name, value in asked.options.items() if name != "skiptoken"}
    number = table.snapshot.id if table.snapshot is not None and "since" not in asked.custom else 0
    query = urlencode(
        {**options, **asked.custom, **asked.aliases, "$skiptoken": page_token(number, place)},
        safe="$,()'/:@",
        quote_via=quote,
    )
    carried = f"&{asked.carried}" if asked.carried else ""
    return f"{asked.root}{table.name}?{query}{carried}"


def _values(
    rows: TableSource,
    start: int,
    count: int,
    selected: Sequence[Property],
    entity: EntityType,
    asked: _Asked,
    whole: Callable[[int], int] = lambda row: row,
) -> list[dict[str, Any]]:
    names = [column.name for column in rows.columns]
    places = [(one.name, names.index(one.column.name), one.column.kind) for one in selected]
    numbered = entity.key == (ROW,)
    out = []
    for at_row, row in enumerate(rows.window(start, count), start):
        made = {name: odata_value(row[at], kind, asked.exact_text) for name, at, kind in places}
        if numbered:
            made = {ROW: whole(at_row) + 1, **made}
        out.append(made)
    return out


def _one(here: Context, asked: _Asked, table: LiveTable, path: Path) -> Response:
    """An entity by its key, a property of it, or its value."""
    entity = _entity(here, table)
    row = _row_of(table.source, entity, key_values(path.key or "", entity))
    selected = selected_properties(asked.options, entity)
    if not path.below:
        made = _values(table.source, row, 1, selected, entity, asked)[0]
        context = {} if asked.metadata == "none" else {"@odata.context": f"{asked.root}$metadata#{table.name}/$entity"}
        return _json({**context, **made}, asked)
    one = entity.of(path.below[0])
    if one is None or len(path.below) > 2 or (len(path.below) == 2 and path.below[1] != "$value"):
        raise ODataError(404, "resource-unknown", f"There is no “{'/'.join(path.below)[:60]}” of a row.")
    value = _values(table.source, row, 1, [one], entity, asked)[0][one.name]
    if len(path.below) == 2:
        if value is None:
            return Response(status_code=204)
        told = "true" if value is True else "false" if value is False else str(value)
        return Response(told, media_type="text/plain")
    if value is None:
        return Response(status_code=204)
    return _json({"@odata.context": f"{asked.root}$metadata#{table.name}(key)/{one.name}", "value": value}, asked)


def _row_of(source: TableSource, entity: EntityType, wanted: Mapping[str, Any]) -> int:
    missing = ODataError(404, "row-unknown", "There is no row with this key.", "key")
    if entity.key == (ROW,):
        number = int(wanted[ROW])
        if not 1 <= number <= source.height:
            raise missing
        return number - 1
    tests: list[Callable[[int], bool]] = []
    for name, value in wanted.items():
        one = entity.of(name)
        found = source.column(one.column.name) if one is not None else None
        if one is None or found is None:
            raise missing
        tests.append(_is(found[1], one.column.kind, value))
    row = next((at for at in range(source.height) if all(test(at) for test in tests)), None)
    if row is None:
        raise missing
    return row


def _is(cells: Sequence[Any], kind: str, value: Any) -> Callable[[int], bool]:
    return lambda at: bool(odata_value(cells[at], kind) == value)

"""Queries through time: the story of a row, and figures on every date."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import StreamingResponse
from pydantic import TypeAdapter, ValidationError

from tin_bucket.core.problem import fail
from tin_bucket.core.work_out.figure_reader import FigureName
from tin_bucket.engine.tables.history import Story, unit_of
from tin_bucket.web.cells import json_response, seconds_of, shown
from tin_bucket.web.context import Here, column_info
from tin_bucket.web.downloads import Options, download, format_of, new_file
from tin_bucket.web.models.history import FigureLine, StoryChange, StoryEventInfo, StoryInfo
from tin_bucket.web.wanted import while_wanted

router = APIRouter(prefix="/api/queries/{query_id}")
_KEY: TypeAdapter[list[str | int | float | bool | None]] = TypeAdapter(list[str | int | float | bool | None])
_NAMES: TypeAdapter[list[str]] = TypeAdapter(list[str])

Key = Annotated[str, Query(max_length=20_000, description="the values of its match columns, a JSON list")]


@router.get("/story", response_model=StoryInfo)
def story(here: Here, query_id: int, key: Key, match: Annotated[str, Query(max_length=20_000)] = "") -> Any:
    """What happened to a row on the dates of a query."""
    names = _read(_NAMES, match) if match else []
    return json_response(_story_info(here.engine.history.story(query_id, _read(_KEY, key), names)).model_dump())


def _read(adapter: TypeAdapter[Any], text: str) -> Any:
    try:
        return adapter.validate_json(text)
    except ValidationError as error:
        raise fail(
            "row-unknown", "It cannot be read which row is meant.", where="row", do="Open the row from the table."
        ) from error


def _story_info(found: Story) -> StoryInfo:
    last, newest = found.newest
    events = []
    for event in found.events:
        snapshot, then = found.dates[event.at]
        events.append(
            StoryEventInfo(
                snapshot=snapshot.id,
                at=seconds_of(snapshot.taken),
                what=event.what,
                row=then.position if then is not None else None,
                changes=[
                    StoryChange(name=name, then=shown(old), now=shown(new))
                    for name, (old, new) in event.changes.items()
                ],
            )
        )
    return StoryInfo(
        match=found.match,
        key=found.key,
        dates=len(found.dates),
        there=sum(then is not None for _, then in found.dates),
        several=any(then is not None and then.several > 1 for _, then in found.dates),
        columns=[column_info(column) for column in last.columns],
        values=[shown(newest.values.get(column.name)) for column in last.columns],
        events=events,
        lines=found.lines(),
        at=[seconds_of(snapshot.taken) for snapshot, _ in found.dates],
    )


@router.get("/figure")
async def figure(
    here: Here,
    request: Request,
    query_id: int,
    column: Annotated[str, Query(max_length=500)] = "",
    figure: FigureName = "rows",
) -> FigureLine:
    """A figure of the table on every date: how many rows, or of a column its sum, mean and the like."""

    def work(stop: Any) -> FigureLine:
        found = here.engine.history.figure(query_id, column, figure, stop)
        return FigureLine(
            snapshots=[one.snapshot.id for one in found],
            at=[seconds_of(one.snapshot.taken) for one in found],
            states=[one.snapshot.state for one in found],
            values=[one.value for one in found],
            why=[one.why for one in found],
            unit=unit_of(found, column, figure),
        )

    return await while_wanted(request, work)


@router.get("/figure.{ending}", response_model=None)
def download_figure(
    here: Here,
    query_id: int,
    ending: str,
    options: Options,
    column: Annotated[str, Query(max_length=500)] = "",
    figure: FigureName = "rows",
) -> StreamingResponse:
    """A figure of the table on every date as a file: the date, the figure, whether the table is complete, and why there
    is none, if so."""
    writer = format_of(ending)
    columns, rows = here.engine.history.figure_table(query_id, column, figure)
    name = here.workspace.queries.get(query_id).name
    file = new_file()
    writer.write(columns, rows, file, name, options)
    return download(file, writer, f"{name}, {columns[1].name} through time")

"""Feeds: what they would do, what they did, and running them by hand."""

from __future__ import annotations

import asyncio
import io
from collections.abc import Iterable
from contextlib import suppress
from dataclasses import asdict
from datetime import UTC, datetime
from itertools import islice
from pathlib import Path
from typing import Any

from fastapi import APIRouter
from pydantic import TypeAdapter, ValidationError

from tin_bucket.core.document.faults import validation_problem
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.hand_over.feed import FeedModel
from tin_bucket.core.hand_over.registry import FEEDS, Feed
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.work_out.line import Word
from tin_bucket.feeds.folders import Folders
from tin_bucket.feeds.safe_file import VERSIONS, replace_file
from tin_bucket.feeds.workbook.book import Book
from tin_bucket.feeds.workbook.package import Package
from tin_bucket.feeds.workbook.place import tables_of
from tin_bucket.store.feeds import FeedRecord, HandOver
from tin_bucket.web.cells import json_response
from tin_bucket.web.context import Context, Here, problem_info
from tin_bucket.web.models.feed import (
    AheadInfo,
    FeedIn,
    FeedInfo,
    FeedsIn,
    HandOverInfo,
    PasswordIn,
    PlacesInfo,
    VersionIn,
    VersionInfo,
    WorkbookInfo,
)
from tin_bucket.web.models.work_out import WordInfo

router = APIRouter(prefix="/api")
_FEED: TypeAdapter[FeedModel] = TypeAdapter(Feed)
_MODELS: dict[str, type[FeedModel]] = {kind.key: kind.model for kind in FEEDS}
_SAMPLE = 5
_MOST_WORKBOOKS = 300


def _words(words: Iterable[Word]) -> list[WordInfo]:
    return [
        WordInfo(text=word, field="") if isinstance(word, str) else WordInfo(text=word.text, field=word.field)
        for word in words
        if word != ""
    ]


def _hand_over(done: HandOver | None) -> HandOverInfo | None:
    if done is None:
        return None
    told = {name: value for name, value in asdict(done).items() if name != "problem"}
    return HandOverInfo(**told, problem=problem_info(done.problem))


def _info(
    here: Context, query_id: int, name: str, feed: FeedModel, record: FeedRecord, last: HandOver | None
) -> FeedInfo:
    return FeedInfo(
        query_id=query_id,
        query_name=name,
        key=feed.key,
        to=feed.to,
        place=feed.place(),
        words=_words(feed.words()),
        when=feed.when,
        live=feed.live,
        off=feed.off,
        last=_hand_over(last),
        tries=record.tries,
        next_try=record.next_try,
        versions=len(_versions(here, query_id, feed.key)),
    )


@router.get("/feeds")
def feeds(here: Here) -> list[FeedInfo]:
    """All feeds of all queries."""
    records, last = here.workspace.feeds.records(), here.workspace.feeds.last()
    return [
        _info(
            here,
            query.id,
            query.name,
            feed,
            records.get((query.id, feed.key), FeedRecord()),
            last.get((query.id, feed.key)),
        )
        for query in here.workspace.queries.all()
        for feed in query.brief.hand_over
    ]


@router.get("/feeds/history")
def history(here: Here, query_id: int | None = None, key: str | None = None, most: int = 200) -> list[HandOverInfo]:
    """What was handed over, the newest first."""
    found = here.workspace.feeds.history(query_id, key, max(1, min(most, 1_000)))
    return [told for one in found if (told := _hand_over(one)) is not None]


@router.get("/feeds/places")
def places(here: Here) -> PlacesInfo:
    """Where feeds may write, and the workbooks that are there already."""
    settings = here.workspace.settings
    own, others = settings.own_folder, settings.written_folders
    return PlacesInfo(
        folder=str(own),
        folders=[str(one) for one in others],
        workbooks=[
            *(str(one.relative_to(own)) for one in _workbooks(own)),
            *(str(one) for folder in others for one in _workbooks(folder)),
        ][:_MOST_WORKBOOKS],
    )


def _workbooks(folder: Path) -> list[Path]:
    if not folder.is_dir():
        return []
    found = (
        path
        for path in folder.rglob("*")
        if path.suffix.lower() in (".xlsx", ".xlsm") and not path.name.startswith((".", "~$"))
    )
    return sorted(islice(found, _MOST_WORKBOOKS))


@router.get("/feeds/workbook")
def workbook(here: Here, path: str) -> WorkbookInfo:
    """The sheets and the named tables of a workbook that feeds may write to."""
    settings = here.workspace.settings
    real = Folders(settings.own_folder, settings.written_folders).resolve(path)
    try:
        data = real.read_bytes()
    except OSError as error:
        raise fail("file-missing", "The workbook does not exist.", where=path[:300], do="It can be made.") from error
    book = Book(Package(io.BytesIO(data), path))
    tables: list[str] = []
    for sheet in book.sheets:
        with suppress(ProblemError):
            tables += [table.name for table in tables_of(book.package, sheet.part)]
    return WorkbookInfo(path=path, sheets=[sheet.name for sheet in book.sheets], tables=tables)


@router.post("/queries/{query_id}/feeds")
def feeds_of(here: Here, query_id: int, body: FeedsIn) -> list[FeedInfo]:
    """How the feeds of a query are, as they are written now."""
    last = here.workspace.feeds.last()
    out = []
    for document in body.feeds:
        feed = _read(document)
        record = here.workspace.feeds.record(query_id, feed.key)
        out.append(_info(here, query_id, "", feed, record, last.get((query_id, feed.key))))
    return out


def _read(document: dict[str, Any]) -> FeedModel:
    model = _MODELS.get(str(document.get("to")))
    try:
        # By its own model, which says the place of a fault without the kind.
        return _FEED.validate_python(document) if model is None else model.model_validate(document)
    except ValidationError as error:
        raise ProblemError(validation_problem(error, "the feed", document)) from error


@router.post("/queries/{query_id}/feeds/ahead", response_model=AheadInfo)
def ahead(here: Here, query_id: int, body: FeedIn) -> Any:
    """What a feed would write where, what is there now, and what would be replaced. Nothing is written."""
    feed = _read(body.feed)
    brief = load_brief({**body.brief, "hand_over": []})
    handed, table = here.engine.deliveries.ahead(query_id, brief, feed)
    rows = table.dated.rows
    return json_response(
        {
            "places": handed.places,
            "there": handed.there,
            "told": handed.told,
            "warned": handed.warned,
            "rows": handed.rows,
            "nothing": handed.nothing,
            "has_password": here.engine.deliveries.has_password(query_id, feed),
            "as_of": table.dated.as_of,
            "words": [word.model_dump() for word in _words(feed.words())],
            "columns": [column.name for column in rows.columns],
            "sample": [list(row) for row in rows.window(0, _SAMPLE)],
        }
    )


@router.post("/queries/{query_id}/feeds/password", status_code=204)
def password(here: Here, query_id: int, body: PasswordIn) -> None:
    """Keep the password of a feed in the vault; it is never told again."""
    here.engine.deliveries.store_password(query_id, _read(body.feed), body.password)


@router.post("/queries/{query_id}/feeds/{key}/run")
async def run(here: Here, query_id: int, key: str) -> HandOverInfo:
    """Run a feed now. What goes wrong is in what it gives."""
    deliveries = here.engine.deliveries
    query, feed = await asyncio.to_thread(deliveries.feed_of, query_id, key)
    done = _hand_over(await asyncio.to_thread(deliveries.deliver, query, feed, "by hand"))
    assert done is not None
    return done


# Versions ------------------------------------------------------------------------------------------------------


def _versions(here: Context, query_id: int, key: str) -> list[Path]:
    folder = here.workspace.home / "versions" / f"{query_id}-{key}"
    found = folder.iterdir() if folder.is_dir() else ()
    return sorted((one for one in found if one.is_file()), key=lambda one: one.name, reverse=True)


@router.get("/queries/{query_id}/feeds/{key}/versions")
def versions(here: Here, query_id: int, key: str) -> list[VersionInfo]:
    """The versions of its file that are kept, the newest first."""
    here.engine.deliveries.feed_of(query_id, key)
    return [
        VersionInfo(name=one.name, size=one.stat().st_size, kept=_kept(one)) for one in _versions(here, query_id, key)
    ]


def _kept(version: Path) -> str:
    return datetime.fromtimestamp(version.stat().st_ctime, UTC).isoformat(timespec="seconds")


@router.post("/queries/{query_id}/feeds/{key}/versions")
def put_back(here: Here, query_id: int, key: str, body: VersionIn) -> list[VersionInfo]:
    """Put a version back in the place of the file; what was there becomes a version."""
    _, feed = here.engine.deliveries.feed_of(query_id, key)
    version = next((one for one in _versions(here, query_id, key) if one.name == body.name), None)
    if version is None:
        raise fail(
            "version-unknown",
            f"There is no such version; the last {VERSIONS} are kept.",
            where=feed.place(),
            do="Choose another one.",
        )
    settings = here.workspace.settings
    name = version.name[len("2026-11-25 073000 ") :]
    path = Folders(settings.own_folder, settings.written_folders).resolve(str(getattr(feed, "path", "")))
    data = version.read_bytes()
    replace_file(path.with_name(name), lambda out: out.write(data), None, version.parent, here.engine.clock.here())
    return versions(here, query_id, key)

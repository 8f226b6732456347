"""The web application: the routes, the front end's files, the engine's life."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import APIRouter, FastAPI
from fastapi.responses import FileResponse
from fastapi.staticfiles import StaticFiles

from tin_bucket import __version__
from tin_bucket.core.problem import fail
from tin_bucket.core.traffic.address_policy import Reach
from tin_bucket.engine.clock import Clock
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.hand_over.live import LiveTables
from tin_bucket.engine.schedule import Schedule
from tin_bucket.store.workspace import Workspace

from .compression import GZipOf
from .context import Context
from .door import Door
from .guard import Guard
from .held import Held
from .practice import Practice
from .problems import add_problem_handlers
from .reader_door import is_live
from .routes import (
    answers,
    begin,
    changes,
    charts,
    choices,
    compare,
    desk,
    drafts,
    feeds,
    findings,
    live,
    notices,
    odata,
    practice,
    queries,
    readers,
    report_pages,
    reports,
    runs,
    saved,
    schedules,
    services,
    sheets,
    snapshots,
    tables,
    through_time,
    transfer,
    watches,
    work_out,
)

ROUTES = (
    practice,
    begin,
    changes,
    choices,
    transfer,
    desk,
    drafts,
    feeds,
    findings,
    live,
    notices,
    odata,
    queries,
    readers,
    report_pages,
    reports,
    answers,
    tables,
    work_out,
    saved,
    schedules,
    runs,
    charts,
    compare,
    services,
    sheets,
    snapshots,
    through_time,
    watches,
)
# Put together once: what FastAPI works out of a route is the same in every application.
_API = APIRouter()
for _part in ROUTES:
    _API.include_router(_part.router)

STATIC = Path(__file__).parent / "static"
LOCAL_HOSTS = {"127.0.0.1", "localhost", "::1"}


def _prepare_routes() -> None:
    """FastAPI works each route out when a request passes it for the first time: nobody shall wait for that."""
    nowhere = {"type": "http", "method": "GET", "path": "/nowhere", "root_path": "", "headers": [], "path_params": {}}
    for route in _API.routes:
        route.matches(dict(nowhere))


def create_app(workspace: Workspace, reach: Reach = "own machine", clock: Clock | None = None) -> FastAPI:
    """Make the application that serves a workspace.

    Args:
        workspace: an open workspace; it stays the caller's to close.
        reach: which network addresses services may have.
        clock: the machine's when absent.
    """
    engine = Engine(workspace, clock, reach)
    engine.make_all()
    schedule = Schedule(engine)
    practised = Practice(workspace.settings)

    @asynccontextmanager
    async def life(app: FastAPI) -> AsyncIterator[None]:
        await asyncio.to_thread(practised.resume)
        schedule.start()
        preparing = asyncio.create_task(asyncio.to_thread(_prepare_routes))
        # Runs that were interrupted when the program ended resume, where that is safe.
        resuming = asyncio.create_task(engine.resume_all())
        yield
        schedule.stop()
        resuming.cancel()
        await asyncio.gather(resuming, preparing, return_exceptions=True)
        await engine.close(goes_on=True)
        await asyncio.to_thread(practised.close)

    app = FastAPI(title="Tin Bucket", version=__version__, lifespan=life, docs_url=None, redoc_url=None)
    app.state.context = Context(engine, schedule, Held(), practised, LiveTables(workspace, engine.tables, engine.clock))
    add_problem_handlers(app)
    app.router.routes.extend(_API.routes)
    app.add_middleware(GZipOf, paths=is_live)
    app.add_middleware(Door, access=workspace.access, readers=workspace.readers, now=engine.clock.now)
    app.add_middleware(Guard, hosts=LOCAL_HOSTS)
    if (STATIC / "assets").is_dir():
        app.mount("/assets", StaticFiles(directory=STATIC / "assets"), name="assets")

    @app.get("/", include_in_schema=False)
    def page() -> FileResponse:
        index = STATIC / "index.html"
        if not index.exists():
            raise fail("not-built", "The front end is not built.", where=str(STATIC), do="Run “make build”.")
        return FileResponse(index, headers={"Cache-Control": "no-cache"})

    return app
